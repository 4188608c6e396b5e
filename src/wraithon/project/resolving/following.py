"""Presets and what follows them: an instance has what its preset has, but for the rows that were changed in it.

A layer holds all of its values itself. It follows its preset in the rows that are alike in both: when the preset
changes, so do these.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.project.base import new_id
from wraithon.project.edit import fresh_name, replace_by_id, with_effect, with_ids, with_layer
from wraithon.project.effect import Effect, Layer
from wraithon.project.preset import Preset
from wraithon.project.source import OffspringSource

if TYPE_CHECKING:
    from collections.abc import Collection

    from wraithon.project.project import Project


ROWS = tuple(name for name in Layer.model_fields if name not in {"id", "name", "disabled", "tag", "follows"})
"""What of a layer follows its preset."""


def preset_of(project: Project, layer: Layer) -> tuple[Preset, Layer] | None:
    """Return the preset that a layer follows, and the preset's own layer."""
    if layer.follows is None:
        return None
    found = ((preset, own) for preset in project.presets for own in preset.layers if own.id == layer.follows)
    return next(found, None)


def own_rows(project: Project, layer_id: str) -> tuple[str, ...]:
    """Return the rows in which a layer is not as its preset; none of one that follows no preset."""
    found = project.layer(layer_id)
    preset = preset_of(project, found[1]) if found else None
    if found is None or preset is None:
        return ()
    mine = _as_followed(*found)
    return tuple(row for row in ROWS if getattr(mine, row) != getattr(preset[1], row))


def _as_followed(effect: Effect, layer: Layer) -> Layer:
    """Return a layer with the layer that bears it named as presets name it."""
    source = layer.source
    if isinstance(source, OffspringSource) and source.layer is not None:
        names = {each.id: each.follows for each in effect.layers if each.follows}
        return layer.evolve(source=source.evolve(layer=names.get(source.layer, source.layer)))
    return layer


def _as_own(effect: Effect, layer: Layer, row: str) -> object:
    """Return a preset's row as an instance of an effect has it: born by the effect's own layers."""
    value = getattr(layer, row)
    if isinstance(value, OffspringSource) and value.layer is not None:
        own = {each.follows: each.id for each in effect.layers if each.follows}
        return value.evolve(layer=own.get(value.layer, value.layer))
    return value


# ---- keeping and using ----------------------------------------------------------------------------


def keep_layer(project: Project, layer_id: str, name: str) -> Project:
    """Return a project with a layer kept as a preset, which it follows from then on."""
    found = project.layer(layer_id)
    if found is None:
        return project
    effect, layer = found
    its_layer = layer.evolve(id=new_id(), disabled=False, follows=None, name=name)
    preset = Preset(name=_free_name(project, name), layer=its_layer)
    project = with_layer(project, effect.id, layer.evolve(follows=its_layer.id))
    return project.evolve(presets=(*project.presets, preset))


def keep_effect(project: Project, effect_id: str, name: str) -> Project:
    """Return a project with an effect kept as a preset, whose layers its own follow from then on."""
    effect = project.effect(effect_id)
    if effect is None:
        return project
    its_effect = with_ids(effect, {layer.id: new_id() for layer in effect.layers})
    its_effect = its_effect.evolve(id=new_id(), name=name, follows=None)
    its_effect = its_effect.evolve(layers=tuple(layer.evolve(follows=None) for layer in its_effect.layers))
    preset = Preset(name=_free_name(project, name), effect=its_effect)
    layers = tuple(
        mine.evolve(follows=theirs.id) for mine, theirs in zip(effect.layers, its_effect.layers, strict=True)
    )
    project = with_effect(project, effect.evolve(layers=layers, follows=its_effect.id))
    return project.evolve(presets=(*project.presets, preset))


def _free_name(project: Project, name: str) -> str:
    return fresh_name(name, (preset.name for preset in project.presets))


def with_preset(project: Project, preset: Preset) -> Project:
    """Return a project that holds a preset; one of the same id that it holds already stays as it is."""
    if any(each.id == preset.id for each in project.presets):
        return project
    return project.evolve(presets=(*project.presets, preset.evolve(name=_free_name(project, preset.name))))


def used_layer(project: Project, preset: Preset, effect_id: str) -> tuple[Project, str]:
    """Return a project with a preset's layer at the end of an effect, and its id."""
    effect, preset_layer = project.effect(effect_id), preset.layer
    if effect is None or preset_layer is None:
        return project, ""
    project = with_preset(project, preset)
    preset_layer = next(own.layer for own in project.presets if own.id == preset.id) or preset_layer
    name = fresh_name(preset.name, (layer.name for layer in effect.layers))
    layer = preset_layer.evolve(id=new_id(), name=name, follows=preset_layer.id)
    return with_layer(project, effect_id, layer), layer.id


def used_effect(project: Project, preset: Preset) -> tuple[Project, str]:
    """Return a project with another effect as a preset has it, and its id; a layer becomes an effect of its own."""
    project = with_preset(project, preset)
    preset = next(own for own in project.presets if own.id == preset.id)
    name = fresh_name(preset.name, (effect.name for effect in project.effects))
    if preset.effect is None:
        effect = Effect(name=name)
        return used_layer(with_effect(project, effect), preset, effect.id)[0], effect.id
    following = preset.effect.evolve(layers=tuple(layer.evolve(follows=layer.id) for layer in preset.effect.layers))
    effect = with_ids(following, {layer.id: new_id() for layer in following.layers})
    effect = effect.evolve(id=new_id(), name=name, follows=preset.effect.id)
    return with_effect(project, effect), effect.id


# ---- following ------------------------------------------------------------------------------------


def back_to_preset(project: Project, layer_id: str, rows: Collection[str] = ROWS) -> Project:
    """Return a project with rows of a layer as its preset has them."""
    found = project.layer(layer_id)
    preset = preset_of(project, found[1]) if found else None
    if found is None or preset is None:
        return project
    effect, layer = found
    return with_layer(project, effect.id, layer.evolve(**{row: _as_own(effect, preset[1], row) for row in rows}))


def into_preset(project: Project, layer_id: str, rows: Collection[str] = ROWS) -> Project:
    """Return a project with rows of a layer put into its preset.

    All others that had them as the preset had follow; those that were changed elsewhere stay.
    """
    found = project.layer(layer_id)
    followed = preset_of(project, found[1]) if found else None
    if found is None or followed is None:
        return project
    mine, (preset, before) = _as_followed(*found), followed
    changed = [row for row in rows if getattr(mine, row) != getattr(before, row)]
    now = before.evolve(**{row: getattr(mine, row) for row in changed})
    if preset.effect is not None:
        preset = preset.evolve(effect=preset.effect.evolve(layers=replace_by_id(preset.effect.layers, now)))
    else:
        preset = preset.evolve(layer=now)
    project = project.evolve(presets=replace_by_id(project.presets, preset))
    for effect in project.effects:
        for layer in effect.layers:
            if layer.follows == before.id:
                theirs = _as_followed(effect, layer)
                alike = [row for row in changed if getattr(theirs, row) == getattr(before, row)]
                values = {row: _as_own(effect, now, row) for row in alike}
                if values:
                    project = with_layer(project, effect.id, layer.evolve(**values))
    return project
