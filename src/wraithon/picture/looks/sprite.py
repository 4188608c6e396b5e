"""Sprites on the picture: squares that face the camera, turned in its plane."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

import numpy as np

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
        """Return how many squares there are: two for each whose frames fade into each other."""
        return len(batch.drawn.sizes) * (2 if batch.look.sheet.fades else 1)

    def place(self, batch: SpriteBatch, room: Room, textures: SpriteTextures, out: Squares) -> None:
        """Place them (see `Drawer`)."""
        look, drawn, sheet = batch.look, batch.drawn, batch.look.sheet
        texture = textures.find(look.texture, sheet.columns, sheet.rows)
        uprights = drawn.normals if look.by_normal else drawn.velocities
        if look.facing is Facing.AXIS:
            uprights = np.tile(np.array(look.axis, np.float32), (len(drawn.sizes), 1))
        following = look.facing is Facing.VELOCITY
        frames = drawn.frames.astype(np.int32)
        seen = Seen(
            drawn.positions, uprights, drawn.sizes, drawn.turns, drawn.colours, frames,
            look.facing is not Facing.CAMERA, look.stretch if following else 0.0, look.longest,
        )  # fmt: skip
        if not sheet.fades:
            place(seen, look, texture, room, out)
            return
        later, many = drawn.frames - frames, len(frames)
        for part, shown, share in ((slice(0, many), frames, 1 - later), (slice(many, None), frames + 1, later)):
            colours = np.column_stack([drawn.colours[:, :3], drawn.colours[:, 3] * share])
            place(seen._replace(frames=shown, colours=colours), look, texture, room, out.part(part))


DRAWER = SpriteDrawer()
