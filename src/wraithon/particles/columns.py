"""The columns of a pool, how its particles move, and the codes its kernels know things by."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np

if TYPE_CHECKING:
    import hashlib

    from numpy.typing import NDArray


PX, PY, PZ, VX, VY, VZ, AGE, LIFETIME, LEAD, SHARE_B, SHARE_C, SHARE_D, RIDE_END, RESTING, NX, NY, NZ = range(17)
RED, GREEN, BLUE, GROWN = range(17, 21)
"""What a particle was given at birth: how many times as red, green, blue and large it is."""
GIVEN, BIRTH_RECORD = 6, 10
"""Of a birth record, which begins with PX to VZ: where what is given to offspring begins, and its length."""
TRAVELLED = 21
"""Metres a particle has come, where something is born along its way."""
FAR = 22
"""Metres from its firing's anchor that a particle was born, where something hangs on it."""
HELD = 23
"""Seconds a particle has waited within its life while its firing lasts; its age stands still meanwhile."""
LEAVING = 24
"""How far a particle has faded out since its firing ended, 0 to 1."""
COLUMNS = 25
F_X, F_Y, F_Z, F_GUST, F_PACE, F_SCATTER = range(6)
"""Numbers of a push and of a wind: along each axis, and how it changes."""
F_STRENGTH, F_MEASURE, F_CHANGE, F_GRIP = range(4)
"""Of curl noise, attractions, holds, lifts and drags: strength, then 1 / size or reach, or a radius."""
F_AROUND, F_INWARD, F_PER_REACH = range(3)
"""Of a vortex."""
F_SPEED, F_RADIUS, F_FOLLOW = range(3)
"""Of an orbit."""
FORCE_WIDTH = 6
"""Numbers of a force."""
AX, AY, AZ, BX, BY, BZ, RADIUS = range(7)
"""Columns of a capsule (C, 7): the ends of its line, and its radius, metres of the world."""
LOW, HIGH = range(2)
"""Columns of a range that is drawn from at birth."""
WOBBLE_SIZE, WOBBLE_RATE = range(2)
"""Columns of a wobble."""
ALPHA = 3
"""Column of a colour (N, 4)."""

OFFSPRING, POINT, SPHERE, RING, BOX, CONE, PICTURE, LINE, SKIN, BONE = range(-1, 9)
OUTWARD, UP, FORWARD, AXES = range(4)
ALONG_WORLD, ALONG_ANCHOR, ALONG_NORMAL = range(3)
PASS, BOUNCE, SLIDE, STICK, DIE = range(5)


class Columns(NamedTuple):
    """A pool's numbers: particles stand side by side, the living ones first."""

    state: NDArray[np.float32]
    """(COLUMNS, capacity): place and velocity in the world, age and lifetime in seconds, ..."""
    triangle: NDArray[np.int32]
    """(capacity,) triangle or bone it was born on, or -1."""
    firing: NDArray[np.int32]
    """(capacity,) how many firings of the show began before its own."""
    identity: NDArray[np.uint64]
    """(capacity,) what its chance hangs on."""

    def first(self, count: int) -> Columns:
        """Return the first particles' columns, as views."""
        return Columns(
            self.state[:, :count], self.triangle[:count], self.firing[:count], self.identity[:count]
        )  # fmt: skip

    def part(self, first: int, end: int) -> Columns:
        """Return some particles' columns, as views."""
        return Columns(
            self.state[:, first:end], self.triangle[first:end], self.firing[first:end], self.identity[first:end]
        )

    def feed(self, digest: hashlib.blake2b) -> None:
        """Add the bytes to a digest; what was given at birth, and the rest, count only where something was."""
        given = (self.state[RED:TRAVELLED] != 1).any() or self.state[TRAVELLED].any()
        state = self.state[: FAR if given else RED]
        rare = [self.state[row] for row in (FAR, HELD, LEAVING) if self.state[row].any()]
        for array in (*rare, state, self.triangle, self.firing, self.identity):
            digest.update(np.ascontiguousarray(array).tobytes())

    def seconds(self, count: int) -> NDArray[np.float32]:
        """Return how long the first particles have lived (count,), whatever share of their life that is."""
        return self.state[AGE, :count] + self.state[HELD, :count]

    def copy(self) -> Columns:
        """Return copies of all columns."""
        return Columns(self.state.copy(), self.triangle.copy(), self.firing.copy(), self.identity.copy())

    def restore(self, copy: Columns) -> None:
        """Take over others' numbers, from the first particle on."""
        count = len(copy.triangle)
        self.state[:, :count] = copy.state
        self.triangle[:count], self.firing[:count] = copy.triangle, copy.firing
        self.identity[:count] = copy.identity


class FlightRules(NamedTuple):
    """How a layer's particles ride, fly and meet the ground."""

    kind: int
    keep: np.float32
    lift: np.float32
    radius: np.float32
    upright: bool
    """Whether riders' normals are wanted."""
    turning: bool
    """Whether those that ride on an anchor are turned with it."""
    contact: int
    bounce: np.float32
    grip: np.float32
    speed_mode: int
    """How the curve of speed meets it (`wraithon.numeric.meeting`)."""
    speed_table: NDArray[np.float32]
    body: int = PASS
    """What happens at the character; how much speed is kept, and lost sideways, follow."""
    rebound: np.float32 = np.float32(0)
    rub: np.float32 = np.float32(0)


class AnchorTransforms(NamedTuple):
    """The anchors that firings' particles may ride on, before and after a step."""

    firing: NDArray[np.int32]
    """(N,) how many firings of the show began before each, rising."""
    before: NDArray[np.float32]
    """(N, 5, 3): where the anchor is, its three axes, and where a line from it ends, in the world."""
    now: NDArray[np.float32]
    """(N, 5, 3)."""

    @classmethod
    def of(cls, firing: int, positions: tuple[NDArray[np.float32], NDArray[np.float32]]) -> AnchorTransforms:
        """Return the anchor of one firing, before and after a step."""
        return cls(np.array([firing], np.int32), *(np.ascontiguousarray(position[None]) for position in positions))


class ForceRows(NamedTuple):
    """Forces, one a row: what each is, its numbers, and the seed of its chance."""

    codes: NDArray[np.int32]
    """(F,)."""
    numbers: NDArray[np.float32]
    """(F, FORCE_WIDTH), what they mean is the code's own."""
    seeds: NDArray[np.uint32]
    """(F,)."""
    spreads: NDArray[np.float32]
    """(F,) by how much particles differ in what they feel of it; below zero: all feel it alike all their life."""
    curves: NDArray[np.float32]
    """(F, TABLE) how much they feel over their life."""
