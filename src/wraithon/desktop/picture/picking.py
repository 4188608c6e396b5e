"""Which part of the character is under the mouse, and where on it."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Collection

    from PySide6.QtCore import QPointF

    from wraithon.character.model import Character
    from wraithon.desktop.picture.canvas import Canvas


class SurfaceHit(NamedTuple):
    """A place on the character: on which part, and where in the world."""

    part: str
    position: tuple[float, float, float]


def spot_at(picture: Canvas, at: QPointF, character: Character | None, hidden: Collection[str]) -> SurfaceHit | None:
    """Return the nearest place on the character that is seen at one of the picture, or None."""
    rendered = picture.rendered
    if (
        character is None
        or rendered is None
        or rendered.skin is None
        or len(rendered.skin) != len(character.mesh.positions)
    ):
        return None
    positions = picture.project(rendered.skin).astype(np.float64)
    best: SurfaceHit | None = None
    nearest = np.inf
    for part in character.parts:
        if part.name in hidden:
            continue
        rows = character.mesh.triangles[part.first_triangle : part.first_triangle + part.triangle_count]
        row, ahead = _nearest(positions[rows], at.x(), at.y())
        if ahead < nearest:
            x, y, z = rendered.skin[rows[row]].mean(axis=0).tolist()
            best, nearest = SurfaceHit(part.name, (x, y, z)), ahead
    return best


def _nearest(corners: np.ndarray, x: float, y: float) -> tuple[int, float]:
    """Return the nearest of triangles (T, 3, x y ahead) that holds a point, and how far ahead: infinite for none."""
    ax, ay = corners[:, 0, 0] - x, corners[:, 0, 1] - y
    bx, by = corners[:, 1, 0] - x, corners[:, 1, 1] - y
    cx, cy = corners[:, 2, 0] - x, corners[:, 2, 1] - y
    one, two, three = bx * cy - by * cx, cx * ay - cy * ax, ax * by - ay * bx
    inside = ((one >= 0) & (two >= 0) & (three >= 0)) | ((one <= 0) & (two <= 0) & (three <= 0))
    inside &= (corners[:, :, 2] > 0).all(axis=1) & (one + two + three != 0)
    ahead = np.where(inside, corners[:, :, 2].mean(axis=1), np.inf)
    row = int(ahead.argmin()) if len(ahead) else 0
    return row, float(ahead[row]) if len(ahead) else np.inf
