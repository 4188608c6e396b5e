"""What F looks at: the selected thing, where it is in the picture."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from wraithon.character.model import Character
    from wraithon.desktop.engine.rendered_frame import RenderedFrame


def points_of(kind: str, what: str, rendered: RenderedFrame | None, character: Character | None) -> np.ndarray | None:
    """Return world points (N, 3) of a selected thing, or None when it has no place of its own."""
    if rendered is None or character is None:
        return None
    if kind == "joint" and (node := character.skeleton.index.get(what)) is not None and len(rendered.joints):
        return rendered.joints[node : node + 1]
    if kind == "anchor" and what in rendered.positions:
        return rendered.positions[what][None, :3, 3]
    part = next((part for part in character.parts if part.name == what), None) if kind == "part" else None
    if part is None or rendered.skin is None:
        return None
    rows = slice(part.first_triangle, part.first_triangle + part.triangle_count)
    points: np.ndarray = rendered.skin[np.unique(character.mesh.triangles[rows])]
    return points
