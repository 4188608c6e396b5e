"""What moves a free particle: forces that add up, and what happens at the ground."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, ClassVar, Literal, get_args

from pydantic import Field

from wraithon.project.base import Finite, Id, Model, Share, Unsigned, Vec3, once
from wraithon.project.life import Curve
from wraithon.project.quantities import M_PER_S, M_PER_S2, METRES, PER_SECOND, PERCENT, Label, Quantity

Reach = Annotated[float, Field(ge=0.01, le=1000.0)]


class _Force(Model):
    """What all forces have: each particle feels `1 ± spread` of it, times its curve over the normalised age.

    One that is `off` is kept, and does nothing. What else is to be said of a kind stands here, so that findings, the
    packing and the forms need no list of kinds: a new one is a class here, a row in `particles.forces.PACKING` with
    its branch in `force_kernels.add_forces`, its rows in the motion editor and its marks in the picture.
    """

    does: ClassVar[str]
    """What it does, in a few words."""
    measures: ClassVar[tuple[str, ...]] = ("strength",)
    """The numbers of which one has to differ from 0 for it to move anything."""
    by_normal: ClassVar[bool] = False
    """Whether it acts along the normal of where a particle was born."""

    disabled: Annotated[bool, once("off"), Label("Disables the force and keeps it")] = False
    spread: Annotated[Share, Quantity("Random variation of the force per particle", PERCENT)] = 0.0
    curve: Annotated[Curve | None, once("course"), Label("Share of the force over a particle's age")] = None

    @property
    def plain(self) -> bool:
        """Whether all particles feel it alike, all their life."""
        return self.spread == 0 and self.curve is None

    @property
    def strengths(self) -> tuple[float, ...]:
        """How strong it is: all 0 when it moves nothing."""
        values = (getattr(self, name) for name in self.measures)
        return tuple(number for value in values for number in (value if isinstance(value, tuple) else (value,)))

    @property
    def acts_from(self) -> str | None:
        """Id of the anchor it acts from, "" for the character's own position; None for those that act from none."""
        return None

    @property
    def slowing(self) -> float:
        """The rate a second at which it slows particles down."""
        return 0.0


class _AnchoredForce(_Force):
    """A force that acts from an anchor; no anchor: from where the character stands."""

    anchor: Id | None = None

    @property
    def acts_from(self) -> str | None:
        """Its anchor."""
        return self.anchor or ""


class Gravity(_Force):
    """Downward acceleration in metres a second squared; negative rises."""

    does: ClassVar = "pulls down"
    measures: ClassVar = ("pull",)
    kind: Literal["gravity"] = "gravity"
    pull: Annotated[Finite, Quantity("Acceleration downwards; negative rises", M_PER_S2)] = 9.81


class Drag(_Force):
    """Exponential slowing: after a second, velocity is times exp(-rate)."""

    does: ClassVar = "drag"
    measures: ClassVar = ("rate",)
    kind: Literal["drag"] = "drag"
    rate: Annotated[Unsigned, Quantity("Drag: at 1 /s, 37 % of the speed is left after 1 s", PER_SECOND)] = 1.0

    @property
    def slowing(self) -> float:
        """Its rate."""
        return self.rate


class Wind(_Force):
    """An acceleration in metres a second squared, in world axes.

    Gusts make it stronger and weaker by up to the share `gust`, in blotches of some metres that go by `pace` times
    a second. `scatter` is a push of the same strength for each particle, in a direction of its own.
    """

    does: ClassVar = "pushes one way, in gusts or each particle its own"
    measures: ClassVar = ("push", "scatter")
    kind: Literal["wind"] = "wind"
    push: Annotated[Vec3, Quantity("Acceleration along the world's axes", M_PER_S2)] = (0.0, 0.0, 0.0)
    gust: Annotated[
        float, Field(ge=0.0, le=4.0), Quantity("Strength of the gusts, relative to the wind", PERCENT)
    ] = 0.0
    pace: Annotated[Unsigned, Quantity("Frequency of the gusts", PER_SECOND, step=0.05)] = 0.5
    scatter: Annotated[Unsigned, Quantity("Random acceleration of each particle", M_PER_S2)] = 0.0


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

    does: ClassVar = "swirls"
    kind: Literal["curl"] = "curl"
    swirl: Annotated[Swirl, Label("Whether eddies accelerate particles or carry them along")] = Swirl.PUSH
    strength: Annotated[Finite, Quantity("Acceleration by the eddies", M_PER_S2)] = 1.0
    speed: Annotated[Unsigned, Quantity("Speed of the eddies", M_PER_S, step=0.05)] = 0.6
    grip: Annotated[Unsigned, Quantity("Rate at which particles take on the speed of the eddies", PER_SECOND)] = 4.0
    scale: Annotated[float, Field(ge=0.01, le=1000.0), Quantity("Size of the eddies", METRES)] = 0.5
    change: Annotated[Unsigned, Quantity("Frequency at which the eddies change", PER_SECOND, step=0.05)] = 0.3

    @property
    def strengths(self) -> tuple[float, ...]:
        """What pushes, or carries."""
        return (self.speed * self.grip if self.swirl is Swirl.CARRY else self.strength,)

    @property
    def slowing(self) -> float:
        """The rate at which a stream takes particles along."""
        return self.grip if self.swirl is Swirl.CARRY else 0.0


class Vortex(_AnchoredForce):
    """A swirl around the upright line through an anchor; no anchor: through where the character stands.

    `strength` is the sideways acceleration at `reach` metres from the line, in metres a second squared,
    counterclockwise seen from above when positive; `inward` the one towards the line. Both fade towards
    the line and beyond the reach.
    """

    does: ClassVar = "turns around an anchor"
    measures: ClassVar = ("strength", "inward")
    kind: Literal["vortex"] = "vortex"
    strength: Annotated[Finite, Quantity("Tangential acceleration at the reach; negative reverses it", M_PER_S2)] = (
        3.0
    )
    inward: Annotated[Finite, Quantity("Inward acceleration at the reach; negative is outward", M_PER_S2)] = 0.0
    reach: Annotated[Reach, Quantity("Distance from the axis of the largest acceleration", METRES)] = 0.5


class Towards(StrEnum):
    """What particles are drawn to: an anchor, or the nearest of the character's skin."""

    ANCHOR = "anchor"
    SKIN = "skin"


class Attraction(_AnchoredForce):
    """A pull towards an anchor, or a push away when negative; no anchor: where the character stands.

    The skin is taken to be where the capsules around the character's bones have it.

    `strength` is the acceleration at `reach` metres, in metres a second squared, where it is strongest.
    """

    does: ClassVar = "draws to an anchor or the skin, or away"
    kind: Literal["attraction"] = "attraction"
    towards: Annotated[Towards, Label("Target of the attraction")] = Towards.ANCHOR
    strength: Annotated[
        Finite, Quantity("Acceleration at the reach, where it is largest; negative repels", M_PER_S2)
    ] = 4.0
    reach: Annotated[Reach, Quantity("Distance of the largest acceleration", METRES)] = 0.5

    @property
    def acts_from(self) -> str | None:
        """Its anchor; none where it draws to the skin."""
        return None if self.towards is Towards.SKIN else super().acts_from


class Lift(_Force):
    """An acceleration away from what a particle was born on, along the normal there, in metres a second squared."""

    does: ClassVar = "drives away from what emitted it"
    by_normal: ClassVar = True
    kind: Literal["lift"] = "lift"
    strength: Annotated[Finite, Quantity("Acceleration along the normal at birth; negative is inward", M_PER_S2)] = (
        1.0
    )


class Hold(_AnchoredForce):
    """Keeps particles within `radius` metres of an anchor; no anchor: of where the character stands.

    Beyond, they are pulled back by an acceleration that is `strength` from a quarter of the radius on.
    """

    does: ClassVar = "keeps near an anchor"
    kind: Literal["hold"] = "hold"
    radius: Annotated[Reach, Quantity("Largest distance from the anchor", METRES)] = 1.0
    strength: Annotated[
        Unsigned, Quantity("Acceleration back, from a quarter of the radius beyond it", M_PER_S2, step=1)
    ] = 20.0


class Orbit(_AnchoredForce):
    """Carries particles round the upright line through an anchor, `radius` metres from it; they keep their height.

    No anchor: round where the character stands. `speed` is that of the circle in metres a second, counterclockwise
    seen from above when positive, which particles take on at the rate `follow`, as they do the distance.
    """

    does: ClassVar = "circles an anchor"
    measures: ClassVar = ("follow",)
    kind: Literal["orbit"] = "orbit"
    speed: Annotated[Finite, Quantity("Speed of the orbit; negative reverses it", M_PER_S)] = 2.0
    radius: Annotated[Reach, Quantity("Radius of the orbit", METRES)] = 0.6
    follow: Annotated[Unsigned, Quantity("Rate at which particles take on the orbit", PER_SECOND)] = 4.0

    @property
    def slowing(self) -> float:
        """The rate at which it takes particles along."""
        return self.follow


Force = Annotated[
    Gravity | Drag | Wind | Curl | Vortex | Attraction | Lift | Hold | Orbit, Field(discriminator="kind")
]
FORCES: tuple[type[Force], ...] = get_args(get_args(Force)[0])
"""All kinds of forces."""


class Collision(StrEnum):
    """What a particle does when it meets the ground."""

    PASS = "pass"  # noqa: S105  # through the ground, not a secret
    BOUNCE = "bounce"
    SLIDE = "slide"
    STICK = "stick"
    DIE = "die"


class GroundCollision(Model):
    """Ground contact: `bounce` keeps that share of the falling speed, `grip` takes that share sideways."""

    contact: Annotated[Collision, Label("What happens at the ground")] = Collision.PASS
    bounce: Annotated[Share, Quantity("Vertical speed kept", PERCENT, step=1)] = 0.35
    grip: Annotated[Share, Quantity("Horizontal speed lost", PERCENT, step=1)] = 0.2


class BodyCollision(Model):
    """Contact with the character, from outside, as the capsules around its bones have it; as with the ground."""

    contact: Literal[Collision.PASS, Collision.BOUNCE, Collision.SLIDE, Collision.DIE] = Collision.PASS
    bounce: Annotated[Share, Quantity("Speed kept along the normal", PERCENT, step=1)] = 0.35
    grip: Annotated[Share, Quantity("Speed lost along the surface", PERCENT, step=1)] = 0.2


class Motion(Model):
    """All that acts on a layer's free particles."""

    forces: Annotated[tuple[Force, ...], Field(max_length=16)] = ()
    ground: GroundCollision = GroundCollision()
    body: BodyCollision = BodyCollision()

    @property
    def meets_nothing(self) -> bool:
        """Whether nothing that lives ever comes in contact with anything."""
        return self.ground.contact is Collision.PASS and self.body.contact is Collision.PASS
