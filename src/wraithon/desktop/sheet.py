"""What all sheets share: a scrolling column under a title."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from wraithon.desktop.fields import soft

__all__ = ["Index", "Sheet"]


class Sheet(QWidget):
    """A title with buttons, and a column below it that scrolls."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(0)
        head = QWidget()
        head.setObjectName("panel")
        head.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.head = QHBoxLayout(head)
        self.head.setContentsMargins(12, 8, 10, 6)
        self.title = QLabel("")
        self.title.setObjectName("title")
        self.head.addWidget(self.title, 1)
        outer.addWidget(head)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        content = QWidget()
        content.setObjectName("panel")
        self.body = QVBoxLayout(content)
        self.body.setContentsMargins(12, 0, 10, 12)
        self.body.setSpacing(4)
        self._scroll.setWidget(content)
        outer.addWidget(self._scroll, 1)
        self.hint = soft("")
        self.hint.hide()
        self.body.addWidget(self.hint)

    def scroll_to(self, widget: QWidget) -> None:
        """Bring an editor to the top of what is in sight."""
        place = widget.mapTo(self._scroll.widget(), widget.rect().topLeft())
        self._scroll.verticalScrollBar().setValue(max(0, place.y() - 34))

    def say(self, words: str) -> None:
        """Show a hint instead of editors, or none when empty."""
        self.hint.setText(words)
        self.hint.setVisible(bool(words))


class Index(QWidget):
    """A title with buttons over a list, in the narrow column left of the picture."""

    def __init__(self, title: str) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(8, 8, 6, 8)
        self.column.setSpacing(4)
        self.column.addLayout(self.bar(title))

    def bar(self, title: str, *buttons: QWidget) -> QHBoxLayout:
        """Return a line with a title and buttons at its right end."""
        row = QHBoxLayout()
        row.setSpacing(2)
        label = QLabel(title)
        label.setObjectName("title")
        row.addWidget(label, 1)
        for button in buttons:
            row.addWidget(button)
        return row
