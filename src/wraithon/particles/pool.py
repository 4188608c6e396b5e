"""A layer's living particles: plain arrays that can be copied, put back and compared."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from wraithon.character.pose import posed_positions
from wraithon.character.sampling import NO_BAND, bone_frames, bones_of
from wraithon.particles import kernels

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.pose import Pose, Skin
    from wraithon.character.sampling import Sampler
    from wraithon.particles.program import LayerProgram

    Posed = tuple[Pose, Skin]

__all__ = ["Pool", "PoolCopy", "Surroundings"]

SMALLEST = 256


@dataclass(frozen=True)
class Surroundings:
    """The character before, amid and after a step.

    Skin positions and normals are (V, 3) float32, `triangles` (T, 3) int32, bones' frames (B, 3, 3) float32
    as `sampling.bone_frames` returns them. Without `curved` what is amid is not looked at.
    """

    skin_before: NDArray[np.float32]
    skin_amid: NDArray[np.float32]
    skin_now: NDArray[np.float32]
    normal_before: NDArray[np.float32]
    normal_now: NDArray[np.float32]
    triangles: NDArray[np.int32]
    bones_before: NDArray[np.float32]
    bones_amid: NDArray[np.float32]
    bones_now: NDArray[np.float32]
    curved: bool = False
    dissolved: tuple[float, float] = (0.0, 0.0)
    """Share of the character that is gone before and after the step."""

    @classmethod
    def between(
        cls, character: Character, before: Posed, now: Posed, amid: Pose | None = None, *, bones: bool = True
    ) -> Surroundings:
        """Return what a character's poses and skins at two moments, and maybe the pose amid, make of a step.

        Without `bones` nothing may be born on them.
        """
        first = middle = last = np.zeros((1, 3, 3), np.float32)
        if bones:
            chain = bones_of(character)
            first, middle, last = (bone_frames(chain, pose) for pose in (before[0], amid or before[0], now[0]))
        skin_amid = posed_positions(character, amid) if amid else before[1].positions
        return cls(
            before[1].positions, skin_amid, now[1].positions, before[1].normals, now[1].normals,
            character.mesh.triangles, first, middle, last, amid is not None,
        )  # fmt: skip

    @classmethod
    def empty(cls) -> Surroundings:
        """Return surroundings without a character."""
        nothing, bone = np.zeros((1, 3), np.float32), np.zeros((1, 3, 3), np.float32)
        return cls(
            nothing, nothing, nothing, nothing, nothing, np.zeros((1, 3), np.int32), bone, bone, bone
        )  # fmt: skip


@dataclass(frozen=True)
class PoolCopy:
    """A pool's particles at one moment."""

    state: NDArray[np.float32]
    triangle: NDArray[np.int32]
    firing: NDArray[np.int32]
    identity: NDArray[np.uint64]
    refused: int
    born: int

    @property
    def size(self) -> int:
        """Bytes held."""
        return self.state.nbytes + self.triangle.nbytes + self.firing.nbytes + self.identity.nbytes


class Pool:
    """Particles in columns, the living ones first; grows up to the layer's limit."""

    def __init__(self) -> None:
        self.count = 0
        self.refused = 0
        self.born = 0
        self._allocate(SMALLEST)

    def _allocate(self, capacity: int) -> None:
        self.state = np.zeros((kernels.COLUMNS, capacity), np.float32)
        self.triangle = np.full(capacity, -1, np.int32)
        self.firing = np.zeros(capacity, np.int32)
        self.identity = np.zeros(capacity, np.uint64)

    def _make_room(self, wanted: int) -> None:
        capacity = len(self.triangle)
        if wanted <= capacity:
            return
        held = self.copy()
        self._allocate(max(wanted, capacity * 2))
        self.restore(held)

    def bear(
        self,
        program: LayerProgram,
        key: np.uint64,
        serial: int,
        slot: int,
        leads: NDArray[np.float32],
        dt: float,
        around: Surroundings,
        anchors: tuple[NDArray[np.float32], NDArray[np.float32]],
    ) -> None:
        """Bear particles of one firing.

        Parameters
        ----------
        program
            The layer's numbers.
        key, serial
            The firing's key and the number of its first birth; with them everything random is settled.
        slot
            The firing's place in the show's table.
        leads
            (n,) float32: seconds from the step's beginning to each birth, in order.
        dt
            The step's length in seconds.
        around
            The skin before and after.
        anchors
            The firing's anchor before and after, (4, 4) float32 each, world.

        Births beyond the layer's limit are refused and counted.
        """
        limit = program.layer.emission.limit
        count = min(len(leads), max(0, limit - self.count))
        sampler, band = program.sampler, NO_BAND
        if program.border is not None:
            gone, going = sorted(around.dissolved)
            sampler, band = program.border.within(gone, going)
            if gone == going or sampler.empty:
                return  # the border stands still, or is nowhere: nothing is refused
        if sampler is not None and sampler.empty:
            return  # nothing to be born on: that is told elsewhere, and no limit refuses
        if program.kind in {kernels.SKIN, kernels.BONE} and sampler is None:
            count = 0
        self.refused += len(leads) - count
        self.born += count
        if not count:
            return
        self._make_room(self.count + count)
        before, now = anchors
        kernels.bear(
            count, self.state, self.triangle, self.firing, self.identity, self.count, count, key, np.uint64(serial),
            slot, leads, np.float32(dt),
            program.kind, program.shape, program.heading, program.spread, program.keep, program.ride, program.lift,
            before[:3, 3].copy(), now[:3, 3].copy(), before[:3, 2].copy(), now[:3, 2].copy(),
            around.skin_before, around.skin_amid, around.skin_now, around.normal_before, around.normal_now,
            around.triangles, around.bones_before, around.bones_amid, around.bones_now, around.curved,
            program.radius, *_sampler_arrays(sampler, band), program.lifetime, program.speed,
        )  # fmt: skip
        self.count += count

    def step(self, program: LayerProgram, dt: float, time: float, around: Surroundings) -> None:
        """Advance all particles to the end of the step and clear away those that died in it."""
        if not self.count:
            return
        kernels.step(
            self.count, self.state, self.triangle, self.count, np.float32(dt), np.float32(time),
            program.push, program.drag, program.curls, program.curl_seeds,
            program.contact, program.bounce, program.grip,
            program.speed_mode, program.speed_table, program.kind, program.keep, program.lift, program.radius,
            program.upright,
            around.skin_before, around.skin_amid, around.skin_now, around.normal_now, around.triangles,
            around.bones_before, around.bones_amid, around.bones_now, around.curved,
        )  # fmt: skip
        self.count = kernels.sweep(self.state, self.triangle, self.firing, self.identity, self.count)

    def living_by_firing(self, slots: int) -> NDArray[np.int64]:
        """Return how many particles of each firing slot live (slots,)."""
        out = np.zeros(slots, np.int64)
        kernels.count_firings(self.firing, self.count, out)
        return out

    def copy(self) -> PoolCopy:
        """Return the particles as they are."""
        n = self.count
        return PoolCopy(
            self.state[:, :n].copy(),
            self.triangle[:n].copy(),
            self.firing[:n].copy(),
            self.identity[:n].copy(),
            self.refused,
            self.born,
        )

    def restore(self, held: PoolCopy) -> None:
        """Put a copy back."""
        n = len(held.triangle)
        if n > len(self.triangle):
            self._allocate(n)
        self.state[:, :n] = held.state
        self.triangle[:n], self.firing[:n], self.identity[:n] = held.triangle, held.firing, held.identity
        self.count, self.refused, self.born = n, held.refused, held.born

    def let_go_of_skin(self) -> None:
        """Free all riders where they are: the skin they ride on is no longer the same."""
        self.state[kernels.RIDE_END, : self.count] = -1.0
        self.triangle[: self.count] = -1

    def feed(self, digest: hashlib.blake2b) -> None:
        """Add the particles' bytes to a digest."""
        n = self.count
        for array in (self.state[:, :n], self.triangle[:n], self.firing[:n], self.identity[:n]):
            digest.update(np.ascontiguousarray(array).tobytes())
        digest.update(f"{n} {self.refused} {self.born}".encode())


_NOBODY = (
    0, np.zeros(1, np.int32), np.zeros(1, np.int8), np.ones(1), np.ones((1, 3), np.float32),
    np.ones((1, 1), np.float32), np.zeros((1, 2), np.float32), np.zeros(0, np.int32),
    np.zeros((0, 3), np.float32), np.zeros((1, 3), np.float32), NO_BAND,
    np.zeros(1, np.int32), np.ones(1, np.float32),
)  # fmt: skip


def _sampler_arrays(sampler: Sampler | None, band: NDArray[np.float32]) -> tuple[Any, ...]:
    """Return what `bear` wants of a sampler, from `measured` to `speeds`."""
    if sampler is None:
        return _NOBODY
    return (
        sampler.kind, sampler.rows, sampler.corners, sampler.cumulative, sampler.densities, sampler.image,
        sampler.uvs, sampler.even_rows, sampler.even_places, sampler.rest, band, sampler.group_of_row, sampler.speeds,
    )  # fmt: skip
