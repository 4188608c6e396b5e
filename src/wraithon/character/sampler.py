"""A source on a character, compiled: what births and the window draw places from."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.sampling_kernels import SamplerArrays, draw_positions, noise_at

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.bones import Bones


NO_BAND = np.zeros(3, np.float32)
NO_SAMPLER = SamplerArrays(
    0, np.zeros(1, np.int32), np.zeros(1, np.int8), np.ones(1), np.ones((1, 3), np.float32),
    np.ones((1, 1), np.float32), np.zeros((1, 2), np.float32), np.zeros((1, 3), np.int32), np.zeros(0, np.int32),
    np.zeros((0, 3), np.float32), np.zeros((1, 3), np.float32), np.zeros(1, np.int32), np.ones(1, np.float32),
)  # fmt: skip
"""What kernels read of a source that is not on the character."""


@dataclass(frozen=True)
class Places:
    """Places on a character: rows (N,) of triangles or bones, and three numbers each (N, 3)."""

    rows: NDArray[np.int32]
    numbers: NDArray[np.float32]


@dataclass(frozen=True)
class Sampler:
    """A source on the character, compiled."""

    arrays: SamplerArrays
    """What kernels read of it."""
    bones: Bones
    sizes: NDArray[np.float32]
    """(G + 1,) factors of size by row of the joint table, the last 1."""
    measure: float
    """Square metres, metres or vertices that give birth, unscaled."""

    @property
    def empty(self) -> bool:
        """Whether nothing gives birth."""
        return not len(self.arrays.rows)

    def draw(self, count: int, key: int = 0, first: int = 0) -> Places:
        """Return the places of `count` births under a key, from birth number `first` on."""
        if self.empty:
            return Places(np.zeros(0, np.int32), np.zeros((0, 3), np.float32))
        rows, positions = np.empty(count, np.int32), np.empty((count, 3), np.float32)
        draw_positions(self.arrays, NO_BAND, np.uint64(key), first, rows, positions)
        return Places(rows, positions)

    @cached_property
    def shares(self) -> NDArray[np.float64]:
        """(M,) each row's share of births."""
        return np.diff(self.arrays.cumulative, prepend=0.0)

    def only(self, chosen: NDArray[np.bool_]) -> Sampler:
        """Return the sampler of the chosen rows (M,) alone, whose births keep their shares among each other."""
        arrays, cumulative = self.arrays, np.cumsum(self.shares[chosen])
        if len(cumulative):
            cumulative /= max(float(cumulative[-1]), 1e-300)
            cumulative[-1] = 1.0
        part = arrays._replace(
            rows=arrays.rows[chosen],
            corners=arrays.corners[chosen],
            cumulative=cumulative,
            densities=arrays.densities[chosen],
        )
        return replace(self, arrays=part)


class BorderSampler:
    """A sampler whose births keep to a band of the dissolve's noise: the border as it moves.

    Which triangles the band meets is told by the noise at their corners and middles, with a margin.
    """

    MARGIN = 0.03

    def __init__(self, sampler: Sampler, blotches: float) -> None:
        self.sampler, self.blotches = sampler, blotches
        arrays = sampler.arrays
        corners = arrays.rest[arrays.triangles[arrays.rows]]
        seen = np.concatenate([corners, corners.mean(axis=1, keepdims=True)], axis=1)
        noise = np.empty(seen.shape[:2], np.float32)
        noise_at(np.ascontiguousarray(seen.reshape(-1, 3)), np.float32(blotches), noise.reshape(-1))
        self._low, self._high = noise.min(axis=1) - self.MARGIN, noise.max(axis=1) + self.MARGIN

    def within(self, low: float, high: float) -> tuple[Sampler, NDArray[np.float32]]:
        """Return the sampler of the rows the band meets, and the band as kernels read it."""
        part = self.sampler.only((self._high >= low) & (self._low <= high))
        return part, np.array([low, high, self.blotches], np.float32)
