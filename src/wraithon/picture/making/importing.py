"""Pictures as they are brought in: a plain background is made clear, and a sheet's columns and rows are guessed."""

from __future__ import annotations

from itertools import product
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

__all__ = ["cleared", "guessed_sheet"]

MOST = 8
"""Columns and rows that are looked for."""
EMPTY = 0.02
"""Opacity up to which a line between frames is taken for empty."""
ALIKE = 10
"""Steps of a byte by which a plain background may differ along the border."""


def cleared(picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return a picture (H, W, 4) whose plain background, if it has one, is nothing; else the picture itself.

    A background is plain when everything is opaque and the whole border has one colour. How opaque a pixel is follows
    from how far it is from that colour, and its colour from what must have been mixed with it (Smith and Blinn 1996,
    "Blue screen matting", with the least opacity that does).
    """
    border = np.concatenate([picture[0], picture[-1], picture[:, 0], picture[:, -1]]).astype(int)
    if picture[..., 3].min() < 255 or np.ptp(border[:, :3], axis=0).max() > ALIKE:
        return picture
    ground = np.median(border[:, :3], axis=0)
    away = picture[..., :3].astype(float) - ground
    away[np.abs(away).max(axis=-1) <= ALIKE] = 0
    room = np.where(away > 0, 255 - ground, ground)
    opacity = np.clip((np.abs(away) / np.maximum(room, 1)).max(axis=-1), 0, 1)
    if not opacity.any():
        return picture  # it is but one colour: nobody calls that a background
    with np.errstate(divide="ignore", invalid="ignore"):
        colour = np.where(opacity[..., None] > 0, ground + away / opacity[..., None], 255)
    out = np.concatenate([np.clip(colour, 0, 255), opacity[..., None] * 255], axis=-1)
    return (out + 0.5).astype(np.uint8)


def guessed_sheet(picture: NDArray[np.uint8]) -> tuple[int, int]:
    """Return into how many columns and rows of square frames a picture (H, W, 4) seems to be cut; (1, 1) for one.

    Lines between frames are empty, and each frame shows something. Of several ways the one of most frames counts.
    """
    high, wide = picture.shape[:2]
    opacity = picture[..., 3] / 255.0
    if opacity.min() > EMPTY:
        return 1, 1
    found = (1, 1)
    for columns, rows in product(range(1, MOST + 1), range(1, MOST + 1)):
        square = wide % columns == 0 and high % rows == 0 and wide * rows == high * columns
        if square and columns * rows > found[0] * found[1] and _fits(opacity, columns, rows):
            found = columns, rows
    return found


def _fits(opacity: NDArray[np.float64], columns: int, rows: int) -> bool:
    high, wide = opacity.shape
    if min(wide // columns, high // rows) < MOST:
        return False
    across = [opacity[:, k * wide // columns - 1 : k * wide // columns + 1] for k in range(1, columns)]
    down = [opacity[k * high // rows - 1 : k * high // rows + 1] for k in range(1, rows)]
    if any(line.max() > EMPTY for line in (*across, *down)):
        return False
    cells = opacity.reshape(rows, high // rows, columns, wide // columns)
    return bool((cells.max(axis=(1, 3)) > 0.1).all())
