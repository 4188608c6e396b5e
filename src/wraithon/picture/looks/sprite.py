"""Sprites on the picture: squares that face the camera, turned in its plane."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.picture.kernels.columns import B_MEAN
from wraithon.picture.looks.drawer import Drawer, Layered, SpriteInputs, by_age, position, triangles_of
from wraithon.project.look import Facing

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.particles.looks.batch import Drawn
    from wraithon.particles.looks.sprite import SpriteBatch
    from wraithon.picture.looks.drawer import SpriteQuads, SpriteTextures, Triangles, Viewport
    from wraithon.picture.textures import LevelledTexture
    from wraithon.project.look import SpriteLook


SLANTED = 0.9
"""How far an axis may go along z for z to be taken for what is ahead on what lies across it."""


class SpriteDrawer(Drawer):
    """Places a layer's sprites."""

    def count(self, batch: SpriteBatch) -> int:
        """Return how many squares there are: two for each whose frames fade into each other."""
        if batch.look.facing is Facing.FLAT:
            return 0
        return len(batch.drawn.sizes) * (2 if batch.look.sheet.fades else 1)

    def position(self, batch: SpriteBatch, viewport: Viewport, textures: SpriteTextures, out: SpriteQuads) -> None:
        """Place them (see `Drawer`)."""
        look, drawn, sheet = batch.look, _faded_near(batch, viewport), batch.look.sheet
        if look.facing is Facing.FLAT:
            return
        texture = textures.find(look.texture, sheet.columns, sheet.rows)
        uprights = drawn.normals if look.by_normal else drawn.velocities
        if look.facing is Facing.AXIS:
            uprights = np.tile(np.array(look.axis, np.float32), (len(drawn.sizes), 1))
        following = look.facing is Facing.VELOCITY
        frames = drawn.frames.astype(np.int32)
        seen = SpriteInputs(
            drawn.positions, uprights, drawn.sizes, drawn.stretches, drawn.turns, drawn.colours, frames,
            look.facing is not Facing.CAMERA, look.stretch if following else 0.0, look.longest,
        )  # fmt: skip
        if not sheet.fades:
            position(seen, look, texture, viewport, out)
            return
        later, many = drawn.frames - frames, len(frames)
        for part, shown, share in ((slice(0, many), frames, 1 - later), (slice(many, None), frames + 1, later)):
            colours = np.column_stack([drawn.colours[:, :3], drawn.colours[:, 3] * share])
            position(seen._replace(frames=shown, colours=colours), look, texture, viewport, out.part(part))

    def order(self, batch: SpriteBatch, nearness: NDArray[np.float32]) -> None:
        """Order them by age where the look says so (see `Drawer`)."""
        if batch.look.by_age and len(nearness):
            for each in np.split(nearness, len(nearness) // len(batch.drawn.sizes)):
                by_age(each)

    def layered(self, batch: SpriteBatch, viewport: Viewport, textures: SpriteTextures) -> Layered:
        """Return the facets of those that are flat."""
        look, drawn, sheet = batch.look, _faded_near(batch, viewport), batch.look.sheet
        if look.facing is not Facing.FLAT:
            return Layered()
        texture = textures.find(look.texture, sheet.columns, sheet.rows)
        frames = drawn.frames.astype(np.int32)
        later = (drawn.frames - frames)[:, None]
        if not sheet.fades:
            return Layered(_flat(drawn, drawn.colours[:, 3:], frames, look, texture, viewport))
        now = _flat(drawn, drawn.colours[:, 3:] * (1 - later), frames, look, texture, viewport)
        return Layered(now + _flat(drawn, drawn.colours[:, 3:] * later, frames + 1, look, texture, viewport))


def _faded_near(batch: SpriteBatch, viewport: Viewport) -> Drawn:
    """Return what sprites look like, those within the near distance of the camera fainter, to nothing at it."""
    near, drawn = batch.look.near, batch.drawn
    if near <= 0:
        return drawn
    colours = drawn.colours.copy()
    colours[:, 3] *= np.clip(viewport.camera.ahead(drawn.positions) / near, 0, 1)
    return drawn._replace(colours=colours)


def _flat(
    drawn: Drawn,
    opacities: NDArray[np.float32],
    frames: NDArray[np.int32],
    look: SpriteLook,
    texture: LevelledTexture,
    viewport: Viewport,
) -> tuple[Triangles, ...]:
    """Return two facets for each sprite that lies across the look's axis."""
    up = np.array(look.axis, np.float64)
    up = up / np.linalg.norm(up) if np.any(up) else np.array([0.0, 1.0, 0.0])
    # Where nothing turns it, its top is away from the viewer's usual place: against z, as on a map.
    right = np.cross(up, (0.0, 0.0, 1.0) if abs(up[2]) < SLANTED else (0.0, 1.0, 0.0))
    right /= np.linalg.norm(right)
    top = np.cross(up, right)
    c, s = np.cos(drawn.turns)[:, None], np.sin(drawn.turns)[:, None]
    half = drawn.sizes[:, None] / 2
    across, along = (right * c + top * s) * half, (top * c - right * s) * half * drawn.stretches[:, None]
    many = len(drawn.sizes)
    points = np.stack([sign * across + other * along for other in (1, -1) for sign in (-1, 1)], axis=1)
    points = (points + drawn.positions[:, None]).reshape(-1, 3).astype(np.float32)
    tints = np.repeat(np.concatenate([drawn.colours[:, :3], opacities], axis=1).astype(np.float32), 4, axis=0)
    uvs = np.tile(np.array([(0, 0), (1, 0), (0, 1), (1, 1)], np.float32), (many, 1))
    corners = (4 * np.arange(many)[:, None] + np.array([0, 1, 3, 0, 3, 2])).reshape(-1, 3).astype(np.int32)
    triangles = triangles_of(corners, points, tints, uvs, look, texture, viewport)
    side = triangles.skins[:, 1]
    triangles.skins[:, 0] += np.repeat(frames % texture.frames, 2) * side * side
    if look.by_age:
        nearness = np.ascontiguousarray(triangles.boxes[:, B_MEAN])
        by_age(nearness)
        triangles.boxes[:, B_MEAN] = nearness
    return (triangles,)


DRAWER = SpriteDrawer()
