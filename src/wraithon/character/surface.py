"""The skin as a place to be born: which triangles, and how much of the area each holds."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Collection

    from numpy.typing import NDArray

    from wraithon.character.model import Character

__all__ = ["Surface", "surface_of"]


@dataclass(frozen=True)
class Surface:
    """Triangles to be born on and the running share of their area in the rest pose.

    A uniform number u picks the first triangle whose `cumulative` exceeds u, so births are even by
    area whatever the triangles' sizes (Turk 1990, "Generating random points in triangles").
    """

    triangles: NDArray[np.int32]
    """(M,) int32 rows of the mesh's triangles."""
    cumulative: NDArray[np.float64]
    """(M,) float64 rising to 1."""
    area: float
    """Square metres, unscaled."""


def surface_of(character: Character, parts: Collection[str] = ()) -> Surface:
    """Return the surface of the named parts, or of all when none of them is there to be named.

    A character whose chosen triangles have no area at all yields an empty surface.
    """
    mesh = character.mesh
    chosen = [i for i, part in enumerate(character.parts) if part.name in parts]
    rows = np.arange(len(mesh.triangles), dtype=np.int32)
    if parts:
        rows = rows[np.isin(mesh.part_of_triangle, chosen)]
    corners = mesh.positions[mesh.triangles[rows]].astype(np.float64)
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    rows, areas = rows[areas > 0], areas[areas > 0]
    total = float(areas.sum())
    cumulative = np.cumsum(areas) / total if total > 0 else areas
    if len(cumulative):
        cumulative[-1] = 1.0
    return Surface(rows, cumulative, total)
