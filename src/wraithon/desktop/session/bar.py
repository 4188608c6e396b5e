"""The line above everything in which something is asked or offered."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from wraithon.desktop.theme.colours import LINE
from wraithon.desktop.widgets.basics import Button


class Bar(QWidget):
    """A line above everything with a question that can be answered, or left.

    Signals
    -------
    closed
        A question was answered.
    """

    closed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setStyleSheet(f"QWidget {{ background: #3d3022; }} QPushButton {{ border-color: {LINE}; }}")
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(12, 4, 8, 4)
        self._text = QLabel("")
        self._row.addWidget(self._text, 1)
        self._buttons: list[QPushButton] = []
        self.hide()

    def ask(self, text: str, *answers: tuple[str, Callable[[], object]]) -> None:
        """Show a question with buttons; any of them closes it."""
        for button in self._buttons:
            self._row.removeWidget(button)
            button.deleteLater()
        self._buttons = []
        self._text.setText(text)
        for name, action in answers:
            button = Button(name)
            button.clicked.connect(lambda _on=False, action=action: self._answer(action))
            self._row.addWidget(button)
            self._buttons.append(button)
        self.show()

    def show_message(self, text: str, name: str, action: Callable[[], object]) -> None:
        """Show words that change, with one button; only the words are changed while it is the same."""
        if self.isVisible() and [button.text() for button in self._buttons] == [name]:
            self._text.setText(text)
        else:
            self.ask(text, (name, action))

    def answer(self, number: int) -> None:
        """Press a button."""
        self._buttons[number].click()

    def _answer(self, action: Callable[[], object]) -> None:
        self.hide()
        action()
        self.closed.emit()
