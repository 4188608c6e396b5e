"""Afterimages on the picture: earlier poses as thin, tinted films."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.picture.kernels.shell_kernels import WEAVE
from wraithon.picture.looks.drawer import Drawer, Layered, ShellMesh
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
        look, shell_meshes = batch.look, []
        cells = CELLS if len(batch.worn) <= FEW else FEWER_CELLS
        for (character, skin), colour in zip(batch.worn, batch.colours, strict=True):
            shader_parameters = np.zeros(WEAVE, np.float32)
            shader_parameters[0], shader_parameters[1:4] = colour[3], colour[:3]
            shader_parameters[4:6], shader_parameters[20], shader_parameters[22], shader_parameters[23] = (
                (look.fill, look.rim),
                0.0,
                2.0,
                1.0,
            )
            shader_parameters[24], shader_parameters[26] = 1 / max(look.soft, 1e-4), look.blend is Blend.ADDITIVE
            mesh = character.mesh
            heights = np.ones(len(mesh.uvs), np.float32)
            fewer = thinned(character, cells)
            shell_mesh = ShellMesh(
                skin.positions, skin.normals, mesh.uvs, heights, mesh.positions, mesh.triangles, fewer,
                shader_parameters,
                NO_PICTURES, NO_BANDS, behind=False,
            )  # fmt: skip
            shell_meshes.append(shell_mesh)
        return Layered(shell_meshes=tuple(shell_meshes))


DRAWER = AfterimageDrawer()
