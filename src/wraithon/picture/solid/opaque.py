"""The opaque pass of the raster renderer: character, ground and sky."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from wraithon.ground.ground import METRES
from wraithon.picture.kernels.ground_kernels import light_context
from wraithon.picture.kernels.raster_kernels import (
    FEW_TRIANGLES,
    GUARD,
    SAMPLES,
    band_order,
    raster_shadow,
    soften_shadow,
)
from wraithon.picture.kernels.shade_kernels import draw_bands
from wraithon.picture.light import SHADOW_CELLS, SHADOW_METRES, TOWARDS_KEY
from wraithon.picture.solid.ground import ground_map
from wraithon.picture.solid.ramps import ramp_colours
from wraithon.picture.triangles import listed_triangles, seen_points

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.picture.camera import Camera
    from wraithon.picture.renderer import Buffers, PassTimes
    from wraithon.picture.solid.body import BodyArrays
    from wraithon.picture.solid.solids import Solids
    from wraithon.stage.frame import Frame


KEY = TOWARDS_KEY.astype(np.float32)
SLANT = np.array([TOWARDS_KEY[0] / TOWARDS_KEY[1], TOWARDS_KEY[2] / TOWARDS_KEY[1]], np.float32)
PLAIN = np.zeros((0, 3), np.float32)
"""The ramp of a body that is not coloured by figures."""
CELL = np.float32(SHADOW_CELLS / SHADOW_METRES)


def draw_opaque(
    frame: Frame,
    solids: Solids,
    camera: Camera,
    size: tuple[int, int],
    buffers: Buffers,
    clock: PassTimes,
    *,
    live: bool,
) -> tuple[NDArray[Any], NDArray[Any]]:
    """Return linear light (3, H, W) and inverse distance (H, W) of what is solid, `size` (W, H) pixels.

    With `live` the ground is worked out at half the width and height.
    """
    width, height = size
    tall, broad = height * SAMPLES, width * SAMPLES
    body, focal = solids.body, np.float32(camera.lens * height)
    mesh = body.positions, body.normals, body.uvs, body.heat
    screen, vertices = seen_points(mesh, camera, float(focal) * SAMPLES, (tall, broad), buffers)
    counts, lists, columns = listed_triangles(screen, body.triangles, body.shown, (tall, broad), buffers)
    clock.lap("triangles")
    origin = (np.array(frame.centre)[[0, 2]] - SHADOW_METRES / 2).astype(np.float32)
    shadow = _shadow(body, solids.throwing, origin, buffers)
    clock.lap("shadow")
    ground_levels, ground_texels, lies = ground_map(frame.ground, frame.terrain)
    skip = 2 if live else 1
    around = buffers.get("tick_context", (3, -(-height // skip), -(-width // skip)))
    light_context(
        ground_levels, ground_texels, lies, np.float32(METRES), shadow, origin, CELL,
        camera.eye, camera.basis, KEY, focal, np.array((*frame.sky.top, *frame.sky.haze), np.float32),
        band_order(around.shape[1]), skip, width, height, around,
    )  # fmt: skip
    clock.lap("tick_context")
    light, depth = buffers.get("light", (3, height, width)), buffers.get("depth", (height, width))
    samples = buffers.get("sample depth", (tall, broad + GUARD))
    ids = buffers.get("ids", (tall, broad + GUARD), np.int32)
    extents = buffers.get("extents", (len(counts) - 1, 2), np.int32)
    figured = frame.body is not None and frame.body.heat is not None
    ramp, skin = ramp_colours(frame.body.ramp) if frame.body and figured else PLAIN, body.materials
    draw_bands(
        band_order(len(extents)), counts, lists, columns, screen, body.triangles, vertices, body.positions,
        skin.part_material, skin.materials, skin.levels, skin.texels, skin.details, ramp, body.rest,
        body.dissolving, body.border, around, skip, camera.eye, camera.basis, KEY, focal, samples, ids, extents,
        light, depth,
    )  # fmt: skip
    clock.lap("body")
    return light, depth


def _shadow(
    body: BodyArrays, throwing: NDArray[np.uint8], origin: NDArray[np.float32], buffers: Buffers
) -> NDArray[np.float32]:
    """Return the softened shadow (SHADOW_CELLS, SHADOW_CELLS) that triangles (T,) throw on the ground."""
    shadow = buffers.get("shadow", (SHADOW_CELLS, SHADOW_CELLS))
    thrown = buffers.lines("thrown", len(body.positions), 2)
    within = buffers.get("shadow within", (4,), np.int32)
    order = band_order(-(-len(body.triangles) // FEW_TRIANGLES))
    raster_shadow(order, body.positions, body.triangles, throwing, SLANT, origin, CELL, thrown, within, shadow)
    soften_shadow(shadow, within, buffers.get("shadow spare", (SHADOW_CELLS, SHADOW_CELLS)))
    return shadow
