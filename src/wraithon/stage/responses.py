"""Responses: what each kind of step does when it is due."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

from wraithon.project.trigger import StartEffect, StopEffect

if TYPE_CHECKING:
    from collections.abc import Callable

    from wraithon.project.effect import Effect
    from wraithon.stage.cast import Cast
    from wraithon.stage.firing import Firing
    from wraithon.stage.triggers import Triggers, Waiting

__all__ = ["STEPS", "Playing", "respond"]


class Playing(Protocol):
    """What a response may ask of the show it plays in."""

    cast: Cast
    triggers: Triggers

    def start(
        self, effect: Effect, anchor: str | None, time: float, trigger: str = "", *, follow: bool = True
    ) -> Firing | None:
        """Fire an effect; None when too many firings are alive."""

    def stop(self, effect_id: str, anchor: str | None, time: float) -> int:
        """Have firings of an effect bear no more from a moment on; return how many."""


def _start_effect(show: Playing, waiting: Waiting) -> str:
    step = waiting.step
    assert isinstance(step, StartEffect)  # found by its type
    effect = show.cast.started(step)
    if effect is None:
        return "its effect is gone"
    fired = show.start(effect, waiting.anchor, waiting.due, trigger=waiting.trigger, follow=step.follow)
    return "" if fired else "too many firings are alive"


def _stop_effect(show: Playing, waiting: Waiting) -> str:
    step = waiting.step
    if step.effect is None:
        return "it is not chosen what to stop"
    return "" if show.stop(step.effect, step.anchor, waiting.due) else "nothing of what it stops is going on"


STEPS: dict[type, Callable[[Playing, Waiting], str]] = {StartEffect: _start_effect, StopEffect: _stop_effect}
"""Model of a step to what it does; each returns why it could not, or nothing."""


def respond(show: Playing, waiting: Waiting) -> None:
    """Do a step that is due; what cannot be done is remembered with its reason."""
    reason = STEPS[type(waiting.step)](show, waiting)
    if reason:
        show.triggers.refuse(waiting.due, waiting.trigger, reason)
