"""A panel that opens over the window, and closes by Escape or a click elsewhere."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QHideEvent, QKeySequence
from PySide6.QtWidgets import QFrame, QVBoxLayout, QWidget


class Popup(QFrame):
    """A panel over the window with a `column` of widgets; once it is closed the keys are the window's again."""

    def __init__(self, over: QWidget, width: int, height: int) -> None:
        super().__init__(over, Qt.WindowType.Popup)
        self.setObjectName("panel")
        self.resize(QSize(width, height))
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(10, 10, 10, 10)
        self.column.setSpacing(6)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.parentWidget().window().activateWindow()


def keys_text(keys: Iterable[QKeySequence]) -> str:
    """Return keys as they are called on this machine."""
    return ", ".join(key.toString(QKeySequence.SequenceFormat.NativeText) for key in keys)
