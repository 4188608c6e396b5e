"""How a layer is drawn."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from wraithon.project.base import Model, Share, Unsigned, Vec3

__all__ = [
    "LOOKS",
    "Blend",
    "Facing",
    "FrameGrid",
    "LightLook",
    "Look",
    "MarkLook",
    "Play",
    "RibbonLook",
    "SpriteLook",
]


class Blend(StrEnum):
    """How a sprite meets what is behind it."""

    ALPHA = "alpha"
    ADDITIVE = "additive"


class Facing(StrEnum):
    """What a sprite's upright follows: the picture's, its velocity, the normal of where it was born, or an axis."""

    CAMERA = "camera"
    VELOCITY = "velocity"
    NORMAL = "normal"
    AXIS = "axis"


class Play(StrEnum):
    """Which frames of a sheet a particle shows: one by chance, or all through its life, from the first or any."""

    CHANCE = "chance"
    LIFE = "life"
    LIFE_FROM_CHANCE = "life from chance"


class FrameGrid(Model):
    """A texture cut into `columns` by `rows` equal frames.

    What plays goes through them `times` in a life; `blended`, each frame fades into the next.
    """

    columns: Annotated[int, Field(ge=1, le=16)] = 1
    rows: Annotated[int, Field(ge=1, le=16)] = 1
    play: Play = Play.CHANCE
    times: Annotated[float, Field(ge=0.05, le=100.0)] = 1.0
    blended: bool = False

    @property
    def fades(self) -> bool:
        """Whether frames fade into each other: by chance, each particle has but one."""
        return self.blended and self.play is not Play.CHANCE and self.columns * self.rows > 1


class _Look(Model):
    """What all looks have: a texture and how it meets what is behind it.

    `soft` is the distance in metres over which it fades before it meets something solid.
    """

    texture: str = ""
    blend: Blend = Blend.ALPHA
    soft: Unsigned = 0.05
    lit: bool = False

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
    size. `axis`, in the world, is what those that face one stand along.
    """

    kind: Literal["sprite"] = "sprite"
    sheet: FrameGrid = FrameGrid()
    facing: Facing = Facing.CAMERA
    stretch: Unsigned = 0.0
    longest: Annotated[float, Field(ge=1.0, le=1000.0)] = 1000.0
    axis: Vec3 = (0.0, 1.0, 0.0)

    @property
    def frames(self) -> int:
        """How many frames the texture has."""
        return self.sheet.columns * self.sheet.rows

    @property
    def by_normal(self) -> bool:
        """Whether it is turned by the normal of where a particle was born or rides."""
        return self.facing is Facing.NORMAL


class RibbonLook(_Look):
    """A band through the births of a firing, one after another, as wide as they are large."""

    kind: Literal["ribbon"] = "ribbon"


class MarkLook(_Look):
    """A textured square that lies flat on the ground under its particle, turned about the upright."""

    kind: Literal["mark"] = "mark"


class LightLook(_Look):
    """A light on the character and the ground, which reaches as far as its particle is large.

    `flicker` is the share of its strength that comes and goes, about `pace` times a second.
    """

    kind: Literal["light"] = "light"
    flicker: Share = 0.0
    pace: Annotated[float, Field(ge=0.0, le=60.0)] = 6.0


LOOKS: dict[str, type[SpriteLook | RibbonLook | MarkLook | LightLook]] = {
    "sprite": SpriteLook,
    "ribbon": RibbonLook,
    "mark": MarkLook,
    "light": LightLook,
}
"""Kind to model; what writes, draws and edits a look is found by the same word."""

Look = Annotated[SpriteLook | RibbonLook | MarkLook | LightLook, Field(discriminator="kind")]
