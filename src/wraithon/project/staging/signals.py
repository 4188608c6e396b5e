"""All signals of a project: measured ones, those that are given, and the dials of its effects."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from wraithon.project.staging.driving import SIGNALS, SignalKind

if TYPE_CHECKING:
    from wraithon.project.binding import Dial
    from wraithon.project.effect import Effect
    from wraithon.project.project import Project


LONGEST_KEY = 64
"""Letters of a signal's key at most; a dial that would need more is no signal."""


class DialAt(NamedTuple):
    """A dial, and the effect it is of."""

    effect: Effect
    dial: Dial


def dials_of(project: Project) -> dict[str, DialAt]:
    """Return the dials that are signals, too, by their keys: all but those of colours."""
    return {
        key: DialAt(effect, dial)
        for effect in project.effects
        for dial in effect.dials
        if dial.kind != "colour" and len(key := f"{effect.id}/{dial.id}") <= LONGEST_KEY
    }


def known_signals(project: Project) -> dict[str, SignalKind]:
    """Return what is known of all signals of a project, by their keys."""
    own = {
        signal.id: SignalKind(text=signal.name, unit="", low=signal.low, high=signal.high, given=True)
        for signal in project.signals
    }
    return SIGNALS | own | {key: _known(*at) for key, at in dials_of(project).items()}


def _known(effect: Effect, dial: Dial) -> SignalKind:
    low, high = dial.range
    return SignalKind(text=f"{dial.name} of {effect.name}", unit="", low=low, high=high, given=True)


def resting(project: Project) -> dict[str, float]:
    """Return what signals that are given are while nobody gives them anything, by their keys."""
    own = {signal.id: signal.value for signal in project.signals}
    return {"health": 1.0} | own | {key: at.dial.value for key, at in dials_of(project).items()}
