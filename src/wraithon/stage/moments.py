"""Moments: what a trigger can hear in a step of the show, one function a kind."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING

from wraithon.stage.moment import Moment

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from wraithon.stage.cast import Cast

__all__ = ["KINDS", "moments_within"]


def _start(_cast: Cast, step: int, start: float, _end: float) -> Iterator[Moment]:
    """Yield the beginning of the show."""
    if step == 0:
        yield Moment(start, "start")


def _events(cast: Cast, _step: int, start: float, end: float) -> Iterator[Moment]:
    """Yield the events that the clips pass."""
    if cast.performance is None:
        return
    for passing in cast.performance.passings(start, end):
        event = cast.events.get(passing.mark.event)
        if event is not None:
            yield Moment(passing.time, "event", event.id, anchor=event.anchor)


def _seconds(cast: Cast, _step: int, start: float, end: float) -> Iterator[Moment]:
    """Yield the moments that come again and again, so many seconds apart; the first is the first interval's end."""
    for what in cast.waited.get("seconds", ()):
        yield from (Moment(time, "seconds", what) for time in _multiples(float(what), start, end))


def _metres(cast: Cast, _step: int, start: float, end: float) -> Iterator[Moment]:
    """Yield the moments at which the character has come another so many metres."""
    wanted = cast.waited.get("metres", ())
    if not wanted or cast.performance is None:
        return
    first, last = cast.performance.way_at(start), cast.performance.way_at(end)
    for what in wanted:
        for way in _multiples(float(what), first, last) if last > first else ():
            yield Moment(start + (end - start) * (way - first) / (last - first), "metres", what)


def _multiples(span: float, low: float, high: float) -> Iterator[float]:
    """Yield the multiples of a span, from one on, that lie in [low, high)."""
    number = max(1, math.ceil(low / span - CLOSE))
    while number * span < high - CLOSE * span:
        yield number * span
        number += 1


CLOSE = 1e-9
"""Share of a span by which rounding may be off."""
KINDS: dict[str, Callable[[Cast, int, float, float], Iterator[Moment]]] = {
    "start": _start,
    "event": _events,
    "seconds": _seconds,
    "metres": _metres,
    "never": lambda *_: iter(()),
}
"""Kind to what yields its moments of a step, given its number, beginning and end."""


def moments_within(cast: Cast, step: int, start: float, end: float) -> Iterator[Moment]:
    """Yield all moments of the step that goes from `start` to `end` seconds, kind after kind."""
    performance = cast.performance if cast.looks else None
    for moments in KINDS.values():
        for moment in moments(cast, step, start, end):
            if performance is None:
                yield moment
                continue
            segment, _ = performance.clip_moment(moment.time)
            yield replace(moment, clip=segment.use.name, speed=performance.speed_at(moment.time))
