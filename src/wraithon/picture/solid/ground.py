"""The ground as a texture, at halving sizes."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray

from wraithon.ground.ground import SIZE, SOURCES, cache_name, ground
from wraithon.picture.textures import halved
from wraithon.project.staging.ground import GROUND_KINDS
from wraithon.support.array_cache import cached_array

if TYPE_CHECKING:
    from wraithon.ground.ground import Floor
    from wraithon.ground.terrain import Terrain


class GroundMap(NamedTuple):
    """Which kind of ground is where, as kernels read it."""

    starts: NDArray[np.float32]
    """(H, W) by how many texels each cell's kind comes after the first kind; (0, 0) where there is but that."""
    x: np.float32
    """Where the first cell's corner is, in metres."""
    z: np.float32
    finer: np.float32
    """Cells a metre."""


ONE_KIND = GroundMap(np.zeros((0, 0), np.float32), np.float32(0), np.float32(0), np.float32(1))

BRIGHTEST = 0.3
"""Linear light that a full byte stands for: stone is never brighter."""
SIDES = np.array([SIZE >> halvings for halvings in range(SIZE.bit_length()) if SIZE >> halvings >= 4])
LEVELS = np.column_stack([np.cumsum(SIDES**2) - SIDES**2, SIDES, SIDES]).astype(np.int32)
"""(L, 3) first texel, width and height of each size of a ground."""


def ground_map(kind: str, terrain: Terrain | None) -> tuple[NDArray[np.int32], NDArray[np.uint8], GroundMap]:
    """Return levels and texels of all kinds of ground on a stage (see `ground_texture`), and where which is."""
    if terrain is None:
        return *ground_texture(kind), ONE_KIND
    levels, texels = _of_kind(terrain, terrain.base, patch=False)
    if not terrain.kinds.size or (terrain.kinds == terrain.base).all():
        return levels, texels, ONE_KIND
    return levels, *_of_several(terrain)


def _of_kind(terrain: Terrain, number: int, *, patch: bool) -> tuple[NDArray[np.int32], NDArray[np.uint8]]:
    """Return levels and texels of one of a terrain's kinds of ground."""
    own = number - len(GROUND_KINDS)
    return ground_texture(GROUND_KINDS[number], patch=patch) if own < 0 else _of_floor(terrain.floors[own])


@lru_cache(maxsize=16)
def _of_floor(floor: Floor) -> tuple[NDArray[np.int32], NDArray[np.uint8]]:
    return LEVELS, _texels(floor.picture)


@lru_cache(maxsize=2)
def _of_several(terrain: Terrain) -> tuple[NDArray[np.uint8], GroundMap]:
    """Return the texels of all kinds end to end, the stage's own first, and where which is."""
    others = [number for number in np.unique(terrain.kinds).tolist() if number != terrain.base]
    every = [_of_kind(terrain, terrain.base, patch=False)[1]]
    every += [_of_kind(terrain, number, patch=True)[1] for number in others]
    starts = np.zeros(terrain.many, np.float32)
    for position, number in enumerate(others, 1):
        starts[number] = position * len(every[0])
    # What stands above the stage has tops of its own.
    flat = np.where(terrain.relief.heights > 0, terrain.base, terrain.kinds)
    _, x, z, finer = terrain.relief
    return np.concatenate(every), GroundMap(starts[flat], x, z, finer)


@lru_cache(maxsize=8)
def ground_texture(kind: str, *, patch: bool = False) -> tuple[NDArray[np.int32], NDArray[np.uint8]]:
    """Return levels (L, 3) of first texel, width and height, and texels (M, 4) in bytes.

    The first three are square roots of linear RGB over BRIGHTEST, the fourth is gloss.
    """
    name = cache_name("ground-texels", kind, patch=patch)
    texels = cached_array(name, (*SOURCES, __file__), lambda: _texels(ground(kind, patch=patch)))
    return LEVELS, texels


def _texels(picture: NDArray[np.float64]) -> NDArray[np.uint8]:
    """Return a ground's texels at all sizes, end to end, in bytes."""
    chunks = []
    for _ in LEVELS:
        chunks.append(picture.reshape(-1, 4))
        picture = halved(picture)
    texels = np.clip(np.concatenate(chunks), 0, 1)
    texels[:, :3] = np.sqrt(np.clip(texels[:, :3] / BRIGHTEST, 0, 1))
    return (texels * 255 + 0.5).astype(np.uint8)
