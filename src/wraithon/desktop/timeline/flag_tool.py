"""The hand on flags: one or several of them are dragged along their clips, copied, nudged and removed."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from wraithon.desktop.timeline.marks import selected_mark
from wraithon.project.base import new_id
from wraithon.project.edit import find_mark, remove_mark, with_mark
from wraithon.stage.performance import on_a_step

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session
    from wraithon.desktop.timeline.lanes import FlagPlace
    from wraithon.project.project import Project


class FlagTool:
    """Holds flags: a click takes one, Ctrl + click one more; a drag moves all of them, Ctrl + drag copies one."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self.dragged: FlagPlace | None = None
        self._also: frozenset[str] = frozenset()
        self._copies, self._moved = False, False
        self._times: dict[str, float] = {}
        """Marks that are dragged, and where they were."""

    @property
    def chosen(self) -> frozenset[str]:
        """The marks that are taken: the selected one, and those beside it."""
        selected = selected_mark(self._session)
        if selected is None:
            return frozenset()
        there = {key for key in self._also if find_mark(self._session.project, key) is not None}
        return frozenset({selected, *there}) if selected in self._also else frozenset({selected})

    def press(self, flag: FlagPlace, *, control: bool) -> None:
        """Take a flag."""
        self.dragged, self._copies, self._moved = flag, control, False
        if not control:
            if flag.mark.id not in self.chosen:
                self._also = frozenset()
            elif len(self.chosen) > 1:
                self._also = self.chosen
            self._session.select("mark", flag.mark.id)

    def drag(self, time: float) -> None:
        """Move what is taken, so that the flag that is held stands at a moment of the show."""
        flag, session = self.dragged, self._session
        if flag is None:
            return
        if not self._moved:
            if self._copies:
                flag = self._copy(flag)
            self._moved = True
            positions = (find_mark(session.project, key) for key in self.chosen)
            self._times = {position.mark.id: position.mark.time for position in positions if position is not None}
        inside = on_a_step(time - flag.base, flag.moving, session.project.step_rate)
        self._shift(inside - self._times.get(flag.mark.id, flag.mark.time))

    def _copy(self, flag: FlagPlace) -> FlagPlace:
        twin = flag.mark.evolve(id=new_id())
        self._session.edit("Duplicate mark", lambda p: with_mark(p, flag.clip, twin))
        self.dragged = replace(flag, mark=twin)
        self._also = frozenset()
        self._session.select("mark", twin.id)
        return self.dragged

    def _shift(self, by: float) -> None:
        """Put all that is dragged so many seconds from where it was; moves in a row are one step of undo."""

        def change(project: Project) -> Project:
            for key, time in self._times.items():
                position = find_mark(project, key)
                if position is not None:
                    moved = position.mark.evolve(time=round(max(0.0, time + by), 4))
                    project = with_mark(project, position.clip, moved)
            return project

        text = "Move mark" if len(self._times) == 1 else f"Move {len(self._times)} marks"
        self._session.edit(text, change, merge=f"move {sorted(self._times)}")

    def release(self) -> None:
        """Let go; Ctrl + click has taken one more flag, or let go of one that was taken."""
        flag = self.dragged
        if flag is None:
            return
        if not self._moved and not self._copies:
            self._also = frozenset()  # a click takes it alone; only a drag takes the others along
            self._session.selected.emit(*self._session.selection)
        if self._copies and not self._moved:
            chosen = self.chosen ^ {flag.mark.id}
            self._also = chosen
            if selected_mark(self._session) not in chosen and chosen:
                self._session.select("mark", min(chosen) if flag.mark.id not in chosen else flag.mark.id)
            self._session.selected.emit(*self._session.selection)
        self._session.history.seal()
        self.dragged = None

    def cancel(self) -> None:
        """Restore what is dragged."""
        if self._moved:
            self._shift(0.0)
        self._session.history.seal()
        self.dragged = None

    def nudge(self, seconds: float) -> None:
        """Move all that is taken."""
        positions = (find_mark(self._session.project, key) for key in self.chosen)
        self._times = {position.mark.id: position.mark.time for position in positions if position is not None}
        if self._times:
            self._shift(seconds)

    def remove(self) -> None:
        """Delete all that is taken; their events stay."""
        chosen = self.chosen
        if not chosen:
            return

        def change(project: Project) -> Project:
            for key in chosen:
                project = remove_mark(project, key)
            return project

        self._session.edit("Delete mark" if len(chosen) == 1 else f"Delete {len(chosen)} marks", change)
        self._session.select("", "")
