"""A character's outline from the front, for small diagrams."""

from __future__ import annotations

import numpy as np
from PySide6.QtGui import QColor, QImage

from wraithon.character.model import Character
from wraithon.character.pose import rest_pose
from wraithon.desktop.theme.colours import LINE, TEAL
from wraithon.desktop.widgets.basics import image_of

_cached: dict[int, tuple[Character, dict[tuple[object, ...], tuple[QImage, QImage]]]] = {}


def character_outline(character: Character, parts: tuple[str, ...], width: int, height: int) -> tuple[QImage, QImage]:
    """Return the whole character and its chosen parts as two transparent pictures of the same size.

    No parts chosen means all of them.
    """
    cached = _cached.get(id(character))
    if cached is None or cached[0] is not character:
        _cached.clear()
        cached = (character, {})
        _cached[id(character)] = cached
    key = (parts, width, height)
    if key not in cached[1]:
        cached[1][key] = _draw(character, parts, width, height)
    return cached[1][key]


def _draw(character: Character, parts: tuple[str, ...], width: int, height: int) -> tuple[QImage, QImage]:
    mesh, skeleton = character.mesh, character.skeleton
    matrices = rest_pose(character).matrices[skeleton.palette_nodes] @ skeleton.inverse_bind
    # One influence a vertex is plenty at this size, and spares the parallel skinning kernel.
    first = matrices[mesh.joints[:, 0]]
    points = np.einsum("vij,vj->vi", first[:, :3, :3], mesh.positions) + first[:, :3, 3]
    corners = points[mesh.triangles]
    middles = np.concatenate(
        [corners.mean(axis=1), *(corners[:, k] * 0.6 + corners.mean(axis=1) * 0.4 for k in range(3))]
    )
    low, high = points.min(0), points.max(0)
    scale = min((width - 4) / max(high[0] - low[0], 1e-6), (height - 4) / max(high[1] - low[1], 1e-6))
    x = (middles[:, 0] - (low[0] + high[0]) / 2) * scale + width / 2
    y = height - 2 - (middles[:, 1] - low[1]) * scale
    chosen = [not parts or part.name in parts for part in character.parts]
    hit = np.tile(np.array(chosen)[mesh.part_of_triangle], 4)
    return _stamp(x, y, width, height, LINE), _stamp(x[hit], y[hit], width, height, TEAL)


def _stamp(x: np.ndarray, y: np.ndarray, width: int, height: int, colour: str) -> QImage:
    mask = np.zeros((height, width), np.float32)
    column, row = np.clip(x.astype(int), 0, width - 1), np.clip(y.astype(int), 0, height - 1)
    mask[row, column] = 1.0
    padded = np.pad(mask, 1)
    around = sum(padded[i : i + height, j : j + width] for i in range(3) for j in range(3))
    alpha = np.clip(around / 3, 0, 1) * 0.85
    red, green, blue, _ = QColor(colour).getRgb()
    pixels = np.empty((height, width, 4), np.uint8)
    pixels[..., 0], pixels[..., 1], pixels[..., 2] = red, green, blue
    pixels[..., 3] = (alpha * 255).astype(np.uint8)
    return image_of(pixels)
