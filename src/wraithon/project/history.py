"""Undo: the list of earlier projects."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from wraithon.project.project import Project


@dataclass(frozen=True)
class _Entry:
    project: Project
    label: str
    merge: str
    note: object = None
    """What whoever recorded it wants to know when it is undone."""


class History:
    """The projects before and after the current one, each with the name of the edit that led to it.

    Edits that follow one another with the same non-empty `merge` key (a drag) become one step.
    """

    limit = 500
    """Edits that are remembered, of all histories."""

    def __init__(self, project: Project) -> None:
        self._entries = [_Entry(project, "", "")]
        self._at = 0
        self._saved: Project | None = project

    @property
    def project(self) -> Project:
        """The current project."""
        return self._entries[self._at].project

    @property
    def undo_label(self) -> str | None:
        """The edit that undo takes back, or None."""
        return self._entries[self._at].label if self._at else None

    @property
    def redo_label(self) -> str | None:
        """The edit that redo brings back, or None."""
        return self._entries[self._at + 1].label if self._at + 1 < len(self._entries) else None

    @property
    def labels(self) -> list[str]:
        """All edits there are, in their order, those that were undone last."""
        return [entry.label for entry in self._entries[1:]]

    @property
    def position(self) -> int:
        """How many of the edits are done."""
        return self._at

    @property
    def unsaved(self) -> bool:
        """Whether the current project differs from what was last saved."""
        return self.project is not self._saved and self.project != self._saved

    @property
    def redo_note(self) -> object:
        """What was noted with the edit that redo brings back, or None."""
        return self._entries[self._at + 1].note if self._at + 1 < len(self._entries) else None

    def record(self, project: Project, label: str, merge: str = "", note: object = None) -> bool:
        """Make `project` the current one; return False when it equals the one before.

        A run of edits that leads back to where it began is no step at all.
        """
        if project == self.project:
            return False
        del self._entries[self._at + 1 :]
        last = self._entries[self._at]
        if not (merge and merge == last.merge and self._at):
            self._entries.append(_Entry(project, label, merge, note))
            del self._entries[: max(0, len(self._entries) - self.limit)]
        elif project == self._entries[self._at - 1].project:
            self._entries.pop()
        else:
            self._entries[self._at] = _Entry(project, label, merge, last.note)
        self._at = len(self._entries) - 1
        return True

    def amend(self, project: Project) -> None:
        """Make `project` the current one without a step of undo: what changed is not the artist's doing."""
        last = self._entries[self._at]
        self._entries[self._at] = _Entry(project, last.label, "", last.note)

    def seal(self) -> None:
        """End a run of merging edits: the next one is a step of its own."""
        last = self._entries[self._at]
        self._entries[self._at] = _Entry(last.project, last.label, "", last.note)

    def undo(self) -> Project:
        """Undo one step, if there is one, and return the project there."""
        self.seal()
        self._at = max(0, self._at - 1)
        return self.project

    def redo(self) -> Project:
        """Redo one step, if there is one, and return the project there."""
        self._at = min(len(self._entries) - 1, self._at + 1)
        self.seal()
        return self.project

    def go_to(self, position: int) -> Project:
        """Undo or redo until so many edits are done, as far as there are, and return the project there."""
        self.seal()
        self._at = min(max(position, 0), len(self._entries) - 1)
        self.seal()
        return self.project

    def mark_saved(self) -> None:
        """Remember the current project as the one on disk."""
        self.seal()
        self._saved = self.project

    def mark_unsaved(self) -> None:
        """Forget what is on disk: the current project came from a journal, say."""
        self._saved = None
