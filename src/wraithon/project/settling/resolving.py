"""Effects with what their dials drive put into their layers."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.project.paths import put_at

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wraithon.project.binding import Binding, Dial
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
    leaves the value as it is.
    """
    layers = {layer.id: layer for layer in effect.layers}
    shares = {dial.id: _share(dial, (settings or {}).get(dial.id, dial.value)) for dial in effect.dials}
    bindings = [binding for binding in effect.bindings if binding.layer in layers and binding.dial in shares]
    # What may not stand there yet may once the others do: the low end of a range above its old high end.
    for _ in range(2):
        bindings = [binding for binding in bindings if not _follow(binding, shares[binding.dial], layers)]
    now = tuple(layers[layer.id] for layer in effect.layers)
    same = all(a is b for a, b in zip(now, effect.layers, strict=True))
    return effect if same else effect.but(layers=now)


def _share(dial: Dial, value: float) -> float:
    span = dial.high - dial.low
    return min(max((value - dial.low) / span, 0.0), 1.0) if span else 0.0


def _follow(binding: Binding, share: float, layers: dict[str, Layer]) -> bool:
    """Put what a binding drives into its layer; tell whether it may stand there."""
    value = binding.low + (binding.high - binding.low) * share
    try:
        layers[binding.layer] = put_at(layers[binding.layer], binding.path, value)
    except (AttributeError, IndexError, ValueError):
        return False
    return True
