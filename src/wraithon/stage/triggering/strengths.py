"""Strength: what of an effect is started for a moment that is weak or strong, and on which kind of ground.

What can be started is made ready beforehand, in a few levels of strength, so that starting it costs nothing.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.particles.curves import curve_values

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

    from wraithon.project.binding import Masters
    from wraithon.project.staging.steps import StartEffect
    from wraithon.project.trigger import Trigger

__all__ = ["LEVELS", "at_level", "startable", "started"]

LEVELS = 8
"""How many steps of strength there are from the weakest to the strongest."""


def at_level(step: StartEffect, masters: Masters, level: int) -> Masters:
    """Return master values as strength scales them for a step, at one of LEVELS + 1 levels."""
    changes: dict[str, object] = {}
    for scaling in step.scalings:
        by = max(0.0, float(curve_values(scaling.course, np.array([level / LEVELS]))[0]))
        if scaling.what == "brightness":
            changes["tint"] = tuple(min(part * by, 1e3) for part in masters.tint)
        elif scaling.what == "opacity":
            changes["opacity"] = min(1.0, masters.opacity * by)
        else:
            least = 0.0 if scaling.what == "amount" else 0.01
            changes[scaling.what] = min(max(getattr(masters, scaling.what) * by, least), 100.0)
    return masters.but(**changes) if changes else masters


def started(step: StartEffect, ground: str, strength: float) -> tuple[str, Masters]:
    """Return the id of the effect that a step starts, and its master values, for a strength from 0 to 1."""
    effect, masters = step.shown_on(ground)
    return effect or "", at_level(step, masters, round(strength * LEVELS)) if step.scalings else masters


def startable(triggers: Iterable[Trigger]) -> Iterator[tuple[str, Masters]]:
    """Yield all that steps of triggers may start: the id of an effect, and master values."""
    for trigger in triggers:
        for step in trigger.starts:
            grounds = ("", *(each.ground for each in step.grounds))
            levels = range(LEVELS + 1) if step.scalings else (LEVELS,)
            for ground in grounds:
                for level in levels:
                    yield started(step, ground, level / LEVELS)
