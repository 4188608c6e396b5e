"""Trying a trigger: once or again and again, as strong and on the ground that is chosen here."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QHBoxLayout, QWidget

from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of
from wraithon.desktop.widgets.fields import ChoiceField, NumberField
from wraithon.desktop.widgets.offers import grounds

if TYPE_CHECKING:
    from PySide6.QtGui import QHideEvent

    from wraithon.desktop.desk import Desk


AGAIN = 1600
"""Milliseconds from one try to the next."""


class Trying(QWidget):
    """Has the selected trigger respond, whatever it waits for and asks."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, self._ground = desk, ""
        column = column_of(self)
        row = QHBoxLayout()
        row.setSpacing(4)
        self.once = Button(icon("lightning"), "Try it")
        self.once.setToolTip("Responds now, without its moment and conditions; seeking back undoes it")
        self.once.clicked.connect(self.try_it)
        self.again = Button(icon("repeat"), "Repeat")
        self.again.setCheckable(True)
        self.again.setToolTip("Repeats the response while you edit its actions")
        self.again.toggled.connect(self._repeat)
        self.strength = NumberField("%", low=0, high=100, step=5, decimals=0, name="Strength of the trial")
        self.strength.set_value(100.0)
        self.strength.edited.connect(lambda value, _final: self.strength.set_value(value))
        self.ground = ChoiceField((), "Ground of the trial")
        self._offer()
        desk.session.changed.connect(self._offer)
        self.ground.edited.connect(self._on_ground)
        for widget in (self.once, self.again, self.strength, self.ground):
            row.addWidget(widget)
        row.setStretch(3, 1)
        column.addLayout(row)
        self._timer = QTimer(self)
        self._timer.setInterval(AGAIN)
        self._timer.timeout.connect(self.try_it)
        desk.session.selected.connect(lambda *_: self.again.setChecked(False))
        desk.session.loaded.connect(lambda: self.again.setChecked(False))

    def _offer(self) -> None:
        """Offer the kinds of ground there are."""
        self.ground.set_choices([("the ground there", ""), *grounds(self._desk.session)])
        self.ground.set_value(self._ground)

    def try_it(self) -> None:
        """Fire the selected trigger now."""
        kind, what = self._desk.session.selection
        if kind == "trigger":
            self._desk.respond(what, self.strength.value / 100, self._ground)

    def _on_ground(self, ground: str, _final: bool) -> None:  # as all fields tell it
        self._ground = ground

    def _repeat(self, on: bool) -> None:  # Qt's
        if on:
            self.try_it()
            self._timer.start()
        else:
            self._timer.stop()

    def hideEvent(self, event: QHideEvent) -> None:
        self.again.setChecked(False)
        super().hideEvent(event)
