"""Lights on the picture: what they do to the character and the ground."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

import numpy as np

from wraithon.picture.kernels.columns import LIGHT_COLUMNS
from wraithon.picture.kernels.surface_kernels import add_lights, place_lights
from wraithon.picture.looks.drawer import Phase

if TYPE_CHECKING:
    from wraithon.particles.looks.light import LightBatch
    from wraithon.picture.looks.drawer import Scene


MAX_LIGHTS = 128
"""Lights of a layer that are drawn, the strongest of them: each costs as much as the ground it falls on."""


class LightDrawer:
    """Adds a layer's lights."""

    phase: ClassVar[Phase] = Phase.LIGHT

    def draw(self, batch: LightBatch, scene: Scene) -> None:
        """Add them to what is solid (see `SolidDrawer`)."""
        camera, many = scene.camera, len(batch.reaches)
        lights, spans = np.empty((many, LIGHT_COLUMNS), np.float32), np.empty((many, 4), np.int32)
        count = place_lights(
            batch.positions, batch.reaches, batch.colours, camera.eye, camera.basis, scene.focal, *scene.depth.shape,
            lights, spans,
        )  # fmt: skip
        lights, spans = lights[:count], spans[:count]
        if count > MAX_LIGHTS:
            weight = lights[:, 4:].max(axis=1) * lights[:, 3] ** 2
            strongest = np.sort(np.argsort(-weight, kind="stable")[:MAX_LIGHTS])
            lights, spans = lights[strongest], spans[strongest]
        if count:
            skip = 2 if scene.live else 1
            add_lights(scene.light, scene.depth, camera.eye, camera.basis, scene.focal, lights, spans, skip)


DRAWER = LightDrawer()
