"""Moments that are found on a character's clips, and what is made of those that are taken."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.character.moments.peaks import Candidate, candidates
from wraithon.project.character import Anchor, Event, Mark
from wraithon.project.edit import ensure_anchor, fresh_name, with_event, with_mark, with_trigger
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import OnEvent
from wraithon.project.trigger import Trigger

if TYPE_CHECKING:
    from collections.abc import Iterable

    from wraithon.character.model import Character
    from wraithon.project.project import Project


FEET = frozenset({"down", "up"})
"""Kinds of moments that are about feet: their anchors are on the ground."""
NAMES = {"down": "{} down", "up": "{} up"}
SAME = 0.05
"""Seconds from a mark of the same event within which a moment is there already."""
MINIMUM = 0.25
"""Confidence below which a moment is not offered."""


def found_moments(project: Project, character: Character, kind: str, joint: str = "") -> list[Candidate]:
    """Return the moments of a kind on all clips that are not hidden, without those that are marked already."""
    use, found = project.character, []
    if use is None:
        return []
    for clip in character.clips:
        how = use.clip(clip.name)
        if how.hidden:
            continue
        seen = {"scale": use.scale, "raised": use.height + how.height}
        for candidate in candidates(character, clip, kind, joint, loops=how.loop, **seen):
            event = _event_of(project, candidate)
            marked = [m.time for m in how.marks if event is not None and m.event == event.id]
            if candidate.confidence >= MINIMUM and all(abs(time - candidate.time) > SAME for time in marked):
                found.append(candidate)
    return found


def _name_of(candidate: Candidate) -> str:
    return NAMES.get(candidate.kind, f"{{}} {candidate.kind}").format(candidate.joint)


def _event_of(project: Project, candidate: Candidate) -> Event | None:
    """Return the event that moments like one are marked with, if there is one."""
    use, name = project.character, _name_of(candidate)
    return next((event for event in use.events if event.name == name), None) if use else None


def taken(project: Project, chosen: Iterable[Candidate]) -> Project:
    """Return a project with moments marked: each with event, anchor, and a trigger that waits for an effect."""
    for candidate in chosen:
        use = project.character
        if use is None:
            return project
        event = _event_of(project, candidate)
        if event is None:
            joint = candidate.joint
            project, anchor = ensure_anchor(
                project, Anchor(name=joint, joint=joint, on_ground=candidate.kind in FEET)
            )
            event = Event(name=_name_of(candidate), anchor=anchor.id)
            name = fresh_name(event.name, (trigger.name for trigger in project.triggers))
            trigger = Trigger(name=name, when=OnEvent(event=event.id), response=(StartEffect(),))
            project = with_trigger(with_event(project, event), trigger)
        project = with_mark(project, candidate.clip, Mark(event=event.id, time=candidate.time))
    return project
