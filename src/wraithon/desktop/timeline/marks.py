"""What is done to the marks of events on clips."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.project.base import new_id
from wraithon.project.character import Event, Mark
from wraithon.project.edit import find_mark, fresh_name, with_event, with_mark
from wraithon.stage.performance import WITHIN

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session
    from wraithon.project.project import Project
    from wraithon.stage.performance import Performance


APART = 0.1
"""Seconds between a mark and its copy."""


def selected_mark(session: Session) -> str | None:
    """Return the id of the selected mark, or None."""
    kind, what = session.selection
    return what if kind == "mark" else None


def chosen_event(session: Session) -> Event | None:
    """Return the event that is selected, of the selected mark, or that the selected trigger waits for."""
    kind, what = session.selection
    project = session.project
    if kind == "event":
        return project.event(what)
    if kind == "mark" and (position := find_mark(project, what)) is not None:
        return project.event(position.mark.event)
    trigger = project.trigger(what) if kind == "trigger" else None
    return project.event(trigger.when.what) if trigger and trigger.when.kind == "event" else None


def mark_at(session: Session, performance: Performance | None, time: float) -> None:
    """Mark the selected event, or a new one, on the clip that is played at a moment of the show."""
    use = session.project.character
    if performance is None or use is None or performance.segment(0).clip is None:
        session.said.emit("Play a clip first: events are marked on clips", "warning")
        return
    segment, inside = performance.clip_moment(time)
    inside = min(inside, max(0.0, segment.moving - WITHIN))
    event = chosen_event(session) or Event(name=fresh_name("event", (e.name for e in use.events)))
    mark = Mark(event=event.id, time=round(inside, 4))

    def change(project: Project) -> Project:
        known = project.event(event.id) is not None
        return with_mark(project if known else with_event(project, event), segment.use.name, mark)

    session.edit(f"Mark {event.name}", change)
    session.select("mark", mark.id)


def duplicate_mark(session: Session) -> None:
    """Put a second mark of the same event a little after the selected one."""
    position = find_mark(session.project, selected_mark(session))
    if position is not None:
        twin = position.mark.evolve(id=new_id(), time=round(position.mark.time + APART, 4))
        session.edit("Duplicate mark", lambda p: with_mark(p, position.clip, twin))
        session.select("mark", twin.id)
