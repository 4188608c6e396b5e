"""A line that asks for a name in place, and goes away again."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QLineEdit

from wraithon.desktop.widgets.fields import ENTER
from wraithon.project.base import LONGEST_NAME


class NameLine(QLineEdit):
    """Hidden until something is to be named; Enter takes the name, Escape or going elsewhere gives it up."""

    def __init__(self, what: str) -> None:
        super().__init__()
        self._then: Callable[[str], object] | None = None
        self.setMaxLength(LONGEST_NAME)
        self.setAccessibleName(what)
        self.setPlaceholderText(f"{what}: Enter accepts, Escape cancels")
        self.hide()

    def ask(self, name: str, then: Callable[[str], object]) -> None:
        """Show a first name, all of it selected; what is typed instead goes to `then`."""
        self._then = then
        self.setText(name)
        self.show()
        self.selectAll()
        self.setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self._done()
        elif event.key() in ENTER:
            then, name = self._then, self.text().strip()
            self._done()
            if then is not None and name:
                then(name)
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        if event.reason() is not Qt.FocusReason.PopupFocusReason:
            self._done()

    def _done(self) -> None:
        self._then = None
        self.hide()
