"""The transparent pass of the raster renderer: squares placed by drawers, sorted, and laid over each other."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, Any, NamedTuple

import numba
import numpy as np

from wraithon.picture.coverage import NOTHING_LAID, Coverage
from wraithon.picture.kernels.columns import (
    B_MEAN,
    HALF_HEIGHT,
    HALF_WIDTH,
    PICK_COLUMNS,
    RECORD_COLUMNS,
    SPRITE_COLUMNS,
)
from wraithon.picture.kernels.compositing_kernels import LEFT, RIGHT, composite_sprites
from wraithon.picture.kernels.order_kernels import far_to_near
from wraithon.picture.kernels.over_kernels import composite_over
from wraithon.picture.kernels.raster_kernels import band_order
from wraithon.picture.kernels.sprite_kernels import ADDED, prepare_sprites
from wraithon.picture.looks import of_phase
from wraithon.picture.looks.drawer import Phase, Scene, SpriteQuads, SpriteTextures, Triangles, Viewport
from wraithon.picture.shells.shell_meshes import NO_PATCHES, Patches, ShellDraw, bent, drawn_shells
from wraithon.picture.triangles import listed

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.picture.renderer import Buffers, PassTimes
    from wraithon.stage.frame import Frame


COARSEST = 4
MAX_ROWS, FEWEST_ROWS, BAND_PIXELS = 16, 2, 16 * 1024
THREADS = numba.config.NUMBA_NUM_THREADS  # type: ignore[attr-defined]
NOTHING = np.empty((4, 0, 0), np.float32)


def draw_transparent(
    frame: Frame, scene: Scene, buffers: Buffers, clock: PassTimes, budget: float
) -> tuple[int, Coverage]:
    """Composite all that is transparent over the light of a scene.

    Returns how many times coarser that was done, and what was laid.

    Parameters
    ----------
    frame, scene
        What is drawn, and what is solid. Of a live scene films are drawn at half the size.
    buffers, clock
        What is kept between pictures, and the laps of this one.
    budget
        Pixels that squares may cover before they are laid at a coarser size.
    """
    camera, light, depth, textures, live = scene
    drawn = of_phase(frame.batches, Phase.TRANSPARENT)
    if not drawn:
        return 1, NOTHING_LAID
    height, width = depth.shape
    viewport = Viewport(camera, width, height)
    quads, nearness = _quads(drawn, viewport, textures, buffers)
    layered = [drawer.layered(batch, viewport, textures) for batch, drawer in drawn]
    triangles = Triangles.together([part for parts in layered for part in parts.triangles])
    shell_meshes = [shell_mesh for parts in layered for shell_mesh in parts.shell_meshes]
    clock.lap("place sprites")
    covered = 4 * float(np.dot(quads.rows[:, HALF_WIDTH], quads.rows[:, HALF_HEIGHT]))
    coarse = 1
    while coarse < COARSEST and covered / coarse**2 > budget:
        coarse += 1
    draw = ShellDraw(viewport, depth, textures.planes, coarse, buffers, live)
    placed = PlacedTransparents(quads, triangles, drawn_shells(shell_meshes, draw) if shell_meshes else NO_PATCHES)
    clock.lap("veils")
    boxes = placed.boxes
    order = _far_to_near(quads, nearness, boxes[:, B_MEAN], buffers)
    if not len(order):
        return 1, NOTHING_LAID
    _composite(placed, order, light, depth, textures.planes, coarse, buffers)
    bent(placed.patches, coarse, light, buffers)
    clock.lap("lay sprites")
    return coarse, Coverage(covered, boxes, width, height)


class PlacedTransparents(NamedTuple):
    """What is transparent, placed."""

    quads: SpriteQuads
    triangles: Triangles
    patches: Patches

    @property
    def boxes(self) -> NDArray[np.float32]:
        """(N, BOX_COLUMNS) where facets and veils are."""
        return np.concatenate([self.triangles.boxes, self.patches.boxes])


def _quads(
    drawn: list[tuple[Any, Any]], viewport: Viewport, textures: SpriteTextures, buffers: Buffers
) -> tuple[SpriteQuads, NDArray[np.float32]]:
    """Return all squares that are drawn, placed, and the inverse distances (N,) that order them."""
    total = sum(drawer.count(batch) for batch, drawer in drawn)
    quads = SpriteQuads(
        buffers.get("sprites", (total, SPRITE_COLUMNS)),
        buffers.get("picks", (total, PICK_COLUMNS), np.int32),
        buffers.get("blends", (total,), np.uint8),
    )
    nearness = buffers.get("sprite nearness", (total,))
    start = 0
    for batch, drawer in drawn:
        part = slice(start, start + drawer.count(batch))
        drawer.position(batch, viewport, textures, quads.part(part))
        nearness[part] = quads.rows[part, 2]
        drawer.order(batch, nearness[part])
        start = part.stop
    return quads, nearness


def _composite(
    placed: PlacedTransparents,
    order: NDArray[np.int32],
    light: NDArray[Any],
    depth: NDArray[Any],
    planes: NDArray[np.uint32],
    coarse: int,
    buffers: Buffers,
) -> None:
    height, width = depth.shape
    coarse_height, coarse_width = -(-height // coarse), -(-width // coarse)
    rows = band_rows(coarse_width)
    bands, step = -(-coarse_height // rows), np.float32(coarse)
    records, marks, spans = prepared(placed, order, planes, coarse, (rows, coarse_height, coarse_width), buffers)
    counts = buffers.get("sprite counts", (bands + 1,), np.int32)
    lists = listed(buffers, "sprite lists", spans, counts)
    buffer = buffers.get("sprite bands", (THREADS, 5 * rows * (LEFT + coarse_width + RIGHT)))
    layer = buffers.get("layer", (4, coarse_height, coarse_width)) if coarse > 1 else NOTHING
    triangles, patches = placed.triangles, placed.patches
    composite_sprites(
        records, marks, triangles.rows, triangles.skins, patches.table, patches.floats, counts, lists,
        band_order(bands),
        rows, planes, depth, step, buffer, layer, light,
    )  # fmt: skip
    if coarse > 1:
        composite_over(layer, counts, rows, step, *_columns(width, coarse_width, coarse), light)


def band_rows(width: int) -> int:
    """Return how many rows the bands of a picture so wide have: what a band holds stays in a processor's cache."""
    rows = MAX_ROWS
    while rows > FEWEST_ROWS and rows * width > BAND_PIXELS:
        rows //= 2
    return rows


def prepared(
    placed: PlacedTransparents,
    order: NDArray[np.int32],
    planes: NDArray[np.uint32],
    coarse: int,
    size: tuple[int, int, int],
    buffers: Buffers,
) -> tuple[NDArray[np.float32], NDArray[np.int32], NDArray[np.int32]]:
    """Return records of what `order` tells, as floats and as whole numbers, and the bands each touches.

    The `size` is how many rows bands have, and a picture high and wide, `coarse` times coarser than things were
    placed for.
    """
    count, (rows, height, width) = len(order), size
    records = buffers.lines("sprite records", count, RECORD_COLUMNS)
    marks, spans = records.view(np.int32), buffers.get("sprite spans", (count, 2), np.int32)
    prepare_sprites(
        count, *placed.quads, placed.boxes, len(placed.triangles.rows), order, planes, np.float32(coarse), rows,
        np.float32(height), np.float32(width), records, marks, spans,
    )  # fmt: skip
    return records, marks, spans


@lru_cache(maxsize=8)
def _columns(width: int, coarse_width: int, coarse: int) -> tuple[NDArray[np.uint64], NDArray[np.float32]]:
    """Return for each of `width` pixels the column of a picture `coarse` times coarser before it, and its share."""
    position = np.clip((np.arange(width) + 0.5) / coarse - 0.5, 0, coarse_width - 1)
    return np.floor(position).astype(np.uint64), (position - np.floor(position)).astype(np.float32)


def _far_to_near(
    quads: SpriteQuads, nearness: NDArray[np.float32], others: NDArray[np.float32], buffers: Buffers
) -> NDArray[np.int32]:
    """Return the rows of what is visible, far ones first; pictures of nothing but additive squares need no order.

    `nearness` are the inverse distances that order squares, `others` those of what comes after them.
    """
    viewport = len(nearness) + len(others) + 1
    order, keys = buffers.grown("sprite order", viewport), buffers.grown("sprite keys", viewport)
    between = buffers.grown("sprites in between", 2 * viewport)[: 2 * viewport].view(np.int64)
    count = far_to_near(nearness, quads.blends, np.ascontiguousarray(others), ADDED, order, keys, between)
    return order[:count]
