"""Pictures as they are brought in: a plain background is made clear, and a sheet's columns and rows are guessed."""

from __future__ import annotations

from itertools import product
from typing import TYPE_CHECKING

import numpy as np
from PIL import Image

if TYPE_CHECKING:
    from numpy.typing import NDArray


MAXIMUM, MINIMUM = 16, 8
"""Columns and rows that are looked for, and pixels of a frame at least."""
SQUARE = 0.01
"""Share by which a frame may be wider or higher than it should be."""
GRAIN, LOOKED_AT = 12, 512
"""Sides at which frames, and whole pictures, are compared."""
FADED = 0.3
"""Opacity up to which a line between frames may be that shapes reach."""
SHOWS = 0.1
"""Opacity from which on a frame surely shows something."""
LIKE = 0.35
"""How alike neighbouring frames are at least: their correlation."""
FAINT = 0.2
"""Share of the strongest frame below which one is too faint to be compared."""
BOX = Image.Resampling.BOX
SURE = 4
"""Frames that show something, from which on others at the end may not."""
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
    viewport = np.where(away > 0, 255 - ground, ground)
    opacity = np.clip((np.abs(away) / np.maximum(viewport, 1)).max(axis=-1), 0, 1)
    if not opacity.any():
        return picture  # it is but one colour: nobody calls that a background
    with np.errstate(divide="ignore", invalid="ignore"):
        colour = np.where(opacity[..., None] > 0, ground + away / opacity[..., None], 255)
    out = np.concatenate([np.clip(colour, 0, 255), opacity[..., None] * 255], axis=-1)
    return (out + 0.5).astype(np.uint8)


def guessed_sheet(picture: NDArray[np.uint8]) -> tuple[int, int]:
    """Return into how many columns and rows of square frames a picture (H, W, 4) seems to be cut; (1, 1) for one.

    Lines between frames are empty, frames that follow one another are alike, and only the last may show nothing. Of
    several ways the one of most frames counts: one that cuts frames into pieces has neighbours that are not alike.
    """
    height, width = picture.shape[:2]
    opacity = picture[..., 3]
    if min(height, width) < 2 or opacity.min() > EMPTY * 255:
        return 1, 1
    down, across = opacity.max(axis=1), opacity.max(axis=0)
    small = Image.fromarray(opacity).reduce(max(1, min(height, width) // LOOKED_AT))
    found = (1, 1)
    for columns, rows in product(range(1, MAXIMUM + 1), range(1, MAXIMUM + 1)):
        square = (
            abs(width * rows - height * columns) <= SQUARE * width * rows
            and min(width / columns, height / rows) >= MINIMUM
        )
        if not square or columns * rows <= found[0] * found[1]:
            continue
        lines = max(_on_lines(across, columns), _on_lines(down, rows))
        if lines <= FADED * 255 and _are_frames(opacity, small, columns, rows, sure=lines <= EMPTY * 255):
            found = columns, rows
    return found


def _on_lines(profile: NDArray[np.uint8], count: int) -> int:
    """Return what shows at most on the lines that cut a side into so many; of each place the most opaque is told."""
    at = np.round(np.arange(1, count) * len(profile) / count).astype(int)
    return int(max(profile[at - 1].max(), profile[at].max())) if at.size else 0


def _are_frames(opacity: NDArray[np.uint8], small: Image.Image, columns: int, rows: int, *, sure: bool) -> bool:
    """Return whether all frames show something between lines that are `sure`, or each is like the one before."""
    down, across = (np.arange(n) * size // n for n, size in zip((rows, columns), opacity.shape, strict=True))
    highest = np.maximum.reduceat(np.maximum.reduceat(opacity, down, axis=0), across, axis=1).ravel()
    if sure and highest.min() > SHOWS * 255:
        return True
    shows = (highest > EMPTY * 255).nonzero()[0]
    last = int(shows[-1]) + 1 if shows.size else 0
    early = highest[: (len(highest) + 1) // 2]
    if (early <= EMPTY * 255).any() or last < min(SURE, len(highest)):
        return False
    width, height = small.width / columns, small.height / rows
    corners = [(x * width, y * height) for y in range(rows) for x in range(columns)][:last]
    boxes = [(x, y, x + width, y + height) for x, y in corners]
    frames = np.stack([np.asarray(small.resize((GRAIN, GRAIN), BOX, box), float) for box in boxes])
    away = frames - frames.mean(axis=(1, 2), keepdims=True)
    size = np.sqrt((away**2).sum(axis=(1, 2)))
    both = (np.minimum(size[1:], size[:-1]) > FAINT * size.max()).nonzero()[
        0
    ]  # what has all but gone is like nothing
    like = (away[both + 1] * away[both]).sum(axis=(1, 2)) / np.maximum(size[both + 1] * size[both], 1e-9)
    return bool(like.size) and float(np.median(like)) >= LIKE
