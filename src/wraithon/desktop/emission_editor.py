"""When a layer gives birth: the numbers, and a small timeline with the rate as height and bursts as pins."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from wraithon.desktop.fields import Check, NumberField, labelled, soft, tool
from wraithon.desktop.theme import GROUND, LINE, RAISED, RUST, SOFT, TEAL, figures_font
from wraithon.project.emission import MAX_LIVING, Burst, Emission

__all__ = ["EmissionEditor"]


class EmissionEditor(QWidget):
    """Edits an emission.

    Signals
    -------
    edited
        What changed in words, the emission, and whether the gesture is over.
    """

    edited = Signal(str, object, bool)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._emission = Emission()
        self._picture = _Timeline()
        self._rate = NumberField("/s", low=0, high=1e5, step=1, decimals=1, name="Births a second")
        self._start = NumberField("s", low=0, high=1e4, step=0.05, name="Seconds before the rate begins")
        self._limited = Check("for")
        self._limited.setToolTip("Let the rate last only so long within the effect")
        self._length = NumberField("s", low=0, high=1e4, step=0.05, name="Seconds the rate lasts")
        self._limit = NumberField("alive", low=1, high=MAX_LIVING, step=10, decimals=0, name="Most alive at once")
        self._rate.edited.connect(lambda v, f: self._change("Rate", f, rate=v))
        self._start.edited.connect(lambda v, f: self._change("Rate start", f, start=v))
        self._length.edited.connect(lambda v, f: self._change("Rate length", f, length=v))
        self._limit.edited.connect(lambda v, f: self._change("Limit", f, limit=round(v)))
        self._limited.clicked.connect(self._limit_length)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(self._picture)
        layout.addWidget(labelled("rate", self._rate, self._start_row(), width=60))
        layout.addWidget(labelled("at most", self._limit, width=60))
        self._bursts = QVBoxLayout()
        self._bursts.setSpacing(3)
        layout.addLayout(self._bursts)
        self._rows: list[_BurstRow] = []
        row = QHBoxLayout()
        row.addWidget(tool("plus", "Add a burst: many births at once", self._add_burst))
        self._hint = soft("burst: many births at one moment")
        row.addWidget(self._hint, 1)
        layout.addLayout(row)

    def _start_row(self) -> QWidget:
        return labelled("from", self._start, self._limited, self._length, width=28)

    def show_emission(self, emission: Emission, length: float | None) -> None:
        """Show an emission of an effect that lasts `length` seconds; nothing is signalled."""
        self._emission = emission
        self._rate.set_value(emission.rate)
        self._start.set_value(emission.start)
        self._limited.setChecked(emission.length is not None)
        self._length.setEnabled(emission.length is not None)
        self._length.set_value(emission.length if emission.length is not None else (length or 0.0))
        self._limit.set_value(emission.limit)
        self._picture.show_emission(emission, length)
        while len(self._rows) > len(emission.bursts):
            row = self._rows.pop()
            self._bursts.removeWidget(row)
            row.hide()
            row.deleteLater()
        while len(self._rows) < len(emission.bursts):
            row = _BurstRow(len(self._rows))
            row.edited.connect(self._burst_edited)
            row.removed.connect(self._remove_burst)
            self._rows.append(row)
            self._bursts.addWidget(row)
        for row, burst in zip(self._rows, emission.bursts, strict=True):
            row.show_burst(burst)

    def _change(self, words: str, final: bool, **changes: object) -> None:
        self._emission = self._emission.but(**changes)
        self.edited.emit(words, self._emission, final)

    def _limit_length(self, checked: bool) -> None:
        self._change("Rate length", True, length=max(self._length.value, 0.1) if checked else None)

    def _add_burst(self) -> None:
        last = self._emission.bursts[-1].time + 0.1 if self._emission.bursts else 0.0
        self._change("Add burst", True, bursts=(*self._emission.bursts, Burst(time=round(last, 3))))

    def _remove_burst(self, index: int) -> None:
        bursts = list(self._emission.bursts)
        del bursts[index]
        self._change("Remove burst", True, bursts=tuple(bursts))

    def _burst_edited(self, index: int, burst: Burst, final: bool) -> None:
        bursts = list(self._emission.bursts)
        bursts[index] = burst
        self._change("Burst", final, bursts=tuple(bursts))


class _BurstRow(QWidget):
    """One burst: how many, when, how often."""

    edited = Signal(int, object, bool)
    removed = Signal(int)

    def __init__(self, index: int) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._index, self._burst = index, Burst()
        self._count = NumberField("", low=0, high=MAX_LIVING, step=1, decimals=0, name="Births of the burst")
        self._time = NumberField("s", low=0, high=1e4, step=0.01, name="Seconds after the firing began")
        self._repeats = NumberField("×", low=1, high=1000, step=1, decimals=0, name="How many times")
        self._interval = NumberField("s", low=0.001, high=1e4, step=0.01, name="Seconds between repeats")
        self._count.edited.connect(lambda v, f: self._change(f, count=round(v)))
        self._time.edited.connect(lambda v, f: self._change(f, time=v))
        self._repeats.edited.connect(lambda v, f: self._change(f, repeats=round(v)))
        self._interval.edited.connect(lambda v, f: self._change(f, interval=v))
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(labelled("burst", self._count, width=60), 3)
        layout.addWidget(labelled("at", self._time, width=14), 3)
        layout.addWidget(self._repeats, 2)
        layout.addWidget(self._interval, 2)
        layout.addWidget(tool("x", "Remove this burst", lambda: self.removed.emit(self._index)))

    def show_burst(self, burst: Burst) -> None:
        """Show a burst."""
        self._burst = burst
        self._count.set_value(burst.count)
        self._time.set_value(burst.time)
        self._repeats.set_value(burst.repeats)
        self._interval.set_value(burst.interval)
        self._interval.setEnabled(burst.repeats > 1)

    def _change(self, final: bool, **changes: object) -> None:
        self._burst = self._burst.but(**changes)
        self.edited.emit(self._index, self._burst, final)


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

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
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
            painter.drawRect(block)
            painter.setPen(QPen(QColor(TEAL), 2))
            painter.drawLine(block.topLeft(), block.topRight())
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
        end_words = f"{span / 1.05:.2f} s" if self._length is not None else "until it is stopped"
        painter.drawText(line, Qt.AlignmentFlag.AlignRight, end_words)
