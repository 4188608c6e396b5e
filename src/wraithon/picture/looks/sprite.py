"""Sprites on the picture: squares that face the camera, turned in its plane."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

import numpy as np

from wraithon.picture.looks.drawer import Phase
from wraithon.picture.sprite_kernels import place_sprites
from wraithon.project.look import Blend, Facing

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.particles.looks.sprite import SpriteBatch
    from wraithon.picture.looks.drawer import Room, SpriteTextures

__all__ = ["DRAWER", "SpriteDrawer"]


class SpriteDrawer:
    """Places a layer's sprites."""

    phase: ClassVar[Phase] = Phase.TRANSPARENT

    def count(self, batch: SpriteBatch) -> int:
        """Return how many there are."""
        return len(batch.drawn.sizes)

    def additive(self, batch: SpriteBatch) -> bool:
        """Tell whether they only add light."""
        return batch.look.blend is Blend.ADDITIVE

    def place(
        self,
        batch: SpriteBatch,
        room: Room,
        textures: SpriteTextures,
        out: NDArray[np.float32],
        picks: NDArray[np.int32],
    ) -> None:
        """Place them (see `Drawer`)."""
        look, drawn, camera = batch.look, batch.drawn, room.camera
        texture = textures.find(look.texture, look.sheet.columns, look.sheet.rows)
        stretch = look.stretch if look.facing is Facing.VELOCITY else 0.0
        place_sprites(
            len(drawn.sizes), drawn.positions, drawn.normals if look.by_normal else drawn.velocities,
            drawn.sizes, drawn.turns, drawn.colours, drawn.frames,
            camera.eye, camera.basis, room.focal, room.width, room.height,
            look.facing is not Facing.CAMERA, np.float32(stretch), np.float32(look.soft), look.lit,
            texture.levels, texture.frames, out, picks,
        )  # fmt: skip


DRAWER = SpriteDrawer()
