"""Fields: a number that drags, types and steps; a choice; a line of text; a tick, and ticks for a set of names."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QObject, QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QLineEdit, QSizePolicy, QToolTip, QWidget

from wraithon.desktop.theme.colours import BRICK, EDGE, FAINT, INK, RAISED, SOFT, TEAL
from wraithon.desktop.theme.theme import figures_font
from wraithon.desktop.widgets.basics import OwnKeys, ShowsFocus, shown, soft
from wraithon.numeric.arithmetic import RelativeChange, measured, relative, why_not
from wraithon.project.base import LONGEST_NAME

DRAG_START = 3
PIXELS_A_STEP = 4
RUN = 700
"""Milliseconds after which arrow keys and wheel notches are a gesture of their own."""
ENTER = frozenset({Qt.Key.Key_Return, Qt.Key.Key_Enter})


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
        self._unit, self._size, self._decimals = unit, step, decimals
        self.changed_by: RelativeChange | None = None
        """While `edited` is emitted: what was typed to change the number by, or none."""
        self._idle = self._tip = ""
        self._pressed: QPointF | None = None
        self._from, self._dragging = 0.0, False
        self._run = QTimer(self)
        self._run.setSingleShot(True)
        self._run.setInterval(RUN)
        self._run.timeout.connect(self._run_over)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setFixedHeight(24)
        self.setMinimumWidth(52)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        if name:
            self.setAccessibleName(name)
            self._tip = f"{name}: drag sideways, or click and type; arithmetic and *2, +1 work. Shift is finer"
            self.setToolTip(self._tip)
        self._editor = QLineEdit(self)
        self._editor.setFont(figures_font())
        self._editor.hide()
        self._editor.editingFinished.connect(self._typed)
        self._editor.installEventFilter(self)

    @property
    def value(self) -> float:
        """The number shown."""
        return self._value

    def set_value(self, value: float) -> None:
        """Show a number; nothing is signalled."""
        if value != self._value:
            self._value = value
            if self.refused:
                self._editor.hide()  # it was about another number
            self.update()

    def within(self, value: float) -> float:
        """Return the nearest number that the field takes."""
        return min(max(round(value, 6), self._low), self._high)

    def set_measure(self, unit: str, step: float, decimals: int, low: float, high: float) -> None:
        """Take another unit, step and bounds: one field may serve several values in turn."""
        self._unit, self._size, self._decimals, self._low, self._high = unit, step, decimals, low, high
        self.update()

    def set_idle(self, reason: str) -> None:
        """Show that the number does nothing, and why; an empty reason shows it as usual."""
        if reason != self._idle:
            self._idle = reason
            self.setToolTip(f"Does nothing: {reason}" if reason else self._tip)
            self.update()

    def _offer(self, value: float, final: bool) -> None:
        value = self.within(value)
        if value != self._value or final:
            self._value = value
            self.update()
            self.edited.emit(value, final)

    def _step(self, by: float) -> None:
        """Go by a step; those that follow one another soon are one gesture."""
        before = self._value
        self._offer(self._value + by, final=False)
        if self._value != before:
            self._run.start()

    def _run_over(self) -> None:
        if self._run.isActive() or self.sender() is self._run:
            self._run.stop()
            self.edited.emit(self._value, True)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self._run_over()
        super().focusOutEvent(event)

    def _cancel(self) -> None:
        """Cancel a drag: the number is what it was."""
        self._pressed, self._dragging = None, False
        self._offer(self._from, final=True)

    # ---- typing ---------------------------------------------------------------------------------

    def begin_typing(self) -> None:
        """Open the field for typing, all of it selected."""
        self._editor.setText(shown(self._value, self._decimals + 2))
        self._editor.setGeometry(self.rect())
        self._editor.setStyleSheet("")
        self._editor.setToolTip("")
        self._editor.setAccessibleDescription("")
        self._editor.show()
        self._editor.setFocus()
        self._editor.selectAll()

    def _refuse(self, wrong: str) -> None:
        """Keep what was typed, and say what is wrong with it; Escape takes it back."""
        self._editor.setStyleSheet(f"QLineEdit {{ border: 1px solid {BRICK}; }}")
        self._editor.setToolTip(f"{wrong}. Escape takes it back")
        self._editor.setAccessibleDescription(wrong)
        below = self.mapToGlobal(self.rect().bottomLeft())
        QToolTip.showText(below, self._editor.toolTip(), self._editor)

    @property
    def refused(self) -> str:
        """Why what stands in the field is not taken; empty where nothing is wrong."""
        return self._editor.accessibleDescription() if self._editor.isVisible() else ""

    def _typed(self) -> None:
        if not self._editor.isVisible():
            return
        by, wrong = relative(self._editor.text(), self._unit), ""
        value = measured(self._editor.text(), self._unit) if by is None else by.of(self._value)
        if value is None:
            wrong = why_not(self._editor.text(), self._unit)
        elif not self._low <= value <= self._high:
            bound, minimum = (self._low, "least") if value < self._low else (self._high, "most")
            wrong = f"at {minimum} {bound:,.6g} {self._unit}".rstrip()
        if value is None or wrong:
            self._refuse(wrong)
            return
        self._editor.hide()
        if value != self._value or by is not None:
            self.changed_by = by
            self._offer(value, final=True)
            self.changed_by = None
        if self.window().isActiveWindow() and self.focusWidget() is None:
            self.setFocus()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Keep the Enter that ends typing to the editor: here it would begin anew."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() in ENTER:
            self._typed()
            if not self._editor.isVisible():
                self.setFocus()
            return True
        return super().eventFilter(watched, event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = Qt.Key
        step = self._size * self._scale(event.modifiers())
        if event.key() in {keys.Key_Up, keys.Key_Right}:
            self._step(step)
        elif event.key() in {keys.Key_Down, keys.Key_Left}:
            self._step(-step)
        elif event.key() in {*ENTER, keys.Key_F2}:
            self.begin_typing()
        elif event.key() == keys.Key_Escape and self._dragging:
            self._cancel()
        elif event.key() == keys.Key_Escape and self._editor.isVisible():
            self._editor.hide()
            self.setFocus()
        elif event.text() and event.text() in "0123456789.-+(*/":
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
            self._run_over()
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
        self._offer(self._from + steps * self._size * self._scale(event.modifiers()), final=False)

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
        self._step(turns * self._size * self._scale(event.modifiers()))

    # ---- looks ----------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            enabled = self.isEnabled()
            painter.setPen(QPen(QColor(TEAL if self.hasFocus() else EDGE), 1))
            painter.setBrush(QColor(RAISED))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)
            painter.setFont(figures_font())
            painter.setPen(QColor(INK if enabled and not self._idle else FAINT))
            body = self.rect().adjusted(7, 0, -6, 0)
            text = shown(self._value, self._decimals)
            painter.drawText(body, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, text)
            if self._idle:
                middle = body.center().y()
                painter.drawLine(
                    body.left(), middle, body.left() + painter.fontMetrics().horizontalAdvance(text), middle
                )
            painter.setPen(QColor(SOFT))
            painter.setFont(figures_font(11))
            painter.drawText(body, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, self._unit)


class ChoiceField(OwnKeys, QComboBox):
    """A list to pick from; each entry stands for a value.

    Signals
    -------
    edited
        The user picked a value; the gesture is over with it.
    """

    edited = Signal(object, bool)
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
        text = [word for word, _ in choices]
        if values == self._values and text == [self.itemText(i) for i in range(self.count())]:
            return
        self._values = values
        self.blockSignals(True)
        self.clear()
        self.addItems(text)
        self.blockSignals(False)

    def set_value(self, value: object) -> None:
        """Show the entry of a value; one that is not offered is shown as nothing."""
        self.setCurrentIndex(self._values.index(value) if value in self._values else -1)

    def _activated(self, index: int) -> None:
        self.edited.emit(self._values[index], True)

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()  # scrolling a sheet must not change what lies under the mouse


class TextField(QLineEdit):
    """A line of text that is taken when Enter is pressed or the field is left.

    Signals
    -------
    edited
        The user changed the text, which is not empty unless it `may_be`; the gesture is over with it.
    """

    edited = Signal(object, bool)

    def __init__(self, name: str = "", *, may_be_empty: bool = False) -> None:
        super().__init__()
        self._accepted, self._may_be_empty = "", may_be_empty
        self.setMaxLength(LONGEST_NAME)
        if name:
            self.setAccessibleName(name)
        self.editingFinished.connect(self._finished)

    def set_value(self, text: str) -> None:
        """Show a text."""
        self._accepted = text
        if self.text() != text and not (self.hasFocus() and self.isModified()):
            self.setText(text)

    def _finished(self) -> None:
        text = self.text().strip()
        if not text and not self._may_be_empty:
            self.setText(self._accepted)
        elif text != self._accepted:
            self._accepted = text
            self.edited.emit(text, True)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.setText(self._accepted)
            self.clearFocus()
            return
        super().keyPressEvent(event)


class Check(OwnKeys, QCheckBox):
    """A tick that Space sets.

    Signals
    -------
    edited
        The user ticked it, or no longer; the gesture is over with it.
    """

    edited = Signal(object, bool)
    own_keys = frozenset({Qt.Key.Key_Space})

    def __init__(self, text: str, tip: str = "") -> None:
        super().__init__(text)
        self.setToolTip(tip)
        self.clicked.connect(self._clicked)

    def set_value(self, on: bool) -> None:
        """Show it ticked or not; nothing is signalled."""
        self.setChecked(on)

    def _clicked(self, on: bool) -> None:
        self.edited.emit(on, True)


class Ticks(QWidget):
    """A tick for each of some names, in columns.

    Signals
    -------
    edited
        The names that are ticked now, in their order; the gesture is over with it.
    """

    edited = Signal(object, bool)

    def __init__(self, columns: int = 2, nothing: str = "") -> None:
        super().__init__()
        self.setObjectName("panel")
        self._columns = columns
        self.checks: dict[str, Check] = {}
        self._grid = QGridLayout(self)
        self._nothing = soft(nothing)
        self._grid.addWidget(self._nothing, 0, 0, 1, columns)
        self._nothing.setVisible(bool(nothing))  # not before: it would be a window of its own for a moment
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(0)

    def set_choices(self, choices: Sequence[tuple[str, object]]) -> None:
        """Offer names, given as (words, name)."""
        names = [str(name) for _, name in choices]
        if names == list(self.checks):
            return
        for check in self.checks.values():
            self._grid.removeWidget(check)
            check.hide()
            check.deleteLater()
        self.checks = {}
        for k, (text, name) in enumerate(choices):
            check = Check(text)
            check.setMinimumHeight(22)
            check.clicked.connect(self._clicked)
            self.checks[str(name)] = check
            self._grid.addWidget(check, k // self._columns, k % self._columns)
        self._nothing.setVisible(not self.checks and bool(self._nothing.text()))

    def set_value(self, names: Sequence[str]) -> None:
        """Tick names and no others; one that is not offered gets a tick of its own."""
        missing = [name for name in names if name not in self.checks]
        if missing:
            self.set_choices(
                [(check.text(), name) for name, check in self.checks.items()] + [(n, n) for n in missing]
            )
        for name, check in self.checks.items():
            check.setChecked(name in names)

    def _clicked(self) -> None:
        self.edited.emit(tuple(name for name, check in self.checks.items() if check.isChecked()), True)
