"""Responses: what each kind of step does when it is due."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.project.trigger import StartEffect

if TYPE_CHECKING:
    from collections.abc import Callable

    from wraithon.stage.show import Show
    from wraithon.stage.triggers import Waiting

__all__ = ["STEPS", "respond"]


def _start_effect(show: Show, waiting: Waiting) -> str:
    effect = show.cast.effect(waiting.step.effect)
    if effect is None:
        return "its effect is gone"
    step = waiting.step
    fired = show.start(effect, waiting.anchor, waiting.due, trigger=waiting.trigger, follow=step.follow)
    return "" if fired else "too many firings are alive"


STEPS: dict[type, Callable[[Show, Waiting], str]] = {StartEffect: _start_effect}
"""Model of a step to what it does; each returns why it could not, or nothing."""


def respond(show: Show, waiting: Waiting) -> None:
    """Do a step that is due; what cannot be done is remembered with its reason."""
    reason = STEPS[type(waiting.step)](show, waiting)
    if reason:
        show.triggers.refuse(waiting.due, waiting.trigger, reason)
