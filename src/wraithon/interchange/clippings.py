"""Layers, effects and curves over life as text: what is copied in one project and pasted in it, or in another."""

from __future__ import annotations

from collections.abc import Collection
from typing import Annotated, Literal, NamedTuple

from pydantic import Field

from wraithon.project.base import Model, new_id, once
from wraithon.project.edit import fresh_name, with_copy, with_effect, with_ids
from wraithon.project.effect import Effect, Layer
from wraithon.project.life import Curve, Gradient
from wraithon.project.project import Project
from wraithon.support.errors import ProjectError

FORMAT = "wraithon clipping"
MAXIMUM = 1000
"""Layers or effects of a text."""
LARGEST = 4 * 2**20
"""Characters of a text that is looked at."""


class Clipping(Model):
    """What a text holds: layers, effects, or both; or a curve over life."""

    format: Literal["wraithon clipping"]
    layers: Annotated[tuple[Layer, ...], Field(max_length=MAXIMUM)] = ()
    effects: Annotated[tuple[Effect, ...], Field(max_length=MAXIMUM)] = ()
    curve: Annotated[Curve | None, once("course")] = None
    gradient: Gradient | None = None


class Pasted(NamedTuple):
    """A project with what was pasted, and the kind and ids of what came last."""

    project: Project
    kind: str
    ids: tuple[str, ...]


def clipping_of(project: Project, kind: str, ids: Collection[str]) -> str | None:
    """Return some layers or effects as text, in the project's order, or None when there are none of them."""
    everything = [layer for effect in project.effects for layer in effect.layers]
    layers = tuple(layer for layer in everything if kind == "layer" and layer.id in ids)
    effects = tuple(effect for effect in project.effects if kind == "effect" and effect.id in ids)
    if not layers and not effects:
        return None
    return _text(Clipping(format=FORMAT, layers=layers, effects=effects))


def curve_text(shape: Curve | Gradient) -> str:
    """Return a curve or a gradient as text."""
    curve, gradient = (shape, None) if isinstance(shape, Curve) else (None, shape)
    return _text(Clipping(format=FORMAT, curve=curve, gradient=gradient))


def _text(clipping: Clipping) -> str:
    return clipping.model_dump_json(indent=1, by_alias=True) + "\n"


def read_clipping(text: str) -> Clipping:
    """Return what a text holds.

    Raises
    ------
    ProjectError
        When it holds neither layers nor effects, or is damaged.
    """
    nothing = "Nothing to paste: copy a layer or an effect first"
    clipping = _read(text, nothing)
    if not clipping.layers and not clipping.effects:
        raise ProjectError(nothing)
    return clipping


def read_curve(text: str, like: Curve | Gradient) -> Curve | Gradient:
    """Return the curve that a text holds, of the kind of another.

    Raises
    ------
    ProjectError
        When it holds none of that kind, or is damaged.
    """
    word = "curve" if isinstance(like, Curve) else "gradient"
    nothing = f"Nothing to paste here: copy a {word} first"
    clipping = _read(text, nothing)
    curve = clipping.curve if isinstance(like, Curve) else clipping.gradient
    if curve is None:
        raise ProjectError(nothing)
    return curve


def _read(text: str, nothing: str) -> Clipping:
    if len(text) > LARGEST or FORMAT not in text:
        raise ProjectError(nothing)
    try:
        return Clipping.model_validate_json(text)
    except ValueError as error:  # what is no JSON, no clipping, or no text
        raise ProjectError("What was copied is damaged, or of a newer version: nothing is pasted") from error


def paste(project: Project, clipping: Clipping, into: str | None, below: str | None = None) -> Pasted:
    """Add what was copied, under new identities and free names.

    Parameters
    ----------
    project
        Where to.
    clipping
        What.
    into
        Id of the effect that takes layers; without one they become a new effect.
    below
        Id of its layer that they are put below; without one they come last.

    Raises
    ------
    pydantic.ValidationError
        When the effect would hold more layers than it may.
    """
    kind, ids = "", []
    if clipping.layers:
        effect = project.effect(into) or Effect(name=fresh_name("effect", (e.name for e in project.effects)))
        for layer in clipping.layers:
            effect, below = with_copy(effect, layer, below)
            ids.append(below)
        kind = "layer"
        project = with_effect(project, effect)
    for effect in clipping.effects:
        twin = fresh_effect(project, effect)
        kind, ids = "effect", [*(ids if kind == "effect" else ()), twin.id]
        project = with_effect(project, twin)
    return Pasted(project, kind, tuple(ids))


def fresh_effect(project: Project, effect: Effect) -> Effect:
    """Return an effect under another identity and a name that is free; its bindings go to its own layers."""
    name = fresh_name(effect.name, (e.name for e in project.effects))
    return with_ids(effect, {layer.id: new_id() for layer in effect.layers}).evolve(id=new_id(), name=name)
