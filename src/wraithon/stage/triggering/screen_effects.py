"""What responses do to the picture and to time: shaking, a shift of its colour, and slow motion."""

from __future__ import annotations

import math
from typing import NamedTuple

SHAKES = (11.3, 14.9)
"""How often a second the camera shakes across and up, so that the two do not fall together."""


class FadingEffect(NamedTuple):
    """Something that wears off: when it began, in seconds of the show, how long it lasts, and how much of it."""

    start: float
    seconds: float
    amount: tuple[float, ...]

    def left(self, time: float) -> float:
        """Return the share of it that is left at a moment."""
        return 0.0 if time >= self.start + self.seconds else min(1.0, 1 - (time - self.start) / self.seconds)


class ScreenEffects(NamedTuple):
    """All that wears off now."""

    shakes: tuple[FadingEffect, ...] = ()
    tints: tuple[FadingEffect, ...] = ()
    slows: tuple[FadingEffect, ...] = ()

    def with_(self, kind: str, start: float, seconds: float, amount: tuple[float, ...]) -> ScreenEffects:
        """Return it with one more of a kind, and without what is over."""
        running = tuple(each for each in getattr(self, kind) if start < each.start + each.seconds)
        return (
            self._replace(**{kind: (*running[-15:], FadingEffect(start, seconds, amount))}) if seconds > 0 else self
        )

    def shake_at(self, time: float) -> tuple[float, float]:
        """Return the degrees that the camera is off across and up."""
        across = up = 0.0
        for shake in self.shakes:
            left, gone = shake.left(time), time - shake.start
            size = shake.amount[0] * left * left
            across += size * math.sin(2 * math.pi * SHAKES[0] * gone)
            up += size * math.cos(2 * math.pi * SHAKES[1] * gone)
        return across, up

    def tint_at(self, time: float) -> tuple[float, float, float]:
        """Return what the picture's light is multiplied by."""
        parts = [1.0, 1.0, 1.0]
        for tint in self.tints:
            left = tint.left(time)
            parts = [part * (1 + left * (by - 1)) for part, by in zip(parts, tint.amount, strict=True)]
        return parts[0], parts[1], parts[2]

    def tempo_at(self, time: float) -> float:
        """Return how fast the show goes, as a share of its own speed."""
        return min((slow.amount[0] for slow in self.slows if slow.left(time) > 0), default=1.0)
