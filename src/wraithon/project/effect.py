"""Effects and their layers."""

from __future__ import annotations

import math
from functools import cached_property
from typing import Annotated, Any, Literal, Self, get_args

from pydantic import Field, field_validator, model_validator

from wraithon.project.base import Id, Model, Name, Share, Unsigned, Vec3, new_id, once
from wraithon.project.binding import Binding, Dial, Masters
from wraithon.project.emission import Emission, WarmUp
from wraithon.project.ending import Ending
from wraithon.project.life import Attribute, Tint
from wraithon.project.look import Look, SpriteLook
from wraithon.project.motion import Motion
from wraithon.project.quantities import (
    CENTIMETRES,
    DEGREES,
    DEGREES_PER_S,
    M_PER_S,
    NUMBER,
    PERCENT,
    SECONDS,
    TIMES,
    Label,
    Quantity,
)
from wraithon.project.source import OffspringSource, PointSource, Source

Tag = Literal["", "teal", "rust", "moss", "ochre", "brick", "violet"]
TAGS: tuple[str, ...] = get_args(Tag)
"""Colours that a layer may be tagged with."""


class Layer(Model):
    """One kind of particle of an effect: emission, source, motion, life and look.

    Lifetime is in seconds, speed in metres a second, size in metres (the sprite's width), intensity
    multiplies colour, opacity is 0..1, turn is degrees, spin degrees a second, stretch height by width.
    With a `hold`, a share of life, particles stop ageing there for as long as their firing lasts; `fade_in` and
    `fade_out` are seconds after birth and before death. `ending` says what becomes of them when the firing ends.
    One that is `disabled` is not in the effect for now. It `follows` a layer of a preset, or none. Its colour
    `tag` is for the eye alone.
    """

    id: Id = Field(default_factory=new_id)
    name: Name = "layer"
    disabled: Annotated[bool, once("muted")] = False
    tag: Tag = ""
    follows: Id | None = None
    emission: Emission = Emission()
    source: Source = PointSource()
    motion: Motion = Motion()
    lifetime: Annotated[Attribute, Quantity("Time that particles live", SECONDS, decimals=2)] = Attribute.of(1.0)
    hold: Annotated[
        Share | None, Quantity("Share of life at which particles stop ageing while the firing lasts", PERCENT)
    ] = None
    fade_in: Annotated[Unsigned, Quantity("Time in which particles appear", SECONDS)] = 0.0
    fade_out: Annotated[Unsigned, Quantity("Time in which particles fade before they die", SECONDS)] = 0.0
    ending: Ending = Ending()
    speed: Annotated[Attribute, Quantity("Speed at birth", M_PER_S, step=0.05, decimals=2)] = Attribute.of(1.0)
    size: Annotated[Attribute, Quantity("Size", CENTIMETRES, step=0.1, decimals=2)] = Attribute.of(0.05)
    stretch: Annotated[Attribute, Quantity("Length relative to width", TIMES, decimals=2)] = Attribute.of(1.0)
    colour: Tint = Tint()
    intensity: Annotated[Attribute, Quantity("Brightness", TIMES, decimals=2)] = Attribute.of(1.0)
    opacity: Annotated[Attribute, Quantity("Opacity", NUMBER, step=0.01, decimals=2)] = Attribute.of(1.0)
    turn: Annotated[Attribute, Quantity("Rotation at birth", DEGREES, step=5)] = Attribute.of(0.0, 360.0)
    spin: Annotated[Attribute, Quantity("Rotation per second", DEGREES_PER_S, step=5, decimals=1)] = Attribute.of(0.0)
    look: Look = SpriteLook()

    @field_validator("look", mode="before")
    @classmethod
    def _sprite_unless_said(cls, value: Any) -> Any:
        """Take looks without a kind for sprites, as there was no other."""
        return {"kind": "sprite", **value} if isinstance(value, dict) else value

    def longest_life(self, length: float | None) -> float:
        """Return the longest that a particle may live, in seconds; `length` is its firing's (None: endless)."""
        lifetime = self.lifetime.ends[1]
        if self.hold is None or lifetime <= 0:
            return lifetime
        return math.inf if length is None else length + lifetime


ATTRIBUTES = tuple(name for name, field in Layer.model_fields.items() if field.annotation in {Attribute, Tint})
"""What of a particle has a value at birth and a curve through life, in the order the life sheet shows it."""


class EffectBounds(Model):
    """A box that an effect is said to stay within: metres along the world's axes, from where it is fired.

    One that goes on until it is stopped is measured from its anchor, wherever that is. What is looked at is larger on
    all sides by a share of its length, the `margin`.
    """

    low: Vec3 = (-0.5, -0.5, -0.5)
    high: Vec3 = (0.5, 0.5, 0.5)
    margin: Annotated[
        float, Field(ge=0.0, le=10.0), Quantity("Margin on each side, as a share of its length", PERCENT, 1, 1)
    ] = 0.1

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if any(low > high for low, high in zip(self.low, self.high, strict=True)):
            msg = f"the lowest corner {self.low} must not be beyond the highest {self.high}; swap them"
            raise ValueError(msg)
        return self

    @property
    def with_margin(self) -> tuple[Vec3, Vec3]:
        """Its lowest and highest corner, margin and all."""
        more = [(high - low) * self.margin for low, high in zip(self.low, self.high, strict=True)]
        low, high = (
            tuple(value + sign * by for value, by in zip(end, more, strict=True))
            for end, sign in ((self.low, -1), (self.high, 1))
        )
        return (low[0], low[1], low[2]), (high[0], high[1], high[2])


class Quality(Model):
    """A level at which an effect may be shown: a share of its births, and without some of its looks."""

    name: Name = "low"
    amount: Annotated[Share, Quantity("Share of the births", PERCENT)] = 0.5
    without: Annotated[tuple[str, ...], Field(max_length=16)] = ()


class Effect(Model):
    """What gets fired. `length` is how long a firing gives birth, in seconds; None: until it is stopped.

    With a `loop` all of it begins anew each time its length is over, until it is stopped; with a `warm_up` it
    begins as if it had gone on for so many seconds. It `follows` the effect of a preset, or none.
    With another `roll` all that is left to chance in it falls otherwise. Its `masters` change all of it at once;
    where it is started there may be others, which come on top. Its `bounds` may be fixed, for games.
    """

    id: Id = Field(default_factory=new_id)
    name: Annotated[Name, Label("Name of the effect")] = "effect"
    follows: Id | None = None
    length: Annotated[Unsigned | None, Quantity("Time for which a firing emits", SECONDS)] = 1.0
    loop: Annotated[bool, Label("Starts again by itself at the end of its duration, until it is stopped")] = False
    warm_up: Annotated[WarmUp, Quantity("Time simulated before the first frame", SECONDS, step=0.1)] = 0.0
    roll: Annotated[int, Field(ge=0, lt=2**31)] = 0
    masters: Masters = Masters()
    layers: Annotated[tuple[Layer, ...], Field(max_length=64)] = ()
    bounds: EffectBounds | None = None
    qualities: Annotated[tuple[Quality, ...], Field(max_length=8)] = ()
    dials: Annotated[tuple[Dial, ...], Field(max_length=64)] = ()
    bindings: Annotated[tuple[Binding, ...], Field(max_length=256)] = ()

    def layer(self, layer_id: str | None) -> Layer | None:
        """Return the layer with this id, or None."""
        return self._layers_by_id.get(layer_id or "")

    @cached_property
    def _layers_by_id(self) -> dict[str, Layer]:
        return {layer.id: layer for layer in reversed(self.layers)}

    def emitters(self, layer: Layer) -> tuple[Layer, ...]:
        """Return the layers whose particles bear a layer's, those that bear these, and so on; each once."""
        found: list[Layer] = []
        at: Layer | None = layer
        while at is not None and isinstance(at.source, OffspringSource):
            wanted = at.source.layer
            at = next((each for each in self.layers if each.id == wanted), None)
            if at is None or at.id == layer.id or at in found:
                break
            found.append(at)
        return tuple(found)
