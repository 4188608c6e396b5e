"""What changes an effect from outside: dials, the values of its layers they drive, and its master values."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from wraithon.project.base import Finite, Id, Model, Name, Share, new_id
from wraithon.project.life import Colour

__all__ = ["Binding", "Dial", "Masters"]

Factor = Annotated[float, Field(allow_inf_nan=False, ge=0.01, le=100.0)]


class Dial(Model):
    """A number that may be set from outside, from `low` to `high`; `value` while nobody sets it."""

    id: Id = Field(default_factory=new_id)
    name: Name = "dial"
    low: Finite = 0.0
    high: Finite = 1.0
    value: Finite = 0.0


class Binding(Model):
    """A value of a layer that a dial drives: from `low` at the dial's lowest to `high` at its highest.

    `path` is where the value is in the layer, as in "size.birth.high" (see `project.paths`).
    """

    dial: Id
    layer: Id
    path: Annotated[str, Field(min_length=1, max_length=200)]
    low: Finite = 0.0
    high: Finite = 1.0


class Masters(Model):
    """Master values: how quick, large, many, opaque and of what colour all of an effect is, beside how it was made.

    `size` scales places, speeds, distances and eddies together; `tempo` all times; `amount` how many are born.
    """

    tempo: Factor = 1.0
    size: Factor = 1.0
    amount: Annotated[float, Field(allow_inf_nan=False, ge=0.0, le=100.0)] = 1.0
    opacity: Share = 1.0
    tint: Colour = (1.0, 1.0, 1.0)

    @property
    def neutral(self) -> bool:
        """Whether they change nothing."""
        return self.tempo == self.size == self.amount == self.opacity == 1 and self.tint == (1.0, 1.0, 1.0)
