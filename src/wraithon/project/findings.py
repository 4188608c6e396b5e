"""Findings: what will not do what it seems to say, each with its place and its remedy."""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass, field
from enum import StrEnum
from pathlib import PurePosixPath
from typing import TYPE_CHECKING

from wraithon.meeting import met
from wraithon.project.emission import MOST_ALIVE, Emission
from wraithon.project.life import Attribute
from wraithon.project.motion import Towards
from wraithon.project.source import Heading, JointSet, LineSource, Mode, Occasion, OffspringSource, SkinSource
from wraithon.project.trigger import MOST_WAITING

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from wraithon.project.character import CharacterUse, ClipUse, Event
    from wraithon.project.effect import Effect, Layer
    from wraithon.project.project import Project
    from wraithon.project.trigger import StartEffect, Trigger

__all__ = ["CharacterFacts", "Finding", "Level", "Remedy", "check", "inside"]


class Level(StrEnum):
    """How bad a finding is: an error will not work, a warning may surprise."""

    ERROR = "error"
    WARNING = "warning"


@dataclass(frozen=True)
class Remedy:
    """What mends a finding about a character at one stroke: a field of its use, and the value it gets."""

    words: str
    field: str
    value: float


@dataclass(frozen=True)
class Finding:
    """One thing noticed: where, what, and what to do. `about` is the id of what it concerns."""

    level: Level
    place: str
    message: str
    about: str = ""
    remedy: Remedy | None = None


@dataclass(frozen=True)
class CharacterFacts:
    """What the checks need to know of a character file that was read."""

    joints: frozenset[str]
    parts: frozenset[str]
    clips: Mapping[str, float] = field(default_factory=dict)
    """Clip name to its length in seconds."""


def inside(name: str) -> bool:
    """Tell whether a file name from a project stays inside the project's folder."""
    path = PurePosixPath(name.replace("\\", "/"))
    return bool(name) and not path.is_absolute() and ".." not in path.parts and ":" not in name


def check(
    project: Project,
    facts: Mapping[str, CharacterFacts],
    textures: frozenset[str] | None = None,
) -> list[Finding]:
    """Return all findings of a project.

    Parameters
    ----------
    project
        The project to look through.
    facts
        Character id to what its file holds; a character that could not be read is left out.
    textures
        Names of the textures there are, as layers give them; None leaves textures unchecked.
    """
    found: list[Finding] = []
    for use in project.characters:
        found += _check_character(project, use, facts.get(use.id))
    for effect in project.effects:
        found += _check_effect(project, effect, facts, textures)
    known = _Known(project)
    for trigger in project.triggers:
        found += _check_trigger(trigger, known)
    found += _overload(project)
    return sorted(found, key=lambda f: f.level is Level.WARNING)


def _check_character(project: Project, use: CharacterUse, facts: CharacterFacts | None) -> Iterator[Finding]:
    here = f'character "{use.name}"'
    events = {event.id: event.name for event in use.events}
    for clip in use.clips:
        for mark in clip.marks:
            if mark.event not in events:
                yield Finding(
                    Level.ERROR,
                    f'{here}, clip "{clip.name}"',
                    f"a mark at {mark.time:.2f} s belongs to no event; delete it or give it one",
                    mark.id,
                )
    if facts is None:
        return
    yield from _check_names(project, use, facts, here)


def _check_names(project: Project, use: CharacterUse, facts: CharacterFacts, here: str) -> Iterator[Finding]:
    for anchor in use.anchors:
        if anchor.joint not in facts.joints:
            message = f'joint "{anchor.joint}" is not in the file; pick another joint for this anchor'
            yield Finding(Level.ERROR, f'{here}, anchor "{anchor.name}"', message, anchor.id)
    for clip in use.clips:
        for message, about in _clip_messages(clip, facts.clips.get(clip.name)):
            yield Finding(Level.ERROR, f'{here}, clip "{clip.name}"', message, about)
    if use is project.character:
        for cue in project.stage.order:
            if cue.clip not in facts.clips:
                message = f'the character has no clip "{cue.clip}"; choose one that it has'
                yield Finding(Level.ERROR, "running order", message)


def _clip_messages(clip: ClipUse, length: float | None) -> Iterator[tuple[str, str]]:
    """Yield what is wrong with a clip's marks, and what it is about; `length` in seconds, None without it."""
    if length is None:
        if clip.marks:
            yield f"the file has no such clip, so its {len(clip.marks)} marks never come", ""
        return
    for mark in clip.marks:
        if mark.time >= length:
            where = f"a mark at {mark.time:.2f} s lies at or past the clip's end ({length:.2f} s)"
            yield f"{where}: it never comes", mark.id


def _check_effect(
    project: Project,
    effect: Effect,
    facts: Mapping[str, CharacterFacts],
    textures: frozenset[str] | None,
) -> Iterator[Finding]:
    here = f'effect "{effect.name}"'
    if not effect.layers:
        yield Finding(Level.WARNING, here, "it has no layers, so nothing will show; add one", effect.id)
    on_stage = facts.get(project.character.id) if project.character else None
    for layer in effect.layers:
        place = f'{here}, layer "{layer.name}"'
        for level, message in (
            *_layer_messages(layer, on_stage, textures),
            *_emission_messages(effect, layer, project.step_rate),
            *_source_messages(project, layer),
            *_anchor_messages(project, layer),
            *_idle_messages(effect, layer),
        ):
            yield Finding(level, place, message, layer.id)


def _layer_messages(
    layer: Layer, facts: CharacterFacts | None, textures: frozenset[str] | None
) -> Iterator[tuple[Level, str]]:
    if isinstance(layer.source, SkinSource) and facts is not None:
        for part in layer.source.parts:
            if part not in facts.parts:
                yield Level.ERROR, f'the character has no part "{part}"; choose others as its source'
        for joint in (*layer.source.joints.names, *(row.joint for row in layer.source.table)):
            if joint not in facts.joints:
                yield Level.ERROR, f'the character has no joint "{joint}"; choose another for its source'
        if layer.source.texture is not None and not layer.source.texture.texture:
            yield Level.WARNING, "its mask names no picture yet, so it masks nothing: choose one"
    for texture in (*layer.look.textures, *layer.source.textures):
        if textures is not None and texture not in textures:
            yield Level.ERROR, f'texture "{texture}" is not in the project; pick another'
    yield from _drawn_messages(layer)


def _anchor_messages(project: Project, layer: Layer) -> Iterator[tuple[Level, str]]:
    """Tell where a layer names an anchor that is not there, or none where one is needed."""
    anchors = {anchor.id for anchor in project.character.anchors} if project.character else set()
    for force in layer.motion.forces:
        anchor = getattr(force, "anchor", None)
        on_skin = getattr(force, "towards", None) is Towards.SKIN
        if on_skin and project.character is None:
            yield Level.WARNING, "nothing draws it: there is no character whose skin it could be drawn to"
        if anchor is not None and not on_skin and anchor not in anchors:
            yield Level.ERROR, f"its {force.kind} acts from an anchor that is gone; pick another"
    if isinstance(layer.source, LineSource):
        if layer.source.to is None:
            yield Level.WARNING, "its line has no other end, so all are born at the anchor; pick one"
        elif layer.source.to not in anchors:
            yield Level.ERROR, "its line ends at an anchor that is gone; pick another"


def _source_messages(project: Project, layer: Layer) -> Iterator[tuple[Level, str]]:
    """Tell what a layer on the character asks of it that is not there."""
    source, use = layer.source, project.character
    if not isinstance(source, SkinSource) or use is None:
        return
    if source.dissolving and (not use.dissolve.amount or not use.dissolve.clip):
        yield (
            Level.WARNING,
            "nothing is born: the dissolve's border does not move; give the character a dissolve with a clip",
        )
    if source.painted is not None and all(mask.id != source.painted for mask in use.masks):
        yield Level.ERROR, "its painted mask is gone, so it masks nothing: choose another"
    if source.mode == "bones" and (
        source.parts or source.height or source.facing or source.texture or source.painted
    ):
        yield Level.WARNING, "bones keep to joints only: its other filters do nothing"


def _emission_messages(effect: Effect, layer: Layer, rate: int) -> Iterator[tuple[Level, str]]:
    emission = layer.emission
    if isinstance(layer.source, OffspringSource):
        yield from _offspring_messages(effect, layer)
        return
    if emission.rate == emission.per_metre == 0 and not any(b.highest for b in emission.bursts):
        yield Level.WARNING, "nothing is born: set a rate or add a burst"
    if emission.rate and effect.length is not None and emission.start >= effect.length:
        yield (
            Level.WARNING,
            "its rate starts after the effect's own end: shorten the start or lengthen the effect",
        )
    burst = most_at_once(emission, rate)
    if emission.limit is not None and burst > emission.limit and emission.bursts:
        yield (
            Level.WARNING,
            f"{burst:,} may be born at once but the limit is {emission.limit:,}: births will be refused",
        )
    if emission.course is not None and effect.length is None and emission.length is None:
        yield Level.WARNING, "its rate has a course but no end to go to: let it last only for so long, or the effect"
    steady = emission.peak * sum(layer.lifetime.ends) / 2
    if emission.limit is not None and steady > emission.limit * 1.05:
        yield (
            Level.WARNING,
            f"about {steady:.0f} would live at once but the limit is {emission.limit}: births will be refused",
        )


def _offspring_messages(effect: Effect, layer: Layer) -> Iterator[tuple[Level, str]]:
    """Tell where a layer that is born by another's particles has none to be born by."""
    source, emission = layer.source, layer.emission
    assert isinstance(source, OffspringSource)  # the caller has looked
    parents = {each.id: each for each in effect.layers}
    if source.layer is None:
        yield Level.WARNING, "nothing is born: pick the layer whose particles bear it"
    elif source.layer not in parents or source.layer == layer.id:
        yield Level.ERROR, "the layer whose particles bear it is not in this effect; pick another"
    elif parents[source.layer].muted:
        yield Level.WARNING, f'nothing is born while "{parents[source.layer].name}" is muted'
    elif source.occasion is Occasion.CONTACT and parents[source.layer].motion.meets_nothing:
        name = parents[source.layer].name
        why = f'"{name}" passes through the ground, and the character; let it meet either'
        yield Level.WARNING, f"nothing is born: {why}"
    if not source.highest:
        yield Level.WARNING, "nothing is born: its count is 0, or it never happens"
    if emission.rate or emission.per_metre or emission.bursts:
        yield Level.WARNING, "its own rate and bursts do nothing: it is born by another layer's particles"
    seen, at = {layer.id}, source.layer
    while at in parents and isinstance(up := parents[at].source, OffspringSource):
        if at in seen:
            yield Level.WARNING, "it is born by itself in the end, so that nothing begins it; pick another layer"
            return
        seen, at = seen | {at}, up.layer


def _idle_messages(effect: Effect, layer: Layer) -> Iterator[tuple[Level, str]]:
    """Yield settings that do nothing beside others."""
    usual = (type(layer).model_fields["turn"].default, Attribute.of(0))
    idle = layer.look.turned_by
    if idle and not (layer.turn in usual and layer.spin in usual):
        yield Level.WARNING, f"turn and spin do nothing: {idle}"
    for name, why in layer.look.idle.items():
        quiet = (type(layer).model_fields[name].default, Attribute.of(0))
        if name not in {"turn", "spin"} and getattr(layer, name) not in quiet:
            yield Level.WARNING, f"{name} does nothing: {why}"
    if layer.look.frames > 1 and not layer.look.texture:
        yield Level.WARNING, "its sheet does nothing: the built-in disc has a single frame; pick a texture"
    source = layer.source
    bones = source.joints if isinstance(source, SkinSource) and source.mode is Mode.BONES else JointSet()
    if bones.names and bones.falloff != JointSet().falloff:
        yield Level.WARNING, "falloff does nothing on bones: they belong to their joints whole"
    for burst in layer.emission.bursts:
        if effect.length is not None and burst.count and burst.time > effect.length:
            when = f"a burst at {burst.time:g} s comes after the effect's end ({effect.length:g} s)"
            yield Level.WARNING, f"{when}: it never happens"


def _top(attribute: Attribute) -> float:
    """Return the highest that is ever drawn."""
    highest = max(y for _, y in attribute.life.points) if attribute.life else 1.0
    return float(met(attribute.ends[1], highest, attribute.code))


def _drawn_messages(layer: Layer) -> Iterator[tuple[Level, str]]:
    if layer.muted:
        return
    for name in ("size", "opacity", "intensity"):
        if name not in layer.look.idle and _top(getattr(layer, name)) <= 0:
            yield Level.WARNING, f"it cannot be seen: {name} is never above zero"
    if layer.lifetime.ends[1] <= 0:
        yield Level.WARNING, "it cannot be seen: lifetime is zero"


class _Known:
    """What triggers may refer to, looked up once."""

    def __init__(self, project: Project) -> None:
        use = project.character
        self.effects = {effect.id for effect in project.effects}
        self.skinned = {
            effect.id
            for effect in project.effects
            if effect.layers
            and all(
                isinstance(layer.source, SkinSource)
                and layer.source.aim.heading is not Heading.FORWARD
                and not any(hasattr(force, "anchor") for force in layer.motion.forces)
                for layer in effect.layers
            )
        }
        """Effects that an anchor means nothing to: all of them is born on the character."""
        self.events = {event.id: event for event in use.events} if use else {}
        self.anchors = {anchor.id for anchor in use.anchors} if use else set()
        self.marked = {mark.event for clip in use.clips for mark in clip.marks} if use else set()


def _check_trigger(trigger: Trigger, known: _Known) -> Iterator[Finding]:
    if not trigger.enabled:
        return
    here = f'trigger "{trigger.name}"'
    event = None
    if trigger.when.kind == "event":
        event = known.events.get(trigger.when.event or "")
        if event is None:
            yield Finding(Level.ERROR, here, "it waits for no event; pick one", trigger.id)
        elif event.id not in known.marked:
            yield Finding(Level.WARNING, here, f'no clip has a mark of "{event.name}" yet', trigger.id)
    if not trigger.response:
        yield Finding(Level.WARNING, here, "its response does nothing; add a step", trigger.id)
    for step in trigger.response:
        for level, message in _step_messages(step, event, known):
            yield Finding(level, here, message, trigger.id)


def _step_messages(step: StartEffect, event: Event | None, known: _Known) -> Iterator[tuple[Level, str]]:
    skinned = step.effect in known.skinned
    if step.effect not in known.effects:
        yield Level.ERROR, "a step starts no effect; pick one"
    if step.anchor is not None and step.anchor not in known.anchors:
        yield Level.ERROR, "a step's anchor is gone; pick another"
    elif step.anchor is not None and skinned:
        yield Level.WARNING, "a step's anchor does nothing: its effect is born on the character"
    if step.anchor is None and not skinned and (event is None or event.anchor not in known.anchors):
        message = "neither the step nor its event names an anchor: it will start at the character's root"
        yield Level.WARNING, message


def _overload(project: Project) -> Iterator[Finding]:
    """Yield where more comes at once than a step may bear, or than may wait."""
    together = sum(
        min(layer.emission.limit or MOST_ALIVE, most_at_once(layer.emission, project.step_rate))
        for effect in project.effects
        for layer in effect.layers
        if not layer.muted
    )
    if together > MOST_ALIVE:
        message = (
            f"its layers may bear {together:,} within one step, but at most {MOST_ALIVE:,} live at once: the rest is"
            " refused"
        )
        yield Finding(Level.WARNING, "effects", message)
    steps = Counter[str]()
    for trigger in project.triggers:
        if trigger.enabled and trigger.when.kind == "event":
            steps[trigger.when.event or ""] += len(trigger.response)
    use = project.character
    for clip in use.clips if use else ():
        waiting = sum(steps[mark.event] for mark in clip.marks)
        if use is not None and waiting > MOST_WAITING:
            message = f"its {len(clip.marks):,} marks start {waiting:,} steps, but at most {MOST_WAITING:,} may wait"
            yield Finding(Level.WARNING, f'character "{use.name}", clip "{clip.name}"', message, use.id)


def most_at_once(emission: Emission, rate: int) -> int:
    """Return how many births of one firing may fall into one of `rate` steps a second."""
    bursts = sum(min(b.repeats, math.ceil(1 / (rate * b.interval))) * b.highest for b in emission.bursts)
    return bursts + math.ceil(emission.peak / rate)
