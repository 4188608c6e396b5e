"""The opaque pass of the raster renderer: character, ground and sky."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from wraithon.picture import ground
from wraithon.picture.body import body_arrays
from wraithon.picture.ground_kernels import light_surroundings
from wraithon.picture.light import SHADOW_CELLS, SHADOW_METRES, TOWARDS_KEY
from wraithon.picture.ramps import ramp_colours
from wraithon.picture.raster_kernels import (
    BAND,
    GUARD,
    SAMPLES,
    band_order,
    list_by_band,
    project_points,
    raster_bands,
    raster_shadow,
    reach_triangles,
)
from wraithon.picture.shade_kernels import shade_picture

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.picture.body import BodyArrays
    from wraithon.picture.camera import Camera
    from wraithon.picture.renderer import Buffers, Clock
    from wraithon.stage.frame import Frame

__all__ = ["draw_opaque", "listed"]

KEY = TOWARDS_KEY.astype(np.float32)
SLANT = np.array([TOWARDS_KEY[0] / TOWARDS_KEY[1], TOWARDS_KEY[2] / TOWARDS_KEY[1]], np.float32)
PLAIN = np.zeros((0, 3), np.float32)
"""The ramp of a body that is not coloured by figures."""
CELL = np.float32(SHADOW_CELLS / SHADOW_METRES)


def listed(
    buffers: Buffers, name: str, spans: NDArray[np.int32], counts: NDArray[np.int32]
) -> NDArray[np.int32]:
    """Return the rows of `spans` that touch each band, one band after another, and write where each begins."""
    lists = buffers.grown(name, 0)
    needed = list_by_band(spans, counts, lists)
    if needed > len(lists):
        lists = buffers.grown(name, needed)
        list_by_band(spans, counts, lists)
    return lists


def draw_opaque(
    frame: Frame, camera: Camera, width: int, height: int, buffers: Buffers, clock: Clock, *, live: bool
) -> tuple[NDArray[Any], NDArray[Any]]:
    """Return linear light (3, H, W) and inverse distance (H, W) of what is solid.

    With `live` the ground is worked out at half the width and height.
    """
    tall, broad = height * SAMPLES, width * SAMPLES
    samples = buffers.get("sample depth", (tall, broad + GUARD))
    extents = buffers.get("extents", (-(-tall // BAND), 2), np.int32)
    ids = buffers.get("ids", (tall, broad + GUARD), np.int32)
    focal = np.float32(camera.lens * height)
    body = body_arrays(frame.body)
    shadow = buffers.get("shadow", (SHADOW_CELLS, SHADOW_CELLS))
    origin = (np.array(frame.centre)[[0, 2]] - SHADOW_METRES / 2).astype(np.float32)
    screen = buffers.get("screen", (len(body.positions), 3))
    if frame.body is None:
        extents[:] = (broad, -1)
        shadow.fill(0)
    else:
        _raster(body, camera, focal, screen, samples, ids, extents, buffers)
        clock.lap("raster")
        spare = buffers.get("shadow spare", (SHADOW_CELLS, SHADOW_CELLS))
        raster_shadow(body.positions, body.triangles, body.shown, SLANT, origin, CELL, shadow, spare)
        clock.lap("shadow")
    light, depth = buffers.get("light", (3, height, width)), buffers.get("depth", (height, width))
    ground_levels, ground_texels = ground.ground_texture(frame.ground)
    skip = 2 if live else 1
    around = buffers.get("surroundings", (3, -(-height // skip), -(-width // skip)))
    light_surroundings(
        ground_levels, ground_texels, np.float32(ground.METRES), shadow, origin, CELL,
        camera.eye, camera.basis, KEY, focal, band_order(around.shape[1]), skip, width, height, around,
    )  # fmt: skip
    clock.lap("surroundings")
    figured = frame.body is not None and frame.body.heat is not None
    ramp, skin = ramp_colours(frame.body.ramp) if frame.body and figured else PLAIN, body.materials
    vertices = buffers.get("vertices", (len(body.positions), 8))
    vertices[:, :3], vertices[:, 3:5], vertices[:, 5] = body.normals, body.uvs, body.heat if figured else 0
    vertices[:, 6:] = 0
    shade_picture(
        screen, body.triangles, vertices, skin.part_material, skin.materials,
        skin.levels, skin.texels, ramp, body.rest, body.dissolving, body.border,
        around, skip, camera.eye, camera.basis, KEY, focal,
        samples, ids, extents, BAND, band_order(height), light, depth,
    )  # fmt: skip
    clock.lap("shade")
    return light, depth


def _raster(
    body: BodyArrays,
    camera: Camera,
    focal: np.float32,
    screen: NDArray[Any],
    samples: NDArray[Any],
    ids: NDArray[Any],
    extents: NDArray[Any],
    buffers: Buffers,
) -> None:
    """Find what each sample shows of the character."""
    tall, broad = len(samples), samples.shape[1] - GUARD
    project_points(
        body.positions, camera.eye, camera.basis, focal * np.float32(SAMPLES),
        np.float32(broad / 2), np.float32(tall / 2), screen,
    )  # fmt: skip
    bands = -(-tall // BAND)
    counts = buffers.get("triangle counts", (bands + 1,), np.int32)
    spans = buffers.get("triangle spans", (len(body.triangles), 2), np.int32)
    columns = buffers.get("triangle columns", (len(body.triangles), 2), np.int32)
    reach_triangles(screen, body.triangles, body.shown, np.float32(broad), np.float32(tall), spans, columns)
    lists = listed(buffers, "triangle lists", spans, counts)
    raster_bands(
        screen, body.triangles, counts, lists, columns, band_order(bands), body.rest, body.dissolving,
        body.border[0], body.border[1], broad, samples, ids, extents,
    )  # fmt: skip
