"""Small parts of every panel: buttons, labels, headings, rows, sections."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QColor, QFocusEvent, QImage, QKeyEvent, QKeySequence, QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from wraithon.desktop.remembered import store_value, stored_value
from wraithon.desktop.theme.colours import INK, PANEL, ROW, TEAL
from wraithon.desktop.theme.theme import figures_font, icon

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray


class OwnKeys:
    """A widget that takes some keys before the window's shortcuts do, while it has the focus."""

    own_keys: frozenset[Qt.Key] = frozenset()
    own_shortcuts: tuple[QKeySequence.StandardKey, ...] = ()

    def event(self, event: QEvent) -> bool:
        """Claim own keys; everything else goes its usual way."""
        if (
            event.type() == QEvent.Type.ShortcutOverride
            and isinstance(event, QKeyEvent)
            and (event.key() in self.own_keys or any(map(event.matches, self.own_shortcuts)))
        ):
            event.accept()
            return True
        return bool(super().event(event))


class ShowsFocus:
    """A widget that paints its own focus, and so must be painted anew when that comes or goes."""

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()  # type: ignore[attr-defined]

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()  # type: ignore[attr-defined]


class Button(OwnKeys, QPushButton):
    """A push button that Space presses once Tab has led to it; a click leaves the keyboard where it is."""

    own_keys = frozenset({Qt.Key.Key_Space})

    def __init__(self, *what: Any) -> None:
        super().__init__(*what)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)


def shown(value: float, decimals: int) -> str:
    """Return a number with at most `decimals` places and no idle zeros."""
    text = f"{value:.{decimals}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text in {"-0", ""} else text


class Readout(QWidget):
    """Figures that change with every frame: unlike a label's, their change lays nothing out anew."""

    def __init__(self, width: int) -> None:
        super().__init__()
        self._text = ""
        self.setFixedWidth(width)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    def text(self) -> str:
        """Return what is shown."""
        return self._text

    def set_text(self, text: str) -> None:
        """Show other figures."""
        if text != self._text:
            self._text = text
            self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), QColor(PANEL))
            painter.setPen(QColor(INK))
            painter.setFont(figures_font(12))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, self._text)


def grouped(number: int) -> str:
    """Return a number with its thousands set apart, as in "13 556"."""
    return f"{number:,}".replace(",", " ")


def counted(number: int, thing: str) -> str:
    """Return a number and what is counted, as in "13 556 triangles" and "1 part"."""
    return f"{grouped(number)} {thing}{'' if number == 1 else 's'}"


def heading(text: str) -> QLabel:
    """Return a section's heading."""
    label = QLabel(text)
    label.setObjectName("heading")
    return label


def soft(text: str) -> QLabel:
    """Return a quiet line of words that wraps."""
    label = QLabel(text)
    label.setObjectName("soft")
    label.setWordWrap(True)
    return label


def line() -> QFrame:
    """Return a thin separator."""
    frame = QFrame()
    frame.setObjectName("line")
    return frame


def labelled(text: str, *widgets: QWidget, width: int = 92) -> QWidget:
    """Return a row: a label in front of its fields, `width` wide unless its words need more."""
    row = QWidget()
    row.setObjectName("panel")
    layout = QHBoxLayout(row)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(6)
    label = QLabel(text)
    label.setObjectName("soft")
    label.ensurePolished()
    label.setFixedWidth(max(width, label.sizeHint().width()))
    label.setMinimumHeight(ROW)
    layout.addWidget(label)
    for widget in widgets:
        layout.addWidget(widget)
    return row


def column_of(parent: QWidget, spacing: int = 4) -> QVBoxLayout:
    """Give a widget a panel's ground and a column without margins; return the column."""
    parent.setObjectName("panel")
    column = QVBoxLayout(parent)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(spacing)
    return column


def tool(name: str, tip: str, action: Callable[[], object] | None = None) -> QPushButton:
    """Return a small button with an icon and a tool tip."""
    button = Button()
    button.setObjectName("plain")
    button.setIcon(icon(name))
    button.setToolTip(tip)
    button.setAccessibleName(tip)
    button.setFixedSize(26, 24)
    if action is not None:
        button.clicked.connect(lambda _checked=False: action())
    return button


class Section(QWidget):
    """A titled part of a sheet that folds away.

    Its `body` is a column that editors are added to.
    """

    def __init__(self, title: str) -> None:
        super().__init__()
        self.title = title
        self.setObjectName("panel")
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 2, 0, 4)
        outer.setSpacing(4)
        self._head = Button(title)
        self._head.setObjectName("plain")
        self._head.setCheckable(True)
        self._head.setChecked(not stored_value(f"section {title}", 0))
        self._head.setStyleSheet(
            "QPushButton { text-align: left; font-weight: 600; background: transparent; padding-left: 2px; }"
            f"QPushButton:focus {{ border-color: {TEAL}; }}"
        )
        self._head.toggled.connect(self._fold)
        self._head.clicked.connect(lambda opened: store_value(f"section {title}", int(not opened)))
        outer.addWidget(self._head)
        self._inner = QWidget()
        self._inner.setObjectName("panel")
        self.body = QVBoxLayout(self._inner)
        self.body.setContentsMargins(4, 0, 0, 4)
        self.body.setSpacing(4)
        outer.addWidget(self._inner)
        self._fold(self._head.isChecked())

    @property
    def folded(self) -> bool:
        """Whether only its title is shown."""
        return not self._head.isChecked()

    def unfold(self) -> None:
        """Show all of it."""
        self._head.setChecked(True)

    def _fold(self, opened: bool) -> None:
        self._inner.setVisible(opened)
        self._head.setIcon(icon("caret-down" if opened else "caret-right"))


def image_of(pixels: NDArray[np.uint8]) -> QImage:
    """Return a picture (H, W, 4) with straight alpha as an image of its own."""
    height, width = pixels.shape[:2]
    return QImage(pixels.tobytes(), width, height, width * 4, QImage.Format.Format_RGBA8888).copy()


def set_idle(widget: QWidget, reason: str) -> None:
    """Strike out what a widget shows, where it does nothing, and say why; an empty reason shows it as usual."""
    own = getattr(widget, "set_idle", None)
    font = widget.font()
    if own is not None:
        own(reason)
    elif font.strikeOut() != bool(reason):
        font.setStrikeOut(bool(reason))
        widget.setFont(font)
        widget.setToolTip(f"Does nothing: {reason}" if reason else widget.accessibleName())
