"""Triggers as sentences: when, only if, how often, and then what."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.arithmetic import ordinal
from wraithon.project.trigger import AtStart, EveryMetres, EverySeconds, OnEvent, StartEffect

if TYPE_CHECKING:
    from wraithon.project.project import Project
    from wraithon.project.trigger import Often, Only, Step, Trigger, When

__all__ = ["sentence"]


def sentence(project: Project, trigger: Trigger) -> str:
    """Return a trigger as one sentence."""
    parts = [_when(project, trigger.when), *_only(trigger.only)]
    told = ", ".join(parts) + _often(trigger.often)
    steps = [_step(project, step) for step in trigger.response]
    return f"{told}: {'; '.join(steps) if steps else 'nothing yet'}."


def _when(project: Project, when: When) -> str:
    if isinstance(when, OnEvent):
        event = project.event(when.event)
        return f"When a clip passes {event.name}" if event else "When an event passes that is not chosen yet"
    if isinstance(when, EverySeconds):
        return f"Every {when.seconds:g} s"
    if isinstance(when, EveryMetres):
        return f"Every {when.metres:g} m of the way"
    return "When the show begins" if isinstance(when, AtStart) else "Never by itself"


def _only(only: Only) -> list[str]:
    found = []
    if only.clips:
        found.append(f"while {_either(only.clips)} plays")
    if only.slowest and only.fastest is not None:
        found.append(f"at {only.slowest:g} to {only.fastest:g} m/s")
    elif only.slowest:
        found.append(f"at {only.slowest:g} m/s or more")
    elif only.fastest is not None:
        found.append(f"at {only.fastest:g} m/s or less")
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
    effect, anchor = project.effect(step.effect), project.anchor(step.anchor)
    does = "start" if isinstance(step, StartEffect) else "stop"
    name = f"{does} {effect.name}" if effect else f"{does} an effect that is not chosen yet"
    where = f" at {anchor.name}" if anchor else ""
    after = f" after {step.after:g} s" if step.after else ""
    return f"{name}{where}{after}"
