"""How a layer is drawn."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from wraithon.project.base import Model, Unsigned

__all__ = ["Blend", "Facing", "Look", "Sheet", "SpriteLook"]


class Blend(StrEnum):
    """How a sprite meets what is behind it."""

    ALPHA = "alpha"
    ADDITIVE = "additive"


class Facing(StrEnum):
    """What a sprite's upright follows: the picture's, its velocity, or the normal of where it was born or rides."""

    CAMERA = "camera"
    VELOCITY = "velocity"
    NORMAL = "normal"


class Sheet(Model):
    """A texture cut into `columns` by `rows` equal frames; each particle draws one by chance."""

    columns: Annotated[int, Field(ge=1, le=16)] = 1
    rows: Annotated[int, Field(ge=1, le=16)] = 1


class SpriteLook(Model):
    """Textured squares that face the camera.

    `soft` is the distance in metres over which a sprite fades before it meets something solid.
    `stretch` lengthens a velocity-facing sprite by that many seconds of its own speed.
    """

    kind: Literal["sprite"] = "sprite"
    texture: str = ""
    sheet: Sheet = Sheet()
    blend: Blend = Blend.ALPHA
    facing: Facing = Facing.CAMERA
    stretch: Unsigned = 0.0
    soft: Unsigned = 0.05
    lit: bool = False


Look = SpriteLook
