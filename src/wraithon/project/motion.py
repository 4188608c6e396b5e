"""What moves a free particle: forces that add up, and what happens at the ground."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from wraithon.project.base import Finite, Id, Model, Share, Unsigned, Vec3

__all__ = ["Contact", "Curl", "Drag", "Force", "Gravity", "Ground", "Motion", "Vortex", "Wind"]


class Gravity(Model):
    """Downward acceleration in metres a second squared; negative rises."""

    kind: Literal["gravity"] = "gravity"
    pull: Finite = 9.81


class Drag(Model):
    """Exponential slowing: after a second, velocity is times exp(-rate)."""

    kind: Literal["drag"] = "drag"
    rate: Unsigned = 1.0


class Wind(Model):
    """A steady acceleration in metres a second squared, in world axes."""

    kind: Literal["wind"] = "wind"
    push: Vec3 = (0.0, 0.0, 0.0)


class Curl(Model):
    """Divergence-free swirling (Bridson 2007): eddies of `scale` metres, drifting in time.

    `strength` is an acceleration in metres a second squared, `change` the pace at which the eddies
    themselves alter, in eddies a second.
    """

    kind: Literal["curl"] = "curl"
    strength: Finite = 1.0
    scale: Annotated[float, Field(ge=0.01, le=1000.0)] = 0.5
    change: Unsigned = 0.3


class Vortex(Model):
    """A swirl around the upright line through an anchor; no anchor: through where the character stands.

    `strength` is the sideways acceleration at `reach` metres from the line, in metres a second squared,
    turning from the character's left to its front when positive; `inward` the one towards the line. Both fade towards
    the line and beyond the reach.
    """

    kind: Literal["vortex"] = "vortex"
    strength: Finite = 3.0
    inward: Finite = 0.0
    reach: Annotated[float, Field(ge=0.01, le=1000.0)] = 0.5
    anchor: Id | None = None


Force = Annotated[Gravity | Drag | Wind | Curl | Vortex, Field(discriminator="kind")]


class Contact(StrEnum):
    """What a particle does when it meets the ground."""

    PASS = "pass"  # noqa: S105  # through the ground, not a secret
    BOUNCE = "bounce"
    SLIDE = "slide"
    STICK = "stick"
    DIE = "die"


class Ground(Model):
    """Ground contact: `bounce` keeps that share of the falling speed, `grip` takes that share sideways."""

    contact: Contact = Contact.PASS
    bounce: Share = 0.35
    grip: Share = 0.2


class Motion(Model):
    """All that acts on a layer's free particles."""

    forces: Annotated[tuple[Force, ...], Field(max_length=16)] = ()
    ground: Ground = Ground()
