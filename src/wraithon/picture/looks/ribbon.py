"""Ribbons on the picture: two facets between each two places along a smooth band."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.particles.curves import curve_table
from wraithon.picture.kernels.ribbon_kernels import lay_out_ribbons
from wraithon.picture.looks.drawer import Drawer, Layered, bands_of, facets_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.particles.looks.ribbon import RibbonBatch
    from wraithon.picture.looks.drawer import Room, SpriteTextures
    from wraithon.project.life import Curve

__all__ = ["DRAWER", "RibbonDrawer"]

FINE, MEDIUM = 1_000, 12_000
"""Points up to which a band has four stretches from one to the next, or two."""


class RibbonDrawer(Drawer):
    """Places a layer's ribbons."""

    def layered(self, batch: RibbonBatch, room: Room, textures: SpriteTextures) -> Layered:
        """Return their facets."""
        look, camera, starts = batch.look, room.camera, batch.starts
        many, ribbons = len(batch.positions), len(starts) - 1
        fine = 4 if many <= FINE else 2 if many <= MEDIUM else 1
        corners = 2 * ((many - ribbons) * fine + ribbons)
        points, tints, uvs = (np.empty((corners, width), np.float32) for width in (3, 4, 2))
        # A texture that flows past its own repeats would lose its finer part in the end.
        shape = tuple(
            np.float32(v) for v in (look.head, look.tail, look.tile, batch.flowed % look.tile if look.tile else 0)
        )
        lay_out_ribbons(
            starts, batch.positions, batch.sides, batch.widths, batch.colours, _course(look.widening),
            _course(look.fading), bands_of(look.tinting), camera.eye, camera.basis[2], room.focal, fine, shape,
            points, tints, uvs,
        )  # fmt: skip
        texture = textures.find(look.texture)
        facets = facets_of(
            _facets(starts, fine), points, tints, uvs, look, texture, room, tiled=look.tile > 0
        )  # fmt: skip
        return Layered(facets=(facets,))


def _facets(starts: NDArray[np.int32], fine: int) -> NDArray[np.int32]:
    """Return which corners the facets (F, 3) of ribbons have."""
    rows = (np.diff(starts) - 1) * fine + 1
    firsts = np.concatenate([[0], np.cumsum(rows)])
    left = np.ones(firsts[-1], bool)
    left[firsts[1:] - 1] = False  # nothing goes on from a ribbon's last row
    a = 2 * np.flatnonzero(left).astype(np.int32)
    return np.stack([a, a + 1, a + 3, a, a + 3, a + 2], axis=1).reshape(-1, 3)


def _course(curve: Curve | None) -> NDArray[np.float32]:
    return np.zeros(0, np.float32) if curve is None else curve_table(curve).astype(np.float32)


DRAWER = RibbonDrawer()
