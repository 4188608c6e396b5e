"""Small fields: numbers that drag, type and step; choices; colours; labelled rows."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QWheelEvent,
)
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from wraithon.desktop.arithmetic import evaluate
from wraithon.desktop.theme import BRICK, INK, LINE, PANEL, RAISED, ROW, SOFT, TEAL, figures_font, icon

__all__ = [
    "ChoiceField",
    "NumberField",
    "Readout",
    "TextField",
    "counted",
    "grouped",
    "heading",
    "labelled",
    "line",
    "shown",
    "soft",
    "tool",
]

DRAG_START = 3
PIXELS_A_STEP = 4


class OwnKeys:
    """A widget that takes some keys before the window's shortcuts do, while it has the focus."""

    own_keys: frozenset[Qt.Key] = frozenset()

    def event(self, event: QEvent) -> bool:
        """Claim own keys; everything else goes its usual way."""
        if (
            event.type() == QEvent.Type.ShortcutOverride
            and isinstance(event, QKeyEvent)
            and event.key() in self.own_keys
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
    """A push button that Space presses."""

    own_keys = frozenset({Qt.Key.Key_Space})


class Check(OwnKeys, QCheckBox):
    """A check box that Space ticks."""

    own_keys = frozenset({Qt.Key.Key_Space})


def shown(value: float, decimals: int) -> str:
    """Return a number with at most `decimals` places and no idle zeros."""
    text = f"{value:.{decimals}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text in {"-0", ""} else text


class NumberField(OwnKeys, ShowsFocus, QWidget):
    """A number with a unit: drag sideways, type (arithmetic too), arrow keys, wheel while focused.

    Signals
    -------
    edited
        The user changed the value; the second argument is False while a drag goes on.
    """

    edited = Signal(float, bool)
    own_keys = frozenset({Qt.Key.Key_Period, Qt.Key.Key_Comma, Qt.Key.Key_Delete, Qt.Key.Key_Home})

    def __init__(
        self,
        unit: str = "",
        *,
        low: float = -1e6,
        high: float = 1e6,
        step: float = 0.1,
        decimals: int = 3,
        name: str = "",
    ) -> None:
        super().__init__()
        self._value, self._low, self._high = 0.0, low, high
        self._unit, self._step, self._decimals = unit, step, decimals
        self._pressed: QPointF | None = None
        self._from, self._dragging = 0.0, False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setFixedHeight(24)
        self.setMinimumWidth(52)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        if name:
            self.setAccessibleName(name)
            self.setToolTip(f"{name}: drag sideways, or click and type; arithmetic works. Shift is finer")
        self._editor = QLineEdit(self)
        self._editor.setFont(figures_font())
        self._editor.hide()
        self._editor.editingFinished.connect(self._typed)

    @property
    def value(self) -> float:
        """The number shown."""
        return self._value

    def set_value(self, value: float) -> None:
        """Show a number; nothing is signalled."""
        if value != self._value:
            self._value = value
            self.update()

    def _offer(self, value: float, final: bool) -> None:
        value = min(max(round(value, 6), self._low), self._high)
        if value != self._value or final:
            self._value = value
            self.update()
            self.edited.emit(value, final)

    # ---- typing ---------------------------------------------------------------------------------

    def begin_typing(self) -> None:
        """Open the field for typing, all of it selected."""
        self._editor.setText(shown(self._value, self._decimals + 2))
        self._editor.setGeometry(self.rect())
        self._editor.setStyleSheet("")
        self._editor.show()
        self._editor.setFocus()
        self._editor.selectAll()

    def _typed(self) -> None:
        if not self._editor.isVisible():
            return
        value = evaluate(self._editor.text())
        if value is None:
            self._editor.setStyleSheet(f"border-color: {BRICK};")
            self._editor.setToolTip("Type a number or a sum such as 0.5*3")
            if self._editor.hasFocus():
                return
            value = self._value
        self._editor.hide()
        if value != self._value:
            self._offer(value, final=True)
        if self.window().isActiveWindow() and self.focusWidget() is None:
            self.setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = Qt.Key
        step = self._step * self._scale(event.modifiers())
        if event.key() in {keys.Key_Up, keys.Key_Right}:
            self._offer(self._value + step, final=True)
        elif event.key() in {keys.Key_Down, keys.Key_Left}:
            self._offer(self._value - step, final=True)
        elif event.key() in {keys.Key_Return, keys.Key_Enter, keys.Key_F2}:
            if self._editor.isVisible():
                self._typed()
                self.setFocus()
            else:
                self.begin_typing()
        elif event.key() == keys.Key_Escape and self._editor.isVisible():
            self._editor.hide()
            self.setFocus()
        elif event.text() and event.text() in "0123456789.-+(":
            self.begin_typing()
            self._editor.setText(event.text())
        else:
            super().keyPressEvent(event)

    @staticmethod
    def _scale(modifiers: Qt.KeyboardModifier) -> float:
        if modifiers & Qt.KeyboardModifier.ShiftModifier:
            return 0.1
        return 10.0 if modifiers & Qt.KeyboardModifier.ControlModifier else 1.0

    # ---- dragging -------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._pressed, self._from, self._dragging = event.position(), self._value, False
            self.setFocus()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None:
            return
        moved = event.position().x() - self._pressed.x()
        if not self._dragging and abs(moved) < DRAG_START:
            return
        self._dragging = True
        steps = round(moved / PIXELS_A_STEP)
        self._offer(self._from + steps * self._step * self._scale(event.modifiers()), final=False)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self._pressed = None
        if self._dragging:
            self.edited.emit(self._value, True)
        else:
            self.begin_typing()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if not self.hasFocus():
            event.ignore()  # the sheet scrolls
            return
        turns = event.angleDelta().y() / 120
        self._offer(self._value + turns * self._step * self._scale(event.modifiers()), final=True)

    # ---- looks ----------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        enabled = self.isEnabled()
        painter.setPen(QPen(QColor(TEAL if self.hasFocus() else LINE), 1))
        painter.setBrush(QColor(RAISED))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)
        painter.setFont(figures_font())
        painter.setPen(QColor(INK if enabled else "#85788a"))
        body = self.rect().adjusted(7, 0, -6, 0)
        text = shown(self._value, self._decimals)
        painter.drawText(body, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, text)
        painter.setPen(QColor(SOFT))
        painter.setFont(figures_font(11))
        painter.drawText(body, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, self._unit)


class ChoiceField(OwnKeys, QComboBox):
    """A list to pick from; each entry stands for a value.

    Signals
    -------
    chosen
        The user picked another value.
    """

    chosen = Signal(object)
    own_keys = frozenset({Qt.Key.Key_Space, Qt.Key.Key_Home})

    def __init__(self, choices: Sequence[tuple[str, object]] = (), name: str = "") -> None:
        super().__init__()
        self._values: list[object] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMinimumContentsLength(4)
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        if name:
            self.setAccessibleName(name)
            self.setToolTip(name)
        self.set_choices(choices)
        self.activated.connect(self._activated)

    def set_choices(self, choices: Sequence[tuple[str, object]]) -> None:
        """Offer these (words, value) entries; what is shown is set apart with `set_value`."""
        values = [value for _, value in choices]
        words = [word for word, _ in choices]
        if values == self._values and words == [self.itemText(i) for i in range(self.count())]:
            return
        self._values = values
        self.blockSignals(True)
        self.clear()
        self.addItems(words)
        self.blockSignals(False)

    def set_value(self, value: object) -> None:
        """Show the entry of a value; one that is not offered is shown as nothing."""
        self.setCurrentIndex(self._values.index(value) if value in self._values else -1)

    def _activated(self, index: int) -> None:
        self.chosen.emit(self._values[index])

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()  # scrolling a sheet must not change what lies under the mouse


class TextField(QLineEdit):
    """A line of text that is taken when Enter is pressed or the field is left.

    Signals
    -------
    edited
        The user changed the text; never empty.
    """

    edited = Signal(str)

    def __init__(self, name: str = "") -> None:
        super().__init__()
        self._held = ""
        self.setMaxLength(120)
        if name:
            self.setAccessibleName(name)
        self.editingFinished.connect(self._finished)

    def set_value(self, text: str) -> None:
        """Show a text."""
        self._held = text
        if self.text() != text and not (self.hasFocus() and self.isModified()):
            self.setText(text)

    def _finished(self) -> None:
        text = self.text().strip()
        if not text:
            self.setText(self._held)
        elif text != self._held:
            self._held = text
            self.edited.emit(text)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.setText(self._held)
            self.clearFocus()
            return
        super().keyPressEvent(event)


class Readout(QWidget):
    """Figures that change with every frame: unlike a label's, their change lays nothing out anew."""

    def __init__(self, width: int) -> None:
        super().__init__()
        self._words = ""
        self.setFixedWidth(width)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    def text(self) -> str:
        """Return what is shown."""
        return self._words

    def set_text(self, words: str) -> None:
        """Show other figures."""
        if words != self._words:
            self._words = words
            self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(PANEL))
        painter.setPen(QColor(INK))
        painter.setFont(figures_font(12))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, self._words)


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
    """Return a row: a label in front of its fields."""
    row = QWidget()
    row.setObjectName("panel")
    layout = QHBoxLayout(row)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(6)
    label = QLabel(text)
    label.setObjectName("soft")
    label.setFixedWidth(width)
    label.setMinimumHeight(ROW)
    layout.addWidget(label)
    for widget in widgets:
        layout.addWidget(widget)
    return row


def tool(name: str, tip: str, action: Callable[[], object] | None = None, *, checkable: bool = False) -> QPushButton:
    """Return a small button with an icon and a tool tip."""
    button = Button()
    button.setObjectName("plain")
    button.setIcon(icon(name))
    button.setToolTip(tip)
    button.setAccessibleName(tip)
    button.setCheckable(checkable)
    button.setFixedSize(26, 24)
    # A click must not take the keyboard away from what is being edited.
    button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    if action is not None:
        button.clicked.connect(lambda _checked=False: action())
    return button


class Section(QWidget):
    """A titled part of a sheet that folds away.

    Its `body` is a column that editors are added to.
    """

    def __init__(self, title: str) -> None:
        super().__init__()
        self.setObjectName("panel")
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 2, 0, 4)
        outer.setSpacing(4)
        self._head = Button(title)
        self._head.setObjectName("plain")
        self._head.setCheckable(True)
        self._head.setChecked(True)
        self._head.setStyleSheet(
            "QPushButton { text-align: left; font-weight: 600; background: transparent; padding-left: 2px; }"
            f"QPushButton:focus {{ border-color: {TEAL}; }}"
        )
        self._head.toggled.connect(self._fold)
        outer.addWidget(self._head)
        self._inner = QWidget()
        self._inner.setObjectName("panel")
        self.body = QVBoxLayout(self._inner)
        self.body.setContentsMargins(4, 0, 0, 4)
        self.body.setSpacing(4)
        outer.addWidget(self._inner)
        self._fold(True)

    def _fold(self, opened: bool) -> None:
        self._inner.setVisible(opened)
        self._head.setIcon(icon("caret-down" if opened else "caret-right"))
