"""Ribbons on the picture: a square drawn out between each two points that are joined."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

import numpy as np

from wraithon.picture.looks.drawer import Phase
from wraithon.picture.sprite_kernels import place_sprites
from wraithon.project.look import Blend

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.particles.looks.ribbon import RibbonBatch
    from wraithon.picture.looks.drawer import Room, SpriteTextures

__all__ = ["DRAWER", "RibbonDrawer"]

HALF = np.float32(0.5)
ALONG = True
"""Squares are turned along what they join."""


class RibbonDrawer:
    """Places a layer's ribbons, stretch by stretch."""

    phase: ClassVar[Phase] = Phase.TRANSPARENT

    def count(self, batch: RibbonBatch) -> int:
        """Return how many stretches there are."""
        return len(batch.joined)

    def additive(self, batch: RibbonBatch) -> bool:
        """Tell whether they only add light."""
        return batch.look.blend is Blend.ADDITIVE

    def place(
        self,
        batch: RibbonBatch,
        room: Room,
        textures: SpriteTextures,
        out: NDArray[np.float32],
        picks: NDArray[np.int32],
    ) -> None:
        """Place them (see `Drawer`): each as a sprite amid its two points, as long as they are apart."""
        one, two = batch.joined, batch.joined + 1
        look, camera, count = batch.look, room.camera, len(batch.joined)
        texture = textures.find(look.texture)
        place_sprites(
            count, (batch.positions[one] + batch.positions[two]) * HALF, batch.positions[two] - batch.positions[one],
            (batch.widths[one] + batch.widths[two]) * HALF, np.zeros(count, np.float32),
            (batch.colours[one] + batch.colours[two]) * HALF, np.zeros(count, np.int32),
            camera.eye, camera.basis, room.focal, room.width, room.height, ALONG, np.float32(1),
            np.float32(look.soft), look.lit, texture.levels, texture.frames, out, picks,
        )  # fmt: skip


DRAWER = RibbonDrawer()
