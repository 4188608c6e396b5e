"""Ribbons on the picture: a square drawn out between each two points that are joined."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

import numpy as np

from wraithon.picture.looks.drawer import Phase, Seen, place

if TYPE_CHECKING:
    from wraithon.particles.looks.ribbon import RibbonBatch
    from wraithon.picture.looks.drawer import Room, SpriteTextures, Squares

__all__ = ["DRAWER", "RibbonDrawer"]

HALF = np.float32(0.5)


class RibbonDrawer:
    """Places a layer's ribbons, stretch by stretch."""

    phase: ClassVar[Phase] = Phase.TRANSPARENT

    def count(self, batch: RibbonBatch) -> int:
        """Return how many stretches there are."""
        return len(batch.joined)

    def place(self, batch: RibbonBatch, room: Room, textures: SpriteTextures, out: Squares) -> None:
        """Place them (see `Drawer`): each as a sprite amid its two points, as long as they are apart."""
        one, two, count = batch.joined, batch.joined + 1, len(batch.joined)
        seen = Seen(
            (batch.positions[one] + batch.positions[two]) * HALF, batch.positions[two] - batch.positions[one],
            (batch.widths[one] + batch.widths[two]) * HALF, np.zeros(count, np.float32),
            (batch.colours[one] + batch.colours[two]) * HALF, np.zeros(count, np.int32), along=True, stretch=1.0,
        )  # fmt: skip
        place(seen, batch.look, textures.find(batch.look.texture), room, out)


DRAWER = RibbonDrawer()
