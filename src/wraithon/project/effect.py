"""Effects and their layers."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from wraithon.project.base import Id, Model, Name, Unsigned, new_id
from wraithon.project.emission import Emission
from wraithon.project.life import Attribute, Tint
from wraithon.project.look import Look, SpriteLook
from wraithon.project.motion import Motion
from wraithon.project.source import PointSource, Source

__all__ = ["ATTRIBUTES", "Effect", "Layer"]

ATTRIBUTES = ("lifetime", "speed", "size", "colour", "intensity", "opacity", "turn", "spin")


class Layer(Model):
    """One kind of particle of an effect: emission, source, motion, life and look.

    Lifetime is in seconds, speed in metres a second, size in metres (the sprite's width), intensity
    multiplies colour, opacity is 0..1, turn is degrees, spin degrees a second.
    """

    id: Id = Field(default_factory=new_id)
    name: Name = "layer"
    muted: bool = False
    emission: Emission = Emission()
    source: Source = PointSource()
    motion: Motion = Motion()
    lifetime: Attribute = Attribute.of(1.0)
    speed: Attribute = Attribute.of(1.0)
    size: Attribute = Attribute.of(0.05)
    colour: Tint = Tint()
    intensity: Attribute = Attribute.of(1.0)
    opacity: Attribute = Attribute.of(1.0)
    turn: Attribute = Attribute.of(0.0, 360.0)
    spin: Attribute = Attribute.of(0.0)
    look: Look = SpriteLook()


class Effect(Model):
    """What gets fired. `length` is how long a firing gives birth, in seconds; None: until it is stopped."""

    id: Id = Field(default_factory=new_id)
    name: Name = "effect"
    length: Unsigned | None = 1.0
    layers: Annotated[tuple[Layer, ...], Field(max_length=64)] = ()
