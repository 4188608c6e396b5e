"""The stage's ground: its kinds, and the patches, blocks, ledges and ramps that are put on it."""

from __future__ import annotations

import math
from typing import Annotated, Any

from pydantic import Field

from wraithon.project.base import Finite, Id, Model, Name, Share, new_id
from wraithon.project.life import Colour
from wraithon.project.quantities import DEGREES, METRES, PERCENT, Label, Quantity

GroundKind = Id
"""One of GROUND_KINDS, or the id of one of the artist's own."""
GROUND_WORDS = {"slate": "wet slate", "moss": "moss", "puddle": "puddles", "plain": "plain floor"}
GROUND_KINDS = tuple(GROUND_WORDS)
"""Kinds of ground there always are."""
MAX_OWN = 12
"""Kinds of ground of the artist's own, at most."""
HIGHEST = 10.0
"""Metres that a block is high at most."""
Side = Annotated[float, Field(allow_inf_nan=False, ge=0.1, le=60.0)]
Height = Annotated[float, Field(allow_inf_nan=False, ge=0.0, le=HIGHEST)]


class OwnGround(Model):
    """A kind of ground of the artist's own: of a linear colour, or of that times a picture.

    The `picture` is one of the textures, and repeats after about so many metres `across`; `gloss` is how much it
    mirrors the sky.
    """

    id: Id = Field(default_factory=new_id)
    name: Annotated[Name, Label("Name of the kind of ground")] = "ground"
    colour: Annotated[Colour, Label("Its colour; a picture is multiplied by it")] = (0.09, 0.07, 0.05)
    picture: Annotated[str, Field(max_length=200), Label("A texture that repeats over it")] = ""
    across: Annotated[
        float,
        Field(allow_inf_nan=False, ge=0.1, le=4.0),
        Quantity("After about how many metres it repeats", METRES, step=0.1),
    ] = 1.0
    gloss: Annotated[Share, Quantity("Gloss: how much it mirrors the sky", PERCENT)] = 0.1


class Sky(Model):
    """The background: linear colours overhead, and of the haze at the horizon, in which the ground is lost."""

    top: Annotated[Colour, Label("Colour of the sky overhead")] = (0.008, 0.007, 0.012)
    haze: Annotated[Colour, Label("Colour of the haze at the horizon, into which the ground fades")] = (
        0.034,
        0.028,
        0.037,
    )


class Block(Model):
    """A block on the stage; where several lie over one another, the highest counts, and of those the last.

    Its middle is at `place` (x and z, metres), it is `size` wide and deep and turned by `turn` degrees about the
    vertical. Its top is `height` metres above the stage where it begins (towards -Z before it is turned), and `rise`
    more where it ends; at 0 it is a patch of another kind of ground.
    """

    id: Id = Field(default_factory=new_id)
    name: Annotated[Name, Label("Name of the block")] = "patch"
    kind: Annotated[GroundKind, Label("What kind of ground it is")] = "moss"
    round: Annotated[bool, Label("Round instead of square")] = False
    place: Annotated[tuple[Finite, Finite], Quantity("Position of its middle: left, ahead", METRES, step=0.1)] = (
        0.0, 2.0,
    )  # fmt: skip
    size: Annotated[tuple[Side, Side], Quantity("Width and depth", METRES, step=0.1)] = (1.5, 1.5)
    turn: Annotated[Finite, Quantity("Rotation about the vertical axis", DEGREES, step=5)] = 0.0
    height: Annotated[Height, Quantity("Height of its top; 0 is a patch", METRES)] = 0.0
    rise: Annotated[Height, Quantity("Rise from its near to its far end", METRES)] = 0.0

    @property
    def stands(self) -> bool:
        """Whether it stands above the stage; else it is a patch."""
        return bool(self.height or self.rise)

    def out(self, along: Any, deep: Any) -> tuple[Any, Any]:
        """Return the x and z of what is so many metres from its middle along its own axes: numbers, or arrays."""
        sine, cosine = math.sin(math.radians(self.turn)), math.cos(math.radians(self.turn))
        x, z = self.place
        return x + along * cosine + deep * sine, z - along * sine + deep * cosine

    def within(self, x: Any, z: Any) -> tuple[Any, Any]:
        """Return how many metres along its own axes a place is from its middle."""
        sine, cosine = math.sin(math.radians(self.turn)), math.cos(math.radians(self.turn))
        dx, dz = x - self.place[0], z - self.place[1]
        return dx * cosine - dz * sine, dx * sine + dz * cosine

    def top(self, deep: Any) -> Any:
        """Return how high its top is so many metres beyond its middle."""
        return self.height + self.rise * (deep / self.size[1] + 0.5)
