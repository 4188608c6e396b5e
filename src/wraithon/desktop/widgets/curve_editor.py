"""The large editor of a curve through life: points to drag, add, delete, nudge and type."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QApplication, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from wraithon.desktop.theme.colours import GROUND, LINE, RAISED, RUST, SOFT, TEAL
from wraithon.desktop.theme.theme import figures_font
from wraithon.desktop.widgets.basics import tool
from wraithon.desktop.widgets.fields import NumberField
from wraithon.desktop.widgets.handles import Handles
from wraithon.particles.curves import curve_values
from wraithon.project.life import Curve

SHAPES: tuple[tuple[str, str, Curve], ...] = (
    ("trend-down", "Fade out", Curve.through((0, 1), (0.5, 0.75), (1, 0))),
    ("trend-up", "Grow in", Curve.through((0, 0), (0.4, 0.8), (1, 1))),
    ("waves", "In and out", Curve.through((0, 0), (0.15, 1), (0.7, 0.9), (1, 0))),
    ("lightning", "Flash", Curve.through((0, 1), (0.2, 0.3), (1, 0))),
    ("minus", "Steady", Curve.through((0, 1), (1, 1))),
)


def curve_path(curve: Curve, box: QRectF, low: float, high: float) -> QPainterPath:
    """Return a curve's path within a box whose bottom is `low` and top `high`."""
    ages = np.linspace(0, 1, max(16, int(box.width() / 2)))
    values = curve_values(curve, ages)
    span = max(high - low, 1e-9)
    path = QPainterPath()
    for k, (age, value) in enumerate(zip(ages, values, strict=True)):
        point = QPointF(box.left() + age * box.width(), box.bottom() - (value - low) / span * box.height())
        if k:
            path.lineTo(point)
        else:
            path.moveTo(point)
    return path


SNAP = 4.0
"""Pixels within which a point is drawn to 0, to 1 and to its neighbours."""


class CurveEditor(QWidget):
    """Edits a curve.

    Signals
    -------
    edited
        The new curve, and whether the gesture is over.
    """

    edited = Signal(object, bool)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.plot = CurvePlot()
        self.plot.edited.connect(self._from_plot)
        self.plot.picked.connect(self._show_point)
        self._age = NumberField("", low=0, high=1, step=0.01, name="Age of the point, 0 at birth and 1 at death")
        self._height = NumberField("", step=0.05, name="Value of the point")
        self._age.edited.connect(lambda v, final: self.plot.move_picked(v, None, final))
        self._height.edited.connect(lambda v, final: self.plot.move_picked(None, v / self.plot.factor, final))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(self.plot)
        row = QHBoxLayout()
        row.setSpacing(4)
        for name, tip, curve in SHAPES:
            row.addWidget(tool(name, f"Shape: {tip}", lambda c=curve: self.edited.emit(c, True)))
        row.addStretch(1)
        self._labels = [QLabel("age"), QLabel("value")]
        for label, widget in zip(self._labels, (self._age, self._height), strict=True):
            label.setObjectName("soft")
            row.addWidget(label)
            widget.setFixedWidth(66)
            row.addWidget(widget)
        layout.addLayout(row)

    def set_measure(self, unit: str, factor: float, step: float, decimals: int, limits: tuple[float, float]) -> None:
        """Show values times `factor` in a unit; points stay within `limits`, which are values themselves."""
        self.plot.factor, self.plot.limits = factor, limits
        self._height.set_measure(unit, step, decimals, limits[0] * factor, limits[1] * factor)

    def set_axis(self, what: str, begin: str, middle: str, end: str) -> None:
        """Label the curve's axis: where it begins, its middle and its end."""
        self._labels[0].setText(what)
        self._age.setAccessibleName(f"{what.capitalize()} of the point, 0 is {begin} and 1 is {end}")
        self.plot.axis = (begin, middle, end)

    def set_curve(self, curve: Curve, floor: float = 0.0) -> None:
        """Show a curve; nothing is signalled. `floor` is the lowest value the plot reaches at least."""
        self.plot.set_curve(curve, floor)
        self._show_point(self.plot.picked_index)

    def _from_plot(self, curve: Curve, final: bool) -> None:
        self._show_point(self.plot.picked_index)
        self.edited.emit(curve, final)

    def _show_point(self, index: int) -> None:
        points = self.plot.curve.points
        there = 0 <= index < len(points)
        for widget in (self._age, self._height):
            widget.setEnabled(there)
        if there:
            self._age.set_value(points[index][0])
            self._height.set_value(round(points[index][1] * self.plot.factor, 6))


class CurvePlot(Handles):
    """The drawn curve with its points."""

    def __init__(self) -> None:
        super().__init__("Curve through life", "points", 132)
        self.curve = Curve()
        self._floor = 0.0
        self._low, self._high = 0.0, 1.0
        self.axis = ("birth", "half life", "death")
        """Words for where it begins, its middle and its end."""
        self.factor = 1.0
        """What values are shown times."""
        self.limits = (-1e6, 1e6)
        """Lowest and highest value a point is moved to."""

    def shape(self) -> Curve:
        return self.curve

    def restore(self, curve: object) -> None:
        assert isinstance(curve, Curve)  # what `curve` gave
        low, high = self.limits
        self.picked_index = min(self.picked_index, len(curve.points) - 1)
        self._set([(age, min(max(value, low), high)) for age, value in curve.points], final=True)

    def reversed_in_time(self) -> Curve:
        return Curve(points=tuple((round(1 - age, 6), value) for age, value in reversed(self.curve.points)))

    def set_curve(self, curve: Curve, floor: float) -> None:
        """Show a curve; nothing is signalled."""
        self.curve, self._floor = curve, floor
        self.picked_index = min(self.picked_index, len(curve.points) - 1)
        if not self._dragging:
            self._fit()
        self.update()

    def _fit(self) -> None:
        values = [y for _, y in self.curve.points]
        self._low = min(self._floor, *values, 0.0)
        self._high = max(1.0 / self.factor, *values) * 1.08
        if self._low < 0:
            self._low *= 1.08

    # ---- handles --------------------------------------------------------------------------------

    def _box(self) -> QRectF:
        return QRectF(34, 8, self.width() - 44, self.height() - 26)

    def ages(self) -> list[float]:
        return [age for age, _ in self.curve.points]

    def position_of(self, index: int) -> QPointF:
        age, value = self.curve.points[index]
        box, span = self._box(), self._high - self._low
        return QPointF(box.left() + age * box.width(), box.bottom() - (value - self._low) / span * box.height())

    def _value_at(self, at: QPointF) -> tuple[float, float]:
        box = self._box()
        age = min(max((at.x() - box.left()) / box.width(), 0.0), 1.0)
        value = self._low + (box.bottom() - at.y()) / box.height() * (self._high - self._low)
        return round(age, 3), round(value, 3 if self.factor == 1 else 6)

    def _set(self, points: list[tuple[float, float]], final: bool) -> None:
        self.curve = Curve(points=tuple(points))
        if final:
            self._fit()
        self.update()
        self.edited.emit(self.curve, final)

    def move_picked(self, age: float | None, value: float | None, final: bool) -> None:
        """Move the picked point; its age stays between its neighbours'."""
        points = list(self.curve.points)
        old_age, old_value = points[self.picked_index]
        new_age = old_age if age is None else self.between(age)
        new_value = old_value if value is None else min(max(value, self.limits[0]), self.limits[1])
        points[self.picked_index] = (new_age, new_value)
        self._set(points, final)

    def move_to(self, at: QPointF, *, final: bool) -> None:
        age, value = self._value_at(at)
        if not QApplication.keyboardModifiers() & Qt.KeyboardModifier.ControlModifier:
            value = self._drawn_to(value)
        self.move_picked(age, value, final)

    def _drawn_to(self, value: float) -> float:
        """Return 0, 1 or a neighbour's value when it is hardly another; Ctrl keeps it free."""
        points, k = self.curve.points, self.picked_index
        marks = [0.0, 1.0, *(y for _, y in (*points[max(0, k - 1) : k], *points[k + 1 : k + 2]))]
        nearest = min(marks, key=lambda mark: abs(mark - value))
        return nearest if abs(nearest - value) * self._box().height() <= SNAP * (self._high - self._low) else value

    def add_at(self, at: QPointF) -> None:
        point = self._value_at(at)
        if self.nearest(at) is None and self.has_room(point[0], 64):
            points = sorted([*self.curve.points, point])
            self.picked_index = points.index(point)
            self._set(points, final=True)
            self.pick(self.picked_index)

    def delete_picked(self) -> None:
        if len(self.curve.points) > 1:
            points = list(self.curve.points)
            del points[self.picked_index]
            self.picked_index = max(0, self.picked_index - 1)
            self._set(points, final=True)
            self.pick(self.picked_index)

    def nudge(self, event: QKeyEvent) -> bool:
        keys = Qt.Key
        age, value = self.curve.points[self.picked_index]
        fine = 0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
        across = {keys.Key_Left: -0.01, keys.Key_Right: 0.01}.get(keys(event.key()))
        up = {keys.Key_Down: -0.02, keys.Key_Up: 0.02}.get(keys(event.key()))
        if across is not None:
            self.move_picked(age + across * fine, None, True)
        elif up is not None:
            self.move_picked(None, round(value + up * fine * (self._high - self._low), 4), True)
        return across is not None or up is not None

    # ---- looks ----------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(QColor(TEAL if self.hasFocus() else LINE), 1))
            painter.setBrush(QColor(GROUND))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)
            box, span = self._box(), self._high - self._low
            painter.setFont(figures_font(10))
            for value in _ticks(self._low, self._high):
                y = box.bottom() - (value - self._low) / span * box.height()
                painter.setPen(QPen(QColor(RAISED if value else LINE), 1))
                painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
                painter.setPen(QColor(SOFT))
                where = QRectF(0, y - 7, 29, 14)
                painter.drawText(
                    where, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{value * self.factor:g}"
                )
            for age, word in zip((0.0, 0.5, 1.0), self.axis, strict=True):
                x = box.left() + age * box.width()
                painter.setPen(QPen(QColor(RAISED), 1))
                painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
                painter.setPen(QColor(SOFT))
                where = QRectF(min(max(x - 30, 2), self.width() - 62), box.bottom() + 3, 60, 13)
                painter.drawText(where, Qt.AlignmentFlag.AlignCenter, word)
            painter.setPen(QPen(QColor(TEAL), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(curve_path(self.curve, box, self._low, self._high))
            for k in range(len(self.curve.points)):
                picked = k == self.picked_index
                painter.setPen(QPen(QColor(GROUND), 1.5))
                painter.setBrush(QColor(RUST if picked else TEAL))
                painter.drawEllipse(self.position_of(k), 5.5 if picked else 4.5, 5.5 if picked else 4.5)


def _ticks(low: float, high: float) -> list[float]:
    """Return three to six round values within a span."""
    span = max(high - low, 1e-9)
    step = 10.0 ** np.floor(np.log10(span))
    for factor in (1.0, 0.5, 0.25):
        if span / (step * factor) >= 2.5:
            step *= factor
            break
    else:
        step *= 0.25
    first = np.ceil(low / step)
    return [float(round((first + k) * step, 9)) for k in range(int((high - first * step) / step) + 1)]
