"""What the tracks of a clip say at a moment."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.character.pose_kernels import sample_tracks

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from wraithon.character.model import Clip


def play_tracks(clip: Clip, time: float, local: NDArray[np.float32]) -> None:
    """Write what a clip's tracks say at `time` seconds into local transforms (N, 10); the rest stays."""
    sample_tracks(time, clip.heads, clip.value_heads, clip.times, clip.values, local)
