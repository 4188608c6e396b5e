"""How many firings of an effect may live at once, as far as triggers tell: automatic limits are worked out by it."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, NamedTuple

from wraithon.project.staging.trigger_kinds import AtStart, EachStep, EveryMetres, EverySeconds, Never, OnEvent

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wraithon.project.project import Project
    from wraithon.project.trigger import Trigger


GUESSED = {"key": 4.0, "hit": 4.0, "state": 2.0, "signal": 2.0, "ended": 2.0}
"""Kind of moment to how many a second there may be, where only a guess can tell."""
FASTEST = 10.0
"""Metres a second that a character is taken to go at most."""
MAXIMUM = 512
"""Firings that live at once at most (see `stage.show`)."""


class Rate(NamedTuple):
    """How often something starts an effect: `times` within `seconds`, again and again; `maximum` in all."""

    times: int
    seconds: float
    maximum: float = math.inf

    def within(self, seconds: float) -> float:
        """Return how often at most within some seconds; infinite seconds are as long as there are firings."""
        if not self.seconds:
            return min(self.maximum, MAXIMUM)
        rounds = MAXIMUM if math.isinf(seconds) else math.floor(seconds / self.seconds + 1e-9) + 1
        return min(self.maximum, self.times * rounds, MAXIMUM)


def rates(project: Project, clips: Mapping[str, float]) -> dict[str, tuple[Rate, ...]]:
    """Return how often each effect is started, by its id.

    Parameters
    ----------
    project
        The project.
    clips
        Clip name to its length in seconds, of the character on stage.
    """
    found: dict[str, list[Rate]] = {}
    for trigger in project.triggers:
        if not trigger.enabled or not trigger.starts:
            continue
        of_trigger = _rates_of(project, trigger, clips)
        for action in trigger.starts:
            for effect in dict.fromkeys(action.effects):
                found.setdefault(effect, []).extend(of_trigger)
    return {effect: tuple(each) for effect, each in found.items()}


def overlapping(of_clips: tuple[Rate, ...], seconds: float) -> int:
    """Return how many firings may live at once whose particles are gone after some seconds; one at least."""
    if math.isinf(seconds):
        return max(1, len(of_clips))  # each goes on until it is stopped: how many there are is told by a finding
    return max(1, min(MAXIMUM, math.ceil(sum(rate.within(seconds) for rate in of_clips))))


def _rates_of(project: Project, trigger: Trigger, clips: Mapping[str, float]) -> list[Rate]:
    often = trigger.often
    maximum = float(min(often.times or math.inf, often.alive or math.inf))
    apart = often.cool_down * (1 - often.jitter)
    when, every = trigger.when, often.every
    if isinstance(when, AtStart | Never):
        return [Rate(1, math.inf, min(maximum, 1))]
    if isinstance(when, OnEvent):
        found = _marks(project, trigger, clips)
    elif isinstance(when, EverySeconds):
        found = [Rate(1, when.seconds)]
    elif isinstance(when, EveryMetres):
        found = [Rate(1, when.metres / FASTEST)]
    elif isinstance(when, EachStep):
        found = [Rate(1, max(apart, 1 / project.step_rate))]
    else:
        found = [Rate(1, 1 / GUESSED[when.kind])]
    return [Rate(rate.times, max(rate.seconds, apart * rate.times) * every, maximum) for rate in found]


def _marks(project: Project, trigger: Trigger, clips: Mapping[str, float]) -> list[Rate]:
    """Return how often the clip passes the event in which it comes most often: clips play one after another."""
    use, event = project.character, trigger.when.what
    found = []
    for clip in use.clips if use is not None else ():
        count = sum(mark.event == event for mark in clip.marks)
        if count and (not trigger.only.clips or clip.name in trigger.only.clips):
            found.append(Rate(count, max(clips.get(clip.name, 1.0), 1 / 60)))
    return [max(found, key=lambda rate: rate.times / rate.seconds)] if found else []
