"""Blocks, ledges and ramps of the stage as one shape, each with its own ground on it."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from wraithon.ground.ground import METRES, SIZE, SOURCES, cache_name, ground
from wraithon.particles.looks.piece import MeshBatch
from wraithon.picture.kernels.shade_kernels import MATERIAL, SIZES, TEXELS
from wraithon.picture.solid.material_table import DEEPEST, MaterialTable
from wraithon.picture.solid.shapes import ParticleMesh
from wraithon.picture.textures import halved
from wraithon.project.look import MeshLook
from wraithon.project.staging.ground import GROUND_KINDS
from wraithon.support.array_cache import cached_array

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from wraithon.ground.terrain import Terrain
    from wraithon.project.staging.ground import Block


SIDES = 32
"""Corners of a round piece."""
TOP, SIDE = 0.5, 0.8
"""How much of the ground's colour tops and sides have: the stage lies in less light than what stands on it."""
STANDING = MeshBatch(
    "", np.zeros(1, np.uint64), MeshLook(lit=True, glow=0.0, shadow=True), np.zeros((1, 3), np.float32),
    np.eye(3, dtype=np.float32)[None], np.ones(1, np.float32), np.ones((1, 3), np.float32), np.zeros(1, np.int64),
)  # fmt: skip
"""One piece that stands where its shape has it."""


@lru_cache(maxsize=4)
def blocks_of(pieces: Sequence[Block], terrain: Terrain | None = None) -> ParticleMesh | None:
    """Return what stands above the stage as one shape, in world space; None where nothing does.

    A `terrain` knows how kinds of ground of the artist's own look.
    """
    high = [piece for piece in pieces if piece.stands]
    if not high:
        return None
    kinds = sorted({piece.kind for piece in high})
    points, normals, uvs, parts = [], [], [], []
    for piece in high:
        number = 2 * kinds.index(piece.kind)
        for corners, side in _faces(piece):
            across = np.cross(corners[1] - corners[0], corners[2] - corners[0])
            size = float(np.linalg.norm(across))
            if size < 1e-9:
                continue
            points.append(corners)
            normals.append(np.repeat(across[None] / size, 3, axis=0))
            along = np.stack([corners[:, 0] + corners[:, 2], corners[:, 1]], axis=1) if side else corners[:, [0, 2]]
            uvs.append(along / METRES)
            parts.append(number + side)
    many = len(points)
    return ParticleMesh(
        np.concatenate(points).astype(np.float32), np.concatenate(normals).astype(np.float32),
        np.concatenate(uvs).astype(np.float32), np.arange(3 * many, dtype=np.int32).reshape(-1, 3),
        _tables(kinds, np.array(parts, np.int32), terrain), np.ones(many, np.uint8),
    )  # fmt: skip


def _faces(piece: Block) -> list[tuple[NDArray[np.float64], int]]:
    """Return triangles (3, 3) of a piece's top (0) and sides (1), counter-clockwise from outside."""
    width, deep = piece.size[0] / 2, piece.size[1] / 2
    if piece.round:
        angles = -2 * np.pi * np.arange(SIDES) / SIDES
        ring = np.stack([width * np.cos(angles), deep * np.sin(angles)], axis=1)
    else:
        ring = np.array([(-width, -deep), (-width, deep), (width, deep), (width, -deep)])
    x, z = piece.out(*ring.T)
    top = np.stack([x, piece.top(ring[:, 1]), z], axis=1)
    foot = top * (1.0, 0.0, 1.0)
    middle = top.mean(axis=0)
    found = []
    for k in range(len(ring)):
        after = (k + 1) % len(ring)
        found.append((np.array([middle, top[k], top[after]]), 0))
        found.append((np.array([top[k], foot[k], foot[after]]), 1))
        found.append((np.array([top[k], foot[after], top[after]]), 1))
    return found


def _tables(kinds: Sequence[str], parts: NDArray[np.int32], terrain: Terrain | None) -> MaterialTable:
    """Return two materials for each kind of ground: its top's, and a darker one for sides."""
    materials = np.zeros((2 * len(kinds), int(MATERIAL)), np.float32)
    levels = np.zeros((2 * len(kinds), DEEPEST, 4), np.int32)
    texels, first = [np.zeros((1, 4), np.uint8)], 1
    for number, kind in enumerate(kinds):
        for row, shade in ((2 * number, TOP), (2 * number + 1, SIDE)):
            materials[row, :4] = (shade, shade, shade, 0.0)
            materials[row, TEXELS] = SIZE / METRES
            materials[row, SIZES] = DEEPEST
        for level in range(DEEPEST):
            side = SIZE >> level
            levels[2 * number : 2 * number + 2, level] = (first, side, side, side | side << 16)
            first += side * side
        texels.append(_texels(kind, terrain))
    nothing = np.zeros((1, 4), np.uint8)
    return MaterialTable(materials, levels, np.concatenate(texels), nothing, parts)


def _texels(kind: str, terrain: Terrain | None) -> NDArray[np.uint8]:
    """Return the texels (N, 4) of a kind of ground at all sizes, end to end: roots of linear colour, and 255."""
    if terrain is not None and kind not in GROUND_KINDS:
        return _halvings(terrain.picture(kind, patch=True))
    name = cache_name("block-texels", kind, patch=True)
    return cached_array(name, (*SOURCES, __file__), lambda: _halvings(ground(kind, patch=True)))


def _halvings(picture: NDArray[np.float64]) -> NDArray[np.uint8]:
    picture, texels = picture[..., :3], []
    for _ in range(DEEPEST):
        colours = np.concatenate([np.sqrt(np.clip(picture, 0, 1)), np.ones((*picture.shape[:2], 1))], axis=2)
        texels.append((colours * 255 + 0.5).astype(np.uint8).reshape(-1, 4))
        picture = halved(picture)
    return np.concatenate(texels)
