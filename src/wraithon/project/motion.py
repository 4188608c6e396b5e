"""What moves a free particle: forces that add up, and what happens at the ground."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from wraithon.project.base import Finite, Id, Model, Share, Unsigned, Vec3
from wraithon.project.life import Curve

Reach = Annotated[float, Field(ge=0.01, le=1000.0)]


class _Force(Model):
    """What all forces have: each particle feels `1 ± spread` of it, times its course over the normalised age.

    One that is `off` is kept, and does nothing.
    """

    off: bool = False
    spread: Share = 0.0
    course: Curve | None = None

    @property
    def plain(self) -> bool:
        """Whether all particles feel it alike, all their life."""
        return self.spread == 0 and self.course is None


class Gravity(_Force):
    """Downward acceleration in metres a second squared; negative rises."""

    kind: Literal["gravity"] = "gravity"
    pull: Finite = 9.81


class Drag(_Force):
    """Exponential slowing: after a second, velocity is times exp(-rate)."""

    kind: Literal["drag"] = "drag"
    rate: Unsigned = 1.0


class Wind(_Force):
    """An acceleration in metres a second squared, in world axes.

    Gusts make it stronger and weaker by up to the share `gust`, in blotches of some metres that go by `pace` times
    a second. `scatter` is a push of the same strength for each particle, in a direction of its own.
    """

    kind: Literal["wind"] = "wind"
    push: Vec3 = (0.0, 0.0, 0.0)
    gust: Annotated[float, Field(ge=0.0, le=4.0)] = 0.0
    pace: Unsigned = 0.5
    scatter: Unsigned = 0.0


class Swirl(StrEnum):
    """What eddies do to particles: push them, or carry them along as a stream does."""

    PUSH = "push"
    CARRY = "carry"


class Curl(_Force):
    """Divergence-free swirling (Bridson 2007): eddies of `scale` metres, drifting in time.

    They push with `strength`, an acceleration in metres a second squared; or carry particles along at about `speed`
    metres a second, which these come to as quickly as drag of the rate `grip` would have them. `change` is the pace
    at which the eddies themselves alter, in eddies a second.
    """

    kind: Literal["curl"] = "curl"
    swirl: Swirl = Swirl.PUSH
    strength: Finite = 1.0
    speed: Unsigned = 0.6
    grip: Unsigned = 4.0
    scale: Annotated[float, Field(ge=0.01, le=1000.0)] = 0.5
    change: Unsigned = 0.3


class Vortex(_Force):
    """A swirl around the upright line through an anchor; no anchor: through where the character stands.

    `strength` is the sideways acceleration at `reach` metres from the line, in metres a second squared,
    turning from the character's left to its front when positive; `inward` the one towards the line. Both fade towards
    the line and beyond the reach.
    """

    kind: Literal["vortex"] = "vortex"
    strength: Finite = 3.0
    inward: Finite = 0.0
    reach: Reach = 0.5
    anchor: Id | None = None


class Towards(StrEnum):
    """What particles are drawn to: an anchor, or the nearest of the character's skin."""

    ANCHOR = "anchor"
    SKIN = "skin"


class Attraction(_Force):
    """A pull towards an anchor, or a push away when negative; no anchor: where the character stands.

    The skin is taken to be where the capsules around the character's bones have it.

    `strength` is the acceleration at `reach` metres, in metres a second squared, where it is strongest.
    """

    kind: Literal["attraction"] = "attraction"
    towards: Towards = Towards.ANCHOR
    strength: Finite = 4.0
    reach: Reach = 0.5
    anchor: Id | None = None


class Lift(_Force):
    """An acceleration away from what a particle was born on, along the normal there, in metres a second squared."""

    kind: Literal["lift"] = "lift"
    strength: Finite = 1.0


class Hold(_Force):
    """Keeps particles within `radius` metres of an anchor; no anchor: of where the character stands.

    Beyond, they are pulled back by an acceleration that is `strength` from a quarter of the radius on.
    """

    kind: Literal["hold"] = "hold"
    radius: Reach = 1.0
    strength: Unsigned = 20.0
    anchor: Id | None = None


Force = Annotated[Gravity | Drag | Wind | Curl | Vortex | Attraction | Lift | Hold, Field(discriminator="kind")]


class Collision(StrEnum):
    """What a particle does when it meets the ground."""

    PASS = "pass"  # noqa: S105  # through the ground, not a secret
    BOUNCE = "bounce"
    SLIDE = "slide"
    STICK = "stick"
    DIE = "die"


class GroundCollision(Model):
    """Ground contact: `bounce` keeps that share of the falling speed, `grip` takes that share sideways."""

    contact: Collision = Collision.PASS
    bounce: Share = 0.35
    grip: Share = 0.2


class BodyCollision(Model):
    """Contact with the character, from outside, as the capsules around its bones have it; as with the ground."""

    contact: Literal[Collision.PASS, Collision.BOUNCE, Collision.SLIDE, Collision.DIE] = Collision.PASS
    bounce: Share = 0.35
    grip: Share = 0.2


class Motion(Model):
    """All that acts on a layer's free particles."""

    forces: Annotated[tuple[Force, ...], Field(max_length=16)] = ()
    ground: GroundCollision = GroundCollision()
    body: BodyCollision = BodyCollision()

    @property
    def meets_nothing(self) -> bool:
        """Whether nothing that lives ever comes in contact with anything."""
        return self.ground.contact is Collision.PASS and self.body.contact is Collision.PASS
