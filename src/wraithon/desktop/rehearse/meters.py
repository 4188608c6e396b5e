"""Meters: every signal with its value and its last seconds as a line; those that are given can be dragged."""

from __future__ import annotations

import time
from collections import deque
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from wraithon.desktop.theme.colours import GROUND, INK, LINE, PANEL, RAISED, RUST, TEAL
from wraithon.desktop.theme.theme import figures_font, text_font
from wraithon.desktop.widgets.basics import OwnKeys, ShowsFocus, column_of, shown
from wraithon.project.staging.signals import known_signals

if TYPE_CHECKING:
    from wraithon.desktop.engine.rendered_frame import RenderedFrame
    from wraithon.project.project import Project
    from wraithon.project.staging.driving import SignalKind


SECONDS = 4.0
"""Seconds of a signal that its line shows."""
HIGH = 30
BEAT = 0.1
"""Seconds between paintings while playing."""


class SignalMeter(OwnKeys, ShowsFocus, QWidget):
    """One signal.

    Signals
    -------
    given
        A value that was dragged, or stepped to by an arrow key.
    """

    given = Signal(float)
    own_keys = frozenset({Qt.Key.Key_Left, Qt.Key.Key_Right})

    def __init__(self, kind: SignalKind) -> None:
        super().__init__()
        self.kind = kind
        self.value = 0.0
        self.line: deque[tuple[float, float]] = deque(maxlen=400)
        """Moments of the show, and what it was then."""
        self.setFixedHeight(HIGH)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName(kind.text)
        if kind.given:
            self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            self.setCursor(Qt.CursorShape.SizeHorCursor)
            self.setToolTip(f"{kind.text}: drag, or use the arrow keys, to set it")

    def show_value(self, moment: float, value: float) -> None:
        """Take a value over."""
        if self.line and moment < self.line[-1][0]:
            while self.line and self.line[-1][0] >= moment:
                self.line.pop()
        self.value = value
        self.line.append((moment, value))

    def _share(self, value: float) -> float:
        span = self.kind.high - self.kind.low
        return min(max((value - self.kind.low) / span, 0.0), 1.0) if span else 0.0

    def _give(self, x: float) -> None:
        share = min(max(x / max(1, self.width()), 0.0), 1.0)
        self.given.emit(self.kind.low + share * (self.kind.high - self.kind.low))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.kind.given and event.button() == Qt.MouseButton.LeftButton:
            self._give(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.kind.given and event.buttons() & Qt.MouseButton.LeftButton:
            self._give(event.position().x())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.kind.given and event.key() in self.own_keys:
            step = (self.kind.high - self.kind.low) / 20 * (1 if event.key() == Qt.Key.Key_Right else -1)
            self.given.emit(min(max(self.value + step, self.kind.low), self.kind.high))
        else:
            super().keyPressEvent(event)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), QColor(PANEL))
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(text_font(11))
            top = QRectF(0, 0, self.width(), 15)
            painter.setPen(QColor(INK))
            painter.drawText(top, Qt.AlignmentFlag.AlignVCenter, self.kind.text)
            painter.setFont(figures_font(11))
            reading = f"{shown(self.value, 2)} {self.kind.unit}".rstrip()
            painter.drawText(top, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, reading)
            box = QRectF(0.5, 16.5, self.width() - 1, HIGH - 19)
            painter.setPen(QPen(QColor(TEAL if self.hasFocus() else LINE), 1))
            painter.setBrush(QColor(GROUND))
            painter.drawRoundedRect(box, 2, 2)
            if self.kind.given:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor(RAISED))
                painter.drawRect(QRectF(1, 17, (self.width() - 2) * self._share(self.value), HIGH - 20))
            if len(self.line) > 1:
                now = self.line[-1][0]
                points = [
                    QPointF(
                        box.right() - (now - moment) / SECONDS * box.width(),
                        box.bottom() - 1.5 - self._share(value) * (box.height() - 3),
                    )
                    for moment, value in self.line
                    if now - moment <= SECONDS
                ]
                painter.setPen(QPen(QColor(RUST if self.kind.given else TEAL), 1.2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawPolyline(QPolygonF(points))


class Meters(QWidget):
    """All signals of a project, one below the other.

    Signals
    -------
    given
        A signal's key, and the value it is given.
    """

    given = Signal(str, float)

    def __init__(self) -> None:
        super().__init__()
        self._column = column_of(self, 3)
        self.meters: dict[str, SignalMeter] = {}
        self._painted = 0.0
        self._known: dict[str, SignalKind] = {}

    def refresh(self, project: Project) -> None:
        """Show the signals that a project has."""
        known = known_signals(project)
        if known == self._known:
            return
        self._known = known
        while (item := self._column.takeAt(0)) is not None:
            if item.widget() is not None:
                item.widget().hide()
                item.widget().deleteLater()
        self.meters = {}
        for key, kind in known.items():
            meter = self.meters[key] = SignalMeter(kind)
            meter.given.connect(lambda value, key=key: self.given.emit(key, value))
            self._column.addWidget(meter)
        self._column.addStretch(1)

    def show_rendered(self, rendered: RenderedFrame) -> None:
        """Take over what signals are at a picture's moment; meters need not keep up with the picture."""
        for key, meter in self.meters.items():
            meter.show_value(rendered.time, rendered.signals.get(key, 0.0))
        now = time.perf_counter()
        if now - self._painted > BEAT or not rendered.playing:
            self._painted = now
            for meter in self.meters.values():
                meter.update()
