"""Findings: what will not do what it seems to say, each with its place and its remedy."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field
from functools import partial
from typing import TYPE_CHECKING

from wraithon.project.checks.finding import Change, Finding, Level, Remedy, layer_remedy
from wraithon.project.checks.layers import Notice, layer_messages, max_at_once
from wraithon.project.checks.remembering import PerEffect
from wraithon.project.checks.stage import check_stage
from wraithon.project.checks.triggers import Known, check_trigger
from wraithon.project.edit import new_layer
from wraithon.project.emission import MAX_ALIVE
from wraithon.project.motion import Collision, Towards
from wraithon.project.resolving.driving import drivable
from wraithon.project.resolving.durations import lasting
from wraithon.project.source import LineSource, Occasion, OffspringSource, SkinSource
from wraithon.project.trigger import MAX_WAITING

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from wraithon.project.character import CharacterUse, ClipUse
    from wraithon.project.effect import Effect, Layer
    from wraithon.project.project import Project


@dataclass(frozen=True)
class CharacterFacts:
    """What the checks need to know of a character file that was read."""

    joints: frozenset[str]
    parts: frozenset[str]
    clips: Mapping[str, float] = field(default_factory=dict)
    """Clip name to its length in seconds."""


def check(
    project: Project,
    facts: Mapping[str, CharacterFacts],
    textures: frozenset[str] | None = None,
    sounds: frozenset[str] | None = None,
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
    sounds
        Names of the sounds there are, likewise.
    """
    found: list[Finding] = []
    for use in project.characters:
        found += _check_character(project, use, facts.get(use.id))
    around = _around(project, facts, textures)
    for effect in project.effects:
        found += _found.of(effect, around, partial(_check_effect, project, effect, facts, textures))
    character_facts = facts.get(project.character.id) if project.character else None
    known = Known(project, frozenset(character_facts.clips) if character_facts is not None else None, sounds)
    for trigger in project.triggers:
        found += check_trigger(trigger, known)
    found += check_stage(project, textures)
    found += _overload(project)
    return sorted(found, key=lambda f: f.level is Level.WARNING)


_found: PerEffect[tuple[Finding, ...]] = PerEffect()
_at_once: PerEffect[int] = PerEffect()


def _around(
    project: Project, facts: Mapping[str, CharacterFacts], textures: frozenset[str] | None
) -> tuple[object, ...]:
    """Return what findings of effects hang on besides the effect itself."""
    known = facts.get(project.character.id) if project.character else None
    view = project.view.distance, project.view.fov
    return project.triggers, project.character, known, textures, project.step_rate, view


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
        for clip_run in project.stage.order:
            if clip_run.clip not in facts.clips:
                message = f'the character has no clip "{clip_run.clip}"; choose one that it has'
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
    project: Project, effect: Effect, facts: Mapping[str, CharacterFacts], textures: frozenset[str] | None
) -> tuple[Finding, ...]:
    return tuple(_effect_findings(project, effect, facts, textures))


def _effect_findings(
    project: Project, effect: Effect, facts: Mapping[str, CharacterFacts], textures: frozenset[str] | None
) -> Iterator[Finding]:
    here = f'effect "{effect.name}"'
    if not effect.layers:
        remedy = Remedy("Give it a layer", (Change("effect", effect.id, "layers", (new_layer("glow"),)),))
        yield Finding(Level.WARNING, here, "it has no layers, so nothing will show; add one", effect.id, remedy)
    yield from _endless(project, effect, here)
    yield from _driven(effect, here)
    on_stage = facts.get(project.character.id) if project.character else None
    for layer in effect.layers:
        location = f'{here}, layer "{layer.name}"'
        for message, remedy, level in (
            *_missing(layer, on_stage, textures),
            *_source_messages(project, layer),
            *_anchor_messages(project, layer),
            *(_offspring_messages(effect, layer) if isinstance(layer.source, OffspringSource) else ()),
            *layer_messages(effect, layer, project.step_rate, project.view),
        ):
            yield Finding(level, location, message, layer.id, remedy)


def _endless(project: Project, effect: Effect, here: str) -> Iterator[Finding]:
    """Yield firings that never end, where each time an event comes there is another."""
    whole = lasting(effect)
    endless = [x for x in whole.layers if _never_ends(x) and not isinstance(x.source, OffspringSource)]
    waiting = (t for t in project.triggers if t.enabled and t.when.kind not in {"start", "never"})
    again = (t for t in waiting if t.often.times != 1 and t.often.alive is None)
    begins = [t for t in again if any(effect.id in action.effects for action in t.starts)]
    stops = any(action.effect == effect.id for t in project.triggers for action in t.stops)
    if whole.length is None and endless and begins and not stops:
        comes = "its event comes" if begins[0].when.kind == "event" else "it responds"
        message = f'it has no end, and "{begins[0].name}" starts another one each time {comes}'
        once = effect.length is not None
        change = Change("effect", effect.id, *(("loop", False) if once else ("length", 1.0)))
        remedy = Remedy("Turn its loop off" if once else "Set its duration to 1 s", (change,))
        yield Finding(Level.WARNING, here, message, effect.id, remedy)


def _driven(effect: Effect, here: str) -> Iterator[Finding]:
    """Yield what dials drive that is not there."""
    layers, dials = {layer.id: layer for layer in effect.layers}, {dial.id: dial for dial in effect.dials}
    for binding in effect.bindings:
        layer = layers.get(binding.layer)
        dial = dials.get(binding.dial)
        if layer is None or dial is None or binding.path not in drivable(layer, dial.kind):
            others = tuple(each for each in effect.bindings if each is not binding)
            message = f"a dial drives {binding.path.replace('.', ' ')} of a layer, and one of these is not there"
            remedy = Remedy("Remove the binding", (Change("effect", effect.id, "bindings", others),))
            yield Finding(Level.WARNING, here, message, effect.id, remedy)


def _never_ends(layer: Layer) -> bool:
    """Return whether a layer emits, or its particles live, for as long as its firing."""
    emission = layer.emission
    steady = (emission.rate > 0 or emission.per_metre > 0) and emission.length is None
    return steady or emission.loop is not None or layer.hold is not None


def _missing(layer: Layer, facts: CharacterFacts | None, textures: frozenset[str] | None) -> Iterator[Notice]:
    """Yield what a layer names that is not there."""
    source = layer.source
    if isinstance(source, SkinSource) and facts is not None:
        yield from _missing_on_skin(layer.id, source, facts)
    for texture in (*layer.look.textures, *source.textures):
        if textures is not None and texture not in textures:
            drawn = layer.look.textures == (texture,) and layer.look.texture == texture
            remedy = layer_remedy("Draw the built-in disc", layer.id, look__texture="") if drawn else None
            yield Notice(f'texture "{texture}" is not in the project; pick another', remedy, Level.ERROR)


def _missing_on_skin(layer: str, source: SkinSource, facts: CharacterFacts) -> Iterator[Notice]:
    for part in source.parts:
        if part not in facts.parts:
            others = tuple(p for p in source.parts if p != part)
            message = f'the character has no part "{part}"; choose others as its source'
            yield Notice(message, layer_remedy("Take it out", layer, source__parts=others), Level.ERROR)
    for joint in dict.fromkeys((*source.joints.names, *(row.joint for row in source.table))):
        if joint not in facts.joints:
            names = tuple(j for j in source.joints.names if j != joint)
            rows = tuple(row for row in source.table if row.joint != joint)
            remedy = layer_remedy("Take it out", layer, source__joints__names=names, source__table=rows)
            yield Notice(f'the character has no joint "{joint}"; choose another for its source', remedy, Level.ERROR)
    if source.texture is not None and not source.texture.texture:
        remedy = layer_remedy("Remove the mask", layer, source__texture=None)
        yield Notice("its mask names no picture yet, so it masks nothing: choose one", remedy)


def _anchor_messages(project: Project, layer: Layer) -> Iterator[Notice]:
    """Yield where a layer names an anchor that is not there, or none where one is needed."""
    anchors = {anchor.id for anchor in project.character.anchors} if project.character else set()
    for number, force in enumerate(layer.motion.forces):
        if getattr(force, "towards", None) is Towards.SKIN and project.character is None:
            yield Notice("nothing draws it: there is no character whose skin it could be drawn to")
        if force.acts_from and force.acts_from not in anchors:
            remedy = layer_remedy(
                "Have it act from the root", layer.id, **{f"motion__forces__{number}__anchor": None}
            )
            yield Notice(f"its {force.kind} acts from an anchor that is gone; pick another", remedy, Level.ERROR)
    if isinstance(layer.source, LineSource):
        if layer.source.to is None:
            yield Notice("its line has no other end, so all are emitted at the anchor; pick one")
        elif layer.source.to not in anchors:
            yield Notice("its line ends at an anchor that is gone; pick another", None, Level.ERROR)


def _source_messages(project: Project, layer: Layer) -> Iterator[Notice]:
    """Yield what a layer on the character asks of it that is not there."""
    source, use = layer.source, project.character
    if not isinstance(source, SkinSource) or use is None:
        return
    if source.dissolving and (not use.dissolve.amount or not use.dissolve.clip):
        yield Notice(
            "nothing is emitted: the dissolve's border does not move; give the character a dissolve with a clip",
            layer_remedy("Bear on all of the skin", layer.id, source__dissolving=False),
        )
    if source.painted is not None and all(mask.id != source.painted for mask in use.masks):
        remedy = layer_remedy("Remove the mask", layer.id, source__painted=None)
        yield Notice("its painted mask is gone, so it masks nothing: choose another", remedy, Level.ERROR)
    if source.table and not any(row.share for row in source.table):
        rows = tuple(row.evolve(share=1.0) for row in source.table)
        remedy = layer_remedy("Give all of them a share", layer.id, source__table=rows)
        yield Notice("nothing is emitted: no joint of its table has a share", remedy)


def _offspring_messages(effect: Effect, layer: Layer) -> Iterator[Notice]:
    """Yield where a layer that is born by another's particles has none to be born by."""
    source, emission = layer.source, layer.emission
    assert isinstance(source, OffspringSource)  # the caller has looked
    parents = {each.id: each for each in effect.layers}
    others = [each.id for each in effect.layers if not isinstance(each.source, OffspringSource)]
    first: Remedy | None = None
    if others:
        first = layer_remedy(f'Pick "{parents[others[0]].name}"', layer.id, source__layer=others[0])
    if source.layer is None:
        yield Notice("nothing is emitted: pick the layer whose particles emit it", first)
    elif source.layer not in parents or source.layer == layer.id:
        message = "the layer whose particles emit it is not in this effect; pick another"
        yield Notice(message, first, Level.ERROR)
    elif parents[source.layer].disabled:
        message = f'nothing is emitted while "{parents[source.layer].name}" is disabled'
        yield Notice(message, layer_remedy("Take it in", source.layer, disabled=False))
    elif source.occasion is Occasion.CONTACT and parents[source.layer].motion.meets_nothing:
        name = parents[source.layer].name
        why = f'"{name}" collides with nothing; turn its ground or body collision on'
        remedy = layer_remedy("Let it bounce off the ground", source.layer, motion__ground__contact=Collision.BOUNCE)
        yield Notice(f"nothing is emitted: {why}", remedy)
    if not source.highest:
        remedy = layer_remedy("Bear 4 each time", layer.id, source__count=4, source__chance=1.0)
        yield Notice("nothing is emitted: its count is 0, or it never happens", remedy)
    if emission.rate or emission.per_metre or emission.bursts:
        changes = {"emission__rate": 0.0, "emission__per_metre": 0.0, "emission__bursts": ()}
        remedy = layer_remedy("Remove them", layer.id, **changes)
        yield Notice("its own rate and bursts do nothing: it is emitted by another layer's particles", remedy)
    seen, at = {layer.id}, source.layer
    while at in parents and isinstance(up := parents[at].source, OffspringSource):
        if at in seen:
            yield Notice("it is emitted by itself in the end, so that nothing begins it; pick another layer", first)
            return
        seen, at = seen | {at}, up.layer


def _births_at_once(effect: Effect, rate: int) -> int:
    """Return how many particles one step of `rate` a second may emit of an effect's layers, within their limits."""
    return sum(
        min(layer.emission.limit or MAX_ALIVE, max_at_once(layer.emission, rate))
        for layer in effect.layers
        if not layer.disabled
    )


def _overload(project: Project) -> Iterator[Finding]:
    """Yield where more is emitted within one step, or waits, than may."""
    rate = project.step_rate
    together = sum(_at_once.of(e, (rate,), partial(_births_at_once, e, rate)) for e in project.effects)
    if together > MAX_ALIVE:
        message = (
            f"its layers may emit {together:,} within one step, but at most {MAX_ALIVE:,} live at once: the rest is"
            " refused"
        )
        yield Finding(Level.WARNING, "effects", message)
    actions = Counter[str]()
    for trigger in project.triggers:
        if trigger.enabled and trigger.when.kind == "event":
            actions[trigger.when.event or ""] += len(trigger.response)
    use = project.character
    for clip in use.clips if use else ():
        waiting = sum(actions[mark.event] for mark in clip.marks)
        if use is not None and waiting > MAX_WAITING:
            message = f"its {len(clip.marks):,} marks start {waiting:,} actions, but at most {MAX_WAITING:,} may wait"
            yield Finding(Level.WARNING, f'character "{use.name}", clip "{clip.name}"', message, use.id)
