"""Lights on the picture: what they do to the character and the ground."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

import numpy as np

from wraithon.picture.kernels.surface_kernels import SHINE, add_lights
from wraithon.picture.looks.drawer import NEAR, Phase, spans_of

if TYPE_CHECKING:
    from wraithon.particles.looks.light import LightBatch
    from wraithon.picture.looks.drawer import Scene

__all__ = ["DRAWER", "MOST_LIGHTS", "LightDrawer"]

MOST_LIGHTS = 128
"""Lights of a layer that are drawn, the strongest of them: each costs as much as the ground it falls on."""


class LightDrawer:
    """Adds a layer's lights."""

    phase: ClassVar[Phase] = Phase.LIGHT

    def draw(self, batch: LightBatch, scene: Scene) -> None:
        """Add them to what is solid (see `SolidDrawer`)."""
        high, wide = scene.depth.shape
        camera, reach = scene.camera, batch.reaches
        on = camera.project(batch.positions, wide, high)
        near = on[:, 2] - reach < NEAR
        around = float(scene.focal) * reach / np.maximum(on[:, 2] - reach, NEAR)
        spans = spans_of(on[:, 0] - around, on[:, 0] + around, on[:, 1] - around, on[:, 1] + around, near, wide, high)
        strength = batch.colours.max(axis=1)
        shown = (reach > 0) & (strength > 0) & (on[:, 2] + reach > 0) & np.isfinite(batch.positions).all(axis=1)
        shown &= (spans[:, 0] < spans[:, 1]) & (spans[:, 2] < spans[:, 3])
        chosen = np.flatnonzero(shown)
        if len(chosen) > MOST_LIGHTS:
            weight = strength[chosen] * reach[chosen] ** 2
            chosen = np.sort(chosen[np.argsort(-weight, kind="stable")[:MOST_LIGHTS]])
        if not len(chosen):
            return
        lights = np.empty((len(chosen), SHINE), np.float32)
        lights[:, :3], lights[:, 3], lights[:, 4:] = batch.positions[chosen], reach[chosen], batch.colours[chosen]
        add_lights(scene.light, scene.depth, camera.eye, camera.basis, scene.focal, lights, spans[chosen])


DRAWER = LightDrawer()
