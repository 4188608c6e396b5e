"""The life sheet: one row an attribute, with what is born, its course, and what will really be drawn."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from wraithon.desktop.colours import ColourPicker, Swatch, to_screen
from wraithon.desktop.curve_editor import CurveEditor, curve_path
from wraithon.desktop.fields import ChoiceField, NumberField, ShowsFocus, labelled, shown
from wraithon.desktop.gradient_editor import GradientEditor, gradient_brush
from wraithon.desktop.theme import GROUND, INK, LINE, PANEL, RAISED, RUST, SOFT, TEAL, figures_font, text_font
from wraithon.meeting import met
from wraithon.particles.curves import TABLE, curve_table, gradient_table
from wraithon.project.effect import ATTRIBUTES, Layer
from wraithon.project.life import Attribute, Curve, Gradient, LifeMode, Range, Tint

__all__ = ["AttributeEditor", "LifeRow", "LifeSheet", "Unit", "drawn_band", "unit_of"]

LABEL, BIRTH, COURSE = 82, 108, 78


@dataclass(frozen=True)
class Unit:
    """How an attribute's numbers are shown: `factor` turns the file's unit into the shown one."""

    name: str
    factor: float = 1.0
    step: float = 0.1
    low: float = 0.0
    high: float = 1e6
    decimals: int = 2
    scale_top: float = 1.0
    """Least top of the row's scale, in shown units."""


UNITS = {
    "lifetime": Unit("s", step=0.05, low=0.01, high=600, scale_top=2.0),
    "speed": Unit("m/s", step=0.05, high=1000, scale_top=2.0),
    "size": Unit("cm", factor=100, step=0.1, high=10_000, decimals=2, scale_top=5.0),
    "intensity": Unit("×", step=0.05, high=1000, scale_top=2.0),
    "opacity": Unit("", step=0.01, high=1.0, scale_top=1.0),
    "turn": Unit("°", step=5, low=-3600, high=3600, decimals=1, scale_top=360),
    "spin": Unit("°/s", step=5, low=-7200, high=7200, decimals=1, scale_top=180),
}
MODE_WORDS = {LifeMode.SCALE: "× scale", LifeMode.ADD: "+ add", LifeMode.REPLACE: "= replace"}


def unit_of(name: str) -> Unit:
    """Return how an attribute is shown."""
    return UNITS[name]


def drawn_band(attribute: Attribute) -> tuple[np.ndarray, np.ndarray]:
    """Return lowest and highest drawn value over life, (TABLE,) each, in the file's unit."""
    course = curve_table(attribute.life).astype(float)
    ends = [met(np.full(TABLE, end), course, attribute.code) for end in (attribute.birth.low, attribute.birth.high)]
    low, high = np.sort(np.stack(ends), axis=0)
    return low, high


class LifeRow(ShowsFocus, QWidget):
    """One attribute in one line: label, at birth, through life, drawn.

    Signals
    -------
    picked
        The row was clicked, or Enter pressed on it.
    """

    picked = Signal(str)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.name = name
        self.attribute: Attribute | Tint = Attribute()
        self.standard = True
        self.open = False
        self.setFixedHeight(30)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"{name}: open its editor")
        self.setToolTip(f"{name.capitalize()}: click to edit what it is at birth and through life")

    def show_attribute(self, attribute: Attribute | Tint, *, standard: bool, opened: bool) -> None:
        """Show an attribute; `standard` tells that it is as a new layer has it."""
        if (attribute, standard, opened) != (self.attribute, self.standard, self.open):
            self.attribute, self.standard, self.open = attribute, standard, opened
            self.update()

    def mousePressEvent(self, _event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        self.picked.emit(self.name)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space}:
            self.picked.emit(self.name)
        else:
            super().keyPressEvent(event)

    # ---- looks ----------------------------------------------------------------------------------

    def _cells(self) -> tuple[QRectF, QRectF, QRectF]:
        top, high = 5.0, self.height() - 10.0
        left = LABEL
        birth = QRectF(left, top, BIRTH, high)
        course = QRectF(left + BIRTH + 8, top, COURSE, high)
        drawn = QRectF(course.right() + 8, top, self.width() - course.right() - 12, high)
        return birth, course, drawn

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(RAISED if self.open else PANEL))
        if self.hasFocus():
            painter.setPen(QPen(QColor(TEAL), 1))
            painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        if self.open:
            painter.fillRect(QRectF(0, 0, 3, self.height()), QColor(TEAL))
        painter.setFont(text_font())
        painter.setPen(QColor(INK))
        label = QRectF(8, 0, LABEL - 10, self.height())
        painter.drawText(label, Qt.AlignmentFlag.AlignVCenter, self.name)
        if not self.standard:
            wide = painter.fontMetrics().horizontalAdvance(self.name)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(RUST))
            painter.drawEllipse(QPointF(8 + wide + 6, self.height() / 2), 2.5, 2.5)
        cells = self._cells()
        if isinstance(self.attribute, Tint):
            self._paint_tint(painter, self.attribute, *cells)
        else:
            self._paint_numbers(painter, self.attribute, *cells)

    def _paint_numbers(
        self, painter: QPainter, attribute: Attribute, birth: QRectF, course: QRectF, drawn: QRectF
    ) -> None:
        unit = unit_of(self.name)
        low, high = drawn_band(attribute)
        top = (
            max(unit.scale_top, attribute.birth.high * unit.factor * 1.2, float(high.max()) * unit.factor)
            / unit.factor
        )
        bottom = min(0.0, attribute.birth.low, float(low.min()))
        replaced = attribute.life is not None and attribute.mode is LifeMode.REPLACE
        self._paint_birth(painter, attribute.birth, unit, bottom, top, birth, replaced)
        painter.setFont(figures_font(10))
        painter.setPen(QColor(SOFT))
        if self.name == "lifetime":
            return
        if attribute.life is None:
            painter.drawText(course, Qt.AlignmentFlag.AlignCenter, "steady")
        else:
            values = [y for _, y in attribute.life.points]
            painter.setPen(QPen(QColor(TEAL), 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            plot = QRectF(course.left(), course.top() + 1, 38, course.height() - 2)
            painter.drawPath(curve_path(attribute.life, plot, min(0.0, *values), max(1.0, *values)))
            painter.setPen(QColor(SOFT))
            painter.drawText(
                course.adjusted(42, 0, 6, 0),
                Qt.AlignmentFlag.AlignVCenter,
                MODE_WORDS[attribute.mode].split()[0],
            )
        self._paint_band(painter, low, high, unit, bottom, top, drawn)

    def _paint_birth(
        self,
        painter: QPainter,
        birth: Range,
        unit: Unit,
        bottom: float,
        top: float,
        box: QRectF,
        replaced: bool,
    ) -> None:
        bar = QRectF(box.left(), box.bottom() - 5, box.width(), 4)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(GROUND if self.open else RAISED))
        painter.drawRoundedRect(bar, 2, 2)
        span = max(top - bottom, 1e-9)
        left = bar.left() + (birth.low - bottom) / span * bar.width()
        right = bar.left() + (birth.high - bottom) / span * bar.width()
        painter.setBrush(QColor(LINE if replaced else TEAL))
        painter.drawRoundedRect(QRectF(left, bar.top(), max(right - left, 3), bar.height()), 2, 2)
        painter.setFont(figures_font(11))
        painter.setPen(QColor("#85788a" if replaced else INK))
        words = _range_words(birth, unit)
        where = box.adjusted(0, -4, 0, -5)
        painter.drawText(where, Qt.AlignmentFlag.AlignVCenter, words)
        if replaced:
            wide = painter.fontMetrics().horizontalAdvance(words)
            painter.drawLine(
                QPointF(where.left(), where.center().y()), QPointF(where.left() + wide, where.center().y())
            )

    def _paint_band(
        self,
        painter: QPainter,
        low: np.ndarray,
        high: np.ndarray,
        unit: Unit,
        bottom: float,
        top: float,
        box: QRectF,
    ) -> None:
        span = max(top - bottom, 1e-9)
        plot = QRectF(box.left(), box.top(), min(box.width() * 0.36, 40), box.height())
        xs = np.linspace(plot.left(), plot.right(), 24)
        rows = np.linspace(0, len(low) - 1, 24).astype(int)

        def ys(values: np.ndarray) -> np.ndarray:
            return plot.bottom() - (values[rows] - bottom) / span * plot.height()

        upper = [QPointF(x, y) for x, y in zip(xs, ys(high) - 0.7, strict=True)]
        lower = [QPointF(x, y) for x, y in zip(xs[::-1], ys(low)[::-1] + 0.7, strict=True)]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("#5fa39b" if self.open else "#4b8c85"))
        painter.drawPolygon(QPolygonF([*upper, *lower]))
        painter.setFont(figures_font(10))
        painter.setPen(QColor(INK))
        # The unit stands in the cell at birth already.
        plain = Unit("", unit.factor, decimals=unit.decimals)
        words = _range_words(Range(low=float(low.min()), high=float(high.max())), plain)
        painter.drawText(box.adjusted(plot.width() + 5, 0, 12, 0), Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_tint(self, painter: QPainter, tint: Tint, birth: QRectF, course: QRectF, drawn: QRectF) -> None:
        replaced = tint.life is not None and tint.mode is LifeMode.REPLACE
        half = (birth.width() - 4) / 2
        painter.setPen(QPen(QColor(LINE), 1))
        for k, colour in enumerate((tint.first, tint.second)):
            painter.setBrush(to_screen(colour))
            painter.drawRoundedRect(
                QRectF(birth.left() + k * (half + 4), birth.top() + 1, half, birth.height() - 2), 3, 3
            )
        if replaced:
            painter.setPen(QPen(QColor(INK), 2))
            painter.drawLine(birth.bottomLeft(), birth.topRight())
        painter.setFont(figures_font(10))
        painter.setPen(QColor(SOFT))
        if tint.life is None:
            painter.drawText(course, Qt.AlignmentFlag.AlignCenter, "steady")
        else:
            painter.setBrush(gradient_brush(tint.life, course.left(), course.left() + 58))
            painter.drawRoundedRect(QRectF(course.left(), course.top() + 3, 58, course.height() - 6), 2, 2)
            painter.drawText(course.adjusted(62, 0, 6, 0), Qt.AlignmentFlag.AlignVCenter, MODE_WORDS[tint.mode][0])
        table = gradient_table(tint.life)
        painter.setPen(Qt.PenStyle.NoPen)
        for row, start in enumerate((tint.first, tint.second)):
            factor = (1.0, 1.0, 1.0) if replaced else start
            for k in range(24):
                colour = table[round(k / 23 * (len(table) - 1))]
                painter.setBrush(to_screen(tuple(float(c) * f for c, f in zip(colour, factor, strict=True))))
                wide = drawn.width() / 24
                painter.drawRect(
                    QRectF(
                        drawn.left() + k * wide,
                        drawn.top() + row * drawn.height() / 2,
                        wide + 0.5,
                        drawn.height() / 2,
                    )
                )


def _range_words(birth: Range, unit: Unit) -> str:
    low, high = birth.low * unit.factor, birth.high * unit.factor
    text = shown(low, unit.decimals) if low == high else f"{shown(low, unit.decimals)}–{shown(high, unit.decimals)}"
    return f"{text} {unit.name}" if unit.name not in {"", "°"} else f"{text}{unit.name}"


class RangeBar(QWidget):
    """A bar with two handles for the range at birth.

    Signals
    -------
    edited
        The new lowest and highest, in shown units, and whether the gesture is over.
    """

    edited = Signal(float, float, bool)

    def __init__(self) -> None:
        super().__init__()
        self.low, self.high, self.bottom, self.top = 0.0, 1.0, 0.0, 1.0
        self._grip: str | None = None
        self._last = 0.0
        self.setFixedHeight(20)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setToolTip("Drag an end, or the middle to move both")

    def set_range(self, low: float, high: float, bottom: float, top: float) -> None:
        """Show a range on a scale; while a drag goes on the scale stays."""
        self.low, self.high = low, high
        if self._grip is None:
            self.bottom, self.top = bottom, top
        self.update()

    def _x(self, value: float) -> float:
        return 7 + (value - self.bottom) / max(self.top - self.bottom, 1e-9) * (self.width() - 14)

    def _value(self, x: float) -> float:
        share = min(max((x - 7) / max(self.width() - 14, 1), 0.0), 1.0)
        return self.bottom + share * (self.top - self.bottom)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        x = event.position().x()
        to_low, to_high = abs(x - self._x(self.low)), abs(x - self._x(self.high))
        inner = self._x(self.low) + 6 < x < self._x(self.high) - 6
        self._grip = "both" if inner else "low" if to_low < to_high or x < self._x(self.low) else "high"
        self._last = self._value(x)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is None:
            return
        value = self._value(event.position().x())
        if self._grip == "low":
            self.low = min(value, self.high)
        elif self._grip == "high":
            self.high = max(value, self.low)
        else:
            shift = min(max(value - self._last, self.bottom - self.low), self.top - self.high)
            self.low, self.high = self.low + shift, self.high + shift
        self._last = value
        self.update()
        self.edited.emit(self.low, self.high, False)

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        if self._grip is not None:
            self._grip = None
            self.edited.emit(self.low, self.high, True)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(GROUND))
        painter.drawRoundedRect(QRectF(7, 8, self.width() - 14, 5), 2, 2)
        painter.setBrush(QColor(TEAL))
        left, right = self._x(self.low), self._x(self.high)
        painter.drawRoundedRect(QRectF(left, 8, max(right - left, 2), 5), 2, 2)
        for x in (left, right):
            painter.setBrush(QColor(INK))
            painter.drawRoundedRect(QRectF(x - 3, 3, 6, 15), 2, 2)


class AttributeEditor(QWidget):
    """The large editor under a row: range, mode and course of numbers, or the colours of a tint.

    Signals
    -------
    edited
        The attribute as it should be, and whether the gesture is over.
    """

    edited = Signal(object, bool)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("raised")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setStyleSheet(
            f"QWidget#raised {{ background: {RAISED}; }} QWidget#raised QLabel {{ background: transparent; }}"
            f"QWidget#raised QWidget#panel {{ background: {RAISED}; }}"
        )
        self._name = "size"
        self._attribute: Attribute | Tint = Attribute()
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(8, 4, 8, 8)
        self._layout.setSpacing(5)
        self._bar = RangeBar()
        self._bar.edited.connect(self._bar_edited)
        self._low = NumberField(name="Lowest at birth")
        self._high = NumberField(name="Highest at birth")
        self._low.edited.connect(lambda v, final: self._ends_edited(v, None, final))
        self._high.edited.connect(lambda v, final: self._ends_edited(None, v, final))
        self._fields: dict[str, tuple[NumberField, NumberField]] = {}
        self._mode = ChoiceField(name="How the course meets the value at birth")
        self._mode.chosen.connect(self._mode_chosen)
        self._curve = CurveEditor()
        self._curve.edited.connect(lambda c, final: self._change(final, life=c))
        self._gradient = GradientEditor()
        self._gradient.edited.connect(lambda g, final: self._change(final, life=g))
        self._swatches = [
            Swatch("One end of the colours at birth"),
            Swatch("The other end of the colours at birth"),
        ]
        for k, swatch in enumerate(self._swatches):
            swatch.clicked.connect(lambda k=k: self._swatch_clicked(k))
        self._end = 0
        self._picker = ColourPicker()
        self._picker.edited.connect(self._colour_picked)
        self._build()

    def _build(self) -> None:
        self._numbers = QWidget()
        self._numbers.setObjectName("raised")
        self._number_row = QHBoxLayout(self._numbers)
        self._number_row.setContentsMargins(0, 0, 0, 0)
        self._number_row.setSpacing(6)
        self._birth_label = QLabel("at birth")
        self._birth_label.setObjectName("soft")
        self._number_row.addWidget(self._birth_label)
        self._number_row.addWidget(self._low)
        dash = QLabel("to")
        dash.setObjectName("soft")
        self._number_row.addWidget(dash)
        self._number_row.addWidget(self._high)
        self._tints = labelled("at birth", *self._swatches, width=70)
        self._life_row = labelled("through life", self._mode, width=70)
        for widget in (
            self._numbers,
            self._bar,
            self._tints,
            self._picker,
            self._life_row,
            self._curve,
            self._gradient,
        ):
            self._layout.addWidget(widget)

    def show_attribute(self, name: str, attribute: Attribute | Tint) -> None:
        """Show an attribute; nothing is signalled."""
        if name != self._name:
            self._name = name
            self._end = 0
        self._attribute = attribute
        colour = isinstance(attribute, Tint)
        for widget in (self._numbers, self._bar):
            widget.setVisible(not colour)
        for widget in (self._tints, self._picker):
            widget.setVisible(colour)
        self._life_row.setVisible(name != "lifetime")
        self._curve.setVisible(not colour and attribute.life is not None and name != "lifetime")
        self._gradient.setVisible(colour and attribute.life is not None)
        modes = [m for m in LifeMode if not (colour and m is LifeMode.ADD)]
        self._mode.set_choices([("steady", None), *((_mode_sentence(m), m) for m in modes)])
        self._mode.set_value(attribute.mode if attribute.life is not None else None)
        if isinstance(attribute, Tint):
            self._show_tint(attribute)
        else:
            self._show_numbers(name, attribute)

    def _show_numbers(self, name: str, attribute: Attribute) -> None:
        unit = unit_of(name)
        low, high = attribute.birth.low * unit.factor, attribute.birth.high * unit.factor
        for field, value in ((self._low, low), (self._high, high)):
            field._unit, field._step = unit.name, unit.step  # noqa: SLF001  # one field serves all attributes
            field._low, field._high, field._decimals = unit.low, unit.high, unit.decimals  # noqa: SLF001
            field.set_value(round(value, 6))
            field.update()
        top = min(max(unit.scale_top, high * 1.5), unit.high)
        bottom = min(unit.low if unit.low >= 0 else -unit.scale_top, low * 1.5, 0.0)
        self._bar.set_range(low, high, bottom, top)
        if attribute.life is not None:
            self._curve.set_curve(attribute.life)

    def _show_tint(self, tint: Tint) -> None:
        for k, colour in enumerate((tint.first, tint.second)):
            self._swatches[k].set_colour(colour, active=k == self._end)
        self._picker.set_colour((tint.first, tint.second)[self._end])
        if tint.life is not None:
            self._gradient.set_gradient(tint.life)

    # ---- edits ----------------------------------------------------------------------------------

    def _change(self, final: bool, **changes: object) -> None:
        self._attribute = self._attribute.but(**changes)
        self.edited.emit(self._attribute, final)

    def _bar_edited(self, low: float, high: float, final: bool) -> None:
        unit = unit_of(self._name)
        low, high = (round(x / unit.factor, 5) for x in (low, high))
        self._change(final, birth=Range(low=low, high=max(low, high)))

    def _ends_edited(self, low: float | None, high: float | None, final: bool) -> None:
        """One end was edited; the other gives way so that they stay in order."""
        assert isinstance(self._attribute, Attribute)  # only shown for numbers
        unit = unit_of(self._name)
        birth = self._attribute.birth
        if low is not None:
            start = round(low / unit.factor, 6)
            self._change(final, birth=Range(low=start, high=max(start, birth.high)))
        elif high is not None:
            end = round(high / unit.factor, 6)
            self._change(final, birth=Range(low=min(end, birth.low), high=end))

    def _mode_chosen(self, mode: object) -> None:
        if mode is None:
            self._change(True, life=None)
            return
        life = self._attribute.life
        if life is None:
            white = Gradient.through((0, (1, 1, 1)), (1, (1, 1, 1)))
            life = white if isinstance(self._attribute, Tint) else self._first_curve(mode)
        self._change(True, life=life, mode=mode)

    def _first_curve(self, mode: object) -> Curve:
        assert isinstance(self._attribute, Attribute)
        if mode is LifeMode.SCALE:
            return Curve.through((0, 1), (1, 0 if self._name in {"size", "opacity"} else 1))
        start = 0.0 if mode is LifeMode.ADD else self._attribute.birth.high
        return Curve.through((0, start), (1, start))

    def _swatch_clicked(self, end: int) -> None:
        self._end = end
        if isinstance(self._attribute, Tint):
            self._show_tint(self._attribute)

    def _colour_picked(self, colour: object, final: bool) -> None:
        self._change(final, **{("first", "second")[self._end]: colour})


def _mode_sentence(mode: LifeMode) -> str:
    return {
        LifeMode.SCALE: "× scale: birth times the course",
        LifeMode.ADD: "+ add: birth plus the course",
        LifeMode.REPLACE: "= replace: the course alone",
    }[mode]


class LifeSheet(QWidget):
    """All rows of a layer, with the open one's editor under it.

    Signals
    -------
    edited
        Attribute name, the attribute as it should be, and whether the gesture is over.
    """

    edited = Signal(str, object, bool)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._layout.setSpacing(1)
        self._layout.addWidget(_LifeHead())
        self.rows = {name: LifeRow(name) for name in ATTRIBUTES}
        self.editor = AttributeEditor()
        self.editor.edited.connect(lambda attribute, final: self.edited.emit(self.open_row, attribute, final))
        self.open_row: str = ""
        self._layer = Layer()
        self._standard = Layer()
        for row in self.rows.values():
            row.picked.connect(self.pick)
            self._layout.addWidget(row)
        self.editor.hide()

    def show_layer(self, layer: Layer) -> None:
        """Show a layer's attributes; nothing is signalled."""
        self._layer = layer
        for name, row in self.rows.items():
            attribute = getattr(layer, name)
            standard = attribute == getattr(self._standard, name)
            row.show_attribute(attribute, standard=standard, opened=name == self.open_row)
        if self.open_row:
            self.editor.show_attribute(self.open_row, getattr(layer, self.open_row))

    def pick(self, name: str) -> None:
        """Open a row's editor, or close it when it is open."""
        self.open_row = "" if name == self.open_row else name
        self._layout.removeWidget(self.editor)
        if self.open_row:
            self._layout.insertWidget(self._layout.indexOf(self.rows[name]) + 1, self.editor)
            self.editor.show()
        else:
            self.editor.hide()
        self.show_layer(self._layer)


class _LifeHead(QWidget):
    """The columns' names."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(18)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(PANEL))
        painter.setFont(text_font(11))
        painter.setPen(QColor(SOFT))
        for x, words in (
            (LABEL, "at birth"),
            (LABEL + BIRTH + 8, "through life"),
            (LABEL + BIRTH + COURSE + 16, "drawn"),
        ):
            painter.drawText(QPointF(x, 13), words)
