"""When a layer gives birth, and how often."""

from __future__ import annotations

import math
from enum import StrEnum
from typing import Annotated

from pydantic import Field

from wraithon.project.base import Model, Share, Unsigned, once
from wraithon.project.life import Curve
from wraithon.project.quantities import COUNT, PER_METRE, PER_SECOND, PERCENT, SECONDS, Label, Quantity

SHORTEST_LOOP = 0.05
"""Seconds after which births may begin anew at the soonest."""
WarmUp = Annotated[float, Field(ge=0.0, le=10.0)]
"""Seconds."""

ENDLESS = 1e7
"""Seconds that an endless life is taken for, where births are counted."""
FAST = 10.0
"""Metres a second that an anchor is taken to move at most, where that has to be guessed."""
MAX_LIVING, MAX_ALIVE = 400_000, 1_500_000
"""Particles that may live at once: of one layer, and of all together."""


class Burst(Model):
    """`count` births at once, at `time` seconds after the firing began, `repeats` times in all.

    Each time there are as many, or any number up to `maximum`; and only with a `chance` does it happen. One that is
    `off` is kept, and never does.
    """

    disabled: Annotated[bool, once("off"), Label("Disables the burst and keeps it")] = False

    time: Annotated[Unsigned, Quantity("Time after the start of the firing", SECONDS, step=0.01)] = 0.0
    count: Annotated[int, Field(ge=0, le=MAX_LIVING), Quantity("Particles of the burst", COUNT)] = 20
    most: Annotated[
        Annotated[int, Field(ge=0, le=MAX_LIVING)] | None, Quantity("Largest number of particles", COUNT)
    ] = None
    chance: Annotated[Share, Quantity("Probability of each burst", PERCENT)] = 1.0
    repeats: Annotated[int, Field(ge=1, le=10_000), Quantity("Number of bursts", COUNT, word="times")] = 1
    interval: Annotated[
        float, Field(ge=0.001, le=1e4), Quantity("Time from one burst to the next", SECONDS, step=0.01)
    ] = 0.1

    @property
    def highest(self) -> int:
        """The most births there may be at once."""
        return max(self.count, self.most or 0) if self.chance > 0 and not self.disabled else 0


class Full(StrEnum):
    """What happens to births beyond the limit: they are refused, or those that have lived longest end for them."""

    REFUSE = "refuse"
    END_OLDEST = "end oldest"


class Emission(Model):
    """Births a second, and a metre that its anchor moves, within a window of the firing; and bursts.

    With a `warm_up` the firing begins as if it had gone on for so many seconds where it begins: they come before its
    length. With a `loop` all of
    it begins anew every so many seconds. `start` and `length` are seconds after the firing (or
    the loop) began; a `length` of None lasts as long as the firing itself. `curve`, over the window from 0 to 1,
    scales the rate; without an end of the window there is nothing for it to go over. `limit` is the number that may
    live at once, over all firings of the layer; None: as many as those that may overlap have, and half as many again
    as one has at least.
    """

    rate: Annotated[Unsigned, Quantity("Particles emitted per second", PER_SECOND, step=1, decimals=1)] = 0.0
    per_metre: Annotated[
        float,
        Field(ge=0.0, le=1e4),
        Quantity("Particles emitted for each metre the anchor moves, evenly along its path", PER_METRE),
    ] = 0.0
    start: Annotated[Unsigned, Quantity("Time at which the rate begins", SECONDS)] = 0.0
    length: Annotated[Unsigned | None, Quantity("Duration of the rate", SECONDS)] = None
    loop: Annotated[
        Annotated[float, Field(ge=SHORTEST_LOOP, le=1e6)] | None,
        Quantity("Time from one start to the next", SECONDS, step=0.1),
    ] = None
    warm_up: Annotated[
        WarmUp, Quantity("Time simulated before the first frame, where the firing begins", SECONDS, step=0.1)
    ] = 0.0
    curve: Annotated[Curve | None, once("course"), Label("Rate over its duration")] = None
    bursts: Annotated[tuple[Burst, ...], Field(max_length=64)] = ()
    limit: Annotated[
        Annotated[int, Field(ge=1, le=MAX_LIVING)] | None,
        Quantity("Maximum number of living particles over all firings", COUNT, step=10, word="alive"),
    ] = 2000
    full: Annotated[Full, Label("What happens at the limit")] = Full.REFUSE

    @property
    def peak(self) -> float:
        """The highest rate, in births a second."""
        return self.rate * (max(0.0, *(y for _, y in self.curve.points)) if self.curve else 1.0)

    def max_alive(self, lifetime: float, firing: float | None) -> int:
        """Return how many of one firing may live at once, of those that live for `lifetime` seconds, at most."""
        lifetime = min(lifetime, ENDLESS)
        turns = 1 if self.loop is None else math.ceil(lifetime / self.loop) + 1
        lasting = min(lifetime, self.window(firing) if self.loop is None else lifetime)
        steady = self.peak * lasting + self.per_metre * FAST * lasting
        bursts = sum(b.highest * min(b.repeats, math.floor(lifetime / b.interval) + 1) for b in self.bursts)
        return min(MAX_LIVING, math.ceil(steady) + bursts * turns)

    def bound(self, lifetime: float, firing: float | None, firings: int = 1) -> int:
        """Return how many may live at once, over so many firings: the limit, or what is worked out."""
        if self.limit is not None:
            return self.limit
        one = self.max_alive(lifetime, firing)
        return min(MAX_LIVING, max(1, math.ceil(1.5 * one), one * firings))

    def lasts(self, lifetime: float, firing: float | None) -> float:
        """Return the seconds from a firing's beginning to the death of its last particle; may be infinite."""
        bursts = (b.time + (b.repeats - 1) * b.interval for b in self.bursts if b.highest)
        steady = self.start + self.window(firing) if self.rate or self.per_metre else 0.0
        last = max((steady, *bursts)) if self.loop is None else math.inf
        return min(last, math.inf if firing is None else firing) + lifetime

    def window(self, firing: float | None) -> float:
        """Return how long the rate lasts in a firing of this length, in seconds; infinite when it never ends."""
        left = math.inf if firing is None else max(0.0, firing - self.start)
        return left if self.length is None else min(left, self.length)
