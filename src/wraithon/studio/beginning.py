"""Where new layers begin: on what is picked on the character, else as their neighbours do."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.project.edit import new_layer
from wraithon.project.source import JointSet, OffspringSource, PointSource, SkinSource, Source

if TYPE_CHECKING:
    from wraithon.project.effect import Layer
    from wraithon.project.project import Project

__all__ = ["begun_layer", "born_on"]


def born_on(project: Project, kind: str, what: str) -> tuple[Source, str] | None:
    """Return the source that is on a thing of the character, and what that is called; None for other things."""
    if project.character is None:
        return None
    if kind == "part":
        return SkinSource(parts=(what,)), what
    if kind == "joint":
        return SkinSource(joints=JointSet(names=(what,))), what
    anchor = project.anchor(what) if kind == "anchor" else None
    return (PointSource(), anchor.name) if anchor else None


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
    layer, found = new_layer(name), born_on(project, *picked)
    if found is not None:
        return layer.but(source=found[0]), found[1]
    if neighbour is not None and not isinstance(neighbour.source, OffspringSource):
        return layer.but(source=neighbour.source), f'the same as "{neighbour.name}"'
    if project.character is not None:
        return layer.but(source=SkinSource()), "the whole character"
    return layer, "its anchor"
