"""Names that the character's file no longer has, each with the nearest ones to pick from."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QVBoxLayout, QWidget

from wraithon.desktop.session.session import Session
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, heading, labelled, soft
from wraithon.desktop.widgets.fields import ChoiceField
from wraithon.project.matching import Missing, missing_names, rename

MAXIMUM = 40
"""Rows that are listed; the rest come up as these are settled."""


class MatchingList(QWidget):
    """A row for each missing name; nothing while all names match."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._session = session
        self._shown: list[Missing] = []
        self.fields: list[ChoiceField] = []
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 6, 0, 0)
        self._column.setSpacing(4)
        self._column.addWidget(heading("Names that no longer match"))
        self._column.addWidget(
            soft("The file lacks these names. Pick the new name of each; all that uses it follows.")
        )
        self._rows = QVBoxLayout()
        self._rows.setSpacing(4)
        self._column.addLayout(self._rows)
        self._all = Button(icon("magic-wand"), "Use the nearest for all")
        self._all.clicked.connect(self.take_nearest)
        self._column.addWidget(self._all)
        self.hide()

    def refresh(self) -> None:
        """Look for missing names anew."""
        use, character = self._session.project.character, self._session.character
        missing = missing_names(self._session.project, use, character.facts) if use and character else []
        self.setVisible(bool(missing))
        self._all.setEnabled(any(entry.nearest for entry in missing))
        if missing == self._shown or character is None:
            return
        self._shown = missing
        while (item := self._rows.takeAt(0)) is not None:
            item.widget().hide()
            item.widget().deleteLater()
        self.fields = []
        kinds = {
            "joint": character.skeleton.joint_names,
            "part": tuple(part.name for part in character.parts),
            "clip": tuple(clip.name for clip in character.clips),
        }
        for entry in missing[:MAXIMUM]:
            others = [name for name in kinds[entry.kind] if name not in entry.nearest]
            field = ChoiceField(name=f"What {entry.kind} {entry.name} is called now")
            field.set_choices([("pick one", None), *((name, name) for name in (*entry.nearest, *others))])
            field.set_value(None)
            field.edited.connect(partial(self.take, entry))
            row = labelled(f"{entry.name}", field, width=140)
            row.setToolTip(f"{entry.kind} {entry.name}, used by {', '.join(entry.users)}")
            self._rows.addWidget(row)
            self.fields.append(field)

    def take(self, entry: Missing, new: object, _final: bool = True) -> None:
        """Call a missing name something that is there."""
        use = self._session.project.character
        if isinstance(new, str) and use is not None:
            text = f"{entry.name} is {new}"
            self._session.edit(text, lambda p: rename(p, use.id, entry.kind, entry.name, new))

    def take_nearest(self) -> None:
        """Give every missing name the one most like it, as one step of undo."""
        use = self._session.project.character
        if use is None:
            return
        project = self._session.project
        for entry in self._shown:
            if entry.nearest:
                project = rename(project, use.id, entry.kind, entry.name, entry.nearest[0])
        self._session.edit("Take the nearest names", lambda _p: project)
