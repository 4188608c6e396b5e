"""The shapes of pieces: small meshes that come with the program, and those of files."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.pose import rest_skin
from wraithon.picture.kernels.shade_kernels import MATERIAL, TWO_SIDED
from wraithon.picture.solid.material_table import DEEPEST, MaterialTable, material_table
from wraithon.picture.thinning import clustered

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character


FEW, CELLS = 40, 3
"""Triangles of which there are few, and cells that a shape of more is cut into where it is small."""
ROUGH = 3.0
"""Squarings of the highlight of shapes that come with the program."""


@dataclass(frozen=True, eq=False)
class ParticleMesh:
    """A small mesh, one metre along its longest side, around its middle."""

    points: NDArray[np.float32]
    """(V, 3) metres."""
    normals: NDArray[np.float32]
    """(V, 3) unit."""
    uvs: NDArray[np.float32]
    """(V, 2)."""
    triangles: NDArray[np.int32]
    """(T, 3) counter-clockwise as seen from outside."""
    tables: MaterialTable
    sides: NDArray[np.uint8]
    """(T,) 1 seen from its front, 2 from both sides."""


ShapeSource = Callable[[str], ParticleMesh]
"""Returns a shape by the name looks give it; may raise RenderError."""


def shape_of(character: Character) -> ParticleMesh:
    """Return the mesh of a file, as it is at rest, in its own materials."""
    skin, mesh = rest_skin(character), character.mesh
    low, high = skin.positions.min(axis=0), skin.positions.max(axis=0)
    size = max(float((high - low).max()), 1e-9)
    two_sided = np.array([character.materials[part.material].two_sided for part in character.parts], bool)
    return ParticleMesh(
        ((skin.positions - (low + high) / 2) / np.float32(size)).astype(np.float32), skin.normals, mesh.uvs,
        mesh.triangles, material_table(character), (1 + two_sided[mesh.part_of_triangle]).astype(np.uint8),
    )  # fmt: skip


def _plain(corners: NDArray[np.float64], sides: int = 1) -> ParticleMesh:
    """Return triangles (T, 3, 3) as a shape of one white material, each flat."""
    low, high = corners.min(axis=(0, 1)), corners.max(axis=(0, 1))
    corners = (corners - (low + high) / 2) / (high - low).max()
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    return _with_material(corners.reshape(-1, 3), np.repeat(normals, 3, axis=0), sides)


def _with_material(points: NDArray[np.float64], normals: NDArray[np.float64], sides: int) -> ParticleMesh:
    """Return points, three to a triangle, as a shape of one white material."""
    # Corners that are alike are one: the fewer there are, the less has to be placed.
    rows = np.concatenate([points, normals], axis=1).round(9)
    both, corner = np.unique(rows, axis=0, return_inverse=True)
    points, normals, triangles = both[:, :3], both[:, 3:], corner.reshape(-1, 3).astype(np.int32)
    many = len(triangles)
    materials = np.zeros((1, int(MATERIAL)), np.float32)
    materials[0, :4], materials[0, TWO_SIDED] = (1, 1, 1, ROUGH), sides - 1
    nothing = np.zeros((1, 4), np.uint8)
    tables = MaterialTable(materials, np.zeros((1, DEEPEST, 4), np.int32), nothing, nothing, np.zeros(many, np.int32))
    return ParticleMesh(
        points.astype(np.float32), normals.astype(np.float32), np.zeros((len(points), 2), np.float32), triangles,
        tables, np.full(many, sides, np.uint8),
    )  # fmt: skip


def _fan(outline: NDArray[np.float64], top: tuple[float, ...], bottom: tuple[float, ...]) -> NDArray[np.float64]:
    """Return the triangles of a ring of points (N, 3), joined to a point above and one below."""
    after = np.roll(outline, -1, axis=0)
    high, low = np.broadcast_to(top, outline.shape), np.broadcast_to(bottom, outline.shape)
    return np.concatenate([np.stack([outline, after, high], 1), np.stack([after, outline, low], 1)])


def _ring(count: int, radii: tuple[float, ...], lift: tuple[float, ...] = (0.0,)) -> NDArray[np.float64]:
    """Return points around the y axis, counter-clockwise from above."""
    angle = -2 * np.pi * np.arange(count) / count
    radius, up = np.resize(radii, count), np.resize(lift, count)
    return np.stack([radius * np.cos(angle), up, radius * np.sin(angle)], axis=1)


def _shard() -> ParticleMesh:
    return _plain(_fan(_ring(4, (0.17, 0.11)), (0.03, 0.62, 0.0), (-0.02, -0.38, 0.02)))


def _chip() -> ParticleMesh:
    ring = _ring(6, (0.5, 0.36, 0.46, 0.33, 0.5, 0.4), (0.04, -0.03, 0.02))
    return _plain(_fan(ring, (0.05, 0.16, 0.02), (-0.03, -0.14, 0.0)))


def _blade(across: Callable[[float], float], bow: float, rows: int) -> ParticleMesh:
    """Return a blade along y, as wide as `across` says from its foot to its tip, bowed and hollow."""
    up = np.linspace(0, 1, rows + 1)
    half = np.array([across(float(t)) for t in up])
    rim = bow * (up * up) - 0.35 * half
    left = np.stack([-half, up, rim], axis=1)
    middle = np.stack([np.zeros_like(up), up, bow * up * up], axis=1)
    right = np.stack([half, up, rim], axis=1)
    strips = []
    for one, two in ((left, middle), (middle, right)):
        strips += [np.stack([one[:-1], two[:-1], two[1:]], 1), np.stack([one[:-1], two[1:], one[1:]], 1)]
    corners = np.concatenate(strips)
    flat = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) < 1e-9
    return _plain(corners[~flat], sides=2)


def _petal() -> ParticleMesh:
    return _blade(lambda t: 0.30 * np.sin(np.pi * t**0.8) ** 0.8 if 0 < t < 1 else 0.0, 0.25, 6)


def _quill() -> ParticleMesh:
    return _blade(lambda t: 0.10 * np.sin(np.pi * t**0.6) if 0 < t < 1 else 0.0, 0.12, 8)


def _cube() -> ParticleMesh:
    faces = []
    for axis in range(3):
        for sign in (-1.0, 1.0):
            a, b = np.eye(3)[(axis + 1) % 3], np.eye(3)[(axis + 2) % 3]
            middle = sign * np.eye(3)[axis]
            ring = [middle - a - b, middle + a - b, middle + a + b, middle - a + b]
            ring = ring if sign > 0 else ring[::-1]
            faces += [[ring[0], ring[1], ring[2]], [ring[0], ring[2], ring[3]]]
    return _plain(np.array(faces))


def _ball() -> ParticleMesh:
    """Return a ball of 80 triangles: an icosahedron whose sides are each cut into four."""
    golden = (1 + 5**0.5) / 2
    corners = np.array([(0, a, b * golden) for a in (-1, 1) for b in (-1, 1)], float)
    corners = np.concatenate([np.roll(corners, shift, axis=1) for shift in range(3)])
    edge = 2.0
    near = np.abs(np.linalg.norm(corners[:, None] - corners[None], axis=2) - edge) < 1e-6
    faces = []
    for i, j, k in np.argwhere(near[:, :, None] & near[None] & near[:, None]).tolist():
        if i < j < k:
            a, b, c = corners[i], corners[j], corners[k]
            faces.append((a, b, c) if np.dot(np.cross(b - a, c - a), a) > 0 else (a, c, b))
    first = np.array(faces)
    a, b, c = first[:, 0], first[:, 1], first[:, 2]
    ab, bc, ca = a + b, b + c, c + a
    four = np.concatenate([np.stack(t, 1) for t in ((2 * a, ab, ca), (ab, 2 * b, bc), (ca, bc, 2 * c), (ab, bc, ca))])
    ball = four / np.linalg.norm(four, axis=2, keepdims=True)
    return _with_material(ball.reshape(-1, 3) / 2, ball.reshape(-1, 3), 1)


MAKERS = {"shard": _shard, "chip": _chip, "petal": _petal, "quill": _quill, "cube": _cube, "ball": _ball}


@lru_cache(maxsize=16)
def shipped_shape(name: str) -> ParticleMesh | None:
    """Return a shape that comes with the program, or None."""
    maker = MAKERS.get(name)
    return maker() if maker else None


@lru_cache(maxsize=32)
def lesser(shape: ParticleMesh) -> ParticleMesh:
    """Return a shape of fewer triangles, for where it is so small that nobody sees the difference."""
    if len(shape.triangles) <= FEW:
        return shape
    corners, sources = clustered(shape.points, shape.triangles, shape.tables.part_material, CELLS)
    if not sources.any():
        return shape
    tables = replace(shape.tables, part_material=shape.tables.part_material[sources])
    return replace(shape, triangles=np.ascontiguousarray(corners[sources]), tables=tables, sides=shape.sides[sources])
