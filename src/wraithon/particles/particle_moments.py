"""What happened to particles within a step: births, contacts with the ground, deaths."""

from __future__ import annotations

from enum import IntEnum
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.particles import columns as c

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.particles.columns import Columns


class Happening(IntEnum):
    """A kind of thing that happens to a particle."""

    BIRTH = 0
    CONTACT = 1
    DEATH = 2
    PASSING = 3
    """At every so many metres of its way; the next whole number is that of another distance, and so on."""


class ParticleMoments(NamedTuple):
    """Things that happened, one a row; what sub-effects start from."""

    kinds: NDArray[np.int8]
    """(M,) of `Happening`."""
    particles: Columns
    """Of M particles, as they were: at a contact, where and with which velocity they came."""
    moments: NDArray[np.float64]
    """(M,) seconds of the show."""

    @property
    def positions(self) -> NDArray[np.float32]:
        """(M, 3) metres, world."""
        return self.particles.state[c.PX : c.PZ + 1].T

    @property
    def velocities(self) -> NDArray[np.float32]:
        """(M, 3) metres a second, world."""
        return self.particles.state[c.VX : c.VZ + 1].T

    @property
    def identities(self) -> NDArray[np.uint64]:
        """(M,) whom it happened to."""
        return self.particles.identity

    @property
    def firings(self) -> NDArray[np.int32]:
        """(M,) how many firings of the show began before theirs."""
        return self.particles.firing

    def part(self, rows: NDArray[np.int64] | NDArray[np.bool_]) -> ParticleMoments:
        """Return some of them."""
        return ParticleMoments(self.kinds[rows], _rows(self.particles, rows), self.moments[rows])


def _rows(columns: Columns, rows: NDArray[np.int64] | NDArray[np.bool_]) -> Columns:
    return c.Columns(
        np.ascontiguousarray(columns.state[:, rows]),
        columns.triangle[rows],
        columns.firing[rows],
        columns.identity[rows],
    )


def _of(kind: Happening, particles: Columns, moments: NDArray[np.floating]) -> ParticleMoments:
    return ParticleMoments(np.full(len(moments), kind, np.int8), particles, moments.astype(np.float64))


MAX_PASSINGS = 20_000
"""Marks that particles may come by in a step."""
NOBODY = c.Columns(
    np.zeros((c.COLUMNS, 0), np.float32), np.zeros(0, np.int32), np.zeros(0, np.int32), np.zeros(0, np.uint64)
)
NOTHING = _of(Happening.BIRTH, NOBODY, np.zeros(0))


def births_of(columns: Columns, first: int, count: int, start: float) -> ParticleMoments:
    """Return the births of a step that began at `start` seconds: the particles from place `first` on."""
    new = first + np.flatnonzero(columns.state[c.LIFETIME, first:count] > 0)
    return _of(Happening.BIRTH, _rows(columns, new), start + columns.state[c.LEAD, new])


def contacts_of(columns: Columns, touches: NDArray[np.float32], end: float) -> ParticleMoments:
    """Return the contacts of a step that ended at `end` seconds.

    `touches` (7, N) holds how many seconds before the end each particle came to the ground (-1: not at
    all), where, and with which velocity.
    """
    met = np.flatnonzero(touches[0] >= 0)
    particles = _rows(columns, met)
    particles.state[:6] = touches[1:, met]
    return _of(Happening.CONTACT, particles, end - touches[0, met].astype(np.float64))


def deaths_of(columns: Columns, count: int, touches: NDArray[np.float32], end: float) -> ParticleMoments:
    """Return the deaths of a step that ended at `end` seconds, before the dead are cleared away."""
    age, lifetime = columns.state[c.AGE, :count], columns.state[c.LIFETIME, :count]
    dead = np.flatnonzero((age >= lifetime) & (lifetime > 0))
    late = (age[dead] - lifetime[dead]).astype(np.float64)
    if touches.shape[1]:
        late = np.maximum(late, touches[0, dead])
    return _of(Happening.DEATH, _rows(columns, dead), end - late)


def passings_of(
    columns: Columns, before: NDArray[np.float32], dt: float, end: float, spacings: tuple[float, ...]
) -> list[ParticleMoments]:
    """Return where particles came by marks on their way, for each of `spacings` in metres; note how far they came.

    `before` (3, N) are their places when the step of `dt` seconds that ended at `end` began. Within it they went
    straight, newer ones for as long as they have lived. Of a spacing there are no more than `MAX_PASSINGS`.
    """
    count = before.shape[1]
    way = columns.state[c.PX : c.PZ + 1, :count] - before
    age = columns.state[c.AGE, :count].astype(np.float64)
    far, lasts = np.nan_to_num(np.linalg.norm(way, axis=0), posinf=0.0).astype(np.float64), np.minimum(age, dt)
    start = columns.state[c.TRAVELLED, :count].astype(np.float64)
    columns.state[c.TRAVELLED, :count] += far.astype(np.float32)
    come = columns.state[c.TRAVELLED, :count].astype(np.float64)
    return [
        _passed(columns, (before, way), (start, come), (age, lasts), end, n, every)
        for n, every in enumerate(spacings)
    ]


def _passed(
    columns: Columns,
    path: tuple[NDArray[np.float32], NDArray[np.float32]],
    travelled: tuple[NDArray[np.float64], NDArray[np.float64]],
    times: tuple[NDArray[np.float64], NDArray[np.float64]],
    end: float,
    number: int,
    every: float,
) -> ParticleMoments:
    """Return the passings of one spacing."""
    (before, way), (start, come), (age, lasts) = path, travelled, times
    first = np.floor(start / every)
    counts = np.minimum(np.floor(come / every) - first, MAX_PASSINGS).astype(np.int64)
    counts -= np.minimum(counts, np.maximum(np.cumsum(counts) - MAX_PASSINGS, 0))
    rows = np.repeat(np.arange(len(counts)), counts)
    nth = np.arange(len(rows)) - np.repeat(np.cumsum(counts) - counts, counts) + 1
    share = ((first[rows] + nth) * every - start[rows]) / (come - start)[rows]
    back = (1 - share) * lasts[rows]
    # What is past its life has passed nothing any more.
    alive = age[rows] - back < columns.state[c.LIFETIME, rows]
    rows, share, back = rows[alive], share[alive], back[alive]
    particles = _rows(columns, rows)
    particles.state[c.PX : c.PZ + 1] = before[:, rows] + share * way[:, rows]
    particles.state[c.AGE] = age[rows] - back
    happened = _of(Happening.PASSING, particles, end - back)
    return happened._replace(kinds=happened.kinds + np.int8(number))


def together(parts: list[ParticleMoments]) -> ParticleMoments:
    """Return several steps' or kinds' happenings as one, in the order given."""
    parts = [part for part in parts if len(part.kinds)]
    if not parts:
        return NOTHING
    emitted = [part.particles for part in parts]
    particles = c.Columns(
        np.concatenate([columns.state for columns in emitted], axis=1),
        *(np.concatenate([columns[n] for columns in emitted]) for n in range(1, 4)),
    )
    kinds, moments = (np.concatenate([part[n] for part in parts]) for n in (0, 2))
    return ParticleMoments(kinds, particles, moments)
