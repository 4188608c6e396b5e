"""Signals: figures of what the character does, and those that hands, responses and games give."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from wraithon.project.staging.driving import SIGNALS, SignalKind

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wraithon.project.project import Project
    from wraithon.stage.driving.actor import Actor

__all__ = ["known_signals", "measured"]


def known_signals(project: Project) -> dict[str, SignalKind]:
    """Return what is known of all signals of a project, by their keys."""
    own = {
        signal.id: SignalKind(words=signal.name, unit="", low=signal.low, high=signal.high, given=True)
        for signal in project.signals
    }
    return SIGNALS | own


def measured(actor: Actor | None, time: float, project: Project, told: Mapping[str, float]) -> dict[str, float]:
    """Return all signals at a moment of the show.

    Parameters
    ----------
    actor
        The character; None where there is none.
    time
        Seconds of the show.
    project
        Whose own signals there are.
    told
        What was given of signals so far.
    """
    found = {"health": 1.0} | {signal.id: signal.value for signal in project.signals} | dict(told)
    stand = actor.stand(time) if actor else None
    if stand is not None:
        air = 0.0 if stand.grounded else time - stand.off
        return found | {
            "speed": stand.speed, "rising speed": max(0.0, stand.climb), "falling speed": max(0.0, -stand.climb),
            "on ground": float(stand.grounded), "air time": max(0.0, air), "distance": stand.way,
            "turn rate": abs(math.degrees(stand.spin)), "facing": math.degrees(stand.heading),
        }  # fmt: skip
    speed, way = (actor.speed_at(time), actor.way_at(time)) if actor else (0.0, 0.0)
    return found | {
        "speed": speed, "rising speed": 0.0, "falling speed": 0.0, "on ground": 1.0, "air time": 0.0, "distance": way,
        "turn rate": 0.0, "facing": 0.0,
    }  # fmt: skip
