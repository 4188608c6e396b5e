"""How many pixels what is transparent covers, worked out when somebody asks."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.picture.kernels.columns import B_MEAN

if TYPE_CHECKING:
    from numpy.typing import NDArray


class Coverage(NamedTuple):
    """What was laid over a picture `width` by `height`: pixels of squares, and where all else was."""

    quads: float
    boxes: NDArray[np.float32]
    """(N, BOX_COLUMNS) as `prepare_sprites` takes them."""
    width: int
    height: int

    @property
    def pixels(self) -> int:
        """How many pixels are covered, each as often as it is; bands and films by their boxes."""
        # What is hidden has no box: whatever was in memory stands there.
        seen = np.flatnonzero(self.boxes[:, B_MEAN] > 0)
        left, right, top, bottom = (self.boxes[seen, column] for column in range(4))
        across = np.maximum(np.minimum(right, self.width) - np.maximum(left, 0), 0)
        down = np.maximum(np.minimum(bottom, self.height) - np.maximum(top, 0), 0)
        return int(self.quads + float(np.dot(across, down)))


NOTHING_LAID = Coverage(0.0, np.zeros((0, 6), np.float32), 0, 0)
