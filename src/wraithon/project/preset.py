"""Presets: layers and effects that are kept under a name, for others to follow."""

from __future__ import annotations

from typing import Self

from pydantic import Field, model_validator

from wraithon.project.base import Id, Model, Name, new_id
from wraithon.project.effect import Effect, Layer


class Preset(Model):
    """A layer or an effect under a name. What is used of it names its layers' ids as those it `follows`."""

    id: Id = Field(default_factory=new_id)
    name: Name = "preset"
    layer: Layer | None = None
    effect: Effect | None = None

    @model_validator(mode="after")
    def _one(self) -> Self:
        if (self.layer is None) == (self.effect is None):
            msg = "a preset holds a layer or an effect, and not both"
            raise ValueError(msg)
        return self

    @property
    def layers(self) -> tuple[Layer, ...]:
        """Its layers."""
        return self.effect.layers if self.effect is not None else (self.layer,) if self.layer is not None else ()
