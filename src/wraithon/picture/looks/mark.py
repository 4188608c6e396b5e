"""Marks on the picture: squares laid flat on the ground, wherever that is seen."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

import numpy as np

from wraithon.picture.kernels.surface_kernels import MARK, lay_marks
from wraithon.picture.light import SHADE
from wraithon.picture.looks.drawer import NEAR, Phase, spans_of
from wraithon.project.look import Blend

if TYPE_CHECKING:
    from wraithon.particles.looks.mark import MarkBatch
    from wraithon.picture.looks.drawer import Scene

__all__ = ["DRAWER", "MarkDrawer"]

CORNERS = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]], np.float32)
FINEST = 2
"""Least side of a level that can be looked up between its texels."""


class MarkDrawer:
    """Lays a layer's marks."""

    phase: ClassVar[Phase] = Phase.GROUND

    def draw(self, batch: MarkBatch, scene: Scene) -> None:
        """Lay them over the ground (see `SolidDrawer`)."""
        drawn, look, camera = batch.drawn, batch.look, scene.camera
        high, wide = scene.depth.shape
        halves = drawn.sizes / 2
        cosine, sine = np.cos(drawn.turns), np.sin(drawn.turns)
        across, ahead = CORNERS[:, :1] * halves, CORNERS[:, 1:] * halves  # (4, N)
        corners = np.zeros((4, len(halves), 3), np.float32)
        corners[..., 0] = drawn.positions[:, 0] + cosine * across + sine * ahead
        corners[..., 2] = drawn.positions[:, 2] - sine * across + cosine * ahead
        on = camera.project(corners.reshape(-1, 3), wide, high).reshape(4, -1, 3)
        near = np.asarray((on[..., 2] < NEAR).any(axis=0))
        spans = spans_of(on[..., 0].min(axis=0), on[..., 0].max(axis=0), on[..., 1].min(axis=0),
                         on[..., 1].max(axis=0), near, wide, high)  # fmt: skip
        shown = (halves > 0) & (drawn.colours[:, 3] > 0) & (spans[:, 0] < spans[:, 1]) & (spans[:, 2] < spans[:, 3])
        shown &= np.isfinite(drawn.positions).all(axis=1) & (on[..., 2] > 0).any(axis=0)
        if not shown.any():
            return
        marks = np.empty((len(halves), MARK), np.float32)
        marks[:, 0], marks[:, 1], marks[:, 2] = (
            drawn.positions[:, 0],
            drawn.positions[:, 2],
            1 / np.maximum(halves, 1e-6),
        )
        marks[:, 3], marks[:, 4] = cosine, sine
        marks[:, 5:] = drawn.colours
        if look.lit:
            marks[:, 5:8] *= SHADE
        texture = scene.textures.find(look.texture)
        levels = texture.levels[texture.levels[:, 1] >= FINEST]
        size = (on[..., 0].max(axis=0) - on[..., 0].min(axis=0))[:, None]
        level = np.clip((levels[:, 1] >= size).sum(axis=1) - 1, 0, len(levels) - 1)
        picks = np.ascontiguousarray(levels[level])
        lay_marks(
            scene.light, scene.depth, camera.eye, camera.basis, scene.focal, marks[shown], spans[shown], picks[shown],
            (look.blend is Blend.ADDITIVE, texture.grey), scene.textures.planes,
        )  # fmt: skip


DRAWER = MarkDrawer()
