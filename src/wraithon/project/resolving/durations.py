"""Effects that loop or are warmed up as a whole: their layers do so instead."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.project.emission import SHORTEST_LOOP

if TYPE_CHECKING:
    from wraithon.project.effect import Effect, Layer


def lasting(effect: Effect) -> Effect:
    """Return an effect whose layers loop and are warmed up as it is itself; itself where it is neither.

    A layer that loops by itself goes on to do so; the longer warm-up counts.
    """
    loops = effect.loop and effect.length is not None
    if not loops and not effect.warm_up:
        return effect
    layers = tuple(_lasting(layer, effect, loops=loops) for layer in effect.layers)
    return effect.evolve(layers=layers, length=None if loops else effect.length, loop=False, warm_up=0.0)


def _lasting(layer: Layer, effect: Effect, *, loops: bool) -> Layer:
    emission = layer.emission
    changes: dict[str, object] = {"warm_up": max(emission.warm_up, effect.warm_up)}
    if loops and emission.loop is None and effect.length is not None:
        window = emission.window(effect.length)
        changes |= {"loop": max(effect.length, SHORTEST_LOOP), "length": window}
    return layer.evolve(emission=emission.evolve(**changes))
