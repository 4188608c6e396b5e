"""Edits that reach several layers: one value, or parts of another layer."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from pydantic import BaseModel, ValidationError

from wraithon.project.edit import with_layer
from wraithon.project.effect import ATTRIBUTES
from wraithon.project.paths import has_place, value_at, with_value_at

if TYPE_CHECKING:
    from collections.abc import Callable, Collection, Iterable

    from wraithon.project.effect import Layer
    from wraithon.project.project import Project


PARTS = {
    "emission": ("emission",), "source": ("source",), "motion": ("motion",), "look": ("look",),
    "life": (*ATTRIBUTES, "hold", "fade_in", "fade_out", "ending"),
}  # fmt: skip
"""Part of a layer to its fields."""
ALONE = frozenset({"name", "id", "follows"})
"""What is each layer's own."""


def reached(
    project: Project,
    first: str,
    others: Iterable[str],
    path: str,
    value: Any,
    each: Callable[[Any], Any] | None = None,
) -> Project:
    """Return a project with a value at a path of a layer, and of others that have the same place.

    What is added to a list is added to theirs, and what is taken out of it is taken out of theirs. With `each` they
    get what it makes of their own value.

    Raises
    ------
    pydantic.ValidationError
        When the value may not stand in the first.
    """
    found = project.layer(first)
    if found is None or not has_place(found[1], path):
        return project
    before = found[1]
    project = with_layer(project, found[0].id, with_value_at(before, path, value))
    if path.partition(".")[0] in ALONE:
        return project
    old = value_at(before, path)
    for other in others:
        there = project.layer(other)
        if there is not None and other != first:
            try:
                theirs = _theirs(before, there[1], path, old, value)
                theirs = each(value_at(there[1], path)) if each is not None else theirs
                changed = with_value_at(there[1], path, theirs)
            except (AttributeError, IndexError, ValidationError):
                continue  # it has no such place
            project = with_layer(project, there[0].id, changed)
    return project


def _theirs(first: Layer, other: Layer, path: str, old: Any, value: Any) -> Any:
    """Return what another layer gets at a path."""
    keys = path.split(".")
    for number in range(1, len(keys)):
        holder = ".".join(keys[:number])
        here, there = value_at(first, holder), value_at(other, holder)
        if isinstance(here, BaseModel) and type(here) is not type(there):
            raise AttributeError(path)
    own = value_at(other, path)
    if not isinstance(old, tuple) or not isinstance(value, tuple) or own == old:
        return value
    if value[: len(old)] == old:
        return (*own, *value[len(old) :])
    if len(value) < len(old):
        gone = [item for item in old if item not in value]
        return tuple(item for item in own if item not in gone)
    return value


def pasted_parts(project: Project, layer: Layer, onto: Collection[str], fields: Iterable[str]) -> Project:
    """Return a project with fields of a layer put onto others."""
    values = {name: getattr(layer, name) for name in fields}
    for what in onto:
        found = project.layer(what)
        if found is not None:
            project = with_layer(project, found[0].id, found[1].evolve(**values))
    return project
