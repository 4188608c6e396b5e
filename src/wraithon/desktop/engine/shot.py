"""A finished picture, and what goes with it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from wraithon.character.fairness import Tally
    from wraithon.picture.camera import Camera
    from wraithon.stage.firing import FiringRecord

__all__ = ["Figures", "Shot"]


@dataclass(frozen=True)
class Figures:
    """What is said along the picture's lower edge."""

    frames_a_second: float
    alive: int
    refused: int
    step_ms: float
    draw_ms: float
    coarseness: int
    scale: float
    """Size of the live picture's sides as a share of the widget's."""


@dataclass(frozen=True)
class Shot:
    """A finished picture and what goes with it."""

    pixels: NDArray[np.uint8]
    time: float
    playing: bool
    exact: bool
    """Whether this is what a fresh run to this moment shows."""
    camera: Camera
    places: dict[str, NDArray[np.float32]]
    """Anchor id to its world matrix (4, 4)."""
    joints: NDArray[np.float32]
    """(N, 3) world positions of all nodes."""
    figures: Figures
    records: tuple[FiringRecord, ...]
    trace: tuple[NDArray[np.float64], NDArray[np.int64]]
    """Seconds and particles alive, for the score."""
    problems: tuple[str, ...]
    centre: tuple[float, float, float]
    """Where the character stands: the view's target is from there while it follows."""
    exposure: float
    """The exposure it was drawn with."""
    heat: NDArray[np.float32] | None = None
    """What the skin was coloured by."""
    skin: NDArray[np.float32] | None = None
    """(V, 3) the posed skin's positions in the world."""
    births: tuple[list[Tally], list[Tally]] | None = None
    """Test births by part and by joint of the layer whose density is shown."""
