"""Which part of the character is under the mouse."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Collection

    from PySide6.QtCore import QPointF

    from wraithon.character.model import Character
    from wraithon.desktop.picture.canvas import Canvas

__all__ = ["part_at"]


def part_at(picture: Canvas, at: QPointF, character: Character | None, hidden: Collection[str]) -> str | None:
    """Return the name of the nearest part that is seen at a place of the picture, or None."""
    shot = picture.shot
    if character is None or shot is None or shot.skin is None or len(shot.skin) != len(character.mesh.positions):
        return None
    places = picture.project(shot.skin).astype(np.float64)
    best, nearest = None, np.inf
    for part in character.parts:
        if part.name in hidden:
            continue
        rows = character.mesh.triangles[part.first_triangle : part.first_triangle + part.triangle_count]
        ahead = _depth_at(places[rows], at.x(), at.y())
        if ahead < nearest:
            best, nearest = part.name, ahead
    return best


def _depth_at(corners: np.ndarray, x: float, y: float) -> float:
    """Return how far ahead the nearest of triangles (T, 3, x y ahead) is that holds a point; infinite for none."""
    ax, ay = corners[:, 0, 0] - x, corners[:, 0, 1] - y
    bx, by = corners[:, 1, 0] - x, corners[:, 1, 1] - y
    cx, cy = corners[:, 2, 0] - x, corners[:, 2, 1] - y
    one, two, three = bx * cy - by * cx, cx * ay - cy * ax, ax * by - ay * bx
    inside = ((one >= 0) & (two >= 0) & (three >= 0)) | ((one <= 0) & (two <= 0) & (three <= 0))
    inside &= (corners[:, :, 2] > 0).all(axis=1) & (one + two + three != 0)
    return float(corners[inside, :, 2].mean(axis=1).min()) if inside.any() else np.inf
