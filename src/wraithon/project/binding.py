"""Dials: named values of an effect that may be set from outside, and the values of its layers they drive."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from wraithon.project.base import Finite, Id, Model, Name, new_id

__all__ = ["Binding", "Dial"]


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
