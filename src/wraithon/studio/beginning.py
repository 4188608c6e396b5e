"""Where new layers begin: on what is picked on the character, else as their neighbours do."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wraithon.project.edit import new_layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, Curve, Tint
from wraithon.project.look import (
    AfterimageLook,
    Blend,
    DecalLook,
    Figure,
    LightLook,
    MeshLook,
    RibbonLook,
    ShellLook,
    Through,
)
from wraithon.project.motion import Collision, Gravity, GroundCollision, Motion
from wraithon.project.source import JointSet, OffspringSource, PointSource, Riding, SkinSource, Source

if TYPE_CHECKING:
    from collections.abc import Collection

    from wraithon.project.effect import Effect, Layer
    from wraithon.project.project import Project


KINDS = {
    "sprite": "Sprites", "ribbon": "Ribbon", "piece": "Meshes", "shell": "Shell", "afterimage": "Afterimages",
    "mark": "Decals", "light": "Light",
}  # fmt: skip
"""Look to what a layer of it is called where one is added."""
BOUNCES = GroundCollision(contact=Collision.BOUNCE)
SCATTERED = frozenset({"sprite", "piece"})
"""Looks of many particles, each of which may begin elsewhere on the skin."""
FADES = Curve.through((0, 0), (0.15, 1), (1, 0))
AFTERIMAGES = 3.5
"""Of new afterimages, how many a metre: about ten a second of one who runs, and none of one who stands."""


def source_on(project: Project, kind: str, what: str) -> tuple[Source, str] | None:
    """Return the source that is on a thing of the character, and what that is called; None for other things."""
    if project.character is None:
        return None
    if kind == "part":
        return SkinSource(parts=(what,)), what
    if kind == "joint":
        return SkinSource(joints=JointSet(names=(what,))), what
    anchor = project.anchor(what) if kind == "anchor" else None
    return (PointSource(), anchor.name) if anchor else None


def begun_look(layer: Layer, kind: str) -> Layer:
    """Return a new layer with a look, and with the source, births and lives that such a look is made for.

    Parameters
    ----------
    layer
        The layer, with the source it begins with.
    kind
        The look's.
    """
    # What stays is emitted once, and lives as long as the firing, whatever that may be.
    stays: dict[str, Any] = {
        "emission": Emission(bursts=(Burst(count=1),)), "speed": Attribute.of(0.0), "lifetime": Attribute.of(1.0),
        "hold": 0.5, "fade_in": 0.2, "fade_out": 0.4, "opacity": Attribute.of(1.0),
        "source": PointSource(riding=Riding(share=1.0, turning=False)),
    }  # fmt: skip
    on_skin = isinstance(layer.source, SkinSource)
    limited = isinstance(layer.source, SkinSource) and (layer.source.parts or layer.source.joints.names)
    changes: dict[str, dict[str, Any]] = {
        "sprite": {},
        "ribbon": {
            "look": RibbonLook(through=Through.PAST, past=0.4, tail=0.6, texture="glow.png", blend=Blend.ADDITIVE),
            "emission": Emission(rate=8),
            "speed": Attribute.of(0.8, 1.6),
            "size": Attribute.of(0.02, 0.04),
        },
        "piece": {
            "look": MeshLook(),
            "emission": Emission(rate=20),
            "size": Attribute.of(0.02, 0.05),
            "speed": Attribute.of(0.5, 1.2),
            "motion": Motion(forces=(Gravity(),), ground=BOUNCES),
            "opacity": Attribute.of(1.0),
        },
        "shell": {
            **stays,
            # On the character it is her skin pushed outward, by a little; else an ellipsoid around the anchor.
            "look": ShellLook(figure=Figure.SKIN) if on_skin else ShellLook(),
            "size": Attribute.of(0.02 if on_skin else 0.9),
            "colour": Tint(first=(0.3, 0.8, 1.0), second=(0.3, 0.8, 1.0)),
        },
        "afterimage": {
            "look": AfterimageLook(),
            "source": PointSource(),
            "emission": Emission(per_metre=AFTERIMAGES),
            "lifetime": Attribute.of(0.6),
            "speed": Attribute.of(0.0),
            "size": Attribute.of(0.0),
            "opacity": Attribute.of(0.7, 0.7, FADES),
        },
        "mark": {
            "look": DecalLook(texture="ring.png"),
            "source": PointSource(),
            "emission": Emission(bursts=(Burst(count=1),)),
            "size": Attribute.of(0.4),
            "speed": Attribute.of(0.0),
            "lifetime": Attribute.of(1.5),
            "intensity": Attribute.of(1.0),
        },
        "light": {
            **stays,
            # On a part or joint that was picked it stays there.
            "source": layer.source.evolve(riding=stays["source"].riding) if limited else stays["source"],
            "look": LightLook(flicker=0.2),
            "size": Attribute.of(1.2),
            "intensity": Attribute.of(4.0),
            "turn": Attribute.of(0.0),
        },
    }
    return layer.evolve(**changes[kind])


def is_as_begun(layer: Layer) -> bool:
    """Tell whether nothing of a layer was changed since it was made, but its name and where it is emitted from."""
    kind = layer.look.kind
    begun = (begun_look(_plain(layer, source), kind) for source in (SkinSource(), PointSource()))
    return layer in (each.evolve(source=layer.source) for each in begun)


def begun_again(project: Project, layer: Layer, kind: str) -> Layer:
    """Return a layer that is as begun with another look, as if it had begun with that."""
    moved = layer.look.kind != "sprite" and project.character is not None  # its look has moved it to the anchor
    return begun_look(_plain(layer, SkinSource() if moved else layer.source), kind)


def _plain(layer: Layer, source: Source) -> Layer:
    """Return a layer as it is before it gets a look, with a source."""
    return new_layer(layer.name).evolve(id=layer.id, source=source)


def begun_layer(project: Project, name: str, picked: tuple[str, str], neighbour: Layer | None) -> tuple[Layer, str]:
    """Return a new layer that shows something at once, and what it is born on.

    Parameters
    ----------
    project
        The project.
    name
        What the layer is called.
    picked
        Kind and name of what is picked on the character.
    neighbour
        The layer it is to be born like, when nothing is picked.
    """
    layer, found = new_layer(name), source_on(project, *picked)
    if found is not None:
        return layer.evolve(source=found[0]), found[1]
    if neighbour is not None and not isinstance(neighbour.source, OffspringSource):
        return layer.evolve(source=neighbour.source), f'the same as "{neighbour.name}"'
    if project.character is not None:
        return layer.evolve(source=SkinSource()), "the whole character"
    return layer, "its anchor"


def put_on(project: Project, effect: Effect, layers: Collection[str], picked: tuple[str, str]) -> Effect:
    """Return an effect with layers emitted from the part or joint that is picked on the character.

    What is emitted from the skin keeps its filters and is limited to that; what is emitted at a point is emitted from
    its skin, where its look is of many particles. All else stays as it is.
    """
    kind, what = picked
    if project.character is None or kind not in {"part", "joint"}:
        return effect
    own: dict[str, Any] = {"parts": (what,)} if kind == "part" else {"joints": JointSet(names=(what,))}

    def limited(layer: Layer) -> Layer:
        source = layer.source
        if isinstance(source, SkinSource):
            return layer.evolve(source=source.evolve(**own))
        if isinstance(source, PointSource) and layer.look.kind in SCATTERED:
            return layer.evolve(source=SkinSource(riding=source.riding, aim=source.aim, **own))
        return layer

    return effect.evolve(layers=tuple(limited(layer) if layer.id in layers else layer for layer in effect.layers))
