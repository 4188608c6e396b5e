"""Effects with what their dials drive put into their layers."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.project.paths import put_at

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wraithon.project.binding import Dial
    from wraithon.project.effect import Effect, Layer

__all__ = ["resolved"]


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
