"""A layer's living particles: plain arrays that can be copied, put back and compared."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.character.sampler import NO_BAND, NO_SAMPLER
from wraithon.ground.terrain import ground_colours
from wraithon.particles import birth_kernels, clearing_kernels, columns, flight_kernels
from wraithon.particles.columns import AnchorTransforms, Columns
from wraithon.particles.endings import EndingStep
from wraithon.particles.particle_moments import (
    NOTHING,
    ParticleMoments,
    births_of,
    contacts_of,
    deaths_of,
    passings_of,
    together,
)
from wraithon.particles.past import Past, reach_of

if TYPE_CHECKING:
    from collections.abc import Iterable

    from numpy.typing import NDArray

    from wraithon.particles.endings import FiringEnds
    from wraithon.particles.program import LayerProgram
    from wraithon.particles.rules import AnchorPlaces, TickContext


SMALLEST = 256
UNHEEDED = np.zeros((7, 0), np.float32)
NO_RECORDS = np.zeros((0, columns.BIRTH_RECORD), np.float32)
NO_POINTS = np.zeros((0, 2, 3), np.float32)
NO_CARRIERS = AnchorTransforms(np.zeros(0, np.int32), *np.zeros((2, 0, 5, 3), np.float32))


@dataclass(frozen=True)
class PoolCopy:
    """A pool's particles at one moment."""

    columns: Columns
    refused: int
    born: int
    past: Past | None = None

    @property
    def size(self) -> int:
        """Bytes held."""
        return sum(array.nbytes for array in self.columns) + (self.past.size if self.past else 0)


class Line(NamedTuple):
    """Whose births some are: the firing's key, the number of the first, and how many firings began before it.

    With key and number everything random about them is settled.
    """

    key: np.uint64
    serial: int
    position: int


class Pool:
    """Particles in columns, the living ones first; grows up to the layer's limit."""

    def __init__(self) -> None:
        self.count = 0
        self.refused = 0
        self.born = 0
        self.past: Past | None = None
        """Where particles were, when that is drawn."""
        self._settled = 0
        """How many there were when the last step was over; those beyond were born since."""
        self._allocate(SMALLEST)

    def _allocate(self, capacity: int) -> None:
        self.columns = Columns(
            np.zeros((columns.COLUMNS, capacity), np.float32),
            np.full(capacity, -1, np.int32),
            np.zeros(capacity, np.int32),
            np.zeros(capacity, np.uint64),
        )

    def _make_room(self, wanted: int) -> None:
        capacity = len(self.columns.triangle)
        if wanted <= capacity:
            return
        living = self.columns.first(self.count)
        self._allocate(max(wanted, capacity * 2))
        self.columns.restore(living)

    def emit(
        self,
        program: LayerProgram,
        line: Line,
        emission_offsets: NDArray[np.float32],
        dt: float,
        around: TickContext,
        positions: AnchorPlaces,
        total: int | None = None,
        birth_records: NDArray[np.float32] = NO_RECORDS,
    ) -> int:
        """Emit particles of one firing.

        Parameters
        ----------
        program
            The layer's numbers.
        line
            Whose births they are.
        emission_offsets
            (n,) float32: seconds from the step's beginning to each birth, in order.
        dt
            The step's length in seconds.
        around
            The skin before and after.
        positions
            The firing's anchor before and after.
        total
            How many births there are in all, when some were left out because there is no room for them.
        birth_records
            (n, BIRTH_RECORD) where and how offspring is born (`birth_kernels.emit`).

        Returns
        -------
        int
            By how many more there are; those beyond the layer's limit are refused and counted, or the oldest end.
        """
        before, wanted = self.count, len(emission_offsets) if total is None else total
        if program.ends_oldest:
            self._end_oldest(min(len(emission_offsets), program.limit) - (program.limit - self.count))
        count = min(len(emission_offsets), max(0, program.limit - self.count))
        # Of more than there is room for in all it is the last that live.
        first = len(emission_offsets) - count if program.ends_oldest else 0
        emission_offsets, line = emission_offsets[first:], line._replace(serial=line.serial + first)
        sampler, band = program.sampler, NO_BAND
        if program.border is not None:
            gone, going = sorted((around.gone_before, around.gone_now))
            sampler, band = program.border.within(gone, going)
            if gone == going or sampler.empty:
                return 0  # the border stands still, or is nowhere: nothing is refused
        if sampler is not None and sampler.empty:
            return 0  # nothing to be born on: that is told elsewhere, and no limit refuses
        if program.birth.cells[-1] <= 0:
            return 0  # a picture with nothing bright in it
        if program.kind in {columns.SKIN, columns.BONE} and sampler is None:
            count = 0
        self.refused += wanted - count
        self.born += count
        if not count:
            return 0
        self._make_room(self.count + count)
        birth_kernels.emit(
            count * birth_kernels.WORTH, self.columns, self.count, count, line.key, np.uint64(line.serial),
            line.position, emission_offsets, np.float32(dt), program.birth, positions, around,
            sampler.arrays if sampler else NO_SAMPLER, band, birth_records,
        )  # fmt: skip
        if program.layer.colour.beneath > 0:
            self._take_colours(program, around, count)
        self.count += count
        self._ready(program, dt)
        if self.past is not None:
            self.past.begin(self.columns, self.count - count, self.count)
        return self.count - before

    def join(self, other: Pool, program: LayerProgram, room: int, dt: float, lead: float) -> int:
        """Take in another pool's particles, which are here from `lead` seconds of a step of `dt` on.

        Returns
        -------
        int
            How many were: those that there is no `room` for are refused and counted.
        """
        count = max(0, min(other.count, room))
        self.born, self.refused = self.born + other.born, self.refused + other.refused + other.count - count
        self._make_room(self.count + count)
        end = self.count + count
        here, there = self.columns.part(self.count, end), other.columns.part(other.count - count, other.count)
        here.restore(there)
        here.state[columns.LEAD] = lead
        self._ready(program, dt)
        if self.past is not None and other.past is not None:
            self.past.positions = np.concatenate(
                [self.past.positions[: self.count], other.past.positions[-count:][:count]]
            )
        self.count = end
        return count

    def _take_colours(self, program: LayerProgram, around: TickContext, count: int) -> None:
        """Give the `count` newborn a share of the colour of the skin they are born on, or of the ground below."""
        new, state, seen = slice(self.count, self.count + count), self.columns.state, program.seen
        if program.kind == columns.SKIN and seen.skin is not None:
            corners = around.triangles[self.columns.triangle[new]]
            b, c = state[columns.SHARE_B, new, None], state[columns.SHARE_C, new, None]
            surface = (1 - b - c) * seen.skin[corners[:, 0]] + b * seen.skin[corners[:, 1]]
            surface = surface + c * seen.skin[corners[:, 2]]
        elif seen.ground:
            surface = ground_colours(seen.ground, state[columns.PX : columns.PZ + 1, new].T, seen.terrain)
        else:
            return
        share = np.float32(program.layer.colour.beneath)
        state[columns.RED : columns.BLUE + 1, new] *= (1 + share * (surface - 1)).T

    def _end_oldest(self, many: int) -> None:
        """End the particles that have lived longest: they stand first."""
        many = min(max(many, 0), self.count)
        if many:
            self.columns.restore(self.columns.part(many, self.count).copy())
            self.count -= many
            self._settled = max(0, self._settled - many)
            if self.past is not None:
                self.past.positions = self.past.positions[many:]

    def step(
        self,
        program: LayerProgram,
        dt: float,
        time: float,
        around: TickContext,
        points: NDArray[np.float32] = NO_POINTS,
        anchor_transforms: AnchorTransforms | None = None,
        *,
        wants_moments: bool = True,
        ends: FiringEnds | None = None,
    ) -> ParticleMoments:
        """Advance all particles to the end of the step and clear away those that died in it.

        Parameters
        ----------
        program
            The layer's numbers.
        dt, time
            The step's length and beginning in seconds.
        around
            The skin before and after.
        points
            (F, 2, 3) where the program's forces act from, before and after; needed where they ask for it.
        anchor_transforms
            The anchors of all firings that have particles here; needed where they are ridden on.
        wants_moments
            Whether anybody asks what happened.
        ends
            When the firings of its particles end; needed where their life hangs on that.

        Returns
        -------
        ParticleMoments
            Births, contacts with the ground and deaths of the step; nothing when nobody asks.
        """
        if not self.count:
            return NOTHING
        touches = np.full((7, self.count), -1, np.float32) if wants_moments else UNHEEDED
        happened = [births_of(self.columns, self._settled, self.count, time)] if wants_moments else []
        before = self.columns.state[columns.PX : columns.PZ + 1, : self.count].copy() if program.spacings else None
        ending = EndingStep(self.columns, self.count, ends, dt) if ends is not None else None
        flight_kernels.step(
            self.count, self.columns, self.count, np.float32(dt), np.float32(time), program.flight,
            program.forces.rows, points, around, NO_CARRIERS if anchor_transforms is None else anchor_transforms,
            touches,
        )  # fmt: skip
        if ending is not None:
            ending.apply(program.layer.hold)
        if wants_moments:
            happened.append(contacts_of(self.columns, touches, time + dt))
            happened.append(deaths_of(self.columns, self.count, touches, time + dt))
        if before is not None:
            happened += passings_of(self.columns, before, dt, time + dt, program.spacings)
        self._remember(program, dt, time)
        runs = np.empty((self.count, 2), np.int32)
        self.settle(clearing_kernels.sweep(self.count, self.columns, self.count, runs))
        return together(happened)

    def _remember(self, program: LayerProgram, dt: float, time: float) -> None:
        """Write down where particles are at the end of a step, when that is drawn."""
        self._ready(program, dt)
        if self.past is not None:
            self.past.step(self.columns, self.count, round(time / dt) + 1, reach_of(program.past, dt)[1])

    def _ready(self, program: LayerProgram, dt: float) -> None:
        """Begin a past where one is drawn, or forget it."""
        points, _ = reach_of(program.past, dt)
        if (self.past.points if self.past else 0) != points:
            self.past = Past.of(self.columns, self.count, points) if points else None

    def settle(self, count: int) -> None:
        """Take note that a step is over, and how many live after it."""
        self.count = self._settled = count

    def copy(self) -> PoolCopy:
        """Return the particles as they are."""
        past = self.past.copy() if self.past else None
        return PoolCopy(self.columns.first(self.count).copy(), self.refused, self.born, past)

    def restore(self, copy: PoolCopy) -> None:
        """Restore a copy."""
        n = len(copy.columns.triangle)
        if n > len(self.columns.triangle):
            self._allocate(n)
        self.columns.restore(copy.columns)
        self.count = self._settled = n
        self.refused, self.born = copy.refused, copy.born
        self.past = copy.past.copy() if copy.past else None

    def let_go_of_skin(self) -> None:
        """Free all riders where they are: the skin they ride on is no longer the same."""
        self.columns.state[columns.RIDE_END, : self.count] = -1.0
        self.columns.triangle[: self.count] = -1

    def feed(self, digest: hashlib.blake2b) -> None:
        """Add the particles' bytes to a digest."""
        self.columns.first(self.count).feed(digest)
        if self.past is not None:
            digest.update(self.past.positions.tobytes())
        digest.update(f"{self.count} {self.refused} {self.born}".encode())


def living_by_firing(pools: Iterable[Pool], positions: NDArray[np.int32]) -> NDArray[np.int64]:
    """Return how many particles live (n,) of each firing; `positions` (n,), in order, are all that have any."""
    alive = np.zeros(len(positions), np.int64)
    for pool in pools:
        if pool.count:
            clearing_kernels.count_living(pool.columns.firing, pool.count, positions, alive)
    return alive
