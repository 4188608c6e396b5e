"""A moment: something that happened which triggers may wait for."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["Moment"]


@dataclass(frozen=True)
class Moment:
    """Something that happened which triggers may wait for."""

    time: float
    """Seconds of the show."""
    kind: str
    """The kind of `project.trigger.When` that hears it."""
    what: str = ""
    """Which of its kind: an event's id, say."""
    strength: float = 1.0
    """How strongly, for responses that scale with it."""
    anchor: str | None = None
    """Where it happened; None: where the character stands."""
    clip: str = ""
    """The clip that plays then."""
    speed: float = 0.0
    """Metres a second that the character goes over the ground then."""
