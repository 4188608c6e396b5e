"""The large editor of a gradient through life."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QLinearGradient,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QVBoxLayout, QWidget

from wraithon.desktop.theme.colours import GROUND, INK, LINE, TEAL
from wraithon.desktop.widgets.basics import OwnKeys, ShowsFocus
from wraithon.desktop.widgets.colours import ColourPicker, to_screen
from wraithon.particles.curves import gradient_table
from wraithon.project.life import Colour, Gradient, Stop

__all__ = ["GradientEditor", "gradient_brush"]

GAP = 0.002
SAMPLES = 24


def gradient_brush(gradient: Gradient, left: float, right: float) -> QLinearGradient:
    """Return a brush that shows a gradient from x `left` to `right`, blended in linear light."""
    brush = QLinearGradient(left, 0, right, 0)
    table = gradient_table(gradient)
    for k in range(SAMPLES + 1):
        red, green, blue = table[round(k / SAMPLES * (len(table) - 1))]
        brush.setColorAt(k / SAMPLES, to_screen((float(red), float(green), float(blue))))
    return brush


class GradientEditor(QWidget):
    """Stops on a strip, and a picker for the picked one.

    Signals
    -------
    edited
        The new gradient, and whether the gesture is over.
    """

    edited = Signal(object, bool)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.strip = GradientStrip()
        self.strip.edited.connect(self._from_strip)
        self.strip.picked.connect(lambda _index: self._show_stop())
        self._picker = ColourPicker()
        self._picker.edited.connect(self.strip.colour_picked)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(self.strip)
        layout.addWidget(self._picker)

    def set_gradient(self, gradient: Gradient) -> None:
        """Show a gradient; nothing is signalled."""
        self.strip.set_gradient(gradient)
        self._show_stop()

    def _show_stop(self) -> None:
        self._picker.set_colour(self.strip.gradient.stops[self.strip.picked_index].colour)

    def _from_strip(self, gradient: Gradient, final: bool) -> None:
        self._show_stop()
        self.edited.emit(gradient, final)


class GradientStrip(OwnKeys, ShowsFocus, QWidget):
    """The drawn gradient with its stops below."""

    own_keys = frozenset({Qt.Key.Key_Delete, Qt.Key.Key_Backspace})

    edited = Signal(object, bool)
    picked = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.gradient = Gradient.through((0, (1, 1, 1)), (1, (1, 1, 1)))
        self.picked_index = 0
        self._dragging = False
        self.setFixedHeight(46)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Colours through life")
        self.setToolTip("Drag stops; double-click adds one; Delete removes it; arrow keys nudge; Page keys pick")

    def set_gradient(self, gradient: Gradient) -> None:
        """Show a gradient."""
        self.gradient = gradient
        self.picked_index = min(self.picked_index, len(gradient.stops) - 1)
        self.update()

    def _box(self) -> QRectF:
        return QRectF(8, 4, self.width() - 16, 24)

    def place_of(self, index: int) -> QPointF:
        """Return where a stop's handle is drawn."""
        box = self._box()
        return QPointF(box.left() + self.gradient.stops[index].at * box.width(), box.bottom() + 8)

    def _age_at(self, x: float) -> float:
        box = self._box()
        return round(min(max((x - box.left()) / box.width(), 0.0), 1.0), 3)

    def _pick(self, index: int) -> None:
        self.picked_index = index
        self.update()
        self.picked.emit(index)

    def _set(self, stops: list[Stop], final: bool) -> None:
        self.gradient = Gradient(stops=tuple(stops))
        self.update()
        self.edited.emit(self.gradient, final)

    def move_picked(self, age: float, final: bool) -> None:
        """Move the picked stop between its neighbours."""
        stops = list(self.gradient.stops)
        k = self.picked_index
        low = stops[k - 1].at + GAP if k else 0.0
        high = stops[k + 1].at - GAP if k + 1 < len(stops) else 1.0
        stops[k] = stops[k].but(at=min(max(age, low), high))
        self._set(stops, final)

    def colour_picked(self, colour: Colour, final: bool) -> None:
        """Colour the picked stop."""
        stops = list(self.gradient.stops)
        stops[self.picked_index] = stops[self.picked_index].but(colour=colour)
        self._set(stops, final)

    def add_stop(self, age: float) -> None:
        """Add a stop of the colour that is there."""
        if any(abs(age - s.at) < GAP for s in self.gradient.stops) or len(self.gradient.stops) >= 32:
            return
        table = gradient_table(self.gradient)
        red, green, blue = (round(float(x), 5) for x in table[round(age * (len(table) - 1))])
        stop = Stop(at=age, colour=(red, green, blue))
        stops = sorted([*self.gradient.stops, stop], key=lambda s: s.at)
        self.gradient = Gradient(stops=tuple(stops))
        self._pick(stops.index(stop))
        self.edited.emit(self.gradient, True)

    def delete_picked(self) -> None:
        """Delete the picked stop; the last one stays."""
        if len(self.gradient.stops) > 1:
            stops = list(self.gradient.stops)
            del stops[self.picked_index]
            self.gradient = Gradient(stops=tuple(stops))
            self._pick(max(0, self.picked_index - 1))
            self.edited.emit(self.gradient, True)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        x = event.position().x()
        near = [abs(self.place_of(k).x() - x) for k in range(len(self.gradient.stops))]
        best = near.index(min(near))
        if near[best] <= 9:
            self._pick(best)
            self._dragging = True

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragging:
            self.move_picked(self._age_at(event.position().x()), final=False)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._dragging:
            self._dragging = False
            self.move_picked(self._age_at(event.position().x()), final=True)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self._dragging = False
        self.add_stop(self._age_at(event.position().x()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = Qt.Key
        if event.key() in {keys.Key_Delete, keys.Key_Backspace}:
            self.delete_picked()
        elif event.key() in {keys.Key_Left, keys.Key_Right}:
            step = 0.01 if event.key() == keys.Key_Right else -0.01
            self.move_picked(self.gradient.stops[self.picked_index].at + step, final=True)
        elif event.key() in {keys.Key_PageUp, keys.Key_PageDown}:
            step = 1 if event.key() == keys.Key_PageDown else -1
            self._pick((self.picked_index + step) % len(self.gradient.stops))
        else:
            super().keyPressEvent(event)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = self._box()
        painter.setPen(QPen(QColor(TEAL if self.hasFocus() else LINE), 1))
        painter.setBrush(gradient_brush(self.gradient, box.left(), box.right()))
        painter.drawRoundedRect(box, 3, 3)
        for k, stop in enumerate(self.gradient.stops):
            at = self.place_of(k)
            shape = QPolygonF([at + QPointF(0, -7), at + QPointF(6, 0), at + QPointF(6, 8), at + QPointF(-6, 8)])
            shape.append(at + QPointF(-6, 0))
            painter.setPen(QPen(QColor(INK if k == self.picked_index else GROUND), 2))
            painter.setBrush(to_screen(stop.colour))
            painter.drawPolygon(shape)
