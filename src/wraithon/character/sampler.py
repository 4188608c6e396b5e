"""A source on a character, compiled: what births and the window draw places from."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.sampling_kernels import SamplerArrays, draw_places, noise_at

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.bones import Bones

__all__ = ["NO_BAND", "NO_SAMPLER", "BorderSampler", "Places", "Sampler"]

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
    """A source on the character, compiled into the flat numbers that kernels read."""

    kind: int
    rows: NDArray[np.int32]
    """(M,) triangles or bones to be born on."""
    corners: NDArray[np.int8]
    """(M,) which vertex or edge of the triangle."""
    cumulative: NDArray[np.float64]
    """(M,) running share of births, rising to 1."""
    densities: NDArray[np.float32]
    """(M, 3) how dense births are at the row's corners, the densest at most 1."""
    image: NDArray[np.float32]
    """(H, W) mask picture in the mesh's UV, or (1, 1) without one."""
    uvs: NDArray[np.float32]
    rest: NDArray[np.float32]
    """(V, 3) the skin of the rest pose."""
    triangles: NDArray[np.int32]
    even_rows: NDArray[np.int32]
    even_places: NDArray[np.float32]
    bones: Bones
    group_of_row: NDArray[np.int32]
    """Row of the joint table of each triangle (T,) or bone (B,); one past the last where there is none."""
    sizes: NDArray[np.float32]
    """(G + 1,) factors of size by row of the table, the last 1."""
    speeds: NDArray[np.float32]
    """(G + 1,) factors of speed."""
    measure: float
    """Square metres, metres or vertices that give birth, unscaled."""

    @cached_property
    def arrays(self) -> SamplerArrays:
        """What kernels read of it."""
        return SamplerArrays(
            self.kind, self.rows, self.corners, self.cumulative, self.densities, self.image, self.uvs, self.triangles,
            self.even_rows, self.even_places, self.rest, self.group_of_row, self.speeds,
        )  # fmt: skip

    @property
    def empty(self) -> bool:
        """Whether nothing gives birth."""
        return not len(self.rows)

    def draw(self, count: int, key: int = 0, first: int = 0) -> Places:
        """Return the places of `count` births under a key, from birth number `first` on."""
        if self.empty:
            return Places(np.zeros(0, np.int32), np.zeros((0, 3), np.float32))
        rows, places = np.empty(count, np.int32), np.empty((count, 3), np.float32)
        draw_places(self.arrays, NO_BAND, np.uint64(key), first, rows, places)
        return Places(rows, places)


class BorderSampler:
    """A sampler whose births keep to a band of the dissolve's noise: the border as it moves.

    Which triangles the band meets is told by the noise at their corners and middles, with a margin.
    """

    MARGIN = 0.03

    def __init__(self, sampler: Sampler, blotches: float) -> None:
        self.sampler, self.blotches = sampler, blotches
        corners = sampler.rest[sampler.triangles[sampler.rows]]
        seen = np.concatenate([corners, corners.mean(axis=1, keepdims=True)], axis=1)
        noise = np.empty(seen.shape[:2], np.float32)
        noise_at(np.ascontiguousarray(seen.reshape(-1, 3)), np.float32(blotches), noise.reshape(-1))
        self._low, self._high = noise.min(axis=1) - self.MARGIN, noise.max(axis=1) + self.MARGIN
        self._weights = np.diff(sampler.cumulative, prepend=0.0)

    def within(self, low: float, high: float) -> tuple[Sampler, NDArray[np.float32]]:
        """Return the sampler of the rows the band meets, and the band as kernels read it."""
        weights = np.where((self._high >= low) & (self._low <= high), self._weights, 0.0)
        chosen = np.flatnonzero(weights)
        total = float(weights.sum())
        cumulative = np.cumsum(weights[chosen]) / total if total > 0 else weights[:0]
        if len(cumulative):
            cumulative[-1] = 1.0
        part = replace(
            self.sampler,
            rows=self.sampler.rows[chosen],
            corners=self.sampler.corners[chosen],
            cumulative=cumulative,
            densities=self.sampler.densities[chosen],
        )
        return part, np.array([low, high, self.blotches], np.float32)
