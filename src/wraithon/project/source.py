"""Where a layer's particles are born, and which way they set out."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal, get_args

from pydantic import Field

from wraithon.project.base import Finite, Id, Model, Share, Unsigned, Vec3, once
from wraithon.project.quantities import CENTIMETRES, COUNT, DEGREES, METRES, NUMBER, PERCENT, TIMES, Label, Quantity

MAX_EVEN = 50_000
"""Places that can be set out evenly, at most."""


class Heading(StrEnum):
    """The middle direction of the births, in the frame of what they are born on."""

    OUTWARD = "outward"
    UP = "up"
    FORWARD = "forward"
    AXES = "axes"


class AimFrame(StrEnum):
    """Whose axes a direction is given along: the world's, the anchor's, or with +Y outward."""

    WORLD = "world"
    ANCHOR = "anchor"
    OUTWARD = "outward"


class Aim(Model):
    """A heading and how far births may stray from it: degrees of half-angle, 0 to 180.

    OUTWARD is away from the middle of a shape, or along the normal of skin; FORWARD is the anchor's
    own +Z; UP is the world's +Y. AXES draws each axis of the direction between `low` and `high`,
    in `frame`; how long
    that is counts as a factor of the speed.
    """

    heading: Annotated[Heading, Label("Initial direction")] = Heading.OUTWARD
    spread: Annotated[
        float, Field(ge=0.0, le=180.0), Quantity("Half angle of the cone around the direction", DEGREES)
    ] = 20.0
    low: Annotated[Vec3, Quantity("Lowest share of the direction along each axis", TIMES)] = (-1.0, 0.0, -1.0)
    high: Annotated[Vec3, Quantity("Highest share of the direction along each axis", TIMES)] = (1.0, 1.0, 1.0)
    frame: Annotated[AimFrame, Label("Frame of the axes")] = AimFrame.WORLD


class Riding(Model):
    """Going along with what bore it: for a share of the life, then let go with `keep` of that thing's velocity.

    What rides on an anchor is turned with it, or only carried along.
    """

    share: Annotated[Share, Quantity("Share of the lifetime for which particles stay attached", PERCENT, step=1)] = (
        0.0
    )
    keep: Annotated[
        float, Field(ge=-2.0, le=2.0), Quantity("Share of the source's velocity that particles inherit", PERCENT)
    ] = 1.0
    turning: Annotated[bool, Label("Attached particles rotate with the anchor")] = True


class _Source(Model):
    """What all sources have: a way off the anchor, `offset` metres along its axes, and a `turn` of them.

    Degrees about the anchor's own X, then Y, then Z axis. What is born on the character or by another's particles
    has no anchor to be away from.
    """

    offset: Annotated[Vec3, Quantity("Offset from the anchor along its axes", METRES, step=0.01)] = (0.0, 0.0, 0.0)
    turn: Annotated[Vec3, Quantity("Rotation about the anchor's axes", DEGREES)] = (0.0, 0.0, 0.0)
    aim: Aim = Aim()
    riding: Riding = Riding(keep=0.0)

    @property
    def textures(self) -> tuple[str, ...]:
        """The names of the pictures that births hang on."""
        return ()

    @property
    def away(self) -> bool:
        """Whether it is elsewhere than its anchor, or turned from it."""
        return (*self.offset, *self.turn) != (0.0,) * 6


class PointSource(_Source):
    """Births at the firing's anchor."""

    kind: Literal["point"] = "point"


class SphereSource(_Source):
    """Births in a ball of `radius` metres; a `shell` of 1 puts all of them on its surface."""

    kind: Literal["sphere"] = "sphere"
    radius: Annotated[Unsigned, Quantity("Radius", METRES, step=0.01)] = 0.1
    shell: Annotated[Share, Quantity("0 fills the sphere, 1 uses its surface only", NUMBER, step=0.05)] = 0.0


class RingSource(_Source):
    """Births on a level ring of `radius` metres and a round cross-section of `thickness` metres."""

    kind: Literal["ring"] = "ring"
    radius: Annotated[Unsigned, Quantity("Radius", METRES, step=0.01)] = 0.3
    thickness: Annotated[Unsigned, Quantity("Thickness of the ring", METRES, step=0.01)] = 0.02


class BoxSource(_Source):
    """Births in a box with sides of `size` metres along the anchor's own axes, around the anchor."""

    kind: Literal["box"] = "box"
    size: Annotated[tuple[Unsigned, Unsigned, Unsigned], Quantity("Lengths of the sides", METRES)] = (0.4, 0.4, 0.4)


class ConeSource(_Source):
    """Births in a cone that opens from the anchor along its own +Z: `length` metres, `angle` degrees to either side.

    Outward is away from its tip; with no length all are born there.
    """

    kind: Literal["cone"] = "cone"
    length: Annotated[Unsigned, Quantity("Length of the cone; at 0 all particles start at its tip", METRES)] = 0.4
    angle: Annotated[float, Field(ge=0.0, le=85.0), Quantity("Half angle of the cone", DEGREES)] = 25.0


class PictureSource(_Source):
    """Births where a picture that stands at the anchor is bright (or, inverted, dark): `size` metres wide and high.

    It stands across the anchor's own +Z, which is outward. Without a picture births are even all over.
    """

    kind: Literal["picture"] = "picture"
    texture: str = ""
    invert: bool = False
    size: Annotated[tuple[Unsigned, Unsigned], Quantity("Width and height of the picture", METRES)] = (0.6, 0.6)

    @property
    def textures(self) -> tuple[str, ...]:
        """The names of the pictures that births hang on."""
        return (self.texture,) if self.texture else ()


class LineSource(_Source):
    """Births along the line from the firing's anchor to the anchor `to`, within `thickness` metres of it."""

    kind: Literal["line"] = "line"
    to: Id | None = None
    thickness: Annotated[Unsigned, Quantity("Largest distance from the line", CENTIMETRES)] = 0.0


class Mode(StrEnum):
    """What on the character gives birth, and by which measure births are spread."""

    SURFACE = "surface"
    EDGES = "edges"
    VERTICES = "vertices"
    BONES = "bones"


class Spacing(StrEnum):
    """Places drawn by chance, or set out beforehand so that none is near another."""

    RANDOM = "random"
    EVEN = "even"


class _Filter(Model):
    """What filters of a source have: one that is `off` is kept, and lets everything through."""

    disabled: Annotated[bool, once("off"), Label("Disables the filter and keeps it")] = False


class JointSet(_Filter):
    """Only the skin that these joints hold (none named: all of it).

    A `falloff` of 0 cuts where they hold half of it; with 1 births thin out with their weight.
    """

    names: Annotated[tuple[str, ...], Field(max_length=1024), Label("Names of joints, with commas between them")] = ()
    falloff: Annotated[Share, Quantity("Softness of the edge", PERCENT)] = 0.5


class HeightMask(_Filter):
    """Only between two heights of the rest pose, as shares of the character's own height.

    Births thin out over `soft` of it to either side.
    """

    low: Annotated[Finite, Quantity("From this height, feet are 0", PERCENT, step=1)] = 0.0
    high: Annotated[Finite, Quantity("To this height, the top is 100", PERCENT, step=1)] = 1.0
    soft: Annotated[Share, Quantity("Soft edge", PERCENT, step=1, word="% soft")] = 0.05


class FacingSide(StrEnum):
    """A direction of the rest pose, in which the character faces front."""

    UP = "up"
    DOWN = "down"
    FRONT = "front"
    BACK = "back"
    LEFT = "left"
    RIGHT = "right"


class FacingMask(_Filter):
    """Only where the rest pose's normal is within an angle of a side; degrees, `soft` beyond it."""

    side: Annotated[FacingSide, Label("Side")] = FacingSide.UP
    within: Annotated[
        float, Field(ge=0.0, le=180.0), Quantity("Within this angle of it", DEGREES, step=5, decimals=0)
    ] = 60.0
    soft: Annotated[
        float, Field(ge=0.0, le=180.0), Quantity("Soft edge", DEGREES, step=5, decimals=0, word="° soft")
    ] = 15.0


class TextureMask(_Filter):
    """Only where a picture in the mesh's UV is bright (or, inverted, dark)."""

    texture: Annotated[str, Label("Picture in the mesh's UV")] = ""
    invert: Annotated[bool, Label("Dark areas emit instead")] = False


class JointRow(Model):
    """A joint's own `share` of the births and factors of size and speed.

    A row stands for everything below its joint that has no row of its own.
    """

    joint: str
    share: Annotated[Unsigned, Quantity("Share of births", NUMBER, decimals=2)] = 1.0
    size: Annotated[Unsigned, Quantity("Size", TIMES, decimals=2)] = 1.0
    speed: Annotated[Finite, Quantity("Speed", TIMES, decimals=2)] = 1.0


class Occasion(StrEnum):
    """What has to happen to another particle for births.

    Its own birth, a contact with the ground, its death, or that it has come another so many metres.
    """

    BIRTH = "birth"
    CONTACT = "contact"
    DEATH = "death"
    PASSING = "passing"


class OffspringSource(_Source):
    """Births at another layer's particles of the same effect, `count` to `maximum` at each `occasion`, by `chance`.

    PASSING is that one has come another `every` metres, whatever moved it.
    They take `riding.keep` of the particle's velocity along, are as much larger or smaller as it is than it may be at
    most when they are `grown`, and take its colour by the share `tint`. OUTWARD is up.
    """

    kind: Literal["offspring"] = "offspring"
    layer: Id | None = None
    occasion: Occasion = Occasion.DEATH
    every: Annotated[
        float, Field(ge=0.001, le=1000), Quantity("Distance from one birth to the next", CENTIMETRES, step=1)
    ] = 0.1
    count: Annotated[int, Field(ge=0, le=1000), Quantity("Particles per moment", COUNT)] = 4
    most: Annotated[
        Annotated[int, Field(ge=0, le=1000)] | None, Quantity("Largest number of particles per moment", COUNT)
    ] = None
    chance: Annotated[Share, Quantity("Probability per moment", PERCENT)] = 1.0
    grown: bool = False
    tint: Annotated[Share, Quantity("Share of the parent's colour that is inherited", PERCENT)] = 0.0

    @property
    def highest(self) -> int:
        """The most births there may be at once."""
        return max(self.count, self.most or 0) if self.chance > 0 else 0


class SkinSource(_Source):
    """Births on the character, on the chosen parts (none chosen: all).

    By area, by length of edges, by vertex, or along the bones within `radius` metres. `lift` is the
    distance from there along the normal, in metres. EVEN spacing sets out `pieces` places, which
    births take one after another. While `dissolving` births keep to the border of the character's dissolve,
    and there are none while it does not move. With a joint `table` only its joints give birth, by their shares.
    """

    kind: Literal["skin"] = "skin"
    mode: Annotated[Mode, Label("What on the character emits")] = Mode.SURFACE
    parts: Annotated[tuple[str, ...], Label("Parts of the character that emit; none ticked means all")] = ()
    joints: JointSet = JointSet()
    height: HeightMask | None = None
    facing: FacingMask | None = None
    texture: TextureMask | None = None
    painted: Annotated[Id | None, Label("Painted mask")] = None
    dissolving: bool = False
    spacing: Annotated[Spacing, Label("Distribution of the birth positions")] = Spacing.RANDOM
    pieces: Annotated[
        int,
        Field(ge=1, le=MAX_EVEN),
        Quantity("Positions that are precomputed; births use one after another", COUNT, step=10, word="positions"),
    ] = 500
    radius: Annotated[Unsigned, Quantity("Largest distance from the bone", CENTIMETRES, decimals=3)] = 0.02
    lift: Annotated[Finite, Quantity("Distance from the skin", CENTIMETRES, decimals=3)] = 0.0
    table: Annotated[tuple[JointRow, ...], Field(max_length=256)] = ()

    @property
    def textures(self) -> tuple[str, ...]:
        """The names of the pictures that births hang on."""
        return (self.texture.texture,) if self.texture and self.texture.texture else ()


Source = Annotated[
    PointSource
    | SphereSource
    | RingSource
    | BoxSource
    | ConeSource
    | PictureSource
    | LineSource
    | SkinSource
    | OffspringSource,
    Field(discriminator="kind"),
]

SOURCES: dict[str, type[Source]] = {
    model.model_fields["kind"].default: model for model in get_args(get_args(Source)[0])
}
"""Kind to model, in the order of the list."""
