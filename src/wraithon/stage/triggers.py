"""Triggers: moments come in, what is to be done comes out, and each refusal has its reason."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

from wraithon.project.trigger import MOST_WAITING

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Mapping, Sequence

    from wraithon.project.trigger import StartEffect, Trigger
    from wraithon.stage.moment import Moment

__all__ = [
    "CONDITIONS",
    "MOST_HEARD",
    "Listeners",
    "Refusal",
    "TriggerState",
    "Triggers",
    "Waiting",
    "listeners_of",
]

MOST_HEARD = 2_000
"""Triggers that may respond in one step of the show."""
MOST_REFUSALS = 500
"""Refusals that are remembered, the latest ones."""

Listeners = dict[tuple[str, str], tuple["Trigger", ...]]
"""Kind of moment and which of it, to the triggers that wait for it, in their order."""


@dataclass(frozen=True)
class Waiting:
    """A step of a response that is due at a moment of the show."""

    due: float
    trigger: str
    step: StartEffect
    anchor: str | None


@dataclass(frozen=True)
class TriggerState:
    """What a trigger remembers: how often it has fired, and when last, in seconds of the show."""

    fired: int = 0
    last: float = -math.inf


@dataclass(frozen=True)
class Refusal:
    """A moment that a trigger heard and did nothing about, and why."""

    time: float
    trigger: str
    reason: str


def _listens(trigger: Trigger, _moment: Moment, _state: TriggerState) -> str:
    return "" if trigger.enabled else "it does not listen"


CONDITIONS: tuple[Callable[[Trigger, Moment, TriggerState], str], ...] = (_listens,)
"""What must hold for a trigger to respond: each returns why not, or nothing."""


def listeners_of(triggers: Iterable[Trigger]) -> Listeners:
    """Return which triggers wait for what."""
    found: dict[tuple[str, str], list[Trigger]] = {}
    for trigger in triggers:
        if trigger.when.what is not None:
            found.setdefault((trigger.when.kind, trigger.when.what), []).append(trigger)
    return {key: tuple(held) for key, held in found.items()}


class Triggers:
    """What all triggers of a show remember. Small state, copied with the show."""

    def __init__(self) -> None:
        self._states: dict[str, TriggerState] = {}
        self._refusals: list[Refusal] = []

    @property
    def states(self) -> Mapping[str, TriggerState]:
        """Trigger id to what it remembers; those that never fired are left out."""
        return self._states

    @property
    def refusals(self) -> Sequence[Refusal]:
        """What was refused lately, in order."""
        return self._refusals

    def hear(self, listeners: Listeners, moments: Iterable[Moment], room: int = MOST_WAITING) -> list[Waiting]:
        """Return the steps of the responses to some moments, moment after moment and trigger after trigger.

        At most `room` of them may wait, and no more than MOST_HEARD triggers respond within a step of the show.
        """
        due: list[Waiting] = []
        heard = 0
        for moment in moments:
            for trigger in listeners.get((moment.kind, moment.what), ()):
                heard += 1
                if heard > MOST_HEARD or len(due) + len(trigger.response) > room:
                    reason = "too much happens at once" if heard > MOST_HEARD else "too many steps wait already"
                    self.refuse(moment.time, trigger.id, reason)
                    return due
                state = self._states.get(trigger.id, TriggerState())
                reason = next(filter(None, (holds(trigger, moment, state) for holds in CONDITIONS)), "")
                if reason:
                    self.refuse(moment.time, trigger.id, reason)
                    continue
                self._states[trigger.id] = TriggerState(state.fired + 1, moment.time)
                due += (_waiting(trigger, step, moment) for step in trigger.response)
        return due

    def refuse(self, time: float, trigger: str, reason: str) -> None:
        """Remember that a trigger's response was refused."""
        self._refusals.append(Refusal(time, trigger, reason))
        del self._refusals[: max(0, len(self._refusals) - MOST_REFUSALS)]

    def copy(self) -> Triggers:
        """Return an independent copy."""
        twin = Triggers()
        twin._states, twin._refusals = dict(self._states), list(self._refusals)  # its own kind
        return twin


def _waiting(trigger: Trigger, step: StartEffect, moment: Moment) -> Waiting:
    anchor = step.anchor if step.anchor is not None else moment.anchor
    return Waiting(moment.time + step.after, trigger.id, step, anchor)
