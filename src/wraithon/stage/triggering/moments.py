"""Moments: what a trigger can hear in a step of the show, one function a kind."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING, Protocol

from wraithon.stage.triggering.moment import Hit, Moment

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Mapping

    import numpy as np
    from numpy.typing import NDArray

    from wraithon.stage.compiled_project import CompiledProject
    from wraithon.stage.driving.actor import Actor


class MomentSource(Protocol):
    """What moments ask of the show."""

    compiled: CompiledProject
    step_number: int
    keys: list[str]
    """Keys that were pressed for this step."""
    hits: list[Hit]
    """Hits that were taken in this step."""
    over: list[tuple[str, str | None]]
    """Effects of which a firing was over at the end of the step before, and where these were fired."""

    @property
    def actor(self) -> Actor | None:
        """The character; None where there is none."""

    def signals(self, number: int) -> Mapping[str, float]:
        """Return all signals at a step's moment."""

    def anchor_at(self, anchor: str | None, number: int) -> NDArray[np.float32]:
        """Return an anchor's world matrix (4, 4) at a step's moment."""


def _start(show: MomentSource, start: float, _end: float) -> Iterator[Moment]:
    """Yield the beginning of the show."""
    if show.step_number == 0:
        yield Moment(start, "start")


def _events(show: MomentSource, start: float, end: float) -> Iterator[Moment]:
    """Yield the events that the clips pass."""
    for passing in show.actor.passings(start, end) if show.actor else ():
        event = show.compiled.events.get(passing.mark.event)
        if event is not None:
            yield Moment(passing.time, "event", event.id, anchor=event.anchor)


def _keys(show: MomentSource, start: float, _end: float) -> Iterator[Moment]:
    """Yield the keys that were pressed."""
    for key in show.keys:
        yield Moment(start, "key", key)


def _hits(show: MomentSource, start: float, _end: float) -> Iterator[Moment]:
    """Yield the hits that the character took, anywhere and on its parts."""
    for hit in show.hits:
        for part in dict.fromkeys(("", hit.part)):
            yield Moment(start, "hit", part, strength=hit.strength, anchor=hit.anchor)


def _signals(show: MomentSource, start: float, end: float) -> Iterator[Moment]:
    """Yield the signals that come over a value, or under it, when they do."""
    wanted = show.compiled.waited.get("signal", ())
    if not wanted:
        return
    before, after = show.signals(show.step_number), show.signals(show.step_number + 1)
    for what in wanted:
        way, value, signal = what.split(" ", 2)
        mark, one, two = float(value), before.get(signal, 0.0), after.get(signal, 0.0)
        if (one < mark <= two) if way == "over" else (one > mark >= two):
            yield Moment(start + (end - start) * (mark - one) / (two - one), "signal", what, strength=two)


def _states(show: MomentSource, start: float, end: float) -> Iterator[Moment]:
    """Yield the states that the character leaves and enters."""
    if show.actor is None or "state" not in show.compiled.waited:
        return
    before, after = show.actor.stand(start), show.actor.stand(end)
    if before is not None and after is not None and before.state != after.state:
        fell = after.fell if after.state == "landing" else None
        yield Moment(start, "state", f"from {before.state}", strength=fell)
        yield Moment(start, "state", f"to {after.state}", strength=fell)


def _ends(show: MomentSource, start: float, _end: float) -> Iterator[Moment]:
    """Yield the firings that were over at the step's beginning."""
    for effect, anchor in show.over:
        yield Moment(start, "ended", effect, anchor=anchor)


def _seconds(show: MomentSource, start: float, end: float) -> Iterator[Moment]:
    """Yield the moments that come again and again, so many seconds apart; the first is the first interval's end."""
    for what in show.compiled.waited.get("seconds", ()):
        yield from (Moment(time, "seconds", what) for time in _multiples(float(what), start, end))


def _steps(show: MomentSource, start: float, end: float) -> Iterator[Moment]:
    """Yield the step itself, which lasts."""
    if "each step" in show.compiled.waited:
        yield Moment(start, "each step", until=end)


def _metres(show: MomentSource, start: float, end: float) -> Iterator[Moment]:
    """Yield the moments at which the character has come another so many metres."""
    wanted = show.compiled.waited.get("metres", ())
    if not wanted or show.actor is None:
        return
    first, last = show.actor.way_at(start), show.actor.way_at(end)
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
KINDS: dict[str, Callable[[MomentSource, float, float], Iterator[Moment]]] = {
    "start": _start,
    "event": _events,
    "key": _keys,
    "hit": _hits,
    "signal": _signals,
    "state": _states,
    "ended": _ends,
    "seconds": _seconds,
    "metres": _metres,
    "each step": _steps,
    "never": lambda *_: iter(()),
}
"""Kind to what yields its moments of a step, given its beginning and end."""


def moments_within(show: MomentSource, start: float, end: float) -> Iterator[Moment]:
    """Yield all moments of the step that goes from `start` to `end` seconds, kind after kind."""
    for moments in KINDS.values():
        for moment in moments(show, start, end):
            yield enriched(show, moment)


def enriched(show: MomentSource, moment: Moment) -> Moment:
    """Return a moment with what the character does then, and where, as far as any trigger asks."""
    actor, compiled = show.actor, show.compiled
    if not ((compiled.looks and (moment.kind, moment.what) in compiled.listeners) or moment.kind == "tried"):
        return moment
    if actor is None:
        return replace(moment, signals=show.signals(show.step_number + 1))
    stand = actor.stand(moment.time)
    x, _, z = show.anchor_at(moment.anchor, show.step_number + 1)[:3, 3].tolist()
    signals, ground = show.signals(show.step_number + 1), moment.ground or compiled.terrain.kind(x, z)
    if moment.kind == "state" and moment.strength is not None:
        signals = {**signals, "falling speed": moment.strength}  # as fast as it came down; now it stands
    text = compiled.project.stage.ground_label(ground)
    return replace(
        moment, clip=actor.clip_at(moment.time), speed=actor.speed_at(moment.time),
        grounded=stand.grounded if stand else True, ground=ground, ground_label=text,
        signals=signals,
    )  # fmt: skip
