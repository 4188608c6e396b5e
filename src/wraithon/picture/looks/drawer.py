"""What a drawer is: when in a picture it draws, and how."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING, Any, ClassVar, NamedTuple, Protocol

import numpy as np

from wraithon.errors import RenderError
from wraithon.picture.kernels.sprite_kernels import place_sprites
from wraithon.picture.textures import LevelledTexture, SpriteAtlas
from wraithon.project.look import Blend

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.picture.camera import Camera
    from wraithon.picture.renderer import TextureSource
    from wraithon.project.look import RibbonLook, SpriteLook

__all__ = [
    "Drawer",
    "Phase",
    "Room",
    "Scene",
    "Seen",
    "SolidDrawer",
    "SpriteTextures",
    "Squares",
    "place",
]


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
class Room:
    """Where things are placed: the camera, and the picture's sides in pixels."""

    camera: Camera
    width: int
    height: int

    @property
    def focal(self) -> np.float32:
        """Pixels that one metre one metre ahead covers."""
        return np.float32(self.camera.lens * self.height)


class Seen(NamedTuple):
    """What squares are placed by, in the world: arrays of N."""

    positions: NDArray[np.float32]
    """(N, 3)."""
    uprights: NDArray[np.float32]
    """(N, 3) along which they stand, when `along`."""
    sizes: NDArray[np.float32]
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


class Squares(NamedTuple):
    """Placed squares: their rows (N, COLUMNS), texels (N, PICKS), and whether they only add light (N,)."""

    rows: NDArray[np.float32]
    picks: NDArray[np.int32]
    additive: NDArray[np.bool_]

    def part(self, rows: slice) -> Squares:
        """Return a view of some of them."""
        return Squares(self.rows[rows], self.picks[rows], self.additive[rows])


def place(seen: Seen, look: SpriteLook | RibbonLook, texture: LevelledTexture, room: Room, out: Squares) -> None:
    """Write squares as seen from the room's camera; those that cannot be seen get an inverse distance of 0."""
    camera = room.camera
    place_sprites(
        len(seen.sizes), seen.positions, seen.uprights, seen.sizes, seen.turns, seen.colours, seen.frames,
        camera.eye, camera.basis, room.focal, room.width, room.height, seen.along, np.float32(seen.stretch),
        np.float32(seen.longest), np.float32(look.soft), look.lit, texture.levels, texture.frames, texture.grey,
        out.rows, out.picks,
    )  # fmt: skip
    out.additive[:] = look.blend is Blend.ADDITIVE


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


class Drawer(Protocol):
    """Draws one kind of batch of the transparent phase: it places squares that are sorted with all others."""

    phase: ClassVar[Phase]

    def count(self, batch: Any) -> int:
        """Return how many squares a batch is."""

    def place(self, batch: Any, room: Room, textures: SpriteTextures, out: Squares) -> None:
        """Write its squares."""
