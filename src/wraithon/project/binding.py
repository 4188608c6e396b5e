"""Dials: named values of an effect that may be set from outside, and the values of its layers they drive."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from wraithon.project.base import Finite, Id, Model, Name, new_id
from wraithon.project.paths import put_at

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wraithon.project.effect import Effect, Layer

__all__ = ["Binding", "Dial", "resolved"]


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


def resolved(effect: Effect, settings: Mapping[str, float] | None = None) -> Effect:
    """Return an effect with what its dials drive put into its layers; itself when they drive nothing.

    Parameters
    ----------
    effect
        The effect.
    settings
        Dial id to what it is set to, held to its own range; dials that are not named keep their value.

    A binding that cannot be followed (its layer, place or dial is gone, or the value may not stand there)
    leaves the value as it is: that is found by the checks.
    """
    layers = {layer.id: layer for layer in effect.layers}
    shares = {dial.id: _share(dial, (settings or {}).get(dial.id, dial.value)) for dial in effect.dials}
    for binding in effect.bindings:
        layer = layers.get(binding.layer)
        if layer is not None and binding.dial in shares:
            value = binding.low + (binding.high - binding.low) * shares[binding.dial]
            layers[layer.id] = _bound(layer, binding.path, value)
    now = tuple(layers[layer.id] for layer in effect.layers)
    same = all(a is b for a, b in zip(now, effect.layers, strict=True))
    return effect if same else effect.but(layers=now)


def _share(dial: Dial, value: float) -> float:
    span = dial.high - dial.low
    return min(max((value - dial.low) / span, 0.0), 1.0) if span else 0.0


def _bound(layer: Layer, path: str, value: float) -> Layer:
    try:
        return put_at(layer, path, value)
    except (AttributeError, IndexError, ValueError):
        return layer
