"""One attribute in one line: label, at birth, through life, and what will really be drawn."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QApplication, QWidget

from wraithon.desktop.effects.units import MODE_WORDS, AttributeUnit, drawn_band, range_text, unit_of
from wraithon.desktop.theme.colours import FAINT, GROUND, INK, LINE, PANEL, RAISED, RUST, SOFT, TEAL
from wraithon.desktop.theme.theme import figures_font, text_font
from wraithon.desktop.widgets.basics import ShowsFocus
from wraithon.desktop.widgets.colours import to_screen
from wraithon.desktop.widgets.curve_editor import curve_path
from wraithon.desktop.widgets.gradient_editor import gradient_brush
from wraithon.particles.curves import gradient_table
from wraithon.project.life import Attribute, LifeMode, Range, Tint

LABEL, BIRTH, COURSE = 82, 108, 78
FIGURES, NARROW, ROOMY = 88.0, 44.0, 220.0
"""Least width of what is drawn with its figures, without them, and the room from which on they are shown."""


def columns(width: int) -> tuple[tuple[float, float], ...]:
    """Return left and width of the columns birth, curve and drawn; where it is narrow, drawn has no figures."""
    free = width - LABEL - 28.0
    drawn = max(FIGURES, free * 0.26) if free >= ROOMY else NARROW
    birth = min(BIRTH, (free - drawn) * 0.58)
    curve = min(COURSE, free - drawn - birth)
    return (LABEL, birth), (LABEL + birth + 8, curve), (LABEL + birth + curve + 16, free - birth - curve + 4)


class LifeRow(ShowsFocus, QWidget):
    """One attribute in one line: label, at birth, through life, drawn.

    Signals
    -------
    picked
        The row was clicked, or Enter pressed on it.
    taken_back
        The dot was clicked that tells of a value of its own.
    dragged
        The row is dragged away, to be copied onto other layers.
    """

    picked = Signal(str)
    dragged = Signal(str)
    taken_back = Signal(str)

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
        self.setProperty("label", name)
        self._tip = f"{name.capitalize()}: click to edit it; drag it onto layers in the list to copy it there"
        self._pressed: QPointF | None = None
        self.idle = self._note = ""
        self.setToolTip(self._tip)

    def show_attribute(self, attribute: Attribute | Tint, *, standard: bool, opened: bool) -> None:
        """Show an attribute; `standard` tells that it is as a new layer has it."""
        if (attribute, standard, opened) != (self.attribute, self.standard, self.open):
            self.attribute, self.standard, self.open = attribute, standard, opened
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        if not self.standard and abs(event.position().x() - self.dot) < 7:
            self.taken_back.emit(self.name)
        else:
            self._pressed = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None:
            return
        if (event.position() - self._pressed).manhattanLength() >= QApplication.startDragDistance():
            self._pressed = None
            self.dragged.emit(self.name)

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        if self._pressed is not None:
            self._pressed = None
            self.picked.emit(self.name)

    @property
    def dot(self) -> float:
        """Where across the dot is that tells of a value of its own."""
        return 8 + QFontMetrics(text_font()).horizontalAdvance(self.name) + 6.0

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space}:
            self.picked.emit(self.name)
        else:
            super().keyPressEvent(event)

    # ---- looks ----------------------------------------------------------------------------------

    def set_idle(self, reason: str) -> None:
        """Show that the attribute does nothing, and why; an empty reason shows it as usual."""
        if reason != self.idle:
            self.idle = reason
            self.setToolTip(f"Does nothing: {reason}" if reason else self._tip)
            self.update()

    def set_note(self, text: str) -> None:
        """Write something where the curve would be."""
        if text != self._note:
            self._note = text
            self.update()

    def _cells(self) -> tuple[QRectF, QRectF, QRectF]:
        top, height = 5.0, self.height() - 10.0
        birth, curve, drawn = (QRectF(left, top, width, height) for left, width in columns(self.width()))
        return birth, curve, drawn

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
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
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor(RUST))
                painter.drawEllipse(QPointF(self.dot, self.height() / 2), 2.5, 2.5)
            cells = self._cells()
            if isinstance(self.attribute, Tint):
                self._paint_tint(painter, self.attribute, *cells)
            else:
                self._paint_numbers(painter, self.attribute, *cells)

    def _paint_numbers(
        self, painter: QPainter, attribute: Attribute, birth: QRectF, curve: QRectF, drawn: QRectF
    ) -> None:
        unit = unit_of(self.name)
        low, high = drawn_band(attribute, angle=self.name == "turn")
        birth_range = Range.of(*attribute.ends)
        top = max(unit.scale_top, birth_range.high * unit.factor * 1.2, float(high.max()) * unit.factor) / unit.factor
        bottom = min(0.0, birth_range.low, float(low.min()))
        replaced = bool(self.idle) or (attribute.life is not None and attribute.mode is LifeMode.REPLACE)
        self._paint_birth(painter, birth_range, unit, bottom, top, birth, replaced)
        painter.setFont(figures_font(10))
        painter.setPen(QColor(SOFT))
        if self.name == "lifetime":
            painter.drawText(curve.united(drawn), Qt.AlignmentFlag.AlignVCenter, self._note)
            return
        if attribute.life is None:
            painter.drawText(curve, Qt.AlignmentFlag.AlignCenter, "steady")
        else:
            values = [y for _, y in attribute.life.points]
            painter.setPen(QPen(QColor(TEAL), 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            plot = QRectF(curve.left(), curve.top() + 1, 38, curve.height() - 2)
            painter.drawPath(curve_path(attribute.life, plot, min(0.0, *values), max(1.0, *values)))
            painter.setPen(QColor(SOFT))
            painter.drawText(
                curve.adjusted(42, 0, 6, 0),
                Qt.AlignmentFlag.AlignVCenter,
                MODE_WORDS[attribute.mode].split()[0],
            )
        self._paint_band(painter, low, high, unit, bottom, top, drawn)

    def _paint_birth(
        self,
        painter: QPainter,
        birth: Range,
        unit: AttributeUnit,
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
        painter.setPen(QColor(FAINT if replaced else INK))
        text = range_text(birth, unit)
        where = box.adjusted(0, -4, 0, -5)
        painter.drawText(where, Qt.AlignmentFlag.AlignVCenter, text)
        if replaced:
            width = painter.fontMetrics().horizontalAdvance(text)
            painter.drawLine(
                QPointF(where.left(), where.center().y()), QPointF(where.left() + width, where.center().y())
            )

    def _paint_band(
        self,
        painter: QPainter,
        low: np.ndarray,
        high: np.ndarray,
        unit: AttributeUnit,
        bottom: float,
        top: float,
        box: QRectF,
    ) -> None:
        span = max(top - bottom, 1e-9)
        share = 0.3 if box.width() >= FIGURES else 1.0
        plot = QRectF(box.left(), box.top(), min(box.width() * share, 40), box.height())
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
        plain = AttributeUnit("", unit.factor, decimals=unit.decimals)
        text = range_text(Range(low=float(low.min()), high=float(high.max())), plain)
        if box.width() >= FIGURES:
            painter.drawText(box.adjusted(plot.width() + 5, 0, 12, 0), Qt.AlignmentFlag.AlignVCenter, text)

    def _paint_tint(self, painter: QPainter, tint: Tint, birth: QRectF, curve: QRectF, drawn: QRectF) -> None:
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
            painter.drawText(curve, Qt.AlignmentFlag.AlignCenter, "steady")
        else:
            painter.setBrush(gradient_brush(tint.life, curve.left(), curve.left() + 58))
            painter.drawRoundedRect(QRectF(curve.left(), curve.top() + 3, 58, curve.height() - 6), 2, 2)
            painter.drawText(curve.adjusted(62, 0, 6, 0), Qt.AlignmentFlag.AlignVCenter, MODE_WORDS[tint.mode][0])
        table = gradient_table(tint.life)
        painter.setPen(Qt.PenStyle.NoPen)
        for row, start in enumerate((tint.first, tint.second)):
            factor = (1.0, 1.0, 1.0) if replaced else start
            for k in range(24):
                colour = table[round(k / 23 * (len(table) - 1))]
                painter.setBrush(to_screen(tuple(float(c) * f for c, f in zip(colour, factor, strict=True))))
                width = drawn.width() / 24
                painter.drawRect(
                    QRectF(
                        drawn.left() + k * width,
                        drawn.top() + row * drawn.height() / 2,
                        width + 0.5,
                        drawn.height() / 2,
                    )
                )
