"""The presets that come with the program: what the demo is made of, for any character."""

from __future__ import annotations

from wraithon.project.edit import with_ids
from wraithon.project.effect import Effect, Layer
from wraithon.project.preset import Preset
from wraithon.project.source import JointSet, SkinSource

from .project import demo_project

NAMES = {
    "plume-feathers": "feathers that let go", "plume-glints": "glints on the skin", "tread-grit": "grit underfoot",
    "stamp-sparks": "bouncing sparks", "stamp-embers": "rising embers", "stamp-shards": "stone shards",
    "stamp-flash": "flash", "stamp-shock": "shock wave", "stamp-ring": "ring on the ground",
    "stamp-scorch": "scorch mark", "stamp-shine": "light of a blow", "stamp-spray": "water spray",
    "scatter-petals": "petals",
}  # fmt: skip
"""Layers whose names say too little by themselves."""


def presets() -> tuple[Preset, ...]:
    """Return them: the demo's layers one by one, and its effects that make sense on any character."""
    project, found = demo_project(), []
    for effect in project.effects:
        for layer in effect.layers:
            if layer.source.kind == "offspring":
                continue
            name = NAMES.get(layer.id, f"{layer.name} ({effect.name})")
            held = _anywhere(layer).evolve(id=f"preset-{layer.id}", name=name)
            found.append(Preset(id=f"shipped-{layer.id}", name=name, layer=held))
    whole = (Preset(id=f"shipped-{e.id}", name=f"all of {e.name}", effect=_whole(e)) for e in project.effects)
    return (*found, *whole)


def _whole(effect: Effect) -> Effect:
    ids = {layer.id: f"preset-all-{layer.id}" for layer in effect.layers}
    anywhere = effect.evolve(layers=tuple(_anywhere(layer) for layer in effect.layers), bindings=(), dials=())
    return with_ids(anywhere, ids).evolve(id=f"preset-all-{effect.id}")


def _anywhere(layer: Layer) -> Layer:
    """Return a layer that names no part, joint or mask of the demo's character."""
    source = layer.source
    if isinstance(source, SkinSource):
        source = source.evolve(parts=(), joints=JointSet(), painted=None, table=(), dissolving=False)
    forces = tuple(f.evolve(anchor=None) if hasattr(f, "anchor") else f for f in layer.motion.forces)
    if source.kind == "line":
        source = source.evolve(to=None)
    return layer.evolve(source=source, motion=layer.motion.evolve(forces=forces))
