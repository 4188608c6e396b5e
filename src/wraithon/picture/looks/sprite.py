"""Sprites on the picture: squares that face the camera, turned in its plane."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

from wraithon.picture.looks.drawer import Phase, Seen, place
from wraithon.project.look import Facing

if TYPE_CHECKING:
    from wraithon.particles.looks.sprite import SpriteBatch
    from wraithon.picture.looks.drawer import Room, SpriteTextures, Squares

__all__ = ["DRAWER", "SpriteDrawer"]


class SpriteDrawer:
    """Places a layer's sprites."""

    phase: ClassVar[Phase] = Phase.TRANSPARENT

    def count(self, batch: SpriteBatch) -> int:
        """Return how many there are."""
        return len(batch.drawn.sizes)

    def place(self, batch: SpriteBatch, room: Room, textures: SpriteTextures, out: Squares) -> None:
        """Place them (see `Drawer`)."""
        look, drawn = batch.look, batch.drawn
        uprights = drawn.normals if look.by_normal else drawn.velocities
        stretch = look.stretch if look.facing is Facing.VELOCITY else 0.0
        seen = Seen(
            drawn.positions, uprights, drawn.sizes, drawn.turns, drawn.colours, drawn.frames,
            look.facing is not Facing.CAMERA, stretch,
        )  # fmt: skip
        place(seen, look, textures.find(look.texture, look.sheet.columns, look.sheet.rows), room, out)


DRAWER = SpriteDrawer()
