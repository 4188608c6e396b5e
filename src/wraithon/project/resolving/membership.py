"""Effects that follow the effect of a preset: in what they are themselves, and in which layers there are.

What each layer is follows layer by layer (`following.py`).
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, NamedTuple

from wraithon.project.base import new_id
from wraithon.project.edit import fresh_name, replace_by_id, with_effect, with_ids
from wraithon.project.resolving.following import own_rows

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping

    from wraithon.project.effect import Effect, Layer
    from wraithon.project.preset import Preset
    from wraithon.project.project import Project


OWN = ("length", "loop", "warm_up", "masters", "qualities", "dials")
"""What of an effect itself follows its preset; with its dials goes what they drive."""


class Apart(NamedTuple):
    """In what an effect is not as its preset."""

    rows: tuple[str, ...] = ()
    missing: tuple[Layer, ...] = ()
    """The preset's layers that the effect does not have."""
    more: tuple[Layer, ...] = ()
    """The effect's layers that the preset does not have."""


def whole_of(project: Project, effect: Effect) -> tuple[Preset, Effect] | None:
    """Return the preset that an effect follows, and the preset's own effect."""
    if effect.follows is None:
        return None
    found = ((preset, preset.effect) for preset in project.presets if preset.effect is not None)
    return next(((preset, own) for preset, own in found if own.id == effect.follows), None)


def apart(project: Project, effect_id: str) -> Apart:
    """Return in what an effect is not as its preset; nothing of one that follows none."""
    effect = project.effect(effect_id)
    preset = whole_of(project, effect) if effect is not None else None
    return _apart(effect, preset[1]) if effect is not None and preset is not None else Apart()


def _apart(mine: Effect, preset: Effect) -> Apart:
    rows = tuple(row for row in OWN if _row(mine, row, _followed(mine)) != _row(preset, row, {}))
    followed, there = {layer.follows for layer in mine.layers}, {layer.id for layer in preset.layers}
    missing = tuple(layer for layer in preset.layers if layer.id not in followed)
    return Apart(rows, missing, tuple(layer for layer in mine.layers if layer.follows not in there))


def _followed(effect: Effect) -> dict[str, str]:
    """Return the ids of an effect's layers, and of those of the preset that they follow."""
    return {layer.id: layer.follows for layer in effect.layers if layer.follows}


def _own(effect: Effect) -> dict[str, str]:
    """Return the ids of the preset's layers, and of those of an effect that follow them."""
    return {layer.follows: layer.id for layer in effect.layers if layer.follows}


def _row(effect: Effect, row: str, ids: Mapping[str, str]) -> dict[str, Any]:
    """Return what a row consists of, layers named by other ids."""
    values: dict[str, Any] = {row: getattr(effect, row)}
    if row == "dials":
        values["bindings"] = tuple(each.evolve(layer=ids.get(each.layer, each.layer)) for each in effect.bindings)
    return values


# ---- ways back, and into the preset ---------------------------------------------------------------


def back_to_whole(project: Project, effect_id: str, only: Iterable[str] | None = None) -> Project:
    """Return a project with an effect as its preset has it: rows of its own, and which layers there are.

    With `only`, just these: rows, and ids of the preset's layers that are missing.
    """
    effect = project.effect(effect_id)
    preset = whole_of(project, effect) if effect is not None else None
    if effect is None or preset is None:
        return project
    found = _apart(effect, preset[1])
    wanted = None if only is None else frozenset(only)
    if wanted is None:
        remaining = {layer.id for layer in found.more}
        effect = effect.evolve(layers=tuple(layer for layer in effect.layers if layer.id not in remaining))
    missing = [layer for layer in found.missing if wanted is None or layer.id in wanted]
    rows = [row for row in found.rows if wanted is None or row in wanted]
    return with_effect(project, _with_rows(_with_layers(effect, missing), preset[1], rows))


def _with_rows(effect: Effect, preset: Effect, rows: Iterable[str]) -> Effect:
    for row in rows:
        effect = effect.evolve(**_row(preset, row, _own(effect)))
    return effect


def _with_layers(effect: Effect, layers: Iterable[Layer]) -> Effect:
    """Return an effect with layers of its preset that it does not have, at the end."""
    for layer in layers:
        name = fresh_name(layer.name, (each.name for each in effect.layers))
        mine = layer.evolve(id=new_id(), follows=layer.id, name=name)
        effect = effect.evolve(layers=(*effect.layers, mine))
    # What bears what is told by the preset's ids in those that are new.
    ids = {layer.id: layer.id for layer in effect.layers}
    return with_ids(effect, {**_own(effect), **ids})


def into_whole(project: Project, effect_id: str) -> Project:
    """Return a project with an effect's own values, and which layers it has, put into its preset.

    All others that follow it do so: they get the layers that are new, and lose those that are gone, where these were
    as the preset had them. What was changed elsewhere stays.
    """
    effect = project.effect(effect_id)
    followed = whole_of(project, effect) if effect is not None else None
    if effect is None or followed is None:
        return project
    preset, before = followed
    found = _apart(effect, before)
    fresh = {layer.id: new_id() for layer in found.more}
    layers = tuple(layer.evolve(follows=fresh.get(layer.id, layer.follows)) for layer in effect.layers)
    effect = effect.evolve(layers=layers)
    project = with_effect(project, effect)
    gone = {layer.id for layer in found.missing}
    added = with_ids(effect, _followed(effect)).layers
    new = tuple(layer.evolve(follows=None, disabled=False) for layer in added if layer.id in fresh.values())
    now = before.evolve(layers=(*(layer for layer in before.layers if layer.id not in gone), *new))
    for row in found.rows:
        now = now.evolve(**_row(effect, row, _followed(effect)))
    was = project
    project = project.evolve(presets=replace_by_id(project.presets, preset.evolve(effect=now)))
    for other in project.effects:
        if other.follows == before.id and other.id != effect.id:
            project = with_effect(project, _caught_up(was, other, before, now, gone))
    return project


def _caught_up(was: Project, mine: Effect, before: Effect, now: Effect, gone: set[str]) -> Effect:
    """Return an effect that follows a preset as it follows it after a change of what there `was`."""
    alike = [row for row in OWN if _row(mine, row, _followed(mine)) == _row(before, row, {})]
    caught_up = []
    for layer in mine.layers:
        if layer.follows not in gone:
            caught_up.append(layer)
        elif own_rows(was, layer.id):
            caught_up.append(layer.evolve(follows=None))
    had = {layer.id for layer in before.layers}
    mine = _with_layers(mine.evolve(layers=tuple(caught_up)), (layer for layer in now.layers if layer.id not in had))
    return _with_rows(mine, now, alike)
