"""What changes an effect from outside: dials, the values of its layers they drive, and its master values."""

from __future__ import annotations

from typing import Annotated, Literal, get_args

from pydantic import Field, field_validator

from wraithon.project.base import EARLIER, Finite, Id, Model, Name, Share, new_id
from wraithon.project.life import Colour
from wraithon.project.quantities import PERCENT, TIMES, Quantity

Factor = Annotated[float, Field(allow_inf_nan=False, ge=0.01, le=100.0)]


Word = Annotated[str, Field(max_length=200)]
DialKind = Literal["number", "colour", "toggle", "choice"]
DIAL_KINDS: tuple[DialKind, ...] = get_args(DialKind)
Setting = Finite | Colour
"""What a dial may be set to: a number, of a toggle 0 or 1, of a choice which option it is; or a colour."""


class Dial(Model):
    """What may be set from outside; `value`, or the `colour`, while nobody sets it.

    A number goes from `low` to `high`. A toggle is on from 0.5. A choice is one of `options`, told by its number.
    """

    id: Id = Field(default_factory=new_id)
    name: Name = "dial"
    kind: DialKind = "number"
    low: Finite = 0.0
    high: Finite = 1.0
    value: Finite = 0.0
    colour: Colour = (1.0, 1.0, 1.0)
    options: Annotated[tuple[Name, ...], Field(max_length=16)] = ()

    @property
    def range(self) -> tuple[float, float]:
        """What it goes from and to, as a number."""
        if self.kind == "choice":
            return 0.0, float(max(1, len(self.options) - 1))
        return (0.0, 1.0) if self.kind == "toggle" else (self.low, self.high)

    @property
    def setting(self) -> Setting:
        """Value while nothing sets it."""
        return self.colour if self.kind == "colour" else self.value


class Binding(Model):
    """A value of a layer that a dial drives, at a `path` as in "size.birth.high" (see `project.paths`).

    A number drives it from `low` at the dial's lowest to `high` at its highest; a toggle makes it `low` or
    `high`.
    What is yes or no is yes from 0.5. A colour is put there itself; a choice puts there one of `values`, which has
    one for each option.
    """

    dial: Id
    layer: Id
    path: Annotated[str, Field(min_length=1, max_length=200)]
    low: Finite = 0.0
    high: Finite = 1.0
    values: Annotated[tuple[bool | Finite | Colour | Word, ...], Field(max_length=16)] = ()

    @field_validator("path")
    @classmethod
    def _present_names(cls, path: str) -> str:
        """Read what fields were called earlier as what they are called now."""
        return ".".join(EARLIER.get(part, part) for part in path.split("."))


class Masters(Model):
    """Master values: how quick, large, many, opaque and of what colour all of an effect is, beside how it was made.

    `size` scales places, speeds, distances and eddies together; `tempo` all times; `amount` how many are born.
    """

    tempo: Annotated[Factor, Quantity("Time scale: twice as fast at 2", TIMES)] = 1.0
    size: Annotated[Factor, Quantity("Scale of positions, speeds, distances and sizes", TIMES)] = 1.0
    amount: Annotated[
        float, Field(allow_inf_nan=False, ge=0.0, le=100.0), Quantity("Scale of the number of particles", TIMES)
    ] = 1.0
    opacity: Annotated[Share, Quantity("Opacity", PERCENT, step=1)] = 1.0
    tint: Colour = (1.0, 1.0, 1.0)

    @property
    def neutral(self) -> bool:
        """Whether they change nothing."""
        return self.tempo == self.size == self.amount == self.opacity == 1 and self.tint == (1.0, 1.0, 1.0)
