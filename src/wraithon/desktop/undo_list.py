"""The list of edits: every step that can be undone or redone, with its words; a click goes there."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QWidget

from wraithon.desktop.theme.colours import FAINT, INK
from wraithon.desktop.widgets.basics import soft
from wraithon.desktop.widgets.popup import Popup

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session


WIDTH, HEIGHT = 320, 360


class UndoList(Popup):
    """Opens over the window; Enter or a click goes to a step, Escape or a click elsewhere closes it."""

    def __init__(self, window: QWidget, session: Session) -> None:
        super().__init__(window, WIDTH, HEIGHT)
        self._window, self._session = window, session
        self.column.addWidget(soft("Edits, the latest last. Enter or a click goes there."))
        self.listed = QListWidget()
        self.listed.setAccessibleName("Edits")
        self.listed.itemActivated.connect(lambda _item: self.choose())
        self.listed.itemClicked.connect(lambda _item: self.choose())
        self.column.addWidget(self.listed)

    def open(self) -> None:
        """Show the edits as they are now, with the current one marked."""
        history = self._session.history
        self.listed.clear()
        for number, label in enumerate(["As opened", *history.labels]):
            item = QListWidgetItem(label)
            item.setForeground(QColor(INK if number <= history.position else FAINT))
            self.listed.addItem(item)
        self.listed.setCurrentRow(history.position)
        self.move(self._window.mapToGlobal(QPoint(64, self._window.height() - HEIGHT - 60)))
        self.show()
        self.listed.setFocus()
        self.listed.scrollToItem(self.listed.currentItem(), QListWidget.ScrollHint.PositionAtCenter)

    def choose(self) -> None:
        """Go to the step that is marked in the list."""
        number = self.listed.currentRow()
        self.hide()
        self._session.go_to_step(number)
