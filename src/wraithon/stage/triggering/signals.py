"""Signals: figures of what the character does, and those that hands, responses and games give."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.particles.curves import curve_values

if TYPE_CHECKING:
    from wraithon.project.life import Curve
    from wraithon.stage.driving.actor import Actor


class Ramped(NamedTuple):
    """A signal on its way from one value to another, over some seconds of the show from a start on."""

    signal: str
    start: float
    seconds: float
    low: float
    high: float
    curve: Curve
    """How much of the way it has come, over the share of the time."""

    def at(self, time: float) -> float:
        """Return its value at a moment."""
        if self.over(time):
            end = self.curve.points[-1][1]
            return self.high if end == 1 else self.low + (self.high - self.low) * end  # exactly what was asked for
        share = min(max((time - self.start) / self.seconds, 0.0), 1.0)
        return self.low + (self.high - self.low) * float(curve_values(self.curve, np.array([share]))[0])

    def over(self, time: float) -> bool:
        """Return whether it has come all the way by a moment."""
        return time >= self.start + self.seconds


def measured(actor: Actor | None, time: float) -> dict[str, float]:
    """Return the signals that are what the character does at a moment of the show, in seconds; None where none is."""
    stand = actor.stand(time) if actor else None
    if stand is not None:
        air = 0.0 if stand.grounded else time - stand.off
        return {
            "speed": stand.speed, "rising speed": max(0.0, stand.climb), "falling speed": max(0.0, -stand.climb),
            "on ground": float(stand.grounded), "air time": max(0.0, air), "distance": stand.way,
            "turn rate": abs(math.degrees(stand.spin)), "facing": math.degrees(stand.heading),
        }  # fmt: skip
    speed, way = (actor.speed_at(time), actor.way_at(time)) if actor else (0.0, 0.0)
    return {
        "speed": speed, "rising speed": 0.0, "falling speed": 0.0, "on ground": 1.0, "air time": 0.0, "distance": way,
        "turn rate": 0.0, "facing": 0.0,
    }  # fmt: skip
