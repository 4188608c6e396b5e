"""How a layer is drawn."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from wraithon.project.base import Model, Unsigned

__all__ = ["LOOKS", "Blend", "Facing", "FrameGrid", "Look", "RibbonLook", "SpriteLook"]


class Blend(StrEnum):
    """How a sprite meets what is behind it."""

    ALPHA = "alpha"
    ADDITIVE = "additive"


class Facing(StrEnum):
    """What a sprite's upright follows: the picture's, its velocity, or the normal of where it was born or rides."""

    CAMERA = "camera"
    VELOCITY = "velocity"
    NORMAL = "normal"


class FrameGrid(Model):
    """A texture cut into `columns` by `rows` equal frames; each particle draws one by chance."""

    columns: Annotated[int, Field(ge=1, le=16)] = 1
    rows: Annotated[int, Field(ge=1, le=16)] = 1


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

    `stretch` lengthens a velocity-facing sprite by that many seconds of its own speed.
    """

    kind: Literal["sprite"] = "sprite"
    sheet: FrameGrid = FrameGrid()
    facing: Facing = Facing.CAMERA
    stretch: Unsigned = 0.0

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


LOOKS: dict[str, type[SpriteLook | RibbonLook]] = {"sprite": SpriteLook, "ribbon": RibbonLook}
"""Kind to model; what writes, draws and edits a look is found by the same word."""

Look = Annotated[SpriteLook | RibbonLook, Field(discriminator="kind")]
