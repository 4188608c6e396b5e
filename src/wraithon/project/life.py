"""Attributes of a particle: a value at birth, and its curve through life."""

from __future__ import annotations

from enum import StrEnum
from itertools import pairwise
from typing import Annotated, Self

from pydantic import Field, model_validator

from wraithon.numeric.meeting import STEADY
from wraithon.project.base import Finite, Model, Positive, Share, Unsigned
from wraithon.project.quantities import M_PER_S, METRES, PER_SECOND, PERCENT, Quantity


class Range(Model):
    """Lowest and highest value at birth; each particle draws one uniformly between them."""

    low: Finite = 0.0
    high: Finite = 0.0

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if self.low > self.high:
            msg = f"low ({self.low:g}) must not be above high ({self.high:g}); swap them"
            raise ValueError(msg)
        return self

    @classmethod
    def of(cls, low: float, high: float | None = None) -> Self:
        """Return the range `low`..`high`, or a single value."""
        return cls(low=low, high=low if high is None else high)

    def with_end(self, end: str, value: float) -> Self:
        """Return the range with its `low` or `high` end elsewhere; the other gives way to stay in order."""
        if end == "low":
            return self.evolve(low=value, high=max(value, self.high))
        return self.evolve(low=min(value, self.low), high=value)


class Curve(Model):
    """A curve over the normalised age 0..1, smooth through its points without overshooting.

    Points are (age, value), ages rising; before the first and after the last the value stays.
    """

    points: Annotated[tuple[tuple[Share, Finite], ...], Field(min_length=1, max_length=64)] = (
        (0.0, 1.0),
        (1.0, 1.0),
    )

    @model_validator(mode="after")
    def _rising(self) -> Self:
        for (a, _), (b, _) in pairwise(self.points):
            if b <= a:
                msg = f"ages must rise from point to point, but {b:g} follows {a:g}"
                raise ValueError(msg)
        return self

    @classmethod
    def through(cls, *points: tuple[float, float]) -> Self:
        """Return the curve through `points`, given as (age, value)."""
        return cls(points=points)


class LifeMode(StrEnum):
    """How the curve through life meets the value at birth."""

    SCALE = "scale"
    ADD = "add"
    REPLACE = "replace"

    @property
    def code(self) -> int:
        """The number `wraithon.numeric.meeting` knows this way by."""
        return list(LifeMode).index(self)


class WeightedChoice(Model):
    """A value at birth that is drawn as often as its weight is to that of all."""

    value: Finite = 0.0
    weight: Annotated[Unsigned, Quantity("Weight of the choice among all")] = 1.0


class Over(StrEnum):
    """What a curve runs over: the age, or how fast a particle is."""

    AGE = "age"
    SPEED = "speed"


class By(StrEnum):
    """What a value at birth hangs on: chance, or how far from its anchor a particle is born."""

    CHANCE = "chance"
    DISTANCE = "distance"


class Wobble(Model):
    """Coming and going by up to `size` of a value (of turns: by so many degrees), about `pace` times a second."""

    size: Annotated[Unsigned, Quantity("Amplitude of the variation")] = 0.0
    pace: Annotated[float, Field(ge=0.0, le=60.0), Quantity("Frequency of the variation", PER_SECOND)] = 2.0


class Attribute(Model):
    """One number of a particle: a range at birth and, if wanted, a curve through life.

    Where there are `choices`, one of them is drawn instead of the range. By DISTANCE it is the lowest, or first, at
    the anchor, and the highest, or last, `far` metres away and beyond. A curve over speed has its end at `top`
    metres a second.
    """

    birth: Range = Range()
    by: By = By.CHANCE
    far: Annotated[Positive, Quantity("Distance at which the curve ends", METRES)] = 1.0
    choices: Annotated[tuple[WeightedChoice, ...], Field(max_length=16)] = ()
    life: Curve | None = None
    mode: LifeMode = LifeMode.SCALE
    over: Over = Over.AGE
    top: Annotated[Positive, Quantity("Speed at which the curve ends", M_PER_S)] = 5.0
    wobble: Wobble = Wobble()

    @property
    def ends(self) -> tuple[float, float]:
        """Lowest and highest value at birth."""
        drawn = [choice.value for choice in self.choices if choice.weight > 0] or [c.value for c in self.choices]
        return (min(drawn), max(drawn)) if drawn else (self.birth.low, self.birth.high)

    @property
    def code(self) -> int:
        """How the curve meets the value at birth, as `wraithon.numeric.meeting` knows it."""
        return STEADY if self.life is None else self.mode.code

    @classmethod
    def of(cls, low: float, high: float | None = None, life: Curve | None = None) -> Self:
        """Return an attribute born in `low`..`high`, scaled by `life`."""
        return cls(birth=Range.of(low, high), life=life)


Colour = tuple[Unsigned, Unsigned, Unsigned]


class Stop(Model):
    """One colour of a gradient, in linear RGB, at a normalised age."""

    at: Share
    colour: Colour


class Gradient(Model):
    """Colours over the normalised age 0..1, blended in linear light."""

    stops: Annotated[tuple[Stop, ...], Field(min_length=1, max_length=32)]

    @model_validator(mode="after")
    def _rising(self) -> Self:
        for a, b in pairwise(self.stops):
            if b.at <= a.at:
                msg = f"stops must rise, but {b.at:g} follows {a.at:g}"
                raise ValueError(msg)
        return self

    @classmethod
    def through(cls, *stops: tuple[float, Colour]) -> Self:
        """Return the gradient through `stops`, given as (age, linear RGB)."""
        return cls(stops=tuple(Stop(at=at, colour=colour) for at, colour in stops))


class Tint(Model):
    """A particle's colour: between two at birth, multiplied (or replaced) by a gradient in life.

    By the share `beneath` it is times the colour of the skin that a particle is born on, or else of the ground below.
    """

    first: Colour = (1.0, 1.0, 1.0)
    second: Colour = (1.0, 1.0, 1.0)
    beneath: Annotated[Share, Quantity("Share of the surface colour", PERCENT)] = 0.0
    life: Gradient | None = None
    mode: LifeMode = LifeMode.SCALE

    @property
    def code(self) -> int:
        """How the gradient meets the colour at birth, as `wraithon.numeric.meeting` knows it."""
        return STEADY if self.life is None else self.mode.code

    @model_validator(mode="after")
    def _no_sum(self) -> Self:
        if self.mode is LifeMode.ADD:
            msg = 'mode must be "scale" or "replace" for a colour'
            raise ValueError(msg)
        return self
