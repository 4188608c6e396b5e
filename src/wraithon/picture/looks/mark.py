"""Marks on the picture: squares laid flat on the ground, wherever that is seen."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

import numpy as np

from wraithon.picture.kernels.columns import DECAL_COLUMNS
from wraithon.picture.kernels.surface_kernels import draw_decals, place_decals
from wraithon.picture.light import SHADE
from wraithon.picture.looks.drawer import Phase
from wraithon.project.look import Blend

if TYPE_CHECKING:
    from wraithon.particles.looks.mark import DecalBatch
    from wraithon.picture.looks.drawer import Scene


FINEST = 2
"""Least side of a level that can be looked up between its texels."""
ONE = np.float32(1)


class DecalDrawer:
    """Lays a layer's marks."""

    phase: ClassVar[Phase] = Phase.GROUND

    def draw(self, batch: DecalBatch, scene: Scene) -> None:
        """Lay them over the ground (see `SolidDrawer`)."""
        drawn, look, camera, many = batch.drawn, batch.look, scene.camera, len(batch.drawn.sizes)
        texture = scene.textures.find(look.texture)
        levels = texture.levels[texture.levels[:, 1] >= FINEST]
        marks, spans, picks = np.empty((many, DECAL_COLUMNS), np.float32), *np.empty((2, many, 4), np.int32)
        count = place_decals(
            drawn.positions, drawn.sizes, drawn.turns, drawn.colours, camera.eye, camera.basis, scene.focal,
            *scene.depth.shape, SHADE if look.lit else ONE, levels, marks, spans, picks,
        )  # fmt: skip
        if count:
            draw_decals(
                scene.light, scene.depth, camera.eye, camera.basis, scene.focal, marks[:count], spans, picks,
                (look.blend is Blend.ADDITIVE, texture.grey), scene.textures.planes,
            )  # fmt: skip


DRAWER = DecalDrawer()
