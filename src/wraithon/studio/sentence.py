"""Triggers as sentences: when, only if, how often, and then what."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.arithmetic import ordinal
from wraithon.project.staging.signals import known_signals
from wraithon.project.staging.steps import (
    ColourShift,
    Dissolving,
    Hide,
    HoldStill,
    PlayClip,
    PlaySound,
    RampSignal,
    Say,
    SetSignal,
    Shake,
    SlowMotion,
    StartEffect,
    StopEffect,
    WaitFor,
)
from wraithon.project.staging.whens import (
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

    from wraithon.project.project import Project
    from wraithon.project.staging.steps import EffectStep, Step
    from wraithon.project.trigger import Often, Only, Trigger

__all__ = ["amount", "sentence", "signal_name", "step_words"]


def sentence(project: Project, trigger: Trigger) -> str:
    """Return a trigger as one sentence."""
    parts = [WHENS[type(trigger.when)](project, trigger.when), *_only(project, trigger.only)]
    told = ", ".join(parts) + _often(trigger.often)
    steps = [_step(project, step) for step in trigger.response]
    return f"{told}: {'; '.join(steps) if steps else 'nothing yet'}."


def _on_event(project: Project, when: OnEvent) -> str:
    event = project.event(when.event)
    return f"When a clip passes {event.name}" if event else "When an event passes that is not chosen yet"


def _on_signal(project: Project, when: OnSignal) -> str:
    way, beyond = ("falls", "less") if when.falls else ("rises", "more")
    name, value = signal_name(project, when.signal), amount(project, when.signal, when.value)
    return f"When {name} {way} to {value} or {beyond}"


def _on_end(project: Project, when: OnEnd) -> str:
    effect = project.effect(when.effect)
    return f"When {effect.name} is over" if effect else "When an effect is over that is not chosen yet"


WHENS: dict[type, Callable[..., str]] = {
    AtStart: lambda _project, _when: "When the show begins",
    OnEvent: _on_event,
    OnKey: lambda _project, when: f"When key {when.key} is pressed",
    OnSignal: _on_signal,
    OnHit: lambda _project, when: f"When the character is hit{f' on its {when.part}' if when.part else ''}",
    OnState: lambda _project, when: (
        f"When it is no longer {when.state}" if when.leaves else f"When the character is {when.state}"
    ),
    OnEnd: _on_end,
    EverySeconds: lambda _project, when: f"Every {when.seconds:g} s",
    EveryMetres: lambda _project, when: f"Every {when.metres:g} m of the way",
    EachStep: lambda _project, _when: "At each step",
    Never: lambda _project, _when: "Never by itself",
}
"""Model of a kind of moment to when that is, in words."""


def signal_name(project: Project, signal: str) -> str:
    """Return what a signal is called."""
    known = known_signals(project).get(signal)
    return known.words if known else "a signal that is gone"


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
        found.append(f"on {_either(tuple(map(project.stage.ground_words, only.grounds)))}")
    if only.signal:
        low, high = (amount(project, only.signal, value) for value in (only.least, only.most))
        found.append(f"with {signal_name(project, only.signal)} from {low} to {high}")
    if only.chance < 1:
        found.append(f"by a chance of {only.chance:.0%}")
    return found


def _either(names: tuple[str, ...]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} or {names[-1]}"


def _often(often: Often) -> str:
    words = []
    if often.every > 1:
        words.append(f"every {ordinal(often.every)} time")
    if often.cool_down:
        around = f" (± {often.jitter:.0%})" if often.jitter else ""
        words.append(f"no sooner than {often.cool_down:g} s after the last{around}")
    if often.times is not None:
        words.append("once" if often.times == 1 else f"{often.times} times in all")
    if often.alive is not None:
        words.append(f"while fewer than {often.alive} of its own live")
    return ", " + ", ".join(words) if words else ""


def _step(project: Project, step: Step) -> str:
    after = f" after {step.after:g} s" if step.after else ""
    needed = " (what follows needs it)" if step.needed else ""
    return f"{step_words(project, step)}{after}{needed}"


def step_words(project: Project, step: Step) -> str:
    """Return what a step of a response does."""
    return DOES[type(step)](project, step)


def _about_effect(project: Project, step: EffectStep) -> str:
    effect, anchor = project.effect(step.effect), project.anchor(step.anchor)
    does = "start" if isinstance(step, StartEffect) else "stop"
    name = f"{does} {effect.name}" if effect else f"{does} an effect that is not chosen yet"
    kinds = [project.stage.ground_words(each.ground) for each in getattr(step, "grounds", ())]
    other = f" (otherwise on {_either(tuple(kinds))})" if kinds else ""
    dials = {dial.id: dial.name for dial in effect.dials} if effect else {}
    scaled = [scaling.what for scaling in getattr(step, "scalings", ())]
    scaled += [dials.get(turn.dial, "a dial that is gone") for turn in getattr(step, "turns", ())]
    by = f", its {' and '.join(scaled)} by strength" if scaled else ""
    return f"{name}{other}{f' at {anchor.name}' if anchor else ''}{by}"


def _wait(project: Project, step: WaitFor) -> str:
    if not step.signal:
        return "wait for the clip to end"
    way = "below" if step.falls else "above"
    return f"wait until {signal_name(project, step.signal)} is {way} {amount(project, step.signal, step.value)}"


DOES: dict[type, Callable[..., str]] = {
    StartEffect: _about_effect,
    StopEffect: _about_effect,
    PlayClip: lambda _project, step: f"play {step.clip or 'a clip that is not chosen yet'}",
    Dissolving: lambda _project, step: f"dissolve to {step.to:.0%} over {step.seconds:g} s",
    Hide: lambda _project, step: "take the character away" if step.hidden else "show the character again",
    HoldStill: lambda _project, step: f"hold still for {step.seconds:g} s",
    Shake: lambda _project, step: f"shake the camera by {step.degrees:g}° for {step.seconds:g} s",
    ColourShift: lambda _project, step: f"shift the colours for {step.seconds:g} s",
    SlowMotion: lambda _project, step: f"go at {step.tempo:.0%} speed for {step.seconds:g} s",
    SetSignal: lambda project, step: f"set {signal_name(project, step.signal)} to {step.value:g}",
    RampSignal: lambda project, step: (
        f"bring {signal_name(project, step.signal)} to {step.to:g} over {step.seconds:g} s"
    ),
    PlaySound: lambda _project, step: f"play {step.sound or 'a sound that is not chosen yet'}",
    Say: lambda _project, step: f"write “{step.words}”",
    WaitFor: _wait,
}
"""Model of a step to what it does, in words."""
