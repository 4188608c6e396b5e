"""Effects without what is switched off in them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.project.source import JointSet, SkinSource

if TYPE_CHECKING:
    from wraithon.project.effect import Effect, Layer


FILTERS = ("height", "facing", "texture")


def acting(effect: Effect) -> Effect:
    """Return an effect without the forces, bursts and filters that are off; itself where there are none."""
    layers = tuple(_acting(layer) for layer in effect.layers)
    same = all(a is b for a, b in zip(layers, effect.layers, strict=True))
    return effect if same else effect.evolve(layers=layers)


def _acting(layer: Layer) -> Layer:
    forces = tuple(force for force in layer.motion.forces if not force.disabled)
    bursts = tuple(burst for burst in layer.emission.bursts if not burst.disabled)
    if len(forces) < len(layer.motion.forces):
        layer = layer.evolve(motion=layer.motion.evolve(forces=forces))
    if len(bursts) < len(layer.emission.bursts):
        layer = layer.evolve(emission=layer.emission.evolve(bursts=bursts))
    if isinstance(layer.source, SkinSource):
        source = _unfiltered(layer.source)
        layer = layer if source is layer.source else layer.evolve(source=source)
    return layer


def _unfiltered(source: SkinSource) -> SkinSource:
    changes: dict[str, object] = {
        name: None for name in FILTERS if (filter_ := getattr(source, name)) is not None and filter_.disabled
    }
    if source.joints.disabled:
        changes["joints"] = JointSet()
    return source.evolve(**changes) if changes else source
