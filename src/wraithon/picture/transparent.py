"""The transparent pass of the raster renderer: squares placed by drawers, sorted, and laid over each other."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, Any

import numpy as np

from wraithon.picture.looks import of_phase
from wraithon.picture.looks.drawer import Phase, Room, SpriteTextures, Squares
from wraithon.picture.opaque import listed
from wraithon.picture.raster_kernels import band_order
from wraithon.picture.sprite_kernels import COLUMNS, ROWS, lay_over, lay_sprites, reach_bands

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.picture.camera import Camera
    from wraithon.picture.renderer import Buffers, Clock
    from wraithon.stage.frame import Frame

__all__ = ["COARSEST", "draw_transparent", "reached"]

COARSEST = 4


def draw_transparent(
    frame: Frame,
    camera: Camera,
    light: NDArray[Any],
    depth: NDArray[Any],
    textures: SpriteTextures,
    buffers: Buffers,
    clock: Clock,
    budget: float,
) -> int:
    """Lay all that is transparent over the light (H, W, 3); return how many times coarser that was done.

    Parameters
    ----------
    frame, camera
        What is drawn, and from where.
    light, depth
        Linear light (H, W, 3), and inverse distance (H, W) of what is solid.
    textures, buffers, clock
        What is kept between pictures, and the laps of this one.
    budget
        Pixels that squares may cover before they are laid at a coarser size.
    """
    drawn = of_phase(frame.batches, Phase.TRANSPARENT)
    total = sum(drawer.count(batch) for batch, drawer in drawn)
    if not total:
        return 1
    height, width = depth.shape
    squares = Squares(
        buffers.get("sprites", (total, COLUMNS)),
        buffers.get("picks", (total, 2), np.int32),
        buffers.get("additive", (total,), np.bool_),
    )
    room, start = Room(camera, width, height), 0
    for batch, drawer in drawn:
        part = slice(start, start + drawer.count(batch))
        drawer.place(batch, room, textures, squares.part(part))
        start = part.stop
    order = _far_to_near(squares)
    clock.lap("place sprites")
    covered = 4 * float(np.dot(squares.rows[:, 3], squares.rows[:, 4]))
    coarse = 1
    while coarse < COARSEST and covered / coarse**2 > budget:
        coarse += 1
    _lay(squares, order, light, depth, textures.texels, coarse, buffers)
    clock.lap("lay sprites")
    return coarse


def _lay(
    squares: Squares,
    order: NDArray[np.int64],
    light: NDArray[Any],
    depth: NDArray[Any],
    texels: NDArray[np.float32],
    coarse: int,
    buffers: Buffers,
) -> None:
    height, width = depth.shape
    high, wide = -(-height // coarse), -(-width // coarse)
    bands = -(-high // ROWS)
    counts = buffers.get("sprite counts", (bands + 1,), np.int32)
    step = np.float32(coarse)
    spans = reached(squares.rows, order, coarse, high, buffers)
    lists = listed(buffers, "sprite lists", spans, order, counts)
    layer = buffers.get("layer", (high, wide, 4))
    lay_sprites(*squares, counts, lists, band_order(bands), texels, depth, step, layer)
    lay_over(layer, counts, step, *_columns(width, wide, coarse), light)


def reached(
    rows: NDArray[np.float32], order: NDArray[np.int64], coarse: int, high: int, buffers: Buffers
) -> NDArray[np.int32]:
    """Return the first and last band (N, 2) of a picture `high` pixels high that the squares of `order` touch.

    One that touches none has its last before its first. Squares (M, COLUMNS) are made those of a picture
    `coarse` times coarser.
    """
    spans = buffers.get("sprite spans", (len(order), 2), np.int32)
    reach_bands(len(order), rows, order, np.float32(coarse), np.float32(high), spans)
    return spans


@lru_cache(maxsize=8)
def _columns(width: int, wide: int, coarse: int) -> tuple[NDArray[np.uint64], NDArray[np.float32]]:
    """Return for each of `width` pixels the column of a picture `coarse` times coarser before it, and its share."""
    place = np.clip((np.arange(width) + 0.5) / coarse - 0.5, 0, wide - 1)
    return np.floor(place).astype(np.uint64), (place - np.floor(place)).astype(np.float32)


def _far_to_near(squares: Squares) -> NDArray[np.int64]:
    """Return the rows of visible squares, far ones first; all-additive pictures need no order."""
    nearness = np.ascontiguousarray(squares.rows[:, 2])
    seen = np.flatnonzero(nearness > 0)
    if squares.additive.all() or squares.additive[seen].all():
        return seen
    # The bits of a positive float sort as it does; the upper half is fine enough, and sorts by radix.
    keys = (nearness if len(seen) == len(nearness) else nearness[seen]).view(np.uint32) >> np.uint32(13)
    order = np.argsort(keys.astype(np.uint16), kind="stable")
    return order if len(seen) == len(nearness) else seen[order]
