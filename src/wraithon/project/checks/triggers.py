"""What is wrong with triggers: what they wait for and ask, and what their actions would do."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from wraithon.project.checks.finding import Change, Finding, Level, Remedy
from wraithon.project.checks.layers import Notice
from wraithon.project.checks.remembering import PerEffect
from wraithon.project.source import Heading, SkinSource
from wraithon.project.staging.actions import (
    PlayClip,
    PlaySound,
    RampSignal,
    SetSignal,
    StartEffect,
    StopEffect,
    WaitFor,
)
from wraithon.project.staging.signals import known_signals
from wraithon.project.staging.trigger_kinds import OnEnd, OnEvent, OnSignal

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from wraithon.project.character import Event
    from wraithon.project.effect import Effect
    from wraithon.project.project import Project
    from wraithon.project.staging.actions import Action
    from wraithon.project.staging.trigger_kinds import When
    from wraithon.project.trigger import Trigger


WHERE_IT_STANDS = frozenset({"state", "signal", "key", "hit", "ended"})
"""Kinds of moment that are the character's own: what they start is meant to be where it stands."""


class Known:
    """What triggers may refer to, looked up once.

    Parameters
    ----------
    project
        The project.
    clips
        The clips that the character on stage has; None where its file could not be read.
    sounds
        Names of the sounds there are; None leaves them unchecked.
    """

    def __init__(self, project: Project, clips: frozenset[str] | None, sounds: frozenset[str] | None = None) -> None:
        use = project.character
        self.clips, self.sounds = clips, sounds
        signals = known_signals(project)
        self.signals = set(signals)
        self.given = {key for key, kind in signals.items() if kind.given}
        lies = {project.stage.ground, *(piece.kind for piece in project.stage.pieces)}
        self.grounds = {kind if kind in project.stage.ground_kinds else "plain" for kind in lies}
        """Kinds of ground there are on the stage."""
        self.effects = {effect.id for effect in project.effects}
        self.started = {
            effect for trigger in project.triggers for action in trigger.starts for effect in action.effects
        }
        self.skinned = {e.id for e in project.effects if _skinned.of(e, (), partial(_is_skinned, e))}
        """Effects that an anchor means nothing to: all of them is born on the character."""
        self.events = {event.id: event for event in use.events} if use else {}
        self.anchors = {anchor.id for anchor in use.anchors} if use else set()
        self._clips = use.clips if use else ()
        self.marked = {mark.event for clip in self._clips for mark in clip.marks}

    def clips_of(self, event: str) -> set[str]:
        """Return the names of the clips that an event is marked on."""
        return {clip.name for clip in self._clips if any(mark.event == event for mark in clip.marks)}


_skinned: PerEffect[bool] = PerEffect()


def _is_skinned(effect: Effect) -> bool:
    """Return whether all of an effect is born on the character, and none of it hangs on an anchor."""
    return bool(effect.layers) and all(
        isinstance(layer.source, SkinSource)
        and layer.source.aim.heading is not Heading.FORWARD
        and not any(hasattr(force, "anchor") for force in layer.motion.forces)
        for layer in effect.layers
    )


def check_trigger(trigger: Trigger, known: Known) -> Iterator[Finding]:
    """Yield what will not do what a trigger seems to say."""
    if not trigger.enabled:
        return
    here = f'trigger "{trigger.name}"'
    event = known.events.get(trigger.when.event or "") if isinstance(trigger.when, OnEvent) else None
    for level, message in _when_messages(trigger.when, known):
        yield Finding(level, here, message, trigger.id)
    yield from _silent(trigger, event, known, here)
    if not trigger.response:
        yield Finding(Level.WARNING, here, "its response does nothing; add an action", trigger.id)
    for number, action in enumerate(trigger.response):
        if not isinstance(action, StartEffect | StopEffect):
            for message in ACTIONS.get(type(action), _nothing)(action, known):
                yield Finding(Level.ERROR, here, message, trigger.id)
            continue
        for message, remedy, level in _action_messages(action, event, known, trigger, number):
            yield Finding(level, here, message, trigger.id, remedy)


def _silent(trigger: Trigger, event: Event | None, known: Known, here: str) -> Iterator[Finding]:
    """Tell why a trigger can never respond."""
    only, found = trigger.only, []
    if only.chance == 0:
        found.append(("its chance is 0", "Let it always respond", Change("trigger", trigger.id, "only.chance", 1.0)))
    if only.fastest is not None and only.fastest < only.slowest:
        change = Change("trigger", trigger.id, "only.fastest", None)
        text = f"no speed is both {only.slowest:g} m/s or more and {only.fastest:g} m/s or less"
        found.append((text, "Forget the upper end", change))
    if event is not None and only.clips and not known.clips_of(event.id) & set(only.clips):
        change = Change("trigger", trigger.id, "only.clips", ())
        text = f'"{event.name}" is marked on none of the clips that it keeps to'
        found.append((text, "Let it respond in any clip", change))
    if only.signal and only.least > only.most:
        change = Change("trigger", trigger.id, "only.most", only.least)
        found.append(
            (f"nothing is both {only.least:g} or more and {only.most:g} or less", "Raise the upper end", change)
        )
    if only.grounds and not known.grounds & set(only.grounds):
        change = Change("trigger", trigger.id, "only.grounds", ())
        found.append(("the stage has no such ground", "Let it respond on any ground", change))
    for text, mends, change in found:
        yield Finding(Level.WARNING, here, f"it never responds: {text}", trigger.id, Remedy(mends, (change,)))


def _action_messages(
    action: StartEffect | StopEffect, event: Event | None, known: Known, trigger: Trigger, number: int
) -> Iterator[Notice]:
    remedy = Remedy("Have it name none", (Change("trigger", trigger.id, f"response.{number}.anchor", None),))
    if isinstance(action, StopEffect):
        if action.effect not in known.effects:
            yield Notice("an action stops no effect; pick one", None, Level.ERROR)
        elif action.effect not in known.started:
            yield Notice("an action stops an effect that no trigger starts")
        if action.anchor is not None and action.anchor not in known.anchors:
            yield Notice("an action's anchor is gone; pick another", remedy, Level.ERROR)
        return
    skinned = action.effect in known.skinned
    if action.effect not in known.effects:
        yield Notice("an action starts no effect; pick one", None, Level.ERROR)
    if action.anchor is not None and action.anchor not in known.anchors:
        yield Notice("an action's anchor is gone; pick another", remedy, Level.ERROR)
    elif action.anchor is not None and skinned:
        yield Notice("an action's anchor does nothing: its effect is emitted from the character", remedy)
    somewhere = event.anchor in known.anchors if event is not None else trigger.when.kind in WHERE_IT_STANDS
    if action.anchor is None and not skinned and not somewhere:
        yield Notice("neither the action nor its event names an anchor: it will start at the character's root")


def _when_messages(when: When, known: Known) -> Iterator[tuple[Level, str]]:
    """Yield what is wrong with what is waited for, and how much."""
    event = known.events.get(when.event or "") if isinstance(when, OnEvent) else None
    if isinstance(when, OnEvent) and event is None:
        yield Level.ERROR, "it waits for no event; pick one"
    elif event is not None and event.id not in known.marked:
        yield Level.WARNING, f'no clip has a mark of "{event.name}" yet'
    if isinstance(when, OnSignal) and when.signal not in known.signals:
        yield Level.ERROR, "the signal it waits for is gone; pick another"
    if isinstance(when, OnEnd) and when.effect not in known.effects:
        yield Level.ERROR, "it waits for the end of no effect; pick one"


def _nothing(_action: Action, _known: Known) -> Iterator[str]:
    yield from ()


def _play_clip(action: PlayClip, known: Known) -> Iterator[str]:
    if not action.clip:
        yield "an action plays no clip; pick one"
    elif known.clips is not None and action.clip not in known.clips:
        yield f'an action plays "{action.clip}", which the character has not; pick another clip'


def _set_signal(action: SetSignal | RampSignal, known: Known) -> Iterator[str]:
    if action.signal not in known.given:
        yield "an action sets a signal that is gone, or that is measured; pick another"


def _sound(action: PlaySound, known: Known) -> Iterator[str]:
    if not action.sound:
        yield "an action plays no sound; pick one, or drop a .wav file on the window"
    elif known.sounds is not None and action.sound not in known.sounds:
        yield f'its sound "{action.sound}" is not there; drop the file on the window again, or pick another'


def _wait(action: WaitFor, known: Known) -> Iterator[str]:
    if action.signal and action.signal not in known.signals:
        yield "an action waits for a signal that is gone: what comes after it never does"


ACTIONS: dict[type, Callable[..., Iterator[str]]] = {
    PlayClip: _play_clip, SetSignal: _set_signal, RampSignal: _set_signal, PlaySound: _sound, WaitFor: _wait,
}  # fmt: skip
"""Model of an action to what may be wrong with it."""
