"""The transparent pass of the raster renderer: squares placed by drawers, sorted, and laid over each other."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, Any

import numba
import numpy as np

from wraithon.picture.kernels.laying_kernels import LEFT, RIGHT, lay_over, lay_sprites
from wraithon.picture.kernels.raster_kernels import band_order
from wraithon.picture.kernels.sprite_kernels import COLUMNS, PICKS, RECORD, prepare_sprites
from wraithon.picture.looks import of_phase
from wraithon.picture.looks.drawer import Phase, Room, SpriteTextures, Squares
from wraithon.picture.opaque import listed

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.picture.camera import Camera
    from wraithon.picture.renderer import Buffers, Clock
    from wraithon.stage.frame import Frame

__all__ = ["COARSEST", "band_rows", "draw_transparent", "prepared"]

COARSEST = 4
MOST_ROWS, FEWEST_ROWS, BAND_PIXELS = 16, 2, 16 * 1024
THREADS = numba.config.NUMBA_NUM_THREADS  # type: ignore[attr-defined]
NOTHING = np.empty((4, 0, 0), np.float32)


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
    """Lay all that is transparent over the light (3, H, W); return how many times coarser that was done.

    Parameters
    ----------
    frame, camera
        What is drawn, and from where.
    light, depth
        Linear light (3, H, W), and inverse distance (H, W) of what is solid.
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
        buffers.get("picks", (total, PICKS), np.int32),
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
    _lay(squares, order, light, depth, textures.planes, coarse, buffers)
    clock.lap("lay sprites")
    return coarse


def _lay(
    squares: Squares,
    order: NDArray[np.int64],
    light: NDArray[Any],
    depth: NDArray[Any],
    planes: NDArray[np.uint32],
    coarse: int,
    buffers: Buffers,
) -> None:
    height, width = depth.shape
    high, wide = -(-height // coarse), -(-width // coarse)
    rows = band_rows(wide)
    bands, step = -(-high // rows), np.float32(coarse)
    records, marks, spans = prepared(squares, order, planes, coarse, rows, high, wide, buffers)
    counts = buffers.get("sprite counts", (bands + 1,), np.int32)
    lists = listed(buffers, "sprite lists", spans, counts)
    held = buffers.get("sprite bands", (THREADS, 5 * rows * (LEFT + wide + RIGHT)))
    layer = buffers.get("layer", (4, high, wide)) if coarse > 1 else NOTHING
    lay_sprites(records, marks, counts, lists, band_order(bands), rows, planes, depth, step, held, layer, light)
    if coarse > 1:
        lay_over(layer, counts, rows, step, *_columns(width, wide, coarse), light)


def band_rows(wide: int) -> int:
    """Return how many rows the bands of a picture so wide have: what a band holds stays in a processor's cache."""
    rows = MOST_ROWS
    while rows > FEWEST_ROWS and rows * wide > BAND_PIXELS:
        rows //= 2
    return rows


def prepared(
    squares: Squares,
    order: NDArray[np.int64],
    planes: NDArray[np.uint32],
    coarse: int,
    rows: int,
    high: int,
    wide: int,
    buffers: Buffers,
) -> tuple[NDArray[np.float32], NDArray[np.int32], NDArray[np.int32]]:
    """Return records of the squares of `order`, as floats and as whole numbers, and the bands each touches.

    Bands are `rows` rows of a picture `high` by `wide`, `coarse` times coarser than squares were placed for.
    """
    count = len(order)
    records = buffers.lines("sprite records", count, RECORD)
    marks, spans = records.view(np.int32), buffers.get("sprite spans", (count, 2), np.int32)
    prepare_sprites(
        count, *squares, order, planes, np.float32(coarse), rows, np.float32(high), np.float32(wide),
        records, marks, spans,
    )  # fmt: skip
    return records, marks, spans


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
