"""The large editor of a gradient through life."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QLinearGradient,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QVBoxLayout, QWidget

from wraithon.desktop.theme.colours import GROUND, INK, LINE, TEAL
from wraithon.desktop.widgets.colours import ColourPicker, to_screen
from wraithon.desktop.widgets.handles import Handles
from wraithon.particles.curves import gradient_table
from wraithon.project.life import Colour, Gradient, Stop

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

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setObjectName("panel")
        self.strip = GradientStrip()
        if text:
            self.strip.setAccessibleName(text)
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


class GradientStrip(Handles):
    """The drawn gradient with its stops below."""

    def __init__(self) -> None:
        super().__init__("Colours through life", "stops", 46)
        self.gradient = Gradient.through((0, (1, 1, 1)), (1, (1, 1, 1)))

    def set_gradient(self, gradient: Gradient) -> None:
        """Show a gradient; nothing is signalled."""
        self.gradient = gradient
        self.picked_index = min(self.picked_index, len(gradient.stops) - 1)
        self.update()

    def shape(self) -> Gradient:
        return self.gradient

    def restore(self, curve: object) -> None:
        assert isinstance(curve, Gradient)  # what `curve` gave
        self.picked_index = min(self.picked_index, len(curve.stops) - 1)
        self._set(list(curve.stops), final=True)

    def reversed_in_time(self) -> Gradient:
        stops = (stop.evolve(at=round(1 - stop.at, 6)) for stop in reversed(self.gradient.stops))
        return Gradient(stops=tuple(stops))

    def _box(self) -> QRectF:
        return QRectF(8, 4, self.width() - 16, 24)

    def ages(self) -> list[float]:
        return [stop.at for stop in self.gradient.stops]

    def position_of(self, index: int) -> QPointF:
        box = self._box()
        return QPointF(box.left() + self.gradient.stops[index].at * box.width(), box.bottom() + 8)

    @staticmethod
    def away(way: QPointF) -> float:
        return abs(way.x())

    def _age_at(self, x: float) -> float:
        box = self._box()
        return round(min(max((x - box.left()) / box.width(), 0.0), 1.0), 3)

    def _set(self, stops: list[Stop], final: bool) -> None:
        self.gradient = Gradient(stops=tuple(stops))
        self.update()
        self.edited.emit(self.gradient, final)

    def _change_picked(self, final: bool, **changes: object) -> None:
        stops = list(self.gradient.stops)
        stops[self.picked_index] = stops[self.picked_index].evolve(**changes)
        self._set(stops, final)

    def move_picked(self, age: float, final: bool) -> None:
        """Move the picked stop between its neighbours."""
        self._change_picked(final, at=self.between(age))

    def colour_picked(self, colour: Colour, final: bool) -> None:
        """Colour the picked stop."""
        self._change_picked(final, colour=colour)

    def move_to(self, at: QPointF, *, final: bool) -> None:
        self.move_picked(self._age_at(at.x()), final)

    def add_at(self, at: QPointF) -> None:
        """Add a stop of the colour that is there."""
        age = self._age_at(at.x())
        if self.has_room(age, 32):
            table = gradient_table(self.gradient)
            red, green, blue = (round(float(x), 5) for x in table[round(age * (len(table) - 1))])
            stop = Stop(at=age, colour=(red, green, blue))
            stops = sorted([*self.gradient.stops, stop], key=lambda s: s.at)
            self.picked_index = stops.index(stop)
            self._set(stops, final=True)
            self.pick(self.picked_index)

    def delete_picked(self) -> None:
        if len(self.gradient.stops) > 1:
            stops = list(self.gradient.stops)
            del stops[self.picked_index]
            self.picked_index = max(0, self.picked_index - 1)
            self._set(stops, final=True)
            self.pick(self.picked_index)

    def nudge(self, event: QKeyEvent) -> bool:
        step = {Qt.Key.Key_Left: -0.01, Qt.Key.Key_Right: 0.01}.get(Qt.Key(event.key()))
        if step is not None:
            self.move_picked(self.gradient.stops[self.picked_index].at + step, final=True)
        return step is not None

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            box = self._box()
            painter.setPen(QPen(QColor(TEAL if self.hasFocus() else LINE), 1))
            painter.setBrush(gradient_brush(self.gradient, box.left(), box.right()))
            painter.drawRoundedRect(box, 3, 3)
            for k, stop in enumerate(self.gradient.stops):
                at = self.position_of(k)
                shape = QPolygonF([at + QPointF(0, -7), at + QPointF(6, 0), at + QPointF(6, 8), at + QPointF(-6, 8)])
                shape.append(at + QPointF(-6, 0))
                painter.setPen(QPen(QColor(INK if k == self.picked_index else GROUND), 2))
                painter.setBrush(to_screen(stop.colour))
                painter.drawPolygon(shape)
