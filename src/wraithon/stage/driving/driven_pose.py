"""Driven poses: all that is known of a driven character at a step; frozen, so that a show is copied for nothing."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

from wraithon.particles.curves import curve_value
from wraithon.project.life import Curve
from wraithon.project.staging.driving import State
from wraithon.stage.performance import MarkPassing

GOING, ORDER = "\0going", "\0order"
"""What plays where it is no clip: idle, walk and run as the speed has it, or the running order."""


class Given(NamedTuple):
    """What hands, or a game, give the driven character for a step.

    `steer` is the way over the ground (x, z) it is to go, up to 1 long; `fast` whether it runs; `acts` are done once.
    """

    steer: tuple[float, float] = (0.0, 0.0)
    fast: bool = False
    acts: tuple[str, ...] = ()


class PlayingClip(NamedTuple):
    """Something that plays: it lies over what played before, and blends in from `begun` on over `fade` seconds."""

    what: str
    """A clip's name, GOING or ORDER."""
    time: float
    """Seconds of the clip; of the running order."""
    begun: float
    fade: float


class Span(NamedTuple):
    """The stretch of the leading clip that was played within a step, in its own seconds."""

    clip: str = ""
    start: float = 0.0
    end: float = 0.0


NOTHING = Span()


class Lock(NamedTuple):
    """A foot that is held where it came down, or let go of little by little."""

    x: float
    z: float
    share: float
    """1 while it is held."""
    fixed: bool


class Ramp(NamedTuple):
    """A value that goes from one to another between two moments of the show."""

    start: float
    end: float
    low: float
    high: float
    curve: Curve
    """How much of the way it has come, over the share of the time."""

    def at(self, time: float) -> float:
        """Return the value at a moment."""
        share = 1.0 if time >= self.end else max(0.0, time - self.start) / (self.end - self.start)
        return self.low + (self.high - self.low) * curve_value(self.curve, share)


@dataclass(frozen=True, slots=True)
class DrivenPose:
    """A driven character at a step; metres, seconds of the show, radians about the vertical (0 faces +Z)."""

    time: float
    mode: str
    """What it is at: going, leaping, dropping, landing, or a role or clip that is played to its end."""
    since: float
    """When that began."""
    position: tuple[float, float, float] = (0.0, 0.0, 0.0)
    heading: float = 0.0
    speed: float = 0.0
    """Metres a second along its heading."""
    climb: float = 0.0
    """Metres a second upwards; of the feet, in a leap."""
    grounded: bool = True
    off: float = 0.0
    """When it left the ground last."""
    fell: float = 0.0
    """How fast it came down last, in metres a second."""
    way: float = 0.0
    """Metres gone over the ground."""
    spin: float = 0.0
    """Radians a second that it turns by."""
    phase: float = 0.0
    """Share of a round of the gait."""
    ease: float = 1.0
    """How much of it stands idle."""
    parts: tuple[PlayingClip, ...] = ()
    order: float = 0.0
    """Seconds of the running order that it goes back to."""
    run: Span = NOTHING
    """How far the running order went on in the step that led here; it may wait below another clip."""
    lead: Span = NOTHING
    passed: tuple[tuple[str, float], ...] = ()
    """Events that went by lately, and when: none counts twice while one gait goes over into another."""
    passing: tuple[MarkPassing, ...] = ()
    """The marks that went by in the step that led here."""
    locks: tuple[Lock, ...] = ()
    gone: Ramp | None = None
    """How much of it is dissolved, where a response says so."""
    hidden: bool = False
    still: float = -1.0
    """Until when it is held still."""
    state: State = "standing"
    lowest: float = 0.0
    """How high the lowest foot is above its place, in a leap."""
