"""Strength: what of an effect is started for a moment that is weak or strong, and on which kind of ground.

What can be started is made ready beforehand, in a few levels of strength, so that starting it costs nothing.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.particles.curves import curve_values
from wraithon.project.resolving.variants import Wanted

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Mapping

    from wraithon.project.binding import Masters
    from wraithon.project.effect import Effect
    from wraithon.project.staging.actions import StartEffect
    from wraithon.project.trigger import Trigger


LEVELS = 8
"""How many steps of strength there are from the weakest to the strongest."""
NONE: Mapping[str, Effect] = {}


def at_level(action: StartEffect, masters: Masters, level: int) -> Masters:
    """Return master values as strength scales them for an action, at one of LEVELS + 1 levels."""
    changes: dict[str, object] = {}
    for scaling in action.scalings:
        by = max(0.0, float(curve_values(scaling.curve, np.array([level / LEVELS]))[0]))
        if scaling.what == "brightness":
            changes["tint"] = tuple(min(part * by, 1e3) for part in masters.tint)
        elif scaling.what == "opacity":
            changes["opacity"] = min(1.0, masters.opacity * by)
        else:
            minimum = 0.0 if scaling.what == "amount" else 0.01
            changes[scaling.what] = min(max(getattr(masters, scaling.what) * by, minimum), 100.0)
    return masters.evolve(**changes) if changes else masters


def started(action: StartEffect, ground: str, strength: float, effects: Mapping[str, Effect] = NONE) -> Wanted:
    """Return what an action starts on a kind of ground at a strength 0..1; `effects` hold the dials, by id."""
    other, level = action.on_ground(ground), round(strength * LEVELS)
    effect, masters = action.shown_on(ground)
    masters = at_level(action, masters, level) if action.scalings else masters
    with_dials = effects.get(effect or "") if action.turns else None
    settings = _settings(action, with_dials, level) if with_dials is not None else ()
    return Wanted(effect or "", masters, settings, other.without if other else (), other.texture if other else "")


def _settings(action: StartEffect, effect: Effect, level: int) -> tuple[tuple[str, float], ...]:
    """Return what strength sets dials of an effect to, by their ids."""
    dials, found = {dial.id: dial for dial in effect.dials}, {}
    for turn in action.turns:
        dial = dials.get(turn.dial)
        if dial is not None and dial.kind != "colour":
            low, high = dial.range
            share = float(curve_values(turn.curve, np.array([level / LEVELS]))[0])
            found[dial.id] = low + (high - low) * min(max(share, 0.0), 1.0)
    return tuple(sorted(found.items()))


def startable(triggers: Iterable[Trigger], effects: Mapping[str, Effect] = NONE) -> Iterator[Wanted]:
    """Yield all that actions of triggers may start; `effects` tell of dials, by id."""
    for trigger in triggers:
        for action in trigger.starts:
            grounds = ("", *(each.ground for each in action.grounds))
            levels = range(LEVELS + 1) if action.scalings or action.turns else (LEVELS,)
            for ground in grounds:
                for level in levels:
                    yield started(action, ground, level / LEVELS, effects)
