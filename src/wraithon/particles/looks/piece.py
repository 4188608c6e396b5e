"""Pieces: every living particle as a small mesh."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, ClassVar, Self

import numpy as np

from wraithon.particles.looks.batch import Reach, drawn_of
from wraithon.project.look import MeshLook, Orientation

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.particles.looks.batch import Drawn, ShowMoment
    from wraithon.particles.pool import Pool
    from wraithon.particles.program import LayerProgram


TINY = 1e-9
CORNER = 3**0.5 / 2
"""How far a cube's corner is from its middle."""


@dataclass(frozen=True)
class MeshBatch:
    """The pieces of one layer."""

    kind: ClassVar[str] = "piece"
    layer: str
    identities: NDArray[np.uint64]
    look: MeshLook
    positions: NDArray[np.float32]
    """(N, 3) metres, world."""
    turns: NDArray[np.float32]
    """(N, 3, 3) rotations from the shape's own axes to the world's."""
    sizes: NDArray[np.float32]
    """(N,) metres."""
    colours: NDArray[np.float32]
    """(N, 3) linear, times intensity."""
    shapes: NDArray[np.int64]
    """(N,) which of the look's shapes each is."""

    def reach(self) -> Reach:
        """Return where the pieces are; shapes are a metre along their longest side, around their middle."""
        return Reach(self.positions, self.sizes[:, None] * np.float32(CORNER))

    def moved(self, by: NDArray[np.float32]) -> Self:
        """Return the same elsewhere, by (3,) metres."""
        return replace(self, positions=self.positions + by)


def batch_of(pool: Pool, program: LayerProgram, _moment: ShowMoment) -> MeshBatch:
    """Return a layer's pieces; those that cannot be seen at all are left out."""
    look, n = program.layer.look, pool.count
    assert isinstance(look, MeshLook)  # found by its kind
    drawn, identity = drawn_of(pool, program), pool.columns.identity[:n].copy()
    shapes = (unit_numbers(identity, 0) * max(len(look.shapes), 1)).astype(np.int64)
    seen = (drawn.sizes > 0) & (drawn.colours[:, 3] > 0) & (len(look.shapes) > 0)
    seen &= np.isfinite(drawn.positions).all(axis=1) & np.isfinite(drawn.sizes)
    turns = turns_of(look.orientation, identity, drawn)
    return MeshBatch(
        program.layer.id, identity[seen], look, drawn.positions[seen], turns[seen], drawn.sizes[seen],
        drawn.colours[seen, :3], shapes[seen],
    )  # fmt: skip


def unit_numbers(identity: NDArray[np.uint64], number: int) -> NDArray[np.float64]:
    """Return numbers in [0, 1) that belong to particles (N,); `number` 0 to 3 gives others."""
    return ((identity >> np.uint64(16 * number)) & np.uint64(0xFFFF)) / 65536.0


def turns_of(orientation: Orientation, identity: NDArray[np.uint64], drawn: Drawn) -> NDArray[np.float32]:
    """Return the rotations (N, 3, 3) of pieces, float32."""
    turns = drawn.turns.astype(np.float64)
    if orientation in {Orientation.TUMBLING, Orientation.FIXED}:
        anyhow = _anyhow(identity)
        axis = anyhow[:, :, 0]  # as good as any
        return (_about(axis, turns) @ anyhow if orientation is Orientation.TUMBLING else anyhow).astype(np.float32)
    ahead = (drawn.velocities if orientation is Orientation.VELOCITY else drawn.normals).astype(np.float64)
    size = np.linalg.norm(ahead, axis=1, keepdims=True)
    up = np.where(size > TINY, ahead / np.maximum(size, TINY), (0.0, 1.0, 0.0))
    return (_about(up, turns) @ _standing(up)).astype(np.float32)


def _anyhow(identity: NDArray[np.uint64]) -> NDArray[np.float64]:
    """Return rotations (N, 3, 3), all equally likely (Shoemake 1992, "Uniform random rotations")."""
    a, b, c = (unit_numbers(identity, k) for k in (1, 2, 3))
    low, high = np.sqrt(1 - a), np.sqrt(a)
    x, y = low * np.sin(2 * np.pi * b), low * np.cos(2 * np.pi * b)
    z, w = high * np.sin(2 * np.pi * c), high * np.cos(2 * np.pi * c)
    return np.moveaxis(
        np.array([
            [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
            [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
            [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
        ]), 2, 0,
    )  # fmt: skip


def _about(axes: NDArray[np.float64], angles: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return rotations (N, 3, 3) about unit axes (N, 3) by angles (N,) in radians (Rodrigues)."""
    cosine, sine = np.cos(angles)[:, None, None], np.sin(angles)[:, None, None]
    x, y, z = axes.T
    nothing = np.zeros(len(axes))
    cross = np.moveaxis(np.array([[nothing, -z, y], [z, nothing, -x], [-y, x, nothing]]), 2, 0)
    outer: NDArray[np.float64] = axes[:, :, None] * axes[:, None, :]
    return cosine * np.eye(3) + sine * cross + (1 - cosine) * outer


def _standing(up: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return rotations (N, 3, 3) that bring the y axis to unit directions (N, 3)."""
    helper = np.where(np.abs(up[:, 1:2]) < 0.9, (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))
    right = np.cross(up, helper)
    right /= np.linalg.norm(right, axis=1, keepdims=True)
    return np.stack([right, up, np.cross(right, up)], axis=2)
