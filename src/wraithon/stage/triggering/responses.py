"""Responses: what each kind of step does when it is due."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

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

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from wraithon.project.effect import Effect
    from wraithon.project.life import Curve
    from wraithon.stage.compiled_project import CompiledProject
    from wraithon.stage.driving.actor import Actor
    from wraithon.stage.firing import Firing
    from wraithon.stage.triggering.screen import Screen
    from wraithon.stage.triggering.triggers import Triggers, Waiting

__all__ = ["STEPS", "Playing", "respond"]

NOBODY = "there is no character"
NOT_GIVEN = "the signal it sets is gone, or is measured"


class Playing(Protocol):
    """What a response may ask of the show it plays in."""

    compiled: CompiledProject
    triggers: Triggers
    screen: Screen
    step_number: int

    @property
    def actor(self) -> Actor | None:
        """The character; None where there is none."""

    def start(
        self, effect: Effect, anchor: str | None, time: float, trigger: str = "", *, follow: bool = True
    ) -> Firing | None:
        """Fire an effect; None when too many firings are alive."""

    def stop(self, effect_id: str, anchor: str | None, time: float) -> int:
        """Have firings of an effect bear no more from a moment on; return how many."""

    def stop_following(self, time: float) -> None:
        """Have what follows the character bear no more from a moment on."""

    def tell(self, signal: str, value: float) -> None:
        """Give a signal a value."""

    def ramp(self, signal: str, start: float, seconds: float, to: float, course: Curve) -> None:
        """Have a signal go along a course to a value, within some seconds from a moment on."""

    def sound(self, time: float, name: str, volume: float) -> None:
        """Have a sound be heard at a moment."""

    def say(self, time: float, words: str) -> None:
        """Write a line into the log."""

    def wait(self, waiting: Waiting) -> None:
        """Have what comes after a wait come once that is over."""

    def signals(self, number: int) -> Mapping[str, float]:
        """Return all signals at a step's moment."""


def _start_effect(show: Playing, waiting: Waiting, step: StartEffect) -> str:
    effect = show.compiled.started(step, waiting.ground, waiting.strength)
    if effect is None:
        return "its effect is gone" if step.effect else "it is not chosen what to start"
    fired = show.start(effect, waiting.anchor, waiting.due, trigger=waiting.trigger, follow=step.follow)
    return "" if fired else "too many firings are alive"


def _stop_effect(show: Playing, waiting: Waiting, step: StopEffect) -> str:
    if step.effect is None:
        return "it is not chosen what to stop"
    return "" if show.stop(step.effect, step.anchor, waiting.due) else "nothing of what it stops is going on"


def _play_clip(show: Playing, _waiting: Waiting, step: PlayClip) -> str:
    actor = show.actor
    if actor is None:
        return NOBODY
    if actor.character.clip(step.clip) is None:
        return f"the character has no clip {step.clip}" if step.clip else "its clip is not chosen yet"
    return "" if actor.play(show.step_number + 1, step.clip) else "the character is in the air, or has fallen"


def _dissolve(show: Playing, _waiting: Waiting, step: Dissolving) -> str:
    if show.actor is None:
        return NOBODY
    show.actor.dissolve(show.step_number + 1, step.to, step.seconds, step.course)
    return ""


def _hide(show: Playing, waiting: Waiting, step: Hide) -> str:
    if show.actor is None:
        return NOBODY
    show.actor.change(show.step_number + 1, hidden=step.hidden)
    if step.hidden:
        show.stop_following(waiting.due)
    return ""


def _hold_still(show: Playing, waiting: Waiting, step: HoldStill) -> str:
    if show.actor is None:
        return NOBODY
    show.actor.change(show.step_number + 1, still=waiting.due + step.seconds)
    return ""


def _shake(show: Playing, waiting: Waiting, step: Shake) -> str:
    show.screen = show.screen.with_("shakes", waiting.due, step.seconds, (step.degrees * waiting.strength,))
    return ""


def _shift(show: Playing, waiting: Waiting, step: ColourShift) -> str:
    show.screen = show.screen.with_("tints", waiting.due, step.seconds, step.colour)
    return ""


def _slow(show: Playing, waiting: Waiting, step: SlowMotion) -> str:
    show.screen = show.screen.with_("slows", waiting.due, step.seconds, (step.tempo,))
    return ""


def _set_signal(show: Playing, _waiting: Waiting, step: SetSignal) -> str:
    if step.signal not in show.compiled.resting:
        return NOT_GIVEN
    show.tell(step.signal, step.value)
    return ""


def _ramp(show: Playing, waiting: Waiting, step: RampSignal) -> str:
    if step.signal not in show.compiled.resting:
        return NOT_GIVEN
    show.ramp(step.signal, waiting.due, step.seconds, step.to, step.course)
    return ""


def _sound(show: Playing, waiting: Waiting, step: PlaySound) -> str:
    if not step.sound:
        return "its sound is not chosen yet"
    show.sound(waiting.due, step.sound, step.volume * waiting.strength)
    return ""


def _say(show: Playing, waiting: Waiting, step: Say) -> str:
    show.say(waiting.due, step.words)
    return ""


def _wait(show: Playing, waiting: Waiting, _step: WaitFor) -> str:
    show.wait(waiting)
    return ""


STEPS: dict[type, Callable[..., str]] = {
    StartEffect: _start_effect, StopEffect: _stop_effect, PlayClip: _play_clip, Dissolving: _dissolve, Hide: _hide,
    HoldStill: _hold_still, Shake: _shake, ColourShift: _shift, SlowMotion: _slow, SetSignal: _set_signal,
    RampSignal: _ramp, PlaySound: _sound, Say: _say, WaitFor: _wait,
}  # fmt: skip
"""Model of a step to what it does; each returns why it could not, or nothing."""


def respond(show: Playing, waiting: Waiting) -> bool:
    """Do a step that is due; return whether it was done. What cannot be done is remembered with its reason."""
    reason = STEPS[type(waiting.step)](show, waiting, waiting.step)
    if reason:
        rest = "; what follows needs it, and is left out" if waiting.step.needed else ""
        show.triggers.refuse(waiting.due, waiting.trigger, f"{reason}{rest}")
    return not reason
