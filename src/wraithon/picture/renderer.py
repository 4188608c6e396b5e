"""The raster renderer: a Frame and a view become a picture, on any machine, the same bytes every time."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import lru_cache
from typing import TYPE_CHECKING, Any

import numpy as np

from wraithon.character.pose import rest_skin
from wraithon.errors import RenderError
from wraithon.picture import ground
from wraithon.picture.camera import Camera, camera_of
from wraithon.picture.post_kernels import finish, halve, srgb_table, widen
from wraithon.picture.ramps import ramp_colours
from wraithon.picture.raster_kernels import (
    BAND,
    SAMPLES,
    band_order,
    list_by_band,
    project_points,
    raster_bands,
    raster_shadow,
    reach_triangles,
)
from wraithon.picture.shade_kernels import light_surroundings, shade_picture
from wraithon.picture.sprite_kernels import (
    COLUMNS,
    ROWS,
    lay_over,
    lay_sprites,
    place_sprites,
    reach_bands,
)
from wraithon.picture.textures import LevelledTexture, SpriteAtlas, halved, linear_light
from wraithon.project.look import Blend, Facing

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.project.look import SpriteLook
    from wraithon.project.project import View
    from wraithon.stage.frame import Body, Frame, SpriteBatch

__all__ = ["Picture", "Renderer"]

LIGHT = np.array([0.42, 0.78, 0.46]) / np.linalg.norm([0.42, 0.78, 0.46])
SHADOW_CELLS, SHADOW_METRES = 192, 5.0
BLOOM_LEVELS, BLOOM_FLOOR, BLOOM_STRENGTH = 5, 1.0, 0.3
LIVE_PIXELS = 1_200_000
"""Sprite pixels the live picture lays, at most, before it makes its transparent pass coarser."""
FEWEST_LIVE_PIXELS = 200_000
COARSEST = 4
LARGEST_PICTURE = 8192

TextureSource = Callable[[str], "NDArray[np.uint8]"]


@dataclass(frozen=True)
class Picture:
    """Finished pixels (H, W, 4) uint8 sRGB, opaque, and what they cost."""

    pixels: NDArray[np.uint8]
    coarseness: int
    """How many pixels wide one of the transparent pass is: 1 is full resolution."""
    seconds: dict[str, float] = field(default_factory=dict)
    """Time of each pass."""


@dataclass(frozen=True)
class _Skin:
    """A character's materials as kernels read them."""

    materials: NDArray[np.float32]
    levels: NDArray[np.int32]
    texels: NDArray[np.uint8]
    part_material: NDArray[np.int32]


class Renderer:
    """Draws frames; keeps textures and working memory between them.

    Parameters
    ----------
    textures
        Returns a texture's picture by the name layers give it; may raise RenderError.
    """

    def __init__(self, textures: TextureSource) -> None:
        self._textures = textures
        self._atlas = SpriteAtlas()
        self._buffers: dict[str, NDArray[Any]] = {}
        self._table = srgb_table()
        self._budget = float(LIVE_PIXELS)
        self.problems: dict[str, str] = {}
        """Texture name to what is wrong with it; such layers are drawn as plain discs."""

    def forget_textures(self) -> None:
        """Read all textures again when they are next drawn."""
        self._atlas = SpriteAtlas()
        self.problems.clear()

    def keep_up(self, seconds: float, wanted: float) -> None:
        """Hear how long a live frame took in all, and lay fewer or more sprite pixels in the next ones.

        Parameters
        ----------
        seconds
            What the last frame took, steps and all.
        wanted
            What it may take.
        """
        if seconds > wanted:
            self._budget = max(FEWEST_LIVE_PIXELS, self._budget * 0.88)
        elif seconds < wanted * 0.75:
            self._budget = min(LIVE_PIXELS, self._budget * 1.04)

    @property
    def gives_all(self) -> bool:
        """Whether the live transparent pass is as coarse already as it may get."""
        return self._budget <= FEWEST_LIVE_PIXELS

    def draw(self, frame: Frame, view: View, width: int, height: int, *, live: bool = False) -> Picture:
        """Return the picture of a frame.

        Parameters
        ----------
        frame
            The moment.
        view
            Where it is seen from.
        width, height
            Pixels, 8 to 8192 each.
        live
            Keep up with playing: the ground is worked out at half the width and height, and the transparent pass gets
            coarser when sprites cover very much.

        Raises
        ------
        wraithon.errors.RenderError
            When the size is out of range.
        """
        if not (8 <= width <= LARGEST_PICTURE and 8 <= height <= LARGEST_PICTURE):
            raise RenderError(f"a picture of {width} x {height} cannot be made; use 8 to {LARGEST_PICTURE} pixels")
        camera = camera_of(view, frame.centre)
        clock = _Clock()
        light, depth = self._opaque(frame, camera, width, height, clock, live=live)
        coarse = self._transparent(frame, camera, light, depth, clock, live=live)
        pixels = self._finish(light, frame.exposure, clock)
        return Picture(pixels, coarse, clock.seconds)

    # ---- memory ---------------------------------------------------------------------------------

    def _buffer(self, name: str, shape: tuple[int, ...], dtype: type = np.float32) -> NDArray[Any]:
        """Return working memory of a shape; its contents are whatever was there before."""
        held = self._buffers.get(name)
        if held is None or held.shape != shape or held.dtype != dtype:
            held = np.empty(shape, dtype)
            self._buffers[name] = held
        return held

    def _listed(
        self, name: str, spans: NDArray[np.int32], rows: NDArray[np.int64], counts: NDArray[np.int32]
    ) -> NDArray[np.int32]:
        """Return the rows that touch each band, one band after another, and write where each begins."""
        lists: NDArray[np.int32] = self._buffers.get(name, np.empty(0, np.int32))
        needed = list_by_band(spans, rows, counts, lists)
        if needed > len(lists):
            self._buffers[name] = lists = np.empty(max(1024, int(needed * 1.5)), np.int32)
            list_by_band(spans, rows, counts, lists)
        return lists

    # ---- opaque pass ----------------------------------------------------------------------------

    def _opaque(
        self, frame: Frame, camera: Camera, width: int, height: int, clock: _Clock, *, live: bool
    ) -> tuple[NDArray[Any], NDArray[Any]]:
        tall, broad = height * SAMPLES, width * SAMPLES
        samples = self._buffer("sample depth", (tall, broad))
        extents = self._buffer("extents", (-(-tall // BAND), 2), np.int32)
        ids = self._buffer("ids", (tall, broad), np.int32)
        focal = np.float32(camera.lens * height)
        body = frame.body
        shadow = self._buffer("shadow", (SHADOW_CELLS, SHADOW_CELLS))
        origin = (np.array(frame.centre)[[0, 2]] - SHADOW_METRES / 2).astype(np.float32)
        cell = np.float32(SHADOW_CELLS / SHADOW_METRES)
        if body is None:
            extents[:] = (broad, -1)
            shadow.fill(0)
            body_parts = _nobody()
        else:
            body_parts = self._body(body, camera, focal, samples, ids, extents, clock)
            shown = body_parts[6]
            slant = np.array([LIGHT[0] / LIGHT[1], LIGHT[2] / LIGHT[1]], np.float32)
            spare = self._buffer("shadow spare", (SHADOW_CELLS, SHADOW_CELLS))
            raster_shadow(body.positions, body_parts[1], shown, slant, origin, cell, shadow, spare)
            clock.lap("shadow")
        screen, triangles, points, normals, uvs, skin, _ = body_parts
        heat = body.heat if body is not None and body.heat is not None else _COLD
        ramp = ramp_colours(body.ramp if body is not None else "share")
        light, depth = self._buffer("light", (height, width, 3)), self._buffer("depth", (height, width))
        ground_levels, ground_texels = ground.ground_texture(frame.ground)
        parts = skin.part_material
        rest, dissolving, border = _dissolve(body)
        skip = 2 if live else 1
        key = LIGHT.astype(np.float32)
        around = self._buffer("surroundings", (-(-height // skip), -(-width // skip), 3))
        light_surroundings(
            ground_levels, ground_texels, np.float32(ground.METRES), shadow, origin, cell,
            camera.eye, camera.basis, key, focal, band_order(len(around)), skip, width, height, around,
        )  # fmt: skip
        clock.lap("surroundings")
        shade_picture(
            screen, triangles, points, normals, uvs, parts, skin.materials, skin.levels, skin.texels,
            heat, ramp, rest, dissolving, border, around.reshape(len(around), -1), skip, camera.eye, camera.basis,
            key, focal,
            samples, ids, extents, BAND, band_order(height), light.reshape(height, -1), depth,
        )  # fmt: skip
        clock.lap("shade")
        return light, depth

    def _body(
        self,
        body: Body,
        camera: Camera,
        focal: np.float32,
        samples: NDArray[Any],
        ids: NDArray[Any],
        extents: NDArray[Any],
        clock: _Clock,
    ) -> tuple[Any, ...]:
        mesh = body.character.mesh
        tall, broad = samples.shape
        screen = self._buffer("screen", (len(body.positions), 3))
        project_points(
            body.positions, camera.eye, camera.basis, focal * np.float32(SAMPLES),
            np.float32(broad / 2), np.float32(tall / 2), screen,
        )  # fmt: skip
        shown = self._shown(body)
        bands = -(-tall // BAND)
        counts = self._buffer("triangle counts", (bands + 1,), np.int32)
        spans = self._buffer("triangle spans", (len(mesh.triangles), 2), np.int32)
        columns = self._buffer("triangle columns", (len(mesh.triangles), 2), np.int32)
        reach_triangles(screen, mesh.triangles, shown, np.float32(broad), np.float32(tall), spans, columns)
        lists = self._listed("triangle lists", spans, np.arange(len(spans)), counts)
        rest, dissolving, border = _dissolve(body)
        raster_bands(
            screen, mesh.triangles, counts, lists, columns, band_order(bands), rest, dissolving, border[0], border[1],
            samples, ids, extents,
        )  # fmt: skip
        clock.lap("raster")
        return (
            screen,
            mesh.triangles,
            body.positions,
            body.normals,
            mesh.uvs,
            _skin_of(body.character),
            shown,
        )

    def _shown(self, body: Body) -> NDArray[np.uint8]:
        character = body.character
        shown = np.zeros(len(character.mesh.triangles), np.uint8)
        for part in character.parts:
            if part.name not in body.hidden_parts:
                eaten = body.dissolve is not None and body.dissolve.two_sided and _eats(body, part.material)
                sides = 2 if eaten or character.materials[part.material].two_sided else 1
                shown[part.first_triangle : part.first_triangle + part.triangle_count] = sides
        return shown

    # ---- transparent pass -----------------------------------------------------------------------

    def _transparent(
        self,
        frame: Frame,
        camera: Camera,
        light: NDArray[Any],
        depth: NDArray[Any],
        clock: _Clock,
        *,
        live: bool,
    ) -> int:
        total = sum(len(batch.sizes) for batch in frame.sprites)
        if not total:
            return 1
        height, width = depth.shape
        sprites = self._buffer("sprites", (total, COLUMNS))
        picks = self._buffer("picks", (total, 2), np.int32)
        additive = self._buffer("additive", (total,), np.bool_)
        start = 0
        for batch in frame.sprites:
            stop = start + len(batch.sizes)
            self._place(batch, camera, width, height, sprites[start:stop], picks[start:stop])
            additive[start:stop] = batch.look.blend is Blend.ADDITIVE
            start = stop
        order = _far_to_near(sprites, additive)
        clock.lap("place sprites")
        covered = 4 * float(np.dot(sprites[:, 3], sprites[:, 4]))
        coarse = 1
        if live:
            while coarse < COARSEST and covered / coarse**2 > self._budget:
                coarse += 1
        self._lay(sprites, picks, additive, order, light, depth, coarse)
        clock.lap("lay sprites")
        return coarse

    def _place(
        self,
        batch: SpriteBatch,
        camera: Camera,
        width: int,
        height: int,
        out: NDArray[Any],
        picks: NDArray[Any],
    ) -> None:
        look = batch.look
        texture = self._texture(look)
        stretch = look.stretch if look.facing is Facing.VELOCITY else 0.0
        place_sprites(
            len(batch.sizes), batch.positions, batch.velocities, batch.sizes, batch.turns,
            batch.colours, batch.frames,
            camera.eye, camera.basis, np.float32(camera.lens * height), width, height,
            look.facing is not Facing.CAMERA, np.float32(stretch), np.float32(look.soft), look.lit,
            texture.levels, texture.frames, out, picks,
        )  # fmt: skip

    def _texture(self, look: SpriteLook) -> LevelledTexture:
        if not look.texture or look.texture in self.problems:
            return self._atlas.plain
        found = self._atlas.find(look.texture, look.sheet)
        if found is None:
            try:
                picture = self._textures(look.texture)
            except RenderError as error:
                self.problems[look.texture] = str(error)
                return self._atlas.plain
            found = self._atlas.add(look.texture, picture, look.sheet.columns, look.sheet.rows)
        return found

    def _lay(
        self,
        sprites: NDArray[Any],
        picks: NDArray[Any],
        additive: NDArray[Any],
        order: NDArray[np.int64],
        light: NDArray[Any],
        depth: NDArray[Any],
        coarse: int,
    ) -> None:
        height, width = depth.shape
        high, wide = -(-height // coarse), -(-width // coarse)
        bands = -(-high // ROWS)
        counts = self._buffer("sprite counts", (bands + 1,), np.int32)
        step = np.float32(coarse)
        spans = self._buffer("sprite spans", (len(order), 2), np.int32)
        reach_bands(len(order), sprites, order, step, np.float32(high), spans)
        lists = self._listed("sprite lists", spans, order, counts)
        layer = self._buffer("layer", (high, wide, 4))
        texels = self._atlas.texels
        lay_sprites(sprites, picks, additive, counts, lists, band_order(bands), texels, depth, step, layer)
        lay_over(layer, step, *_columns(width, wide, coarse), light)

    # ---- finish ---------------------------------------------------------------------------------

    def _finish(self, light: NDArray[Any], exposure: float, clock: _Clock) -> NDArray[np.uint8]:
        high, wide = light.shape[:2]
        levels, source, floor = [], light, np.float32(BLOOM_FLOOR)
        for k in range(BLOOM_LEVELS):
            high, wide = max(1, -(-high // 2)), max(1, -(-wide // 2))
            level = self._buffer(f"bloom {k}", (high, wide, 3))
            halve(source, level, floor)
            levels.append(level)
            source, floor = level, np.float32(0)
        for small, large in zip(levels[:0:-1], levels[-2::-1], strict=True):
            widen(small, large, np.float32(0.9))
        pixels = np.empty((*light.shape[:2], 4), np.uint8)
        flat, bloom = light.reshape(len(light), -1), levels[0].reshape(len(levels[0]), -1)
        finish(flat, bloom, np.float32(BLOOM_STRENGTH), np.float32(exposure), self._table, pixels)
        clock.lap("finish")
        return pixels


@lru_cache(maxsize=8)
def _columns(width: int, wide: int, coarse: int) -> tuple[NDArray[np.uint64], NDArray[np.float32]]:
    """Return for each of `width` pixels the column of a picture `coarse` times coarser before it, and its share."""
    place = np.clip((np.arange(width) + 0.5) / coarse - 0.5, 0, wide - 1)
    return np.floor(place).astype(np.uint64), (place - np.floor(place)).astype(np.float32)


class _Clock:
    """Laps of one drawing."""

    def __init__(self) -> None:
        self.seconds: dict[str, float] = {}
        self._last = time.perf_counter()

    def lap(self, name: str) -> None:
        now = time.perf_counter()
        self.seconds[name] = self.seconds.get(name, 0.0) + now - self._last
        self._last = now


def _far_to_near(sprites: NDArray[Any], additive: NDArray[Any]) -> NDArray[np.int64]:
    """Return the visible sprites' rows, far ones first; all-additive pictures need no order."""
    nearness = sprites[:, 2]
    seen = np.flatnonzero(nearness > 0)
    if additive[seen].all():
        return seen
    # The bits of a positive float sort as it does; the upper half is fine enough, and sorts by radix.
    keys = np.ascontiguousarray(nearness[seen]).view(np.uint32)
    return seen[np.argsort((keys >> np.uint32(13)).astype(np.uint16), kind="stable")]


def _eats(body: Body, material: int) -> bool:
    """Tell whether a body's dissolve eats a material."""
    named = body.dissolve.materials if body.dissolve else ()
    return not named or body.character.materials[material].name in named


def _dissolve(body: Body | None) -> tuple[NDArray[np.float32], NDArray[np.uint8], NDArray[np.float32]]:
    """Return the rest pose (V, 3), which triangles dissolve (T,), and the border as kernels read it (6,)."""
    if body is None or body.dissolve is None or body.dissolved <= 0:
        return np.zeros((1, 3), np.float32), np.zeros(1, np.uint8), np.zeros(6, np.float32)
    dissolve = body.dissolve
    parts = np.array([_eats(body, part.material) for part in body.character.parts], np.uint8)
    glow = np.array(dissolve.colour) * dissolve.intensity
    border = np.array([body.dissolved, 1 / dissolve.scale, dissolve.width, *glow], np.float32)
    mesh = body.character.mesh
    return rest_skin(body.character).positions, parts[mesh.part_of_triangle], border


_COLD = np.zeros(1, np.float32)


def _nobody() -> tuple[Any, ...]:
    nothing, none = np.zeros((1, 3), np.float32), np.zeros((1, 3), np.int32)
    skin = _Skin(
        np.zeros((1, 9), np.float32),
        np.zeros((1, 1, 3), np.int32),
        np.zeros((1, 4), np.uint8),
        np.zeros(1, np.int32),
    )
    return nothing, none, nothing, nothing, nothing[:, :2].copy(), skin, np.zeros(1, np.uint8)


@lru_cache(maxsize=8)
def _skin_of(character: Character) -> _Skin:
    """Return materials (M, 9): linear colour, highlight, emission, texels a metre, two-sided; and textures."""
    count, deepest = len(character.materials), 5
    materials = np.zeros((count, 9), np.float32)
    levels = np.zeros((count, deepest, 3), np.int32)
    chunks: list[NDArray[np.uint8]] = [np.zeros((1, 4), np.uint8)]
    first = 1
    for number, material in enumerate(character.materials):
        materials[number, 0:3] = material.colour[:3]
        # Squarings of the highlight: 7 for a mirror's tight one, 2 for a rough one's wide one.
        materials[number, 3] = round(7 - 5 * min(1.0, material.roughness))
        materials[number, 4:7] = material.emissive
        materials[number, 8] = 1.0 if material.two_sided else 0.0
        if material.texture is None:
            continue
        picture = linear_light(material.texture)
        materials[number, 7] = _texels_a_metre(character, number, picture.shape[0], picture.shape[1])
        for level in range(deepest):
            high, wide = picture.shape[:2]
            levels[number, level] = (first, wide, high)
            chunks.append((np.sqrt(picture) * 255 + 0.5).astype(np.uint8).reshape(-1, 4))
            first += high * wide
            if min(high, wide) < 8:
                break
            picture = halved(picture[: high // 2 * 2, : wide // 2 * 2])
    parts = np.array([part.material for part in character.parts], np.int32)
    return _Skin(materials, levels, np.concatenate(chunks), parts[character.mesh.part_of_triangle])


def _texels_a_metre(character: Character, material: int, high: int, wide: int) -> float:
    """Return how many texels of a material's texture lie along a metre of skin, on average."""
    mesh = character.mesh
    of_material = np.array([part.material == material for part in character.parts])
    rows = mesh.triangles[of_material[mesh.part_of_triangle]]
    if not len(rows):
        return 0.0
    corners, uv = mesh.positions[rows].astype(np.float64), mesh.uvs[rows].astype(np.float64)
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum()
    a, b = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    covered = np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum() * high * wide
    return float(np.sqrt(covered / area)) if area > 0 else 0.0
