"""What a mesh measures, which of its vertices are one place, which joints hold what of it, and its colours."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.pose import chunks
from wraithon.character.remembering import cached_by_content
from wraithon.character.sampling_kernels import dominant_nodes
from wraithon.numeric.srgb import linear_light

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from wraithon.character.model import Character


def runs_of(on: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Return where runs of what is on begin, and where they are over (R, 2)."""
    return np.flatnonzero(np.diff(np.concatenate([[False], on, [False]]).astype(np.int8))).reshape(-1, 2)


def triangle_areas(points: NDArray[np.float32], triangles: NDArray[np.int32]) -> NDArray[np.float64]:
    """Return the areas (T,) of triangles of points (V, 3)."""
    out = np.empty(len(triangles))
    for part in chunks(len(triangles)):
        corners = points[triangles[part]].astype(np.float64)
        out[part] = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    return out / 2


def edge_lengths(
    points: NDArray[np.float32], triangles: NDArray[np.int32], rows: NDArray[np.int32], corners: NDArray[np.int8]
) -> NDArray[np.float64]:
    """Return how long the edges (M,) are that begin at these corners of these triangles."""
    out = np.empty(len(rows))
    for part in chunks(len(rows)):
        start, end = triangles[rows[part], corners[part]], triangles[rows[part], (corners[part] + 1) % 3]
        out[part] = np.linalg.norm(points[start].astype(np.float64) - points[end], axis=1)
    return out


@cached_by_content(maxsize=8)
def welded_vertices(character: Character) -> NDArray[np.int32]:
    """Return for each vertex (V,) the number of its place: seams give several vertices one place."""
    positions = character.mesh.positions.astype(np.float64)
    grain = max(float(np.ptp(positions, axis=0).max(initial=0)), 1e-12) * 1e-6
    _, inverse = np.unique(np.round(positions / grain).astype(np.int64), axis=0, return_inverse=True)
    inverse = inverse.reshape(-1)
    return inverse.astype(np.int32)


@cached_by_content(maxsize=8)
def triangle_nodes(character: Character) -> NDArray[np.int32]:
    """Return the node that holds most of each triangle (T,)."""
    mesh = character.mesh
    out = np.zeros(len(mesh.triangles), np.int32)
    dominant_nodes(mesh.triangles, mesh.joints, mesh.weights, character.skeleton.palette_nodes, out)
    return out


def owners(character: Character, joints: Sequence[str]) -> NDArray[np.int32]:
    """Return for each node (N,) which of `joints` is the nearest at or above it; their number where none is."""
    skeleton = character.skeleton
    number = {name: k for k, name in reversed(list(enumerate(joints)))}
    out = np.full(len(skeleton.names), len(joints), np.int32)
    for node, name in enumerate(skeleton.names):
        parent = int(skeleton.parents[node])
        out[node] = number.get(name, out[parent] if parent >= 0 else len(joints))
    return out


@cached_by_content(maxsize=8)
def skin_colours(character: Character) -> NDArray[np.float32]:
    """Return the linear colour of a character's vertices (V, 3): their material's, times its picture there."""
    mesh = character.mesh
    colours = np.full((len(mesh.positions), 3), 0.8, np.float32)
    for part in character.parts:
        run = mesh.triangles[part.first_triangle : part.first_triangle + part.triangle_count]
        rows, material = np.unique(run), character.materials[part.material]
        colours[rows] = material.colour[:3]
        if material.texture is not None:
            height, width = material.texture.shape[:2]
            uvs = mesh.uvs[rows] - np.floor(mesh.uvs[rows])
            across, down = (uvs * (width, height)).astype(np.int64).T
            texels = material.texture[np.clip(down, 0, height - 1), np.clip(across, 0, width - 1), :3]
            colours[rows] *= linear_light(texels)
    return colours
