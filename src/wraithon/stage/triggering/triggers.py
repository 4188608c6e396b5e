"""Triggers: moments come in, what is to be done comes out, and each refusal has its reason."""

from __future__ import annotations

import hashlib
import math
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import TYPE_CHECKING, NamedTuple

from wraithon.numeric.arithmetic import ordinal
from wraithon.project.staging.actions import WaitFor
from wraithon.project.trigger import MAX_WAITING

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Mapping, Sequence

    from wraithon.project.staging.actions import Action
    from wraithon.project.trigger import Trigger
    from wraithon.stage.triggering.moment import Moment


MAX_HEARD, MAX_DONE = 1_200, 2_000
"""Triggers that may be asked, and actions that may be done, in one step of the show."""
MAX_RESPONSES = 100
"""Responses that are remembered, the latest ones."""
EXACT = 1e-9
"""Seconds by which rounding may be off."""
MAX_REFUSALS = 500
"""Refusals that are remembered, the latest ones."""

Listeners = dict[tuple[str, str], tuple["Trigger", ...]]
"""Kind of moment and which of it, to the triggers that wait for it, in their order."""


@dataclass(frozen=True)
class ScheduledAction:
    """An action of a response that is due at a moment of the show."""

    due: float
    trigger: str
    action: Action
    anchor: str | None
    strength: float = 1.0
    """How strong the moment was, from 0 to 1."""
    ground: str = ""
    """The kind of ground where it happened."""
    after: tuple[Action, ...] = ()
    """What comes once it is over, where it waits for something."""
    response: tuple[str, float] = ("", 0.0)
    """The response it is of: the trigger, and the moment that this responded to."""
    number: int = 0
    """Which of its actions it is."""

    def follows(self, other: ScheduledAction) -> bool:
        """Return whether it comes below another action of one response."""
        return self.response == other.response and self.number > other.number


@dataclass(frozen=True)
class TriggerState:
    """What a trigger remembers: how often it has fired, and when last, in seconds of the show; and what it asks."""

    fired: int = 0
    last: float = -math.inf
    heard: int = field(default=0, compare=False)
    """How many moments there were to which it might have responded."""
    alive: int = field(default=0, compare=False)
    """Firings of its own that live now, where it asks."""
    rolls: tuple[float, float] = field(default=(0.0, 0.5), compare=False)
    """What chance says for the next response, and for how long it cools down after the last one; 0 to 1."""


@dataclass(frozen=True)
class Refusal:
    """A moment that a trigger heard and did nothing about, and why."""

    time: float
    trigger: str
    reason: str


class Response(NamedTuple):
    """A moment that a trigger responded to, and where that was."""

    time: float
    trigger: str
    anchor: str | None


def _listens(trigger: Trigger, _moment: Moment, _state: TriggerState) -> str:
    return "" if trigger.enabled else "it does not listen"


def _plays(trigger: Trigger, moment: Moment, _state: TriggerState) -> str:
    clips = trigger.only.clips
    return (
        "" if not clips or moment.clip in clips else f"{moment.clip or 'no clip'} plays, which is none of its clips"
    )


def _goes(trigger: Trigger, moment: Moment, _state: TriggerState) -> str:
    low, high = trigger.only.slowest, trigger.only.fastest
    if moment.speed < low:
        return f"the character goes at {moment.speed:.2f} m/s, slower than {low:g}"
    return (
        f"the character goes at {moment.speed:.2f} m/s, faster than {high:g}"
        if high is not None and moment.speed > high
        else ""
    )


def _stands(trigger: Trigger, moment: Moment, _state: TriggerState) -> str:
    where = trigger.only.where
    if where == "on the ground" and not moment.grounded:
        return "the character is in the air"
    return "the character is on the ground" if where == "in the air" and moment.grounded else ""


def _kind_of_ground(trigger: Trigger, moment: Moment, _state: TriggerState) -> str:
    grounds = trigger.only.grounds
    if not grounds or moment.ground in grounds:
        return ""
    return f"the ground there is {moment.ground_label or moment.ground or 'of no kind'}, which is none of its kinds"


def _signal(trigger: Trigger, moment: Moment, _state: TriggerState) -> str:
    only = trigger.only
    if not only.signal:
        return ""
    value = moment.signals.get(only.signal)
    if value is None:
        return "the signal it asks for is gone"
    within = only.least - EXACT <= value <= only.most + EXACT
    return "" if within else f"its signal is {value:.2f}, not {only.least:g} to {only.most:g}"


def _every(trigger: Trigger, _moment: Moment, state: TriggerState) -> str:
    left = -state.heard % trigger.often.every
    return f"it takes every {ordinal(trigger.often.every)}: {left} more to come" if left else ""


def _cool_down(trigger: Trigger, state: TriggerState) -> float:
    """Return the seconds that a trigger cools down for after it has responded last."""
    return trigger.often.cool_down * (1 + trigger.often.jitter * (2 * state.rolls[1] - 1))


def _cooled(trigger: Trigger, moment: Moment, state: TriggerState) -> str:
    left = state.last + _cool_down(trigger, state) - moment.time
    return f"it cools down for another {left:.2f} s" if left > EXACT else ""


def _times(trigger: Trigger, _moment: Moment, state: TriggerState) -> str:
    maximum = trigger.often.times
    return (
        f"it has responded {state.fired} times, as often as it may"
        if maximum is not None and state.fired >= maximum
        else ""
    )


def _living(trigger: Trigger, _moment: Moment, state: TriggerState) -> str:
    maximum = trigger.often.alive
    return f"{state.alive} firings of its own live already" if maximum is not None and state.alive >= maximum else ""


def _chance(trigger: Trigger, _moment: Moment, state: TriggerState) -> str:
    chance = trigger.only.chance
    return "" if chance >= 1 or state.rolls[0] < chance else f"chance was against it ({chance:.0%})"


ONLY = (_listens, _plays, _goes, _stands, _kind_of_ground, _signal)
"""What has to be so for a moment to count at all."""
CONDITIONS: tuple[Callable[[Trigger, Moment, TriggerState], str], ...] = (
    *ONLY, _every, _cooled, _times, _living, _chance,
)  # fmt: skip
"""What must hold for a trigger to respond: each returns why not, or nothing."""


def listeners_of(triggers: Iterable[Trigger]) -> Listeners:
    """Return which triggers wait for what."""
    found: dict[tuple[str, str], list[Trigger]] = {}
    for trigger in triggers:
        if trigger.when.what is not None:
            found.setdefault((trigger.when.kind, trigger.when.what), []).append(trigger)
    return {key: tuple(listening) for key, listening in found.items()}


class Triggers:
    """What all triggers of a show remember. Small state, copied with the show."""

    def __init__(self) -> None:
        self._states: dict[str, TriggerState] = {}
        self._refusals: list[Refusal] = []
        self._responses: list[Response] = []

    @property
    def responses(self) -> Sequence[Response]:
        """What was responded to lately, in order."""
        return self._responses

    @property
    def states(self) -> Mapping[str, TriggerState]:
        """Trigger id to what it remembers; those that never fired are left out."""
        return self._states

    @property
    def refusals(self) -> Sequence[Refusal]:
        """What was refused lately, in order."""
        return self._refusals

    def respond(
        self,
        listeners: Listeners,
        moments: Iterable[Moment],
        room: int = MAX_WAITING,
        living: Callable[[str], int] = lambda _trigger: 0,
        seed: int = 0,
    ) -> list[ScheduledAction]:
        """Return the actions of the responses to some moments, moment after moment and trigger after trigger.

        At most `room` of them may wait, and no more than MAX_HEARD triggers respond within a step of the show.
        `living` returns how many firings of a trigger's own live; chance goes by the `seed`.
        """
        due: list[ScheduledAction] = []
        heard = 0
        for moment in moments:
            for trigger in listeners.get((moment.kind, moment.what), ()):
                now: Moment | None = moment
                while now is not None:
                    heard += 1
                    if heard > MAX_HEARD or len(due) + len(trigger.response) > room:
                        reason = f"more than {MAX_WAITING:,} actions wait already"
                        if heard > MAX_HEARD:
                            reason = f"more than {MAX_HEARD:,} moments come in one step of the show"
                        self.refuse(now.time, trigger.id, reason)
                        return due
                    state = _asked(trigger, self._states.get(trigger.id, TriggerState()), due, living, seed)
                    now = _as_soon_as_cooled(trigger, now, state)
                    actions = self._answer(trigger, now, state)
                    due += actions or ()
                    now = _again(trigger, now) if actions is not None else None
        return due

    def _answer(self, trigger: Trigger, moment: Moment, state: TriggerState) -> list[ScheduledAction] | None:
        """Return the actions of a trigger's response to a moment; None where it is refused, with the reason noted."""
        no = ((holds, why) for holds in CONDITIONS if (why := holds(trigger, moment, state)))
        refused = next(no, None)
        if refused is not None:
            self.refuse(moment.time, trigger.id, refused[1], again=moment.until is not None)
            if refused[0] not in ONLY:
                self._states[trigger.id] = replace(state, heard=state.heard + 1)
            return None
        self._states[trigger.id] = replace(state, fired=state.fired + 1, last=moment.time, heard=state.heard + 1)
        self.note(moment.time, trigger.id, moment.anchor)
        return schedule(trigger, moment)

    def note(self, time: float, trigger: str, anchor: str | None) -> None:
        """Remember that a trigger responded."""
        self._responses.append(Response(time, trigger, anchor))
        del self._responses[: max(0, len(self._responses) - MAX_RESPONSES)]

    def refuse(self, time: float, trigger: str, reason: str, *, again: bool = False) -> None:
        """Remember that a trigger's response was refused; where it is asked `again` at every step, the last time."""
        if again:
            self._refusals = [refusal for refusal in self._refusals if refusal.trigger != trigger]
        self._refusals.append(Refusal(time, trigger, reason))
        if len(self._refusals) > MAX_REFUSALS:
            del self._refusals[self._minimum_report()]

    def _minimum_report(self) -> int:
        """Return which refusal goes first: one that is told once more right behind it, or the oldest."""
        pairs = enumerate(pairwise(self._refusals))
        alike = (k for k, (one, two) in pairs if (one.trigger, one.reason) == (two.trigger, two.reason))
        return next(alike, 0)

    def copy(self) -> Triggers:
        """Return an independent copy."""
        twin = Triggers()
        twin._states, twin._refusals = dict(self._states), list(self._refusals)  # its own kind
        twin._responses = list(self._responses)
        return twin


def _as_soon_as_cooled(trigger: Trigger, moment: Moment, state: TriggerState) -> Moment:
    """Return a moment that may come later in its step as soon as a trigger has cooled down, else as it is."""
    if moment.until is None:
        return moment
    ready = state.last + _cool_down(trigger, state)
    return replace(moment, time=ready) if moment.time < ready < moment.until - EXACT else moment


def _again(trigger: Trigger, moment: Moment) -> Moment | None:
    """Return the rest of a moment that lasts, where a trigger that has responded may do so in it once more."""
    again = moment.until is not None and trigger.often.cool_down * (1 - trigger.often.jitter) > 0
    left = moment.until is not None and moment.time + trigger.often.cool_down < moment.until - EXACT
    return moment if again and left else None


def _asked(
    trigger: Trigger, state: TriggerState, due: Sequence[ScheduledAction], living: Callable[[str], int], seed: int
) -> TriggerState:
    """Return a trigger's state with what it asks of chance, and of what lives."""
    if trigger.only.chance < 1 or trigger.often.jitter:
        state = replace(
            state, rolls=(_roll(seed, trigger.id, state.heard), _roll(seed, trigger.id, -state.fired - 1))
        )
    if trigger.often.alive is not None:
        alive = living(trigger.id) + sum(waiting.trigger == trigger.id for waiting in due)
        state = replace(state, alive=alive)
    return state


def _roll(seed: int, trigger: str, number: int) -> float:
    """Return a number in [0, 1) that belongs to one trigger and one number."""
    key = f"{seed}\0{trigger}\0{number}".encode(errors="backslashreplace")
    return int.from_bytes(hashlib.blake2b(key, digest_size=6).digest(), "little") / 2**48


def schedule(trigger: Trigger, moment: Moment) -> list[ScheduledAction]:
    """Return the actions of a trigger's response to a moment; what stands below a wait comes with that."""
    rule = trigger.strength
    measured = moment.signals.get(rule.signal, 0.0) if rule.signal else moment.strength
    strength = 1.0 if measured is None else rule.share(measured)
    if moment.kind == "hit" and not rule.signal:
        strength = moment.strength or 0.0  # it is a share of the hardest already
    begun = ScheduledAction(
        moment.time, trigger.id, WaitFor(), moment.anchor, strength, moment.ground, trigger.response,
        (trigger.id, moment.time), -1,
    )  # fmt: skip
    return due_actions(begun, moment.time)


def due_actions(begun: ScheduledAction, time: float) -> list[ScheduledAction]:
    """Return what comes after a wait as it is due, from a moment of the show; what is below a further wait waits."""
    found = []
    for number, action in enumerate(begun.after):
        waits = isinstance(action, WaitFor)
        at = getattr(action, "anchor", None)
        found.append(ScheduledAction(
            time + action.after, begun.trigger, action, begun.anchor if at is None else at, begun.strength,
            begun.ground,
            begun.after[number + 1 :] if waits else (), begun.response, begun.number + 1 + number,
        ))  # fmt: skip
        if waits:
            break
    return found


def crossed(wait: Action, before: Mapping[str, float], after: Mapping[str, float]) -> bool:
    """Return whether the signal that an action waits for crossed its value from one moment to another."""
    assert isinstance(wait, WaitFor)  # only that one waits
    one, two = (values.get(wait.signal, 0.0) for values in (before, after))
    return (one > wait.value >= two) if wait.falls else (one < wait.value <= two)
