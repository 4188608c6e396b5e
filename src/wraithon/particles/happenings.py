"""What happened to particles within a step: births, contacts with the ground, deaths."""

from __future__ import annotations

from enum import IntEnum
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.particles import columns as c

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.particles.columns import Columns

__all__ = ["NOTHING", "Happening", "Happenings", "births_of", "contacts_of", "deaths_of", "together"]


class Happening(IntEnum):
    """A kind of thing that happens to a particle."""

    BIRTH = 0
    CONTACT = 1
    DEATH = 2


class Happenings(NamedTuple):
    """Things that happened, one a row; what sub-effects start from."""

    kinds: NDArray[np.int8]
    """(M,) of `Happening`."""
    places: NDArray[np.float32]
    """(M, 3) metres, world."""
    velocities: NDArray[np.float32]
    """(M, 3) metres a second, world; at a contact, with which it came."""
    identities: NDArray[np.uint64]
    """(M,) whom it happened to."""
    moments: NDArray[np.float64]
    """(M,) seconds of the show."""


def _of(
    kind: Happening, six: NDArray[np.float32], identities: NDArray[np.uint64], moments: NDArray[np.floating]
) -> Happenings:
    count = len(identities)
    kinds = np.full(count, kind, np.int8)
    return Happenings(kinds, six[:3].T.copy(), six[3:6].T.copy(), identities.copy(), moments.astype(np.float64))


NOTHING = _of(Happening.BIRTH, np.zeros((6, 0), np.float32), np.zeros(0, np.uint64), np.zeros(0))


def births_of(held: Columns, first: int, count: int, start: float) -> Happenings:
    """Return the births of a step that began at `start` seconds: the particles from place `first` on."""
    new = first + np.flatnonzero(held.state[c.LIFETIME, first:count] > 0)
    return _of(Happening.BIRTH, held.state[:6, new], held.identity[new], start + held.state[c.LEAD, new])


def contacts_of(held: Columns, touches: NDArray[np.float32], end: float) -> Happenings:
    """Return the contacts of a step that ended at `end` seconds.

    `touches` (7, N) holds how many seconds before the end each particle came to the ground (-1: not at
    all), where, and with which velocity.
    """
    met = np.flatnonzero(touches[0] >= 0)
    return _of(Happening.CONTACT, touches[1:, met], held.identity[met], end - touches[0, met].astype(np.float64))


def deaths_of(held: Columns, count: int, touches: NDArray[np.float32], end: float) -> Happenings:
    """Return the deaths of a step that ended at `end` seconds, before the dead are cleared away."""
    age, lifetime = held.state[c.AGE, :count], held.state[c.LIFETIME, :count]
    dead = np.flatnonzero((age >= lifetime) & (lifetime > 0))
    late = (age[dead] - lifetime[dead]).astype(np.float64)
    if touches.shape[1]:
        late = np.maximum(late, touches[0, dead])
    return _of(Happening.DEATH, held.state[:6, dead], held.identity[dead], end - late)


def together(parts: list[Happenings]) -> Happenings:
    """Return several steps' or kinds' happenings as one, in the order given."""
    parts = [part for part in parts if len(part.kinds)]
    return Happenings(*(np.concatenate(arrays) for arrays in zip(*parts, strict=True))) if parts else NOTHING
