"""Thinner meshes: what is drawn of a character where many of it are drawn at once."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.pose import rest_skin

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character

__all__ = ["thinned"]

CELLS = 60
"""Cells that a character's longest side is cut into: of each part, what lies in one cell becomes one corner."""


@lru_cache(maxsize=4)
def thinned(character: Character) -> NDArray[np.int32]:
    """Return fewer triangles (T, 3) of a character's vertices, by clustering (Rossignac and Borrel 1993)."""
    mesh, points = character.mesh, rest_skin(character).positions
    if not len(mesh.triangles):
        return mesh.triangles
    low = points.min(axis=0)
    cell = max(float((points.max(axis=0) - low).max()) / CELLS, 1e-9)
    parts = np.zeros(len(points), np.int64)
    parts[mesh.triangles] = mesh.part_of_triangle[:, None]
    keys = np.column_stack([np.floor((points - low) / cell).astype(np.int64), parts])
    _, first, cluster = np.unique(keys, axis=0, return_index=True, return_inverse=True)
    corners = first[cluster.reshape(-1)][mesh.triangles]
    a, b, c = corners.T
    kept: NDArray[np.int32] = corners[(a != b) & (b != c) & (c != a)].astype(np.int32)
    return np.ascontiguousarray(kept)
