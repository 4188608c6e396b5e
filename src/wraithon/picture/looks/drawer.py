"""What a drawer is: when in a picture it draws, and how."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING, Any, ClassVar, NamedTuple, Protocol

import numpy as np

from wraithon.particles.curves import gradient_table
from wraithon.picture.kernels.columns import BOX_COLUMNS, SKIN_COLUMNS, TRIANGLE_COLUMNS
from wraithon.picture.kernels.sprite_kernels import ADDED, TIMES, place_sprites
from wraithon.picture.kernels.triangle_kernels import ADDING, FILTERING, TILED, place_triangles
from wraithon.picture.light import SHADE
from wraithon.picture.textures import LevelledTexture, SpriteAtlas
from wraithon.project.look import Blend
from wraithon.support.errors import RenderError

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from wraithon.picture.camera import Camera
    from wraithon.picture.renderer import TextureSource
    from wraithon.project.life import Gradient
    from wraithon.project.look import RibbonLook, SpriteLook


class Phase(StrEnum):
    """The parts of a picture, in the order they are drawn."""

    OPAQUE = "opaque"
    GROUND = "ground"
    LIGHT = "light"
    TRANSPARENT = "transparent"
    REFRACTING = "refracting"


class SpriteTextures:
    """The textures of looks, cut and kept as they are first asked for."""

    def __init__(self, source: TextureSource) -> None:
        self._source = source
        self._atlas = SpriteAtlas()
        self.problems: dict[str, str] = {}
        """Texture name to what is wrong with it; such layers are drawn as plain discs."""

    @property
    def planes(self) -> NDArray[np.uint32]:
        """All texels (4 M,), as `SpriteAtlas` packs them."""
        return self._atlas.planes

    def find(self, name: str, columns: int = 1, rows: int = 1) -> LevelledTexture:
        """Return a texture cut into frames; the plain disc where there is none."""
        if not name or name in self.problems:
            return self._atlas.plain
        found = self._atlas.find(name, columns, rows)
        if found is None:
            try:
                picture = self._source(name)
            except RenderError as error:
                self.problems[name] = str(error)
                return self._atlas.plain
            found = self._atlas.add(name, picture, columns, rows)
        return found


@dataclass(frozen=True)
class Viewport:
    """Where things are placed: the camera, and the picture's sides in pixels."""

    camera: Camera
    width: int
    height: int

    @property
    def focal(self) -> np.float32:
        """Pixels that one metre one metre ahead covers."""
        return np.float32(self.camera.lens * self.height)


class SpriteInputs(NamedTuple):
    """What squares are placed by, in the world: arrays of N."""

    positions: NDArray[np.float32]
    """(N, 3)."""
    uprights: NDArray[np.float32]
    """(N, 3) along which they stand, when `along`."""
    sizes: NDArray[np.float32]
    stretches: NDArray[np.float32]
    """(N,) how many times as high as wide."""
    turns: NDArray[np.float32]
    """(N,) radians in the picture's plane, when not `along`."""
    colours: NDArray[np.float32]
    """(N, 4) linear, not premultiplied."""
    frames: NDArray[np.int32]
    along: bool
    stretch: float
    """Metres longer for each metre of its upright."""
    longest: float = 1000.0
    """Times its size that it is long at most."""


BLENDS = {Blend.ALPHA: 0, Blend.ADDITIVE: ADDED, Blend.MULTIPLY: TIMES}
"""Blend to the number kernels know it by."""
FINEST = 2
"""Least side of a level that can be looked up between its texels."""


class SpriteQuads(NamedTuple):
    """Placed sprites: rows (N, SPRITE_COLUMNS), texels (N, PICK_COLUMNS), and how they meet what is behind (N,)."""

    rows: NDArray[np.float32]
    picks: NDArray[np.int32]
    blends: NDArray[np.uint8]

    def part(self, rows: slice) -> SpriteQuads:
        """Return a view of some of them."""
        return SpriteQuads(self.rows[rows], self.picks[rows], self.blends[rows])


class Triangles(NamedTuple):
    """Placed triangles: rows (F, TRIANGLE_COLUMNS), skins (F, SKIN_COLUMNS) and boxes (F, BOX_COLUMNS)."""

    rows: NDArray[np.float32]
    skins: NDArray[np.int32]
    boxes: NDArray[np.float32]

    @classmethod
    def together(cls, parts: Sequence[Triangles]) -> Triangles:
        """Return several after each other; those that cannot be seen have an average inverse distance of 0."""
        none = (
            np.empty((0, TRIANGLE_COLUMNS), np.float32),
            np.empty((0, SKIN_COLUMNS), np.int32),
            np.empty((0, BOX_COLUMNS), np.float32),
        )
        rows, skins, boxes = (np.concatenate(columns) for columns in zip(none, *parts, strict=True))
        return cls(rows, skins, boxes)


class ShellMesh(NamedTuple):
    """A mesh that is drawn by itself as a thin film, before it is laid among squares and facets."""

    points: NDArray[np.float32]
    """(V, 3) metres, world."""
    normals: NDArray[np.float32]
    """(V, 3) unit, outward."""
    uvs: NDArray[np.float32]
    """(V, 2)."""
    heights: NDArray[np.float32]
    """(V,) 0 at its foot to 1."""
    field_positions: NDArray[np.float32]
    """(V, 3) metres: where its fields are looked up."""
    triangles: NDArray[np.int32]
    """(T, 3) those that show, seen from their front."""
    fewer: NDArray[np.int32]
    """(T, 3) what is drawn instead where it has to be quick."""
    shader_parameters: NDArray[np.float32]
    """(WEAVE,) its numbers (`kernels.veil_kernels`)."""
    pictures: NDArray[np.int32]
    """(3, 2) first texel and side of the fields that are pictures, and of the mask; side 0 of others."""
    bands: NDArray[np.float32]
    """(B, 3) linear colours by strength, or (0, 3)."""
    behind: bool
    """Whether it is what is behind of something that is closed."""


def bands_of(gradient: Gradient | None) -> NDArray[np.float32]:
    """Return a gradient's linear colours (B, 3) at even shares of it; (0, 3) where there is none."""
    if gradient is None:
        return np.zeros((0, 3), np.float32)
    return np.ascontiguousarray(gradient_table(gradient), np.float32)


def triangles_of(
    corners: NDArray[np.int32],
    points: NDArray[np.float32],
    tints: NDArray[np.float32],
    uvs: NDArray[np.float32],
    look: SpriteLook | RibbonLook,
    texture: LevelledTexture,
    viewport: Viewport,
    *,
    tiled: bool = False,
) -> Triangles:
    """Return facets as seen from the room's camera.

    Parameters
    ----------
    corners
        (F, 3) rows of what follows.
    points, tints, uvs
        (V, 3) metres in the world, (V, 4) linear and not premultiplied, (V, 2).
    look, texture, room
        How they meet what is behind, their texture, and where they are seen.
    tiled
        Whether the texture repeats along v.
    """
    count, camera = len(corners), viewport.camera
    rows, skins = np.empty((count, TRIANGLE_COLUMNS), np.float32), np.empty((count, SKIN_COLUMNS), np.int32)
    boxes = np.empty((count, BOX_COLUMNS), np.float32)
    flags = {Blend.ADDITIVE: ADDING, Blend.MULTIPLY: FILTERING}.get(look.blend, 0) | (TILED if tiled else 0)
    tints = tints * np.array([SHADE, SHADE, SHADE, 1], np.float32) if look.lit else tints
    place_triangles(
        corners, points, tints, uvs, camera.eye, camera.basis, viewport.focal, viewport.width, viewport.height,
        np.float32(look.soft), texture.levels[texture.levels[:, 1] >= FINEST], flags, rows, skins, boxes,
    )  # fmt: skip
    return Triangles(rows, skins, boxes)


def position(
    seen: SpriteInputs, look: SpriteLook | RibbonLook, texture: LevelledTexture, viewport: Viewport, out: SpriteQuads
) -> None:
    """Write squares as seen from the room's camera; those that cannot be seen get an inverse distance of 0."""
    camera = viewport.camera
    place_sprites(
        len(seen.sizes), seen.positions, seen.uprights, seen.sizes, seen.stretches, seen.turns, seen.colours,
        seen.frames, camera.eye, camera.basis, viewport.focal, viewport.width, viewport.height, seen.along,
        np.float32(seen.stretch), np.float32(seen.longest), np.float32(look.soft), look.lit, texture.levels,
        texture.frames, texture.grey, out.rows, out.picks,
    )  # fmt: skip
    out.blends[:] = BLENDS[look.blend]


def by_age(nearness: NDArray[np.float32]) -> None:
    """Order what is given from the oldest on: of the inverse distances that are there, the oldest has the farthest.

    So a layer's own order is that of age, and it lies among others where it is.
    """
    seen = nearness > 0
    nearness[seen] = np.sort(nearness[seen])


class Scene(NamedTuple):
    """What is solid in a picture: seen from where, its linear light (3, H, W) and inverse distance (H, W)."""

    camera: Camera
    light: NDArray[np.float32]
    depth: NDArray[np.float32]
    textures: SpriteTextures
    live: bool = False
    """Whether it has to be quick."""

    @property
    def focal(self) -> np.float32:
        """Pixels that one metre one metre ahead covers."""
        return np.float32(self.camera.lens * self.depth.shape[0])


class SolidDrawer(Protocol):
    """Draws one kind of batch onto what is solid: those of the phases GROUND and LIGHT."""

    phase: ClassVar[Phase]

    def draw(self, batch: Any, scene: Scene) -> None:
        """Change the scene's light."""


class Layered(NamedTuple):
    """What a batch of the transparent phase is drawn from, besides its squares."""

    triangles: tuple[Triangles, ...] = ()
    shell_meshes: tuple[ShellMesh, ...] = ()


class Drawer:
    """Draws one kind of batch of the transparent phase: what it places is sorted with all others."""

    phase: ClassVar[Phase] = Phase.TRANSPARENT

    def count(self, _batch: Any) -> int:
        """Return how many squares a batch is."""
        return 0

    def position(self, _batch: Any, _room: Viewport, _textures: SpriteTextures, _out: SpriteQuads) -> None:
        """Write its squares."""

    def order(self, _batch: Any, _nearness: NDArray[np.float32]) -> None:
        """Change the inverse distances (N,) of its squares to those that order them."""

    def layered(self, _batch: Any, _room: Viewport, _textures: SpriteTextures) -> Layered:
        """Return its facets and veils."""
        return Layered()
