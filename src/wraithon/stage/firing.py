"""Firings: running instances of effects, and the record of those that are over."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from wraithon.particles.rules import AnchorPlaces
from wraithon.project.ending import Ending


class Begun(NamedTuple):
    """How a firing began: how many began before it, and where it is."""

    position: int
    anchor: str | None
    follow: bool
    pinned: NDArray[np.float32] | None


@dataclass(frozen=True)
class FiringRecord:
    """What the timeline shows of a firing: from its start to the death of its last particle."""

    effect: str
    number: int
    trigger: str
    start: float
    end: float | None
    """None while it is alive."""
    peak: int
    """Most particles alive at once."""
    begun: Begun | None = field(default=None, compare=False)
    base: str = field(default="", compare=False)
    """The project's effect, where it is a variant of one."""

    @property
    def shown(self) -> str:
        """The id of the project's effect."""
        return self.base or self.effect


@dataclass
class Firing:
    """One running instance of an effect.

    `serials` count the births of each layer, refused ones included, so that a refused birth does not
    change the particles after it.
    """

    effect: str
    number: int
    trigger: str
    start: float
    anchor: str | None
    follow: bool
    pinned: NDArray[np.float32] | None
    """(4, 4) where it began, when it does not follow its anchor."""
    serials: dict[str, int] = field(default_factory=dict)
    moved: dict[str, float] = field(default_factory=dict)
    """Layer id to the metres its anchor has come, where births hang on that."""
    peak: int = 0
    alive: int = 0
    base: str = ""
    """The project's effect, where it is a variant of one."""
    until: float = math.inf
    """Seconds of the show from which on it bears no more."""
    ending: Ending | None = None
    """What becomes of its particles where that was said when it was stopped; None: what their layers say."""

    @cached_property
    def still(self) -> AnchorPlaces | None:
        """Where it is, before and after every step; None while it follows its anchor."""
        return AnchorPlaces.of(self.pinned, self.pinned) if self.pinned is not None else None

    def end(self, length: float | None) -> float:
        """Return the seconds of the show at which it emits no more; `length` is its effect's (None: endless)."""
        return min(self.until, math.inf if length is None else self.start + length)

    def copy(self) -> Firing:
        """Return an independent copy."""
        return Firing(
            self.effect,
            self.number,
            self.trigger,
            self.start,
            self.anchor,
            self.follow,
            self.pinned,
            dict(self.serials),
            dict(self.moved),
            self.peak,
            self.alive,
            self.base,
            self.until,
            self.ending,
        )

    def record(self, end: float | None, position: int) -> FiringRecord:
        """Return what the timeline shows of it; `position` firings began before it."""
        begun = Begun(position, self.anchor, self.follow, self.pinned)
        return FiringRecord(self.effect, self.number, self.trigger, self.start, end, self.peak, begun, self.base)
