"""How a layer is drawn."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, ClassVar, Literal, get_args

from pydantic import Field

from wraithon.project.base import Finite, Model, Positive, Share, Unsigned, Vec3
from wraithon.project.life import Curve, Gradient
from wraithon.project.quantities import (
    CENTIMETRES,
    COUNT,
    M_PER_S,
    METRES,
    MILLISECONDS,
    NUMBER,
    PER_SECOND,
    PERCENT,
    SECONDS,
    TIMES,
    Label,
    Quantity,
)

SHAPES = ("shard", "chip", "petal", "quill", "cube", "ball")
"""The small meshes that come with the program."""


class Blend(StrEnum):
    """How a sprite meets what is behind it."""

    ALPHA = "alpha"
    ADDITIVE = "additive"
    MULTIPLY = "multiply"


class Facing(StrEnum):
    """What a sprite's upright follows: the picture's, its velocity, the normal of where it was born, or an axis.

    One that is flat lies across its axis.
    """

    CAMERA = "camera"
    VELOCITY = "velocity"
    NORMAL = "normal"
    AXIS = "axis"
    FLAT = "flat"


class SheetPlay(StrEnum):
    """Which frames of a sheet a particle shows: one by chance, or all through its life, from the first or any."""

    CHANCE = "chance"
    LIFE = "life"
    LIFE_FROM_CHANCE = "life from chance"


class FrameGrid(Model):
    """A texture cut into `columns` by `rows` equal frames.

    What plays goes through them `times` in a life; `blended`, each frame fades into the next.
    """

    columns: Annotated[
        int, Field(ge=1, le=16), Quantity("Frames side by side in the texture", COUNT, word="columns")
    ] = 1
    rows: Annotated[
        int, Field(ge=1, le=16), Quantity("Frames above each other in the texture", COUNT, word="rows")
    ] = 1
    play: Annotated[SheetPlay, Label("Which frames a particle shows")] = SheetPlay.CHANCE
    times: Annotated[
        float, Field(ge=0.05, le=100.0), Quantity("Passes through the frames in a lifetime", TIMES, step=0.25)
    ] = 1.0
    blended: Annotated[bool, Label("Each frame fades into the next")] = False

    @property
    def fades(self) -> bool:
        """Whether frames fade into each other: by chance, each particle has but one."""
        return self.blended and self.play is not SheetPlay.CHANCE and self.columns * self.rows > 1


class _Look(Model):
    """What all looks have: a texture and how it meets what is behind it.

    `soft` is the distance in metres over which it fades before it meets something solid.
    """

    maximum: ClassVar[int] = 10**9
    """How many particles of a layer are drawn: all that there may be."""
    texture: Annotated[str, Label("Texture")] = ""
    blend: Annotated[Blend, Label("Blend")] = Blend.ALPHA
    soft: Annotated[Unsigned, Quantity("Distance over which it fades before solid surfaces", CENTIMETRES)] = 0.05
    lit: bool = False

    @property
    def textures(self) -> tuple[str, ...]:
        """The names of all textures it is drawn with."""
        return (self.texture,) if self.texture else ()

    @property
    def idle(self) -> dict[str, str]:
        """Attributes that do nothing under it, and why."""
        override = self.rotation_override
        turns = dict.fromkeys(("turn", "spin"), override) if override else {}
        return {"stretch": "only sprites are stretched", **turns}

    @property
    def rotation_override(self) -> str:
        """Why turn and spin do nothing; empty where they turn something."""
        return ""

    @property
    def frames(self) -> int:
        """How many frames the texture has."""
        return 1

    @property
    def by_normal(self) -> bool:
        """Whether it is turned by the normal of where a particle was born or rides."""
        return False


class SpriteLook(_Look):
    """Textured squares that face the camera.

    `stretch` lengthens a velocity-facing sprite by that many seconds of its own speed, up to `longest` times its
    size. `axis`, in the world, is what those that face one stand along, and those that are flat lie across. What is
    far is drawn first; `by_age`, those of the layer that are older. Within `near` metres of the camera they fade out,
    so that none fills the picture.
    """

    kind: Literal["sprite"] = "sprite"
    sheet: FrameGrid = FrameGrid()
    facing: Annotated[Facing, Label("What it faces")] = Facing.CAMERA
    stretch: Annotated[Unsigned, Quantity("Lengthened by so much of its own way", MILLISECONDS)] = 0.0
    longest: Annotated[
        float,
        Field(ge=1.0, le=1000.0),
        Quantity("Largest length, as a multiple of the size", TIMES, step=0.5, decimals=1),
    ] = 1000.0
    axis: Vec3 = (0.0, 1.0, 0.0)
    by_age: Annotated[bool, Label("Which are drawn over which")] = False
    near: Annotated[Unsigned, Quantity("Distance from the camera within which sprites fade out; 0: none", METRES)] = (
        0.0
    )

    @property
    def idle(self) -> dict[str, str]:
        """Attributes that do nothing under it, and why."""
        return {name: why for name, why in super().idle.items() if name != "stretch"}

    @property
    def rotation_override(self) -> str:
        """Why turn and spin do nothing; empty where they turn something."""
        text = {
            Facing.VELOCITY: "its sprites face along their velocity",
            Facing.NORMAL: "its sprites face the normal",
            Facing.AXIS: "its sprites stand along an axis",
        }
        return text.get(self.facing, "")

    @property
    def frames(self) -> int:
        """How many frames the texture has."""
        return self.sheet.columns * self.sheet.rows

    @property
    def by_normal(self) -> bool:
        """Whether it is turned by the normal of where a particle was born or rides."""
        return self.facing is Facing.NORMAL


class Through(StrEnum):
    """What a ribbon runs through: a firing's births, each particle's own past, or what a line of births has swept."""

    BIRTHS = "births"
    PAST = "past"
    SWEEP = "sweep"


class RibbonLook(_Look):
    """A band through particles, as wide as they are large; one that a line sweeps is as wide as the line.

    `past` is how many seconds of a particle's own past it shows. `head` and `tail` are the shares of its length over
    which it tapers, `widening`, `fading` and `tinting` curves from its head to its tail. Its texture is drawn out
    over all of it, or repeats every `tile` metres; `flow` moves it, in metres a second.
    """

    kind: Literal["ribbon"] = "ribbon"
    through: Annotated[Through, Label("What it runs through")] = Through.BIRTHS
    past: Annotated[
        float,
        Field(ge=0.02, le=10.0),
        Quantity("Duration of each particle's past that it shows", SECONDS, decimals=2),
    ] = 0.5
    head: Annotated[Share, Quantity("Share of its length over which its young end tapers", PERCENT)] = 0.0
    tail: Annotated[Share, Quantity("Share of its length over which its old end tapers", PERCENT)] = 0.0
    widening: Annotated[Curve | None, Label("Width from head to tail")] = None
    fading: Annotated[Curve | None, Label("Opacity from head to tail")] = None
    tinting: Annotated[Gradient | None, Label("Colours from head to tail")] = None
    tile: Annotated[
        Unsigned, Quantity("Length of one repeat of the texture; 0 stretches it once", METRES, step=0.1)
    ] = 0.0
    flow: Annotated[Finite, Quantity("Speed of the texture along it", M_PER_S)] = 0.0

    @property
    def by_normal(self) -> bool:
        """Whether it is turned by the normal of where a particle was born or rides."""
        return self.through is Through.SWEEP

    @property
    def idle(self) -> dict[str, str]:
        """Attributes that do nothing under it, and why."""
        swept = {"size": "it is as wide as the line that sweeps"} if self.through is Through.SWEEP else {}
        return {**super().idle, **swept}

    @property
    def rotation_override(self) -> str:
        """Why turn and spin do nothing; empty where they turn something."""
        return "ribbons lie along their way"


class DecalLook(_Look):
    """A textured square that lies flat on the ground under its particle, turned about the upright."""

    kind: Literal["mark"] = "mark"


class LightLook(_Look):
    """A light on the character and the ground, which reaches as far as its particle is large.

    `flicker` is the share of its strength that comes and goes, about `pace` times a second.
    """

    kind: Literal["light"] = "light"
    flicker: Annotated[Share, Quantity("Depth of the flicker", PERCENT)] = 0.0
    pace: Annotated[float, Field(ge=0.0, le=60.0), Quantity("Frequency of the flicker", PER_SECOND, step=0.5)] = 6.0

    @property
    def rotation_override(self) -> str:
        """Why turn and spin do nothing; empty where they turn something."""
        return "lights shine to all sides"


FileName = Annotated[str, Field(min_length=1, max_length=200)]


class Orientation(StrEnum):
    """How pieces are turned: anyhow and about an axis of their own, or not; or by where they fly or stand."""

    TUMBLING = "tumbling"
    FIXED = "fixed"
    VELOCITY = "velocity"
    NORMAL = "normal"


class MeshLook(_Look):
    """Small meshes, as large as their particles: solid things, which throw a shadow on the ground.

    Each is one of `shapes` by chance: names of `SHAPES`, or of .glb files in the project's folder of pieces. `glow`
    is the share of its colour that shines by itself.
    """

    kind: Literal["piece"] = "piece"
    lit: bool = True
    shapes: Annotated[
        tuple[FileName, ...], Field(max_length=16), Label("Which shapes there are, one of them by chance")
    ] = ("shard",)
    orientation: Annotated[Orientation, Label("How they are turned")] = Orientation.TUMBLING
    shadow: Annotated[bool, Label("Whether they darken the ground")] = True
    glow: Annotated[Share, Quantity("Share of their colour that glows", PERCENT)] = 0.0

    @property
    def by_normal(self) -> bool:
        """Whether it is turned by the normal of where a particle was born or rides."""
        return self.orientation is Orientation.NORMAL

    @property
    def idle(self) -> dict[str, str]:
        """Attributes that do nothing under it, and why."""
        return {**super().idle, "opacity": "meshes are solid: let their size go to nothing instead"}

    @property
    def rotation_override(self) -> str:
        """Why turn and spin do nothing; empty where they turn something."""
        return "each mesh is rotated once and for all" if self.orientation is Orientation.FIXED else ""


class Figure(StrEnum):
    """What a shell is shaped like: an egg or a capsule where its particle is, or the skin pushed outward."""

    ELLIPSOID = "ellipsoid"
    CAPSULE = "capsule"
    SKIN = "skin"


class NoiseField(Model):
    """One of the two fields that move through a shell and take away from it.

    It is noise with blotches of `scale` metres, which moves by `drift` metres a second, or a `texture` that repeats
    every `scale` metres. `amount` is how much it takes away at most.
    """

    scale: Annotated[
        Positive, Quantity("Size of the noise cells, or of the texture's tiles", CENTIMETRES, step=1)
    ] = 0.25
    drift: Annotated[Vec3, Quantity("Drift of the field along the anchor's axes", M_PER_S)] = (0.0, 0.3, 0.0)
    amount: Annotated[Share, Quantity("Opacity removed by the field", PERCENT)] = 0.8
    texture: Annotated[str, Label("Texture or noise of the field")] = ""


class Ingredient(StrEnum):
    """What of a shell is shown: all of it, or one ingredient alone."""

    ALL = "all"
    FIRST = "first"
    SECOND = "second"
    MASK = "mask"
    RIM = "rim"


class ShellSide(StrEnum):
    """Which sides of a shell show: what is before the character, behind it, or both."""

    BOTH = "both"
    FRONT = "front"
    BACK = "back"


class ShellLook(_Look):
    """A thin film around its particle or on the character, patterned by two fields that move.

    An ellipsoid or capsule is as wide as its particle is large, and `tall` times as high; a skin is pushed
    outward by that size. `fill` is what is seen of it face on, `rim` how narrow the bright rim is. It comes
    between the shares `low` of its height and goes between those of `high`, and is kept to where the picture
    `mask` is bright. `warp` is by how many metres the second field distorts the first. The film is pushed outward
    by up to `swell` metres where the first field is strong, less below the share `calm` of its height. `bands`
    colours it by its strength. `bend` is by how many metres it shifts what is seen through it. `shows` and
    `frozen` are for looking at it while it is made.
    """

    maximum: ClassVar[int] = 16
    """Each is drawn as a character is: the first of them are."""
    kind: Literal["shell"] = "shell"
    blend: Annotated[Blend, Label("Blend")] = Blend.ADDITIVE
    figure: Annotated[Figure, Label("Shape of the shell")] = Figure.ELLIPSOID
    tall: Annotated[
        float, Field(ge=0.1, le=10.0), Quantity("Height relative to width", TIMES, step=0.1, decimals=2)
    ] = 1.8
    side: Annotated[ShellSide, Label("Visible sides")] = ShellSide.BOTH
    first: NoiseField = NoiseField()
    second: NoiseField = NoiseField(scale=0.6, drift=(0.0, 0.12, 0.0), amount=0.5)
    warp: Annotated[Unsigned, Quantity("Distortion of the first field by the second", CENTIMETRES, step=1)] = 0.1
    contrast: Annotated[
        float, Field(ge=0.1, le=20.0), Quantity("Contrast of the pattern", NUMBER, step=0.25, decimals=2)
    ] = 2.0
    fill: Annotated[Share, Quantity("Opacity of faces turned to the camera; the rim is always visible", PERCENT)] = (
        0.25
    )
    rim: Annotated[
        float, Field(ge=0.1, le=20.0), Quantity("Sharpness of the bright rim", NUMBER, step=0.25, decimals=2)
    ] = 2.0
    low: Annotated[tuple[Share, Share], Quantity("Shares of its height between which it fades in", PERCENT)] = (
        0.0,
        0.15,
    )
    high: Annotated[tuple[Share, Share], Quantity("Shares of its height between which it fades out", PERCENT)] = (
        0.85,
        1.0,
    )
    mask: Annotated[str, Label("Texture that shows the shell where it is bright")] = ""
    swell: Annotated[
        Unsigned, Quantity("Displacement along the normal where the first field is strong", CENTIMETRES)
    ] = 0.0
    calm: Annotated[Share, Quantity("Share of its height below which displacement fades", PERCENT)] = 0.3
    bands: Annotated[Gradient | None, Label("Colour scale over its strength")] = None
    bend: Annotated[Unsigned, Quantity("Shift of what is seen through it", CENTIMETRES)] = 0.0
    shows: Annotated[Ingredient, Label("Ingredient of the shell that is shown")] = Ingredient.ALL
    frozen: Annotated[bool, Label("Freezes the fields")] = False

    @property
    def textures(self) -> tuple[str, ...]:
        """The names of all textures it is drawn with."""
        return tuple(filter(None, (self.first.texture, self.second.texture, self.mask)))

    @property
    def idle(self) -> dict[str, str]:
        """Attributes that do nothing under it, and why."""
        worn = {"speed": "it stays on the character"} if self.figure is Figure.SKIN else {}
        return {**super().idle, **worn}

    @property
    def rotation_override(self) -> str:
        """Why turn and spin do nothing; empty where they turn something."""
        return "it lies on the character" if self.figure is Figure.SKIN else ""


class AfterimageLook(_Look):
    """The character's pose at a particle's birth, left behind and tinted.

    `fill` is what is seen of it face on, `rim` how narrow the bright rim is.
    """

    maximum: ClassVar[int] = 24
    """Each is drawn as a character is: the youngest of them are."""
    kind: Literal["afterimage"] = "afterimage"
    fill: Annotated[Share, Quantity("Opacity of faces turned to the camera; the rim is always visible", PERCENT)] = (
        0.35
    )
    rim: Annotated[
        float, Field(ge=0.1, le=20.0), Quantity("Sharpness of the bright rim", NUMBER, step=0.25, decimals=2)
    ] = 1.5

    @property
    def idle(self) -> dict[str, str]:
        """Attributes that do nothing under it, and why."""
        stays = "an afterimage stays as the character was"
        return {**super().idle, "speed": stays, "size": stays}

    @property
    def rotation_override(self) -> str:
        """Why turn and spin do nothing; empty where they turn something."""
        return "an afterimage stays as the character was"


Look = Annotated[
    SpriteLook | RibbonLook | MeshLook | ShellLook | AfterimageLook | DecalLook | LightLook,
    Field(discriminator="kind"),
]

LOOKS: dict[str, type[Look]] = {model.model_fields["kind"].default: model for model in get_args(get_args(Look)[0])}
"""Kind to model; what writes, draws and edits a look is found by the same word."""
