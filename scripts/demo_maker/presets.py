"""The presets that come with the program: what the demo is made of, for any character."""

from __future__ import annotations

from wraithon.project.edit import with_ids
from wraithon.project.effect import Effect, Layer
from wraithon.project.preset import Preset
from wraithon.project.source import JointSet, SkinSource

from .everyday import everyday
from .project import demo_project

CALLED = {
    "plume-feathers": ("feathers that let go", "feather, bird, drift, aura, riding"),
    "plume-glints": ("glints on the skin", "glint, glitter, sparkle, magic, aura, star"),
    "fan-streamer": ("streamer", "trail, slash, sword, swing, ribbon, swoosh"),
    "fan-threads": ("threads", "trail, slash, thread, swing, ribbon"),
    "tread-print": ("damp footprint", "footstep, footprint, step, wet, print"),
    "tread-dust": ("wet dust", "dust, footstep, step, puff, smoke, landing"),
    "tread-grit": ("grit underfoot", "grit, dirt, dust, footstep, step, debris"),
    "echo-pose": ("pose left behind", "ghost, afterimage, echo, dash, trail, copy"),
    "veil-outer": ("outer veil", "shield, aura, barrier, veil, water, shell"),
    "veil-inner": ("inner veil", "shield, aura, barrier, veil, shell"),
    "stamp-scorch": ("scorch mark", "scorch, burn, mark, impact, decal"),
    "stamp-ring": ("ring on the ground", "ring, shock wave, impact, landing"),
    "stamp-spray": ("water spray", "water, splash, spray, mist, impact"),
    "stamp-shards": ("stone shards", "rock, stone, debris, shard, impact"),
    "stamp-flash": ("flash", "flash, impact, explosion, hit, blow"),
    "stamp-shine": ("light of a blow", "light, flash, impact, glow"),
    "stamp-shock": ("shock wave", "shock wave, ring, explosion, impact, blast"),
    "stamp-sparks": ("bouncing sparks", "spark, impact, hit, metal, electric, fire"),
    "stamp-embers": ("rising embers", "ember, fire, flame, ash, glow"),
    "spark-trail": ("spark trail", "trail, projectile, spell, beam, magic"),
    "spark-light": ("travelling light", "light, projectile, spell, glow"),
    "squall-wave": ("squall wave", "wave, ring, shock wave, wind, ground"),
    "squall-spray": ("squall spray", "spray, water, splash, wind, mist"),
    "squall-slate": ("loose slates", "rock, stone, debris, slate, wind"),
    "scatter-petals": ("petals", "petal, leaf, leaves, flower, dissolve, wind"),
    "scatter-sparks": ("sparks that scatter", "spark, dissolve, magic, glitter"),
    "drizzle-ripples": ("ripples", "water, rain, ripple, puddle, ring"),
    "drizzle-rain": ("rain", "rain, water, drop, weather, storm"),
    "flecks-dent": ("dent in the moss", "footprint, print, dent, step, footstep"),
    "flecks-torn": ("torn moss", "moss, grass, dirt, footstep, leaf, leaves"),
    "splash-ring": ("splash ring", "water, splash, ripple, ring, puddle"),
    "splash-crown": ("splash spray", "water, splash, spray, mist, puddle"),
    "splash-drops": ("splash drops", "water, splash, drop, puddle"),
}  # fmt: skip
"""What the demo's layers are called by themselves, and the words each is found by."""
WHOLE = {
    "plume-drift": "feather, aura, glint, bird, magic, idle",
    "fan-streamers": "trail, slash, sword, swing, ribbon, attack",
    "tread": "footstep, dust, step, run, walk, landing, puff",
    "echo-steps": "ghost, afterimage, echo, dash, trail, copy",
    "rain-veil": "shield, aura, barrier, water, veil, protect",
    "thunder-stamp": "impact, explosion, lightning, thunder, hit, blow, stomp, landing, spark",
    "skipping-spark": "projectile, spell, magic, trail, spark, missile",
    "squall-ring": "wind, wave, shock wave, blast, impact, landing",
    "scatter": "dissolve, death, petal, spark, magic, vanish",
    "drizzle": "rain, weather, water, storm, drop",
    "flecks": "footstep, moss, grass, dirt, step",
    "splash": "splash, water, footstep, puddle, step",
}  # fmt: skip
"""The words that the demo's whole effects are found by."""


def presets() -> tuple[Preset, ...]:
    """Return them: whole effects, then layers one by one, that make sense on any character."""
    project = demo_project()
    whole = [
        Preset(id=f"shipped-{effect.id}", name=effect.name, tags=tags, effect=_whole(effect))
        for effect, tags in everyday()
    ]
    whole += [
        Preset(id=f"shipped-{e.id}", name=e.name, tags=_tags(WHOLE[e.id]), effect=_whole(e)) for e in project.effects
    ]
    layers = [
        (layer, *CALLED[layer.id]) for effect in project.effects for layer in effect.layers
        if layer.source.kind != "offspring"
    ]  # fmt: skip
    layers += [
        (layer, f"{effect.name}: {layer.name}", ", ".join(tags))
        for effect, tags in everyday()
        for layer in effect.layers
        if layer.name not in LEFT
    ]
    single = [
        Preset(
            id=f"shipped-{layer.id}",
            name=name,
            tags=_tags(tags),
            layer=_anywhere(layer).evolve(id=f"preset-{layer.id}", name=name),
        )
        for layer, name, tags in layers
    ]
    return (*whole, *single)


LEFT = frozenset({"light", "flash", "on the ground", "sparks"})
"""Layers of everyday effects that are no presets by themselves."""


def _tags(text: str) -> tuple[str, ...]:
    return tuple(tag.strip() for tag in text.split(","))


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
