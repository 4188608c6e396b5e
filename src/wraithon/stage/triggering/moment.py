"""A moment: something that happened which triggers may wait for."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import NamedTuple


class Hit(NamedTuple):
    """A hit that the character takes: on which part, next to which anchor, and how hard, from 0 to 1."""

    part: str
    anchor: str | None
    strength: float


@dataclass(frozen=True)
class Moment:
    """Something that happened which triggers may wait for."""

    time: float
    """Seconds of the show."""
    kind: str
    """The kind of `project.trigger.When` that hears it."""
    what: str = ""
    """Which of its kind: an event's id, say."""
    until: float | None = None
    """To when it lasts within its step; None for what has no length."""
    strength: float | None = None
    """What is measured of it by itself; None where that is nothing."""
    anchor: str | None = None
    """Where it happened; None: where the character stands."""
    clip: str = ""
    """The clip that plays then."""
    speed: float = 0.0
    """Metres a second that the character goes over the ground then."""
    grounded: bool = True
    """Whether the character is on the ground then."""
    ground: str = ""
    """The kind of ground where it happened."""
    ground_label: str = ""
    """What that is called."""
    signals: Mapping[str, float] = field(default_factory=dict)
    """What signals were then, by their keys."""
