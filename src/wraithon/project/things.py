"""Things of a project that can be pointed at by kind and id: finding one, and putting another in its place."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, NamedTuple

from wraithon.project.character import Event
from wraithon.project.edit import (
    find_mark,
    replace_by_id,
    with_anchor,
    with_character,
    with_clip,
    with_effect,
    with_event,
    with_layer,
    with_mark,
    with_trigger,
)
from wraithon.project.paths import has_place, with_value_at
from wraithon.project.trigger import Trigger

if TYPE_CHECKING:
    from collections.abc import Callable, Collection, Iterator

    from wraithon.project.base import Model
    from wraithon.project.character import Anchor
    from wraithon.project.effect import Effect
    from wraithon.project.project import Project


class _Thing(NamedTuple):
    find: Callable[[Project, str], Model | None]
    replace: Callable[[Project, str, Any], Project]


def _layer(project: Project, what: str) -> Model | None:
    found = project.layer(what)
    return found[1] if found else None


def _with_layer(project: Project, what: str, layer: Any) -> Project:
    found = project.layer(what)
    return with_layer(project, found[0].id, layer) if found else project


def _mark(project: Project, what: str) -> Model | None:
    found = find_mark(project, what)
    return found.mark if found else None


def _with_mark(project: Project, what: str, mark: Any) -> Project:
    found = find_mark(project, what)
    return with_mark(project, found.clip, mark) if found else project


def _piece(project: Project, what: str) -> Model | None:
    return next((piece for piece in project.stage.pieces if piece.id == what), None)


def _with_block(project: Project, _what: str, piece: Any) -> Project:
    return project.evolve(stage=project.stage.evolve(pieces=replace_by_id(project.stage.pieces, piece)))


def _of_character(field: str) -> _Thing:
    """Return how something that the character on stage holds in a tuple is found and put."""

    def find(project: Project, what: str) -> Model | None:
        things: tuple[Any, ...] = getattr(project.character, field, ())
        return next((item for item in things if item.id == what), None)

    def replace(project: Project, _what: str, item: Any) -> Project:
        return with_character(project, lambda use: use.evolve(**{field: replace_by_id(getattr(use, field), item)}))

    return _Thing(find, replace)


THINGS = {
    "project": _Thing(lambda p, _: p, lambda _p, _, new: new),
    "stage": _Thing(lambda p, _: p.stage, lambda p, _, new: p.evolve(stage=new)),
    "character": _Thing(lambda p, _: p.character, lambda p, _, new: with_character(p, lambda _use: new)),
    "effect": _Thing(lambda p, what: p.effect(what), lambda p, _, new: with_effect(p, new)),
    "layer": _Thing(_layer, _with_layer),
    "trigger": _Thing(lambda p, what: p.trigger(what), lambda p, _, new: with_trigger(p, new)),
    "event": _Thing(lambda p, what: p.event(what), lambda p, _, new: with_event(p, new)),
    "anchor": _Thing(lambda p, what: p.anchor(what), lambda p, _, new: with_anchor(p, new)),
    "clip": _Thing(
        lambda p, what: p.character.clip(what) if p.character else None, lambda p, _, new: with_clip(p, new)
    ),
    "mark": _Thing(_mark, _with_mark),
    "mask": _of_character("masks"),
    "capture": _of_character("captures"),
    "block": _Thing(_piece, _with_block),
}
"""Kind to how one is found by its id, and how another is put in its place."""


FOUND_BY_ID = frozenset({"effect", "layer", "trigger", "event", "anchor", "mark", "mask", "capture", "block"})
"""Kinds whose ids are theirs alone."""


def find(project: Project, kind: str, what: str) -> Model | None:
    """Return the thing of a kind with this id (a clip: of this name), or None."""
    thing = THINGS.get(kind)
    return thing.find(project, what) if thing else None


def with_thing(project: Project, kind: str, what: str, new: Model) -> Project:
    """Return the project with `new` in the place of a thing; itself when that is not there."""
    return THINGS[kind].replace(project, what, new) if find(project, kind, what) is not None else project


def with_value(project: Project, kind: str, what: str, path: str, value: Any) -> Project:
    """Return the project with a value at a path of a thing; itself when that, or the place in it, is not there.

    Raises
    ------
    pydantic.ValidationError
        When the value may not stand there.
    """
    thing = find(project, kind, what)
    if thing is None or not has_place(thing, path):
        return project
    return THINGS[kind].replace(project, what, with_value_at(thing, path, value))


def effect_of(project: Project, kind: str, what: str) -> Effect | None:
    """Return the effect that a thing is, or that it is a layer of; None for other things."""
    found = project.layer(what) if kind == "layer" else None
    return found[0] if found else project.effect(what) if kind == "effect" else None


def anchors_of(project: Project, kind: str, what: str) -> list[Anchor]:
    """Return the anchors that a thing is, belongs to, or starts effects at."""
    ids: list[str | None] = []
    thing = find(project, kind, what)
    if kind == "anchor":
        ids = [what]
    elif isinstance(thing, Event):
        ids = [thing.anchor]
    elif isinstance(thing, Trigger):
        ids = [action.anchor for action in thing.about]
    return [anchor for key in ids if (anchor := project.anchor(key)) is not None]


def started_at(project: Project, effect_id: str) -> Iterator[str | None]:
    """Yield the anchor, or None for none, that each action of a trigger starts an effect at."""
    for trigger in project.triggers:
        event = project.event(trigger.when.what) if trigger.when.kind == "event" else None
        for action in trigger.starts:
            if effect_id in action.effects:
                yield action.anchor or (event.anchor if event else None)


def anchor_for(project: Project, effect_id: str) -> str | None:
    """Return the anchor that an effect's first trigger starts it at; without one, the character's first."""
    use = project.character
    return next(started_at(project, effect_id), use.anchors[0].id if use and use.anchors else None)


def starters_of(project: Project, effect_ids: Collection[str]) -> list[str]:
    """Return the names of the triggers that start any of some effects."""
    return [t.name for t in project.triggers if any(set(action.effects) & set(effect_ids) for action in t.starts)]
