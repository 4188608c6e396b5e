"""Attributes of a particle: a value at birth, and its course through life."""

from __future__ import annotations

from enum import StrEnum
from itertools import pairwise
from typing import Annotated, Self

from pydantic import Field, model_validator

from wraithon.meeting import STEADY
from wraithon.project.base import Finite, Model, Share, Unsigned

__all__ = ["Attribute", "Colour", "Curve", "Gradient", "LifeMode", "Range", "Stop", "Tint"]


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


class Curve(Model):
    """A course over the normalised age 0..1, smooth through its points without overshooting.

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
    """How the course through life meets the value at birth."""

    SCALE = "scale"
    ADD = "add"
    REPLACE = "replace"

    @property
    def code(self) -> int:
        """The number `wraithon.meeting` knows this way by."""
        return list(LifeMode).index(self)


class Attribute(Model):
    """One number of a particle: a range at birth and, if wanted, a curve through life."""

    birth: Range = Range()
    life: Curve | None = None
    mode: LifeMode = LifeMode.SCALE

    @property
    def code(self) -> int:
        """How the course meets the value at birth, as `wraithon.meeting` knows it."""
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
    """A particle's colour: between two at birth, multiplied (or replaced) by a gradient in life."""

    first: Colour = (1.0, 1.0, 1.0)
    second: Colour = (1.0, 1.0, 1.0)
    life: Gradient | None = None
    mode: LifeMode = LifeMode.SCALE

    @property
    def code(self) -> int:
        """How the gradient meets the colour at birth, as `wraithon.meeting` knows it."""
        return STEADY if self.life is None else self.mode.code

    @model_validator(mode="after")
    def _no_sum(self) -> Self:
        if self.mode is LifeMode.ADD:
            msg = 'mode must be "scale" or "replace" for a colour'
            raise ValueError(msg)
        return self
