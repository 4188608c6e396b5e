"""Triggers as sentences: when, only if, how often, and then what."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.numeric.arithmetic import ordinal
from wraithon.project.ending import AtEnd
from wraithon.project.staging.actions import (
    ColourShift,
    Dissolving,
    Hide,
    HoldStill,
    LogLine,
    PlayClip,
    PlaySound,
    RampSignal,
    SetSignal,
    Shake,
    SlowMotion,
    StartEffect,
    StopEffect,
    WaitFor,
)
from wraithon.project.staging.signals import known_signals
from wraithon.project.staging.trigger_kinds import (
    AtStart,
    EachStep,
    EveryMetres,
    EverySeconds,
    Never,
    OnEnd,
    OnEvent,
    OnHit,
    OnKey,
    OnSignal,
    OnState,
)

if TYPE_CHECKING:
    from collections.abc import Callable

    from wraithon.project.ending import Ending
    from wraithon.project.project import Project
    from wraithon.project.staging.actions import Action, EffectAction
    from wraithon.project.trigger import Often, Only, Trigger


def sentence(project: Project, trigger: Trigger) -> str:
    """Return a trigger as one sentence."""
    parts = [WHENS[type(trigger.when)](project, trigger.when), *_only(project, trigger.only)]
    conditions = ", ".join(parts) + _often(trigger.often)
    actions = [_action(project, action) for action in trigger.response]
    return f"{conditions}: {'; '.join(actions) if actions else 'nothing yet'}."


def _on_event(project: Project, when: OnEvent) -> str:
    event = project.event(when.event)
    return f"When a clip reaches {event.name}" if event else "When a clip reaches an event that is not chosen yet"


def _on_signal(project: Project, when: OnSignal) -> str:
    way, beyond = ("falls", "less") if when.falls else ("rises", "more")
    name, value = signal_name(project, when.signal), amount(project, when.signal, when.value)
    return f"When {name} {way} to {value} or {beyond}"


def _on_end(project: Project, when: OnEnd) -> str:
    effect = project.effect(when.effect)
    return f"When {effect.name} ends" if effect else "When an effect ends that is not chosen yet"


WHENS: dict[type, Callable[..., str]] = {
    AtStart: lambda _project, _when: "When the show starts",
    OnEvent: _on_event,
    OnKey: lambda _project, when: f"On key {when.key}",
    OnSignal: _on_signal,
    OnHit: lambda _project, when: f"When the character is hit{f' on its {when.part}' if when.part else ''}",
    OnState: lambda _project, when: (
        f"When it is no longer {when.state}" if when.leaves else f"When the character is {when.state}"
    ),
    OnEnd: _on_end,
    EverySeconds: lambda _project, when: f"Every {when.seconds:g} s",
    EveryMetres: lambda _project, when: f"Every {when.metres:g} m of the way",
    EachStep: lambda _project, _when: "At every step",
    Never: lambda _project, _when: "Never by itself",
}
"""Model of a kind of moment to when that is, in words."""


def signal_name(project: Project, signal: str) -> str:
    """Return what a signal is called."""
    known = known_signals(project).get(signal)
    return known.text if known else "a signal that is gone"


def amount(project: Project, signal: str, value: float) -> str:
    """Return a value of a signal with its unit."""
    known = known_signals(project).get(signal)
    return f"{value:g} {known.unit if known else ''}".rstrip()


def _only(project: Project, only: Only) -> list[str]:
    found = []
    if only.clips:
        found.append(f"while {_either(only.clips)} plays")
    if only.slowest and only.fastest is not None:
        found.append(f"at {only.slowest:g} to {only.fastest:g} m/s")
    elif only.slowest:
        found.append(f"at {only.slowest:g} m/s or more")
    elif only.fastest is not None:
        found.append(f"at {only.fastest:g} m/s or less")
    if only.where != "anywhere":
        found.append(only.where)
    if only.grounds:
        found.append(f"on {_either(tuple(map(project.stage.ground_label, only.grounds)))}")
    if only.signal:
        low, high = (amount(project, only.signal, value) for value in (only.least, only.most))
        found.append(f"with {signal_name(project, only.signal)} from {low} to {high}")
    if only.chance < 1:
        found.append(f"by a chance of {only.chance:.0%}")
    return found


def _either(names: tuple[str, ...]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} or {names[-1]}"


def _often(often: Often) -> str:
    text = []
    if often.every > 1:
        text.append(f"every {ordinal(often.every)} time")
    if often.cool_down:
        around = f" (± {often.jitter:.0%})" if often.jitter else ""
        text.append(f"no sooner than {often.cool_down:g} s after the last{around}")
    if often.times is not None:
        text.append("once" if often.times == 1 else f"{often.times} times in all")
    if often.alive is not None:
        text.append(f"while fewer than {often.alive} of its own live")
    return ", " + ", ".join(text) if text else ""


def _action(project: Project, action: Action) -> str:
    after = f" after {action.after:g} s" if action.after else ""
    needed = " (what follows needs it)" if action.needed else ""
    return f"{action_label(project, action)}{after}{needed}"


def action_label(project: Project, action: Action) -> str:
    """Return what an action of a response does."""
    return DOES[type(action)](project, action)


def _named(project: Project, action: EffectAction) -> str:
    effect = project.effect(action.effect)
    return effect.name if effect else "an effect that is not chosen yet"


def _at(project: Project, action: EffectAction) -> str:
    anchor = project.anchor(action.anchor)
    return f" at {anchor.name}" if anchor else ""


def _start(project: Project, action: StartEffect) -> str:
    effect = project.effect(action.effect)
    kinds = [project.stage.ground_label(each.ground) for each in action.grounds]
    other = f" (otherwise on {_either(tuple(kinds))})" if kinds else ""
    dials = {dial.id: dial.name for dial in effect.dials} if effect else {}
    scaled: list[str] = [scaling.what for scaling in action.scalings]
    scaled += [dials.get(turn.dial, "a dial that is gone") for turn in action.turns]
    by = f", its {' and '.join(scaled)} by strength" if scaled else ""
    return f"start {_named(project, action)}{other}{_at(project, action)}{by}"


def _stop(project: Project, action: StopEffect) -> str:
    ending = f" ({ENDS[action.ending.what](action.ending)})" if action.ending else ""
    return f"stop {_named(project, action)}{_at(project, action)}{ending}"


ENDS: dict[AtEnd, Callable[[Ending], str]] = {
    AtEnd.LIVE_OUT: lambda _ending: "what lives lives out its time",
    AtEnd.RELEASE: lambda _ending: "what lives is released",
    AtEnd.FADE: lambda ending: f"what lives fades out in {ending.seconds:g} s",
    AtEnd.KILL: lambda _ending: "what lives is killed",
}
"""What becomes of living particles, in words."""


def _wait(project: Project, action: WaitFor) -> str:
    if not action.signal:
        return "wait for the clip to end"
    way = "below" if action.falls else "above"
    return f"wait for {signal_name(project, action.signal)} {way} {amount(project, action.signal, action.value)}"


DOES: dict[type, Callable[..., str]] = {
    StartEffect: _start,
    StopEffect: _stop,
    PlayClip: lambda _project, action: f"play {action.clip or 'a clip that is not chosen yet'}",
    Dissolving: lambda _project, action: f"dissolve to {action.to:.0%} over {action.seconds:g} s",
    Hide: lambda _project, action: "take the character away" if action.hidden else "show the character again",
    HoldStill: lambda _project, action: f"hold still for {action.seconds:g} s",
    Shake: lambda _project, action: f"shake the camera by {action.degrees:g}° for {action.seconds:g} s",
    ColourShift: lambda _project, action: f"shift the colours for {action.seconds:g} s",
    SlowMotion: lambda _project, action: f"go at {action.tempo:.0%} speed for {action.seconds:g} s",
    SetSignal: lambda project, action: f"set {signal_name(project, action.signal)} to {action.value:g}",
    RampSignal: lambda project, action: (
        f"bring {signal_name(project, action.signal)} to {action.to:g} over {action.seconds:g} s"
    ),
    PlaySound: lambda _project, action: f"play {action.sound or 'a sound that is not chosen yet'}",
    LogLine: lambda _project, action: f"log “{action.text}”",
    WaitFor: _wait,
}
"""Model of an action to what it does, in words."""
