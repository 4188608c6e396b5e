"""Thinner meshes: what is drawn of a character where many of it are drawn at once."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.pose import rest_skin
from wraithon.character.remembering import cached_by_identity

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character


CELLS, FEWER_CELLS = 60, 45
"""Cells that a character's longest side is cut into: of each part, what lies in one cell becomes one corner."""


def clustered(
    points: NDArray[np.float32], triangles: NDArray[np.int32], parts: NDArray[np.int32], cells: int
) -> tuple[NDArray[np.int32], NDArray[np.bool_]]:
    """Return triangles (T, 3) with corners that are near each other made one, and which (T,) are still triangles.

    The longest side is cut into `cells`; corners of one part (T,) that share a cell become one.
    """
    if not len(triangles):
        return triangles, np.zeros(0, np.bool_)
    low = points.min(axis=0)
    cell = max(float((points.max(axis=0) - low).max()) / cells, 1e-9)
    part_of = np.zeros(len(points), np.int64)
    part_of[triangles] = parts[:, None]
    keys = np.column_stack([np.floor((points - low) / cell).astype(np.int64), part_of])
    _, first, cluster = np.unique(keys, axis=0, return_index=True, return_inverse=True)
    corners: NDArray[np.int32] = first[cluster.reshape(-1)][triangles].astype(np.int32)
    a, b, c = corners.T
    return corners, (a != b) & (b != c) & (c != a)


@cached_by_identity(maxsize=8)
def thinned(character: Character, cells: int = CELLS) -> NDArray[np.int32]:
    """Return fewer triangles (T, 3) of a character's vertices, by clustering (Rossignac and Borrel 1993)."""
    mesh = character.mesh
    triangles, vertices = clustered(rest_skin(character).positions, mesh.triangles, mesh.part_of_triangle, cells)
    return np.ascontiguousarray(triangles[vertices])
