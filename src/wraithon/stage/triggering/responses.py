"""Responses: what each kind of action does when it is due."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

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

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from wraithon.project.effect import Effect
    from wraithon.project.ending import Ending
    from wraithon.project.life import Curve
    from wraithon.stage.compiled_project import CompiledProject
    from wraithon.stage.driving.actor import Actor
    from wraithon.stage.firing import Firing
    from wraithon.stage.triggering.screen_effects import ScreenEffects
    from wraithon.stage.triggering.triggers import ScheduledAction, Triggers


NOBODY = "there is no character"
NOT_GIVEN = "the signal it sets is gone, or is measured"


class Playing(Protocol):
    """What a response may ask of the show it plays in."""

    compiled: CompiledProject
    triggers: Triggers
    screen: ScreenEffects
    step_number: int

    @property
    def actor(self) -> Actor | None:
        """The character; None where there is none."""

    def start(
        self, effect: Effect, anchor: str | None, time: float, trigger: str = "", *, follow: bool = True
    ) -> Firing | None:
        """Fire an effect; None when too many firings are alive."""

    def stop(self, effect_id: str, anchor: str | None, time: float, ending: Ending | None = None) -> int:
        """Stop the firings of an effect from a moment on; return how many.

        The `ending` says what becomes of their particles; None: what each layer says.
        """

    def stop_following(self, time: float) -> None:
        """Stop the firings that follow the character, from a moment on."""

    def set_signal(self, signal: str, value: float) -> None:
        """Give a signal a value."""

    def ramp(self, signal: str, start: float, seconds: float, to: float, curve: Curve) -> None:
        """Move a signal along a curve to a value, within some seconds from a moment on."""

    def sound(self, time: float, name: str, volume: float) -> None:
        """Play a sound at a moment of the show."""

    def log_line(self, time: float, text: str) -> None:
        """Write a line into the log of the rehearsal."""

    def wait(self, waiting: ScheduledAction) -> None:
        """Schedule what comes after a wait."""

    def signals(self, number: int) -> Mapping[str, float]:
        """Return all signals at a step's moment."""


def _start_effect(show: Playing, waiting: ScheduledAction, action: StartEffect) -> str:
    effect = show.compiled.started(action, waiting.ground, waiting.strength)
    if effect is None:
        return "its effect is gone" if action.effect else "it is not chosen what to start"
    fired = show.start(effect, waiting.anchor, waiting.due, trigger=waiting.trigger, follow=action.follow)
    return "" if fired else "too many firings are alive"


def _stop_effect(show: Playing, waiting: ScheduledAction, action: StopEffect) -> str:
    if action.effect is None:
        return "it is not chosen what to stop"
    stopped = show.stop(action.effect, action.anchor, waiting.due, action.ending)
    return "" if stopped else "nothing of what it stops is going on"


def _play_clip(show: Playing, _waiting: ScheduledAction, action: PlayClip) -> str:
    actor = show.actor
    if actor is None:
        return NOBODY
    if actor.character.clip(action.clip) is None:
        return f"the character has no clip {action.clip}" if action.clip else "its clip is not chosen yet"
    return "" if actor.play(show.step_number + 1, action.clip) else "the character is in the air, or has fallen"


def _dissolve(show: Playing, _waiting: ScheduledAction, action: Dissolving) -> str:
    if show.actor is None:
        return NOBODY
    show.actor.dissolve(show.step_number + 1, action.to, action.seconds, action.curve)
    return ""


def _hide(show: Playing, waiting: ScheduledAction, action: Hide) -> str:
    if show.actor is None:
        return NOBODY
    show.actor.change(show.step_number + 1, hidden=action.hidden)
    if action.hidden:
        show.stop_following(waiting.due)
    return ""


def _hold_still(show: Playing, waiting: ScheduledAction, action: HoldStill) -> str:
    if show.actor is None:
        return NOBODY
    show.actor.change(show.step_number + 1, still=waiting.due + action.seconds)
    return ""


def _shake(show: Playing, waiting: ScheduledAction, action: Shake) -> str:
    show.screen = show.screen.with_("shakes", waiting.due, action.seconds, (action.degrees * waiting.strength,))
    return ""


def _shift(show: Playing, waiting: ScheduledAction, action: ColourShift) -> str:
    show.screen = show.screen.with_("tints", waiting.due, action.seconds, action.colour)
    return ""


def _slow(show: Playing, waiting: ScheduledAction, action: SlowMotion) -> str:
    show.screen = show.screen.with_("slows", waiting.due, action.seconds, (action.tempo,))
    return ""


def _set_signal(show: Playing, _waiting: ScheduledAction, action: SetSignal) -> str:
    if action.signal not in show.compiled.resting:
        return NOT_GIVEN
    show.set_signal(action.signal, action.value)
    return ""


def _ramp(show: Playing, waiting: ScheduledAction, action: RampSignal) -> str:
    if action.signal not in show.compiled.resting:
        return NOT_GIVEN
    show.ramp(action.signal, waiting.due, action.seconds, action.to, action.curve)
    return ""


def _sound(show: Playing, waiting: ScheduledAction, action: PlaySound) -> str:
    if not action.sound:
        return "its sound is not chosen yet"
    show.sound(waiting.due, action.sound, action.volume * waiting.strength)
    return ""


def _log_line(show: Playing, waiting: ScheduledAction, action: LogLine) -> str:
    show.log_line(waiting.due, action.text)
    return ""


def _wait(show: Playing, waiting: ScheduledAction, _action: WaitFor) -> str:
    show.wait(waiting)
    return ""


ACTIONS: dict[type, Callable[..., str]] = {
    StartEffect: _start_effect, StopEffect: _stop_effect, PlayClip: _play_clip, Dissolving: _dissolve, Hide: _hide,
    HoldStill: _hold_still, Shake: _shake, ColourShift: _shift, SlowMotion: _slow, SetSignal: _set_signal,
    RampSignal: _ramp, PlaySound: _sound, LogLine: _log_line, WaitFor: _wait,
}  # fmt: skip
"""Model of an action to what it does; each returns why it could not, or nothing."""


def respond(show: Playing, waiting: ScheduledAction) -> bool:
    """Run an action that is due; return whether it was done. What cannot be done is remembered with its reason."""
    reason = ACTIONS[type(waiting.action)](show, waiting, waiting.action)
    if reason:
        rest = "; what follows needs it, and is left out" if waiting.action.needed else ""
        show.triggers.refuse(waiting.due, waiting.trigger, f"{reason}{rest}")
    return not reason
