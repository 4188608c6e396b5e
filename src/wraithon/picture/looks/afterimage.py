"""Afterimages on the picture: earlier poses as thin, tinted films."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.picture.kernels.shell_kernels import WEAVE
from wraithon.picture.looks.drawer import Drawer, Layered, Veil
from wraithon.picture.thinning import CELLS, FEWER_CELLS, thinned
from wraithon.project.look import Blend

if TYPE_CHECKING:
    from wraithon.particles.looks.afterimage import AfterimageBatch
    from wraithon.picture.looks.drawer import SpriteTextures, Viewport


NO_PICTURES, NO_BANDS = np.zeros((3, 2), np.int32), np.zeros((0, 3), np.float32)

FEW = 6
"""Afterimages of a layer; more of them are drawn thinner still where it has to be quick, as they hide each other."""


class AfterimageDrawer(Drawer):
    """Places a layer's afterimages."""

    def layered(self, batch: AfterimageBatch, _room: Viewport, _textures: SpriteTextures) -> Layered:
        """Return a veil for each."""
        look, veils = batch.look, []
        cells = CELLS if len(batch.worn) <= FEW else FEWER_CELLS
        for (character, skin), colour in zip(batch.worn, batch.colours, strict=True):
            weave = np.zeros(WEAVE, np.float32)
            weave[0], weave[1:4] = colour[3], colour[:3]
            weave[4:6], weave[20], weave[22], weave[23] = (look.fill, look.rim), 0.0, 2.0, 1.0
            weave[24], weave[26] = 1 / max(look.soft, 1e-4), look.blend is Blend.ADDITIVE
            mesh = character.mesh
            heights = np.ones(len(mesh.uvs), np.float32)
            fewer = thinned(character, cells)
            veil = Veil(
                skin.positions, skin.normals, mesh.uvs, heights, mesh.positions, mesh.triangles, fewer, weave,
                NO_PICTURES, NO_BANDS, behind=False,
            )  # fmt: skip
            veils.append(veil)
        return Layered(veils=tuple(veils))


DRAWER = AfterimageDrawer()
