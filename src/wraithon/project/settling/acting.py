"""Effects without what is switched off in them."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from wraithon.project.effect import Effect, Layer

__all__ = ["acting"]


def acting(effect: Effect) -> Effect:
    """Return an effect without the forces and bursts that are off; itself where there are none."""
    layers = tuple(_acting(layer) for layer in effect.layers)
    same = all(a is b for a, b in zip(layers, effect.layers, strict=True))
    return effect if same else effect.but(layers=layers)


def _acting(layer: Layer) -> Layer:
    forces = tuple(force for force in layer.motion.forces if not force.off)
    bursts = tuple(burst for burst in layer.emission.bursts if not burst.off)
    if len(forces) < len(layer.motion.forces):
        layer = layer.but(motion=layer.motion.but(forces=forces))
    if len(bursts) < len(layer.emission.bursts):
        layer = layer.but(emission=layer.emission.but(bursts=bursts))
    return layer
