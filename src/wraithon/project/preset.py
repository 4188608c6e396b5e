"""Presets: layers and effects that are kept under a name, for others to follow."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import Field, model_validator

from wraithon.project.base import Id, Model, Name, new_id
from wraithon.project.effect import Effect, Layer
from wraithon.project.quantities import Label
from wraithon.support.searching import found_by


class Preset(Model):
    """A layer or an effect under a name. What is used of it names its layers' ids as those it `follows`.

    It is found by its name, its `tags`, and what its layers are called and look like.
    """

    id: Id = Field(default_factory=new_id)
    name: Name = "preset"
    tags: Annotated[tuple[Name, ...], Field(max_length=64), Label("Words it is found by, beside its name")] = ()
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

    def found_by(self, text: str) -> bool:
        """Tell whether every word of a text begins one of its own, in whatever number."""
        return found_by(text, self._names)

    @property
    def _names(self) -> list[str]:
        """All that it is found by."""
        names = [self.name, *self.tags, *(layer.name for layer in self.layers)]
        names += [LOOKS_CALLED.get(layer.look.kind, layer.look.kind) for layer in self.layers]
        return names + [texture.rpartition(".")[0] for layer in self.layers for texture in layer.look.textures]


LOOKS_CALLED = {"piece": "mesh", "mark": "decal"}
"""Looks that are called otherwise than their kinds."""
