"""What becomes of living particles while their firing lasts, and when it ends."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.particles.columns import AGE, HELD, LEAD, LEAVING, LIFETIME, RIDE_END
from wraithon.project.ending import AtEnd

if TYPE_CHECKING:
    from collections.abc import Iterable

    from numpy.typing import NDArray

    from wraithon.particles.columns import Columns
    from wraithon.project.ending import Ending


CODES = {what: code for code, what in enumerate(AtEnd)}


class FiringEnds(NamedTuple):
    """When the firings of a layer's particles end, seen from a step, and what becomes of the particles then."""

    firing: NDArray[np.int32]
    """(N,) how many firings of the show began before each, rising."""
    left: NDArray[np.float32]
    """(N,) seconds from the step's beginning until each ends; below 0: it is over, infinite: nothing ends it."""
    codes: NDArray[np.int8]
    """(N,) CODES."""
    seconds: NDArray[np.float32]
    """(N,) that fading out takes."""

    @classmethod
    def of(cls, firings: Iterable[tuple[int, float, Ending]]) -> FiringEnds:
        """Return the ends of firings, one at least: the number of each, the seconds left of it, and its ending."""
        listed = sorted(firings, key=lambda each: each[0])
        return cls(
            np.array([number for number, _, _ in listed], np.int32),
            np.array([left for _, left, _ in listed], np.float32),
            np.array([CODES[ending.what] for _, _, ending in listed], np.int8),
            np.array([ending.seconds for _, _, ending in listed], np.float32),
        )

    def by_particle(self, firing: NDArray[np.int32]) -> FiringEnds:
        """Return the ends of particles' firings, a row for each particle (M,); what is of none is over."""
        rows = np.minimum(np.searchsorted(self.firing, firing), len(self.firing) - 1)
        known = self.firing[rows] == firing
        left = np.where(known, self.left[rows], np.float32(-np.inf))
        return FiringEnds(firing, left, np.where(known, self.codes[rows], np.int8(0)), self.seconds[rows])


class EndingStep:
    """A step of particles whose life hangs on that of their firing: made before they move, applied afterwards."""

    def __init__(self, columns: Columns, count: int, ends: FiringEnds, dt: float) -> None:
        """Note how old particles are, and release the riders of firings that end."""
        self._state, self._ends = columns.state[:, :count], ends.by_particle(columns.firing[:count])
        self._ages = self._state[AGE].copy()
        self._free = np.float32(dt) - self._state[LEAD]
        self._lasts = np.clip(self._ends.left - self._state[LEAD], 0, self._free)
        """(M,) seconds of the step in which each lives and its firing lasts."""
        self._ended = self._ends.left < dt
        loose = self._ended & (self._ends.codes == CODES[AtEnd.RELEASE]) & (self._state[RIDE_END] >= 0)
        released = np.minimum(self._state[RIDE_END], self._ages + self._lasts)
        self._state[RIDE_END] = np.where(loose, released, self._state[RIDE_END])

    def apply(self, hold: float | None) -> None:
        """Keep those that wait at the age `hold` (a share of life), and fade or kill those whose firing is over."""
        if hold is not None:
            self._wait(np.float32(hold))
        fading = self._ended & (self._ends.codes == CODES[AtEnd.FADE])
        if fading.any():
            gone = (self._free - self._lasts) / np.maximum(self._ends.seconds, np.float32(1e-6))
            leaving = np.minimum(self._state[LEAVING] + np.where(fading, gone, 0), 1)
            self._state[LEAVING] = leaving
        dead = (self._ended & (self._ends.codes == CODES[AtEnd.KILL])) | (self._state[LEAVING] >= 1)
        self._state[AGE] = np.where(dead, np.maximum(self._state[AGE], self._state[LIFETIME]), self._state[AGE])

    def _wait(self, hold: np.float32) -> None:
        """Stop particles at a share of their life for as long as their firing lasts; those that fade stay there."""
        state, wanted = self._state, hold * self._state[LIFETIME]
        moved = self._ages + self._free
        lasts = np.where(self._ends.codes == CODES[AtEnd.FADE], self._free, self._lasts)
        waits = (self._ages <= wanted) & (self._ages + lasts > wanted) & (state[AGE] <= moved)
        aged = np.where(waits, wanted + (self._free - lasts), state[AGE])
        state[HELD] += np.where(waits, moved - aged, 0)
        state[AGE] = aged
