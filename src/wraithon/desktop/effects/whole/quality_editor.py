"""Levels of quality of an effect: a share of births, and looks left out; and which is seen now."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of, labelled, soft
from wraithon.desktop.widgets.fields import ChoiceField
from wraithon.desktop.widgets.form import Names, Number, Row, Text
from wraithon.desktop.widgets.list_form import ListForm, Tupled
from wraithon.project.edit import fresh_name
from wraithon.project.effect import Quality
from wraithon.studio.beginning import KINDS

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session
    from wraithon.project.effect import Effect


LOOKS = tuple((text, kind) for kind, text in KINDS.items())
ROWS = (
    Row("level", Text("name", "Name of the level, the same in all effects"), width=60, undo="Rename level"),
    Row(
        "births",
        Number("amount"),
        width=60,
        undo="Births at this level",
    ),
    Row("without", Names("without", "Looks that are not drawn", choices=LOOKS), width=60, undo="Looks left out"),
)
LEVELS = Tupled("qualities", lambda _level: ROWS, lambda _level: "level")
FULL = ("as it is", "")


class QualityEditor(QWidget):
    """Edits an effect's levels, and wishes for one to be seen."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._effect: Effect | None = None
        column = column_of(self)
        self._hint = soft("Levels let weaker machines show less: fewer births, and not all looks.")
        self.seen = ChoiceField((FULL,), "Level shown now, in all effects that have it; no edit")
        self.seen.edited.connect(self._see)
        self._seen_row = labelled("seen now", self.seen, width=60)
        self.levels = ListForm(session, "effect", LEVELS.entries, LEVELS.without, 8)
        self.add = Button(icon("plus"), "Add a level")
        self.add.clicked.connect(self.add_level)
        for widget in (self._hint, self._seen_row, self.levels):
            column.addWidget(widget)
        column.addWidget(self.add, 0, Qt.AlignmentFlag.AlignLeft)

    def show_effect(self, effect: Effect) -> None:
        """Show an effect's levels."""
        self._effect = effect
        self._hint.setVisible(not effect.qualities)
        self.levels.show_model(effect, effect.id)
        names = dict.fromkeys(level.name for each in self._session.project.effects for level in each.qualities)
        self.seen.set_choices([FULL, *((name, name) for name in names)])
        self.seen.set_value(self._session.overrides.quality if self._session.overrides.quality in names else "")
        self._seen_row.setVisible(bool(names))

    def add_level(self) -> None:
        """Add a level to the effect."""
        effect = self._effect
        if effect is not None:
            level = Quality(name=fresh_name("low", (each.name for each in effect.qualities)))
            self._session.set_value("effect", effect.id, *LEVELS.with_another(effect, level))

    def _see(self, name: str, _final: bool) -> None:
        self._session.wish(replace(self._session.overrides, quality=name))
