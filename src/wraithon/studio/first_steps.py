"""First effects on a character, each at one stroke from what is found of it: aura, dust, trail, strike."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, NamedTuple

from wraithon.character.limb_chains import rig_of_character
from wraithon.interchange.presets import shipped_presets
from wraithon.project.character import Anchor
from wraithon.project.edit import ensure_anchor, fresh_name, new_layer, with_effect, with_trigger
from wraithon.project.effect import Effect
from wraithon.project.resolving.following import used_effect, used_layer
from wraithon.project.source import SkinSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.studio.beginning import begun_look
from wraithon.studio.moments import FEET, found_moments, taken
from wraithon.studio.wiring import ClipMoment, wired

if TYPE_CHECKING:
    from wraithon.character.model import Character
    from wraithon.character.moments.peaks import Candidate
    from wraithon.project.preset import Preset
    from wraithon.project.project import Project


SURE = 0.5
"""Confidence from which on a moment is marked without anybody having looked at it."""
STRIKERS = ("hand", "foot", "head")
"""Bones that strike, the likeliest first."""


class Step(NamedTuple):
    """A project with a first effect, what is to be selected in it, and how it was made; or why there is none."""

    project: Project
    selection: tuple[str, str]
    text: str


def _nothing(project: Project, why: str) -> Step:
    return Step(project, ("", ""), why)


def aura(project: Project, _character: Character) -> Step:
    """Return a project in which a shell and glints surround the character for as long as it is there."""
    name = fresh_name("aura", (effect.name for effect in project.effects))
    shell = begun_look(new_layer("shell").evolve(source=SkinSource()), "shell")
    effect = Effect(name=name, length=None, layers=(shell,))
    project = with_effect(project, effect)
    project, _ = used_layer(project, _shipped("shipped-plume-glints"), effect.id)
    project = _from_start(project, effect.id, name, None)
    return Step(
        project, ("effect", effect.id),
        f'"{name}": a shell of the skin, glints on it, and a trigger that starts both with the show',
    )  # fmt: skip


def dust(project: Project, character: Character) -> Step:
    """Return a project in which dust rises wherever a foot comes down."""
    found = [each for each in found_moments(project, character, "down") if each.confidence >= SURE]
    if not found:
        return _nothing(project, "No foot comes down on any clip: mark the moments by hand, with E on the timeline")
    project, effect = used_effect(project, _shipped("shipped-tread"))
    before = {trigger.id for trigger in project.triggers}
    project = taken(project, found)
    made = [trigger for trigger in project.triggers if trigger.id not in before]
    waiting = made or [t for t in project.triggers if any(a == StartEffect() for a in t.response)]
    for trigger in waiting:
        response = tuple(StartEffect(effect=effect) if a == StartEffect() else a for a in trigger.response)
        project = with_trigger(project, trigger.evolve(response=response))
    clips, feet = len({each.clip for each in found}), len({each.joint for each in found})
    name = _name_of(project, effect)
    text = f'"{name}": {len(found)} marks on {clips} clips, an event and a trigger for each of {feet} feet'
    return Step(project, ("effect", effect), text)


def trail(project: Project, character: Character) -> Step:
    """Return a project in which ribbons trail from a hand, or from what is most like one."""
    joint = _striker(character)
    if not joint:
        return _nothing(project, "The character has no joints that a trail could start from")
    project, effect = used_effect(project, _shipped("shipped-fan-streamers"))
    project, anchor = ensure_anchor(project, Anchor(name=joint, joint=joint))
    name = _name_of(project, effect)
    project = _from_start(project, effect, name, anchor.id)
    return Step(project, ("effect", effect), f'"{name}": ribbons from an anchor on {joint}, started with the show')


def strike(project: Project, character: Character) -> Step:
    """Return a project in which sparks fly where a hand or foot strikes."""
    best: Candidate | None = None
    for joint in _strikers(character):
        found = found_moments(project, character, "strike", joint)
        hits = [each for each in found if not (project.character and project.character.clip(each.clip).loop)] or found
        for each in hits:
            best = each if best is None or each.confidence > best.confidence + 0.1 else best
    if best is None:
        return _nothing(project, "No joint is quick enough to strike: mark the moment by hand, with E")
    name = fresh_name("strike", (effect.name for effect in project.effects))
    effect = Effect(name=name, length=0.3)
    project = with_effect(project, effect)
    for preset in ("shipped-stamp-flash", "shipped-stamp-sparks"):
        project, _ = used_layer(project, _shipped(preset), effect.id)
    spot = ClipMoment(best.clip, best.time, best.joint, lands=best.kind in FEET)
    project, _ = wired(project, effect.id, spot)
    where = f"{best.joint} on {best.clip} at {best.time:.2f} s"
    return Step(project, ("effect", effect.id), f'"{name}": a flash and sparks at {where}, with event and trigger')


FIRST_STEPS: dict[str, Callable[[Project, Character], Step]] = {
    "Aura": aura, "Dust at the feet": dust, "Trail on a hand": trail, "Strike": strike,
}  # fmt: skip
"""What a first step is called, and what makes it."""


def _shipped(preset_id: str) -> Preset:
    return next(preset for preset in shipped_presets() if preset.id == preset_id)


def _name_of(project: Project, effect_id: str) -> str:
    effect = project.effect(effect_id)
    return effect.name if effect is not None else ""


def _from_start(project: Project, effect_id: str, name: str, anchor: str | None) -> Project:
    """Return a project in which an effect starts with the show."""
    called = fresh_name(name, (trigger.name for trigger in project.triggers))
    response = (StartEffect(effect=effect_id, anchor=anchor),)
    return with_trigger(project, Trigger(name=called, when=AtStart(), response=response))


def _strikers(character: Character) -> list[str]:
    """Return the joints that may strike, the likeliest first: hands, feet, head; else the ends of the limbs."""
    rig, skeleton = rig_of_character(character), character.skeleton
    found = [
        name
        for bone in STRIKERS
        for side in ("right", "left", "")
        for name, meaning in zip(rig.names, rig.meanings, strict=True)
        if meaning == (bone, side) and name in skeleton.joint_names
    ]
    ends = [name for name in skeleton.joint_names if skeleton.index[name] not in set(skeleton.parents.tolist())]
    return list(dict.fromkeys(found)) or ends[:12]


def _striker(character: Character) -> str:
    return next(iter(_strikers(character)), "")
