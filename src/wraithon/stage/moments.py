"""Moments: what a trigger can hear in a step of the show, one function a kind."""

from __future__ import annotations

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


KINDS: dict[str, Callable[[Cast, int, float, float], Iterator[Moment]]] = {"start": _start, "event": _events}
"""Kind to what yields its moments of a step, given its number, beginning and end."""


def moments_within(cast: Cast, step: int, start: float, end: float) -> Iterator[Moment]:
    """Yield all moments of the step that goes from `start` to `end` seconds, kind after kind."""
    for moments in KINDS.values():
        yield from moments(cast, step, start, end)
