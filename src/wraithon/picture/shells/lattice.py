"""The lattice that the noise of shells comes from."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from wraithon.numeric.chance import mix
from wraithon.picture.kernels.shell_kernels import CELLS, lattice_noise

if TYPE_CHECKING:
    from numpy.typing import NDArray


LANES = 8


def whole_lanes(count: int) -> int:
    """Return the least multiple of what is worked on at a time that is not below `count`."""
    return -(-count // LANES) * LANES


@lru_cache(maxsize=1)
def lattice() -> NDArray[np.uint32]:
    """Return a value for each corner (CELLS³,), x first, in 16 bits; its right neighbour's in the upper ones."""
    with np.errstate(over="ignore"):
        values = (mix.py_func(np.arange(CELLS**3, dtype=np.uint64)) >> np.uint64(48)).astype(np.uint32)
    rows = values.reshape(-1, CELLS)
    pairs: NDArray[np.uint32] = (rows | (np.roll(rows, -1, axis=1) << np.uint32(16))).reshape(-1)
    return pairs


def noise(points: NDArray[np.floating]) -> NDArray[np.float32]:
    """Return the noise of shells (N,), 0 to 1, at points (N, 3) in blotches."""
    many = len(points)
    values = np.zeros((4, whole_lanes(many)), np.float32)
    values[:3, :many] = points.T
    lattice_noise(lattice(), values)
    return values[3, :many]
