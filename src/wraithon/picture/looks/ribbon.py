"""Ribbons on the picture: two facets between each two places along a smooth band."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.particles.curves import curve_table
from wraithon.picture.kernels.ribbon_kernels import build_ribbons
from wraithon.picture.looks.drawer import Drawer, Layered, bands_of, triangles_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.particles.looks.ribbon import RibbonBatch
    from wraithon.picture.looks.drawer import SpriteTextures, Viewport
    from wraithon.project.life import Curve


FINE, MEDIUM = 1_000, 12_000
"""Points up to which a band has four stretches from one to the next, or two."""


class RibbonDrawer(Drawer):
    """Places a layer's ribbons."""

    def layered(self, batch: RibbonBatch, viewport: Viewport, textures: SpriteTextures) -> Layered:
        """Return their facets."""
        look, camera, starts = batch.look, viewport.camera, batch.starts
        many, ribbons = len(batch.positions), len(starts) - 1
        fine = 4 if many <= FINE else 2 if many <= MEDIUM else 1
        stretches = (many - ribbons) * fine
        points, tints, uvs = (np.empty((2 * (stretches + ribbons), width), np.float32) for width in (3, 4, 2))
        corners = np.empty((2 * stretches, 3), np.int32)
        # A texture that flows past its own repeats would lose its finer part in the end.
        shape = tuple(
            np.float32(v) for v in (look.head, look.tail, look.tile, batch.flowed % look.tile if look.tile else 0)
        )
        build_ribbons(
            starts, batch.positions, batch.sides, batch.widths, batch.colours, _curve(look.widening),
            _curve(look.fading), bands_of(look.tinting), camera.eye, camera.basis[2], viewport.focal, fine, shape,
            corners, points, tints, uvs,
        )  # fmt: skip
        texture = textures.find(look.texture)
        triangles = triangles_of(corners, points, tints, uvs, look, texture, viewport, tiled=look.tile > 0)
        return Layered(triangles=(triangles,))


def _curve(curve: Curve | None) -> NDArray[np.float32]:
    return np.zeros(0, np.float32) if curve is None else curve_table(curve).astype(np.float32)


DRAWER = RibbonDrawer()
