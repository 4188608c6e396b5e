"""When a layer emits: the numbers, and a small timeline with the rate as height and bursts as pins."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QWidget

from wraithon.desktop.theme.colours import GROUND, LINE, RAISED, RUST, SOFT, TEAL
from wraithon.desktop.theme.theme import figures_font
from wraithon.desktop.widgets.basics import column_of, soft, tool
from wraithon.desktop.widgets.form import Choice, CurveField, Form, Number, Row, Switch, Tick
from wraithon.desktop.widgets.list_form import ListForm, Tupled
from wraithon.particles.curves import curve_values
from wraithon.project.emission import Burst, Emission, Full
from wraithon.project.life import Curve

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session
    from wraithon.project.effect import Layer


SWELLS = Curve.through((0, 0), (0.3, 1), (0.6, 1), (1, 0))
"""The curve that a rate gets first."""


FULL = (("refuse new", Full.REFUSE), ("kill oldest", Full.END_OLDEST))


def _has_curve(emission: Emission) -> bool:
    return emission.curve is not None


ROWS = (
    Row(
        "rate",
        Number("rate"),
        Number("start", lead="at", undo="Rate start"),
        Switch(
            "length", "Limits the rate to a duration within the effect", text="for", undo="Rate length", stretch=0
        ),
        Number("length", undo="Rate length"),
    ),
    Row(
        "",
        Switch("curve", "Varies the rate over its duration by a curve", text="curve over its duration", on=SWELLS),
        undo="Rate curve",
    ),
    Row("", CurveField("curve", shows=_has_curve), undo="Rate curve"),
    Row(
        "repeat",
        Switch("loop", "Starts the whole emission again", text="every", on=1.0, undo="Loop", stretch=0),
        Number("loop", undo="Loop"),
    ),
    Row(
        "warm-up",
        Number("warm_up"),
    ),
    Row(
        "per metre",
        Number("per_metre"),
        undo="Rate a metre",
    ),
    Row(
        "max alive",
        Switch(
            "limit",
            "Derives the limit from rate, bursts and lifetime",
            text="automatic",
            on=2000,
            inverted=True,
            undo="Limit",
            stretch=0,
        ),
        Number("limit", undo="Limit"),
        Choice("full", choices=FULL, undo="Beyond the limit"),
    ),
)


def _once(burst: Burst) -> str:
    return "the burst happens once" if burst.repeats == 1 else ""


BURST_ROWS = (
    Row(
        "burst",
        Number("count"),
        Number("time", lead="at"),
        width=50,
    ),
    Row(
        "repeats",
        Number("repeats"),
        Number("interval", lead="every", idle=_once),
        width=50,
    ),
    Row(
        "",
        Switch("most", "Varies the count by chance", text="up to", on=40, undo="Burst count", stretch=0),
        Number("most", undo="Burst count"),
        Number("chance", lead="chance", undo="Burst chance"),
        width=50,
    ),
    Row("", Tick("disabled", text="disabled"), width=50, undo="Burst on or off"),
)
BURSTS = Tupled("emission.bursts", lambda _burst: BURST_ROWS, lambda _burst: "burst")


class EmissionEditor(QWidget):
    """Edits a layer's emission."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._layer: Layer | None = None
        column = column_of(self)
        self._picture = _Timeline()
        self.form = Form(session, "layer", "emission", Emission, ROWS)
        self.bursts = ListForm(session, "layer", BURSTS.entries, BURSTS.without, spacing=3)
        for widget in (self._picture, self.form, self.bursts):
            column.addWidget(widget)
        row = QHBoxLayout()
        row.addWidget(tool("plus", "Add a burst: many particles at one moment", self.add_burst))
        row.addWidget(soft("burst: many particles at one moment"), 1)
        column.addLayout(row)

    def show_layer(self, layer: Layer, length: float | None) -> None:
        """Show a layer of an effect that lasts `length` seconds; nothing is edited."""
        self._layer = layer
        self.form.show_model(layer.emission, layer.id)
        self.bursts.show_model(layer, layer.id)
        self._picture.show_emission(layer.emission, length)

    def add_burst(self) -> None:
        """Add a burst a little after the last one."""
        if self._layer is not None:
            bursts = self._layer.emission.bursts
            time = round(bursts[-1].time + 0.1, 3) if bursts else 0.0
            self._session.set_value("layer", self._layer.id, *BURSTS.with_another(self._layer, Burst(time=time)))


class _Timeline(QWidget):
    """The emission over the effect's length."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(54)
        self._emission = Emission()
        self._length: float | None = None

    def show_emission(self, emission: Emission, length: float | None) -> None:
        self._emission, self._length = emission, length
        self.update()

    def _span(self) -> float:
        ends = [b.time + (b.repeats - 1) * b.interval for b in self._emission.bursts]
        window = self._emission.start + (self._emission.length or 0.0)
        return max(self._length if self._length is not None else 2.0, window, *ends, 0.2) * 1.05

    @staticmethod
    def _paint_rate(painter: QPainter, block: QRectF, curve: Curve | None) -> None:
        """Fill a block as high as the rate is through it, and draw its outline."""
        shares = np.linspace(0, 1, 2 if curve is None else 61)
        heights = np.ones(2) if curve is None else np.maximum(curve_values(curve, shares), 0.0)
        heights = heights / max(1.0, float(heights.max()))
        line = [
            QPointF(block.left() + float(share) * block.width(), block.bottom() - float(high) * block.height())
            for share, high in zip(shares, heights, strict=True)
        ]
        painter.drawPolygon([block.bottomLeft(), *line, block.bottomRight()])
        painter.setPen(QPen(QColor(TEAL), 2))
        painter.drawPolyline(line)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(QColor(LINE), 1))
            painter.setBrush(QColor(GROUND))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)
            box, span = QRectF(8, 6, self.width() - 16, self.height() - 22), self._span()
            emission = self._emission
            if emission.rate > 0:
                end = emission.start + emission.length if emission.length is not None else span
                end = min(end, self._length if self._length is not None else span)
                left, right = (
                    box.left() + emission.start / span * box.width(),
                    box.left() + end / span * box.width(),
                )
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor("#27544f"))
                block = QRectF(left, box.top() + box.height() * 0.35, max(right - left, 0), box.height() * 0.65)
                ends = self._length is not None or emission.length is not None
                self._paint_rate(painter, block, emission.curve if ends else None)
                if self._length is None and emission.length is None:
                    painter.setPen(QPen(QColor(TEAL), 2, Qt.PenStyle.DotLine))
                    painter.drawLine(block.topRight(), QPointF(self.width() - 2, block.top()))
            painter.setFont(figures_font(10))
            for burst in emission.bursts:
                for k in range(min(burst.repeats, 60)):
                    x = box.left() + (burst.time + k * burst.interval) / span * box.width()
                    painter.setPen(QPen(QColor(RUST), 2))
                    painter.drawLine(QPointF(x, box.bottom()), QPointF(x, box.top() + 5))
                    painter.setBrush(QColor(RUST))
                    painter.drawEllipse(QPointF(x, box.top() + 4), 3, 3)
            painter.setPen(QPen(QColor(RAISED), 1))
            painter.drawLine(box.bottomLeft(), box.bottomRight())
            painter.setPen(QColor(SOFT))
            line = QRectF(box.left(), box.bottom() + 1, box.width(), 14)
            painter.drawText(line, Qt.AlignmentFlag.AlignLeft, "0 s")
            end_text = f"{span / 1.05:.2f} s" if self._length is not None else "endless"
            painter.drawText(line, Qt.AlignmentFlag.AlignRight, end_text)
