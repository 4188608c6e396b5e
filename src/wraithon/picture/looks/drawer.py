"""What a drawer is: when in a picture it draws, and how."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING, Any, ClassVar, Protocol

import numpy as np

from wraithon.errors import RenderError
from wraithon.picture.textures import LevelledTexture, SpriteAtlas

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.picture.camera import Camera
    from wraithon.picture.renderer import TextureSource

__all__ = ["Drawer", "Phase", "Room", "SpriteTextures"]


class Phase(StrEnum):
    """The parts of a picture, in the order they are drawn."""

    OPAQUE = "opaque"
    TRANSPARENT = "transparent"
    REFRACTING = "refracting"
    LIGHT = "light"


class SpriteTextures:
    """The textures of looks, cut and kept as they are first asked for."""

    def __init__(self, source: TextureSource) -> None:
        self._source = source
        self._atlas = SpriteAtlas()
        self.problems: dict[str, str] = {}
        """Texture name to what is wrong with it; such layers are drawn as plain discs."""

    @property
    def texels(self) -> NDArray[np.float32]:
        """All texels (M, 4), premultiplied linear light."""
        return self._atlas.texels

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


class Drawer(Protocol):
    """Draws one kind of batch. Those of the transparent phase place squares that are sorted with all others."""

    phase: ClassVar[Phase]

    def count(self, batch: Any) -> int:
        """Return how many squares a batch is."""

    def additive(self, batch: Any) -> bool:
        """Tell whether it only adds light."""

    def place(
        self, batch: Any, room: Room, textures: SpriteTextures, out: NDArray[np.float32], picks: NDArray[np.int32]
    ) -> None:
        """Write its squares into `out` (N, COLUMNS) and their texels into `picks` (N, 2).

        As `sprite_kernels.place_sprites` does.
        """
