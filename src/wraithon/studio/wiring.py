"""From an effect and a moment on a clip to all that fires it there: event, mark, anchor and trigger at one stroke."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.anchoring import mirrored_anchor, other_side
from wraithon.character.checkup import height_of
from wraithon.character.moments.contacts import find_contacts
from wraithon.character.pose import clip_poses
from wraithon.project.base import new_id
from wraithon.project.character import Anchor, Event, Mark
from wraithon.project.edit import ensure_anchor, fresh_name, with_event, with_mark, with_trigger
from wraithon.project.staging.actions import EffectAction, StartEffect
from wraithon.project.staging.trigger_kinds import OnEvent
from wraithon.project.trigger import Trigger
from wraithon.stage.performance import on_a_step

if TYPE_CHECKING:
    from wraithon.character.model import Character, Clip
    from wraithon.project.character import ClipUse
    from wraithon.project.project import Project
    from wraithon.stage.performance import Performance


NEAR = 0.12
"""Seconds from a moment within which a foot comes down, or a joint is quickest, that the moment is about."""
STRIKES = 6.0
"""Heights a second from which on a joint is what a moment is about, even where a foot comes down."""
BESIDE = 1 / 60
"""Seconds that a joint's speed is taken over."""


@dataclass(frozen=True)
class ClipMoment:
    """A moment on a clip, and the joint it is about."""

    clip: str
    time: float
    """Seconds of the clip, on a whole step."""
    joint: str
    lands: bool
    """Whether the joint is a foot that comes down."""


def spot_at(performance: Performance, time: float, rate: int, joint: str = "") -> ClipMoment | None:
    """Return what a moment of the show is about; None where no clip plays.

    Parameters
    ----------
    performance
        What the character plays.
    time
        Seconds of the show.
    rate
        Steps a second.
    joint
        The joint that is chosen; without one it is a foot that comes down then, or else the joint that is quickest,
        as it is where something strikes.
    """
    segment, inside = performance.clip_moment(time)
    clip, character = segment.clip, performance.character
    if clip is None or not character.skeleton.joint_names:
        return None
    inside = on_a_step(inside, segment.moving, rate)
    foot = _landing(character, clip, segment.use, inside)
    if joint in character.skeleton.index:
        return ClipMoment(clip.name, inside, joint, joint == foot)
    quick, speed = _quickest(character, clip, inside)
    lands = bool(foot) and speed < STRIKES * height_of(character)
    return ClipMoment(clip.name, inside, foot if lands else quick, lands)


def _landing(character: Character, clip: Clip, use: ClipUse, inside: float) -> str:
    """Return the foot that comes down next to a moment of a clip; empty where none does."""
    contacts = find_contacts(character, clip, loops=use.loop).contacts
    near = [(abs(contact.start - inside), contact.joint) for contact in contacts if contact.start > 0 or use.loop]
    if use.loop:
        near = [(min(away, clip.seconds - away), joint) for away, joint in near]
    away, joint = min(near, default=(NEAR, ""))
    return joint if away < NEAR else ""


def _quickest(character: Character, clip: Clip, inside: float) -> tuple[str, float]:
    """Return the joint that moves fastest around a moment of a clip, against the root, and its metres a second."""
    names = character.skeleton.joint_names
    nodes = [character.skeleton.index[name] for name in names]
    times = np.arange(max(0.0, inside - NEAR), min(clip.seconds, inside + NEAR), BESIDE)
    positions = np.array([pose[:, :3, 3] for pose in clip_poses(character, clip, times.tolist())])
    ways = np.diff(positions[:, nodes] - positions[:, [character.root_node]], axis=0)
    speeds = np.linalg.norm(ways, axis=2).max(axis=0, initial=0.0) / BESIDE
    maximum = int(speeds.argmax())
    return names[maximum], float(speeds[maximum])


def wired(project: Project, effect_id: str, spot: ClipMoment) -> tuple[Project, str]:
    """Return a project in which an effect is fired at a spot, and the id of the trigger that does it.

    An anchor that is on the joint already is taken, and so is an event that is marked there and belongs to it.
    """
    use, effect = project.character, project.effect(effect_id)
    if use is None or effect is None:
        return project, ""
    project, anchor = ensure_anchor(project, Anchor(name=spot.joint, joint=spot.joint, on_ground=spot.lands))
    event, project = _event(project, spot, anchor, effect.name)
    action = StartEffect(effect=effect.id)
    waiting = (t for t in project.triggers if isinstance(t.when, OnEvent) and t.when.event == event.id)
    idle = next(
        (t for t in waiting if all(isinstance(s, EffectAction) and s.effect is None for s in t.response)), None
    )
    if idle is not None:
        trigger = idle.evolve(response=(action,))
    else:
        name = fresh_name(effect.name, (each.name for each in project.triggers))
        trigger = Trigger(name=name, when=OnEvent(event=event.id), response=(action,))
    return with_trigger(project, trigger), trigger.id


def _event(project: Project, spot: ClipMoment, anchor: Anchor, name: str) -> tuple[Event, Project]:
    """Return the event that is marked at a spot and belongs to an anchor, and a project that has it."""
    use = project.character
    assert use is not None  # the caller has looked
    there = {mark.event for mark in use.clip(spot.clip).marks if abs(mark.time - spot.time) < BESIDE}
    known = next((event for event in use.events if event.id in there and event.anchor == anchor.id), None)
    if known is not None:
        return known, project
    event = Event(name=fresh_name(f"{name} on {spot.clip}", (each.name for each in use.events)), anchor=anchor.id)
    mark = Mark(event=event.id, time=round(spot.time, 4))
    return event, with_mark(with_event(project, event), spot.clip, mark)


def mirrored_event(project: Project, character: Character, event_id: str) -> tuple[Project, str]:
    """Return a project with an event's mirror image on the other side, and its id; empty where it has no other side.

    With it go its anchor, its marks (in loops half a round later: that is when the other side's turn is), and the
    triggers that wait for it. What has the name already is brought up to date.
    """
    event, use = project.event(event_id), project.character
    anchor = project.anchor(event.anchor) if event is not None else None
    if event is None or use is None or anchor is None:
        return project, ""
    image = mirrored_anchor(character, anchor)
    if image.joint == anchor.joint:
        return project, ""
    project, mirrored = ensure_anchor(project, image)
    position = mirrored.id
    name = other_side(event.name)
    there = next((each for each in use.events if each.name == name), None)
    twin = Event(name=name, anchor=position) if there is None else there.evolve(anchor=position)
    project = with_event(project, twin)
    for clip in use.clips:
        length = next((each.seconds for each in character.clips if each.name == clip.name), 0.0)
        marked = [mark.time for mark in clip.marks if mark.event == twin.id]
        for mark in clip.marks:
            time = (mark.time + length / 2) % length if clip.loop and length else mark.time
            if mark.event == event.id and all(abs(time - each) > BESIDE for each in marked):
                project = with_mark(project, clip.name, Mark(event=twin.id, time=round(time, 4)))
    waits = {t.name for t in project.triggers if isinstance(t.when, OnEvent) and t.when.event == twin.id}
    for trigger in project.triggers:
        called = other_side(trigger.name)
        if isinstance(trigger.when, OnEvent) and trigger.when.event == event.id and called not in waits:
            actions = tuple(
                action.evolve(anchor=position)
                if isinstance(action, EffectAction) and action.anchor == anchor.id
                else action
                for action in trigger.response
            )
            name = fresh_name(called, (each.name for each in project.triggers))
            project = with_trigger(
                project, trigger.evolve(id=new_id(), name=name, when=OnEvent(event=twin.id), response=actions)
            )
    return project, twin.id
