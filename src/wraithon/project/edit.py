"""Edits: each takes a project and returns a new one that shares all that did not change."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol, TypeVar

from wraithon.project.base import LONGEST_NAME, new_id
from wraithon.project.character import Anchor, CharacterUse, ClipUse, Event, Mark
from wraithon.project.effect import Layer
from wraithon.project.emission import Emission
from wraithon.project.life import Attribute, Curve
from wraithon.project.look import SHAPES, Blend, MeshLook, SpriteLook
from wraithon.project.project import MAX_TIMES, ClipRun
from wraithon.project.source import OffspringSource
from wraithon.project.staging.actions import PlaySound

if TYPE_CHECKING:
    from collections.abc import Callable, Collection, Iterable, Mapping

    from wraithon.project.effect import Effect
    from wraithon.project.project import Project
    from wraithon.project.trigger import Trigger


class _Named(Protocol):
    @property
    def id(self) -> str: ...


T = TypeVar("T", bound=_Named)


def replace_by_id(items: tuple[T, ...], item: T) -> tuple[T, ...]:
    """Return `items` with the one of the same id replaced, or with `item` added at the end."""
    if any(x.id == item.id for x in items):
        return tuple(item if x.id == item.id else x for x in items)
    return (*items, item)


def without_id(items: tuple[T, ...], item_id: str) -> tuple[T, ...]:
    """Return `items` less the one with this id."""
    return tuple(x for x in items if x.id != item_id)


def fresh_name(wanted: str, taken: Iterable[str]) -> str:
    """Return `wanted`, or `wanted 2`, `wanted 3`, ... whichever is free first, cut short where that is too long."""
    names = set(taken)
    if wanted not in names:
        return wanted
    stem, _, last = wanted.rpartition(" ")
    stem = stem if stem and last.isdigit() else wanted
    numbered = (f"{stem[: LONGEST_NAME - len(f' {n}')]} {n}" for n in range(2, len(names) + 3))
    return next(name for name in numbered if name not in names)


def _every_layer(project: Project) -> list[Layer]:
    """Return all layers, those of presets, too."""
    layers = [layer for effect in project.effects for layer in effect.layers]
    return [*layers, *(layer for preset in project.presets for layer in preset.layers)]


def textures_of(project: Project) -> frozenset[str]:
    """Return the names of all textures that layers draw with, here or on a kind of ground, or are born by."""
    layers = _every_layer(project)
    found = [name for layer in layers for name in (*layer.look.textures, *layer.source.textures)]
    grounds = (other for trigger in project.triggers for action in trigger.starts for other in action.grounds)
    found += [name for other in grounds if (name := other.texture)]
    return frozenset([*found, *(own.picture for own in project.stage.grounds if own.picture)])


def sounds_of(project: Project) -> frozenset[str]:
    """Return the names of all sounds that triggers play."""
    actions = (action for trigger in project.triggers for action in trigger.response)
    return frozenset(action.sound for action in actions if isinstance(action, PlaySound) and action.sound)


def pieces_of(project: Project) -> frozenset[str]:
    """Return the names of all files whose shapes layers draw."""
    looks = [layer.look for layer in _every_layer(project)]
    return frozenset(name for look in looks if isinstance(look, MeshLook) for name in look.shapes) - set(SHAPES)


def with_effect(project: Project, effect: Effect) -> Project:
    """Add `effect`, or replace the one with its id."""
    return project.evolve(effects=replace_by_id(project.effects, effect))


def remove_effect(project: Project, effect_id: str) -> Project:
    """Remove an effect; responses that started it stay, start nothing, and are found by the checks."""
    triggers = tuple(trigger.forgetting("effect", effect_id) for trigger in project.triggers)
    return project.evolve(effects=without_id(project.effects, effect_id), triggers=triggers)


def with_ids(effect: Effect, ids: Mapping[str, str]) -> Effect:
    """Return an effect whose layers have other ids; what names them within it names them by these."""
    layers = []
    for layer in effect.layers:
        source = layer.source
        if isinstance(source, OffspringSource) and source.layer is not None:
            source = source.evolve(layer=ids.get(source.layer, source.layer))
        layers.append(layer.evolve(id=ids[layer.id], source=source))
    bindings = tuple(binding.evolve(layer=ids.get(binding.layer, binding.layer)) for binding in effect.bindings)
    return effect.evolve(layers=tuple(layers), bindings=bindings)


def with_layer(project: Project, effect_id: str, layer: Layer) -> Project:
    """Add `layer` to an effect, or replace the one with its id."""
    effect = project.effect(effect_id)
    if effect is None:
        return project
    return with_effect(project, effect.evolve(layers=replace_by_id(effect.layers, layer)))


def remove_layer(project: Project, layer_id: str) -> Project:
    """Remove a layer from its effect."""
    found = project.layer(layer_id)
    if found is None:
        return project
    effect, _ = found
    return with_effect(project, effect.evolve(layers=without_id(effect.layers, layer_id)))


def copy_layers(project: Project, layer_ids: Iterable[str]) -> tuple[Project, list[str]]:
    """Copy layers, each right below itself; return the project and the copies' ids."""
    copies = []
    for layer_id in layer_ids:
        project, copy = copy_layer(project, layer_id)
        copies.append(copy)
    return project, copies


def copy_layer(project: Project, layer_id: str) -> tuple[Project, str]:
    """Copy a layer right below itself; return the project and the copy's id."""
    found = project.layer(layer_id)
    if found is None:
        return project, layer_id
    effect, layer = found
    changed, copy = with_copy(effect, layer, layer_id)
    return with_effect(project, changed), copy


def with_copy(effect: Effect, layer: Layer, below: str | None) -> tuple[Effect, str]:
    """Return an effect with a copy of a layer, under a free name, below one of its own or last; and its id."""
    copy = layer.evolve(id=new_id(), name=fresh_name(layer.name, (x.name for x in effect.layers)))
    layers = list(effect.layers)
    layers.insert(next((k + 1 for k, x in enumerate(layers) if x.id == below), len(layers)), copy)
    return effect.evolve(layers=tuple(layers)), copy.id


def new_layer(name: str) -> Layer:
    """Return a layer that shows something at once: soft glows that rise a little and fade."""
    return Layer(
        name=name,
        emission=Emission(rate=40),
        lifetime=Attribute.of(0.8, 1.4),
        speed=Attribute.of(0.2, 0.6),
        size=Attribute.of(0.04, 0.08),
        intensity=Attribute.of(1.5),
        opacity=Attribute.of(1.0, 1.0, Curve.through((0, 0), (0.15, 1), (1, 0))),
        look=SpriteLook(texture="glow.png", blend=Blend.ADDITIVE),
    )


def with_trigger(project: Project, trigger: Trigger) -> Project:
    """Add `trigger`, or replace the one with its id."""
    return project.evolve(triggers=replace_by_id(project.triggers, trigger))


def with_character(project: Project, change: Callable[[CharacterUse], CharacterUse]) -> Project:
    """Return the project with the character on stage changed; without one, the project itself."""
    use = project.character
    if use is None:
        return project
    return project.evolve(characters=replace_by_id(project.characters, change(use)))


def with_clip(project: Project, clip: ClipUse) -> Project:
    """Set how a clip of the character on stage is played."""
    return with_character(project, lambda use: use.evolve(clips=replaced_clip(use.clips, clip)))


def replaced_clip(clips: tuple[ClipUse, ...], clip: ClipUse) -> tuple[ClipUse, ...]:
    """Return how clips are played with `clip` in the place of the one of its name, or behind them."""
    known = any(c.name == clip.name for c in clips)
    changed = tuple(clip if c.name == clip.name else c for c in clips)
    return changed if known else (*changed, clip)


@dataclass(frozen=True)
class MarkPlace:
    """A mark and the clip it stands on."""

    clip: str
    mark: Mark


def find_mark(project: Project, mark_id: str | None) -> MarkPlace | None:
    """Return the mark with this id on the character on stage, or None."""
    clips = project.character.clips if project.character else ()
    return next((MarkPlace(c.name, m) for c in clips for m in c.marks if m.id == mark_id), None)


def with_mark(project: Project, clip_name: str, mark: Mark) -> Project:
    """Add a mark to a clip, or replace the one with its id; marks stay in order of time."""
    if project.character is None:
        return project
    clip = project.character.clip(clip_name)
    marks = sorted(replace_by_id(clip.marks, mark), key=lambda m: m.time)
    return with_clip(project, clip.evolve(marks=tuple(marks)))


def remove_mark(project: Project, mark_id: str) -> Project:
    """Remove a mark from its clip."""
    found = find_mark(project, mark_id)
    if found is None or project.character is None:
        return project
    clip = project.character.clip(found.clip)
    return with_clip(project, clip.evolve(marks=without_id(clip.marks, mark_id)))


def with_event(project: Project, event: Event) -> Project:
    """Add an event to the character on stage, or replace the one with its id."""
    return with_character(project, lambda use: use.evolve(events=replace_by_id(use.events, event)))


def remove_event(project: Project, event_id: str) -> Project:
    """Remove an event with all its marks; triggers that waited for it stay, waiting for nothing."""

    def change(use: CharacterUse) -> CharacterUse:
        clips = tuple(c.evolve(marks=tuple(m for m in c.marks if m.event != event_id)) for c in use.clips)
        return use.evolve(events=without_id(use.events, event_id), clips=clips)

    triggers = tuple(
        t.evolve(when=t.when.evolve(event=None)) if t.when.kind == "event" and t.when.event == event_id else t
        for t in project.triggers
    )
    return with_character(project, change).evolve(triggers=triggers)


def ensure_anchor(project: Project, wanted: Anchor) -> tuple[Project, Anchor]:
    """Return a project with an anchor, and the one that is on its joint, or on the ground under that, already."""
    use = project.character
    there = (a for a in use.anchors if (a.joint, a.on_ground) == (wanted.joint, wanted.on_ground)) if use else ()
    known = next(iter(there), None)
    if known is not None:
        return project, known
    names = (anchor.name for anchor in use.anchors) if use else ()
    placed = wanted.evolve(name=fresh_name(wanted.name, names))
    return with_anchor(project, placed), placed


def with_anchor(project: Project, anchor: Anchor) -> Project:
    """Add an anchor to the character on stage, or replace the one with its id."""
    return with_character(project, lambda use: use.evolve(anchors=replace_by_id(use.anchors, anchor)))


def remove_anchor(project: Project, anchor_id: str) -> Project:
    """Remove an anchor; events and responses that used it stay, and are found by the checks."""

    def change(use: CharacterUse) -> CharacterUse:
        events = tuple(e.evolve(anchor=None) if e.anchor == anchor_id else e for e in use.events)
        return use.evolve(anchors=without_id(use.anchors, anchor_id), events=events)

    triggers = tuple(trigger.forgetting("anchor", anchor_id) for trigger in project.triggers)
    return with_character(project, change).evolve(triggers=triggers)


def move_layer(project: Project, layer_id: str, effect_id: str, number: int) -> Project:
    """Return the project with a layer at a place of an effect, its own or another, counted without it.

    In another effect it has no dials: bindings of its own to it are gone.

    Raises
    ------
    pydantic.ValidationError
        When the other effect would hold more layers than it may.
    """
    found, target = project.layer(layer_id), project.effect(effect_id)
    if found is None or target is None:
        return project
    source, layer = found
    layers = list(without_id(target.layers, layer_id))
    layers.insert(min(max(number, 0), len(layers)), layer)
    if source.id != target.id:
        bindings = tuple(binding for binding in source.bindings if binding.layer != layer_id)
        project = with_effect(project, source.evolve(layers=without_id(source.layers, layer_id), bindings=bindings))
    return with_effect(project, target.evolve(layers=tuple(layers)))


def move_layers(project: Project, layer_ids: Collection[str], effect_id: str, before: Collection[str]) -> Project:
    """Return the project with layers side by side in an effect, before one of its own (`before`), or last.

    Raises
    ------
    pydantic.ValidationError
        When the effect would hold more layers than it may.
    """
    for layer_id in layer_ids:
        effect = project.effect(effect_id)
        ids = [layer.id for layer in effect.layers if layer.id != layer_id] if effect else []
        number = next((k for k, other in enumerate(ids) if other in before), len(ids))
        project = move_layer(project, layer_id, effect_id, number)
    return project


def shift_layers(project: Project, layer_ids: Collection[str], by: int) -> Project:
    """Return the project with layers one place later (1) or earlier (-1) in their effects; those at an end stay."""
    for effect in project.effects:
        layers = list(effect.layers)
        # From the end that they move to, so that those side by side stay so.
        way = range(len(layers) - 2, -1, -1) if by > 0 else range(1, len(layers))
        for number in way:
            if layers[number].id in layer_ids and layers[number + by].id not in layer_ids:
                layers[number], layers[number + by] = layers[number + by], layers[number]
        if tuple(layers) != effect.layers:
            project = with_effect(project, effect.evolve(layers=tuple(layers)))
    return project


def move_effect(project: Project, effect_id: str, number: int) -> Project:
    """Return the project with an effect at a place of the list, counted without it."""
    effect = project.effect(effect_id)
    if effect is None:
        return project
    effects = list(without_id(project.effects, effect_id))
    effects.insert(min(max(number, 0), len(effects)), effect)
    return project.evolve(effects=tuple(effects))


def _with_order(project: Project, order: Iterable[ClipRun]) -> Project:
    return project.evolve(stage=project.stage.evolve(order=tuple(order)))


def move_clip_run(project: Project, number: int, by: int) -> Project:
    """Return the project with an entry of the running order so many places later, or earlier."""
    order = list(project.stage.order)
    if not (0 <= number < len(order) and 0 <= number + by < len(order)):
        return project
    order.insert(number + by, order.pop(number))
    return _with_order(project, order)


def repeat_clip_run(project: Project, number: int, by: int) -> Project:
    """Return the project with an entry of the running order played so many times more, at least once."""
    order = list(project.stage.order)
    if not 0 <= number < len(order):
        return project
    order[number] = order[number].evolve(times=min(max(order[number].times + by, 1), MAX_TIMES))
    return _with_order(project, order)


def remove_clip_run(project: Project, number: int) -> Project:
    """Return the project without an entry of the running order."""
    return _with_order(project, (clip_run for k, clip_run in enumerate(project.stage.order) if k != number))


def play_only(project: Project, clip: str) -> Project:
    """Return the project with one clip on stage, over and over."""
    return _with_order(project, [ClipRun(clip=clip)])


def with_on_stage(project: Project, use_id: str | None) -> Project:
    """Return the project with another of its characters on stage, playing the clips they share.

    Of the running order what the other has no clip for is left out; the checks tell when nothing is left.
    """
    return project.evolve(stage=project.stage.evolve(character=use_id))
