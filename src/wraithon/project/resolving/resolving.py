"""Effects with what their dials drive put into their layers."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wraithon.project.paths import value_at, with_value_at

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wraithon.project.binding import Binding, Dial, Setting
    from wraithon.project.effect import Effect, Layer


ON = 0.5
"""Where what is yes or no becomes yes."""


def resolved(effect: Effect, settings: Mapping[str, Setting] | None = None) -> Effect:
    """Return an effect with what its dials drive put into its layers; itself when they drive nothing.

    Parameters
    ----------
    effect
        The effect.
    settings
        Dial id to what it is set to, numbers held to their own range; dials that are not named keep their value.

    A binding that cannot be followed (its layer, place or dial is gone, or the value may not stand there)
    leaves the value as it is.
    """
    layers, dials = {layer.id: layer for layer in effect.layers}, {dial.id: dial for dial in effect.dials}
    bindings = [binding for binding in effect.bindings if binding.layer in layers and binding.dial in dials]
    # What may not stand there yet may once the others do: the low end of a range above its old high end.
    for _ in range(2):
        bindings = [binding for binding in bindings if not _follow(binding, dials, settings or {}, layers)]
    now = tuple(layers[layer.id] for layer in effect.layers)
    same = all(a is b for a, b in zip(now, effect.layers, strict=True))
    return effect if same else effect.evolve(layers=now)


def _follow(
    binding: Binding, dials: Mapping[str, Dial], settings: Mapping[str, Setting], layers: dict[str, Layer]
) -> bool:
    """Put what a binding drives into its layer; tell whether it may stand there."""
    dial, layer = dials[binding.dial], layers[binding.layer]
    try:
        value = _driven(dial, binding, settings.get(dial.id, dial.setting), value_at(layer, binding.path))
        layers[binding.layer] = with_value_at(layer, binding.path, value)
    except (AttributeError, IndexError, TypeError, ValueError):
        return False
    return True


def _driven(dial: Dial, binding: Binding, setting: Any, current: Any) -> Any:
    """Return what a dial makes of a place where something is `held` now."""
    if dial.kind == "colour":
        return setting
    if dial.kind == "choice":
        return binding.values[min(max(int(setting), 0), len(dial.options) - 1)] if dial.options else current
    share = float(setting >= ON) if dial.kind == "toggle" else _share(dial, setting)
    value = binding.low + (binding.high - binding.low) * share
    return value >= ON if isinstance(current, bool) else value


def _share(dial: Dial, value: float) -> float:
    span = dial.high - dial.low
    return min(max((value - dial.low) / span, 0.0), 1.0) if span else 0.0
