"""The stretch of the show that is played round and round: laid out by hand or by key, and how it is drawn."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter

from wraithon.desktop.theme.colours import TEAL
from wraithon.desktop.timeline.lanes import RULER

if TYPE_CHECKING:
    from PySide6.QtWidgets import QMenu

    from wraithon.desktop.session.session import Session
    from wraithon.desktop.timeline.lanes import Lanes


NONE = (0.0, 0.0)


class LoopTool(QObject):
    """Holds the stretch; it is the window's wish, not a part of the project.

    Signals
    -------
    changed
        The stretch is another: its start and its end in seconds of the show; none where both are 0.
    """

    changed = Signal(float, float)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.stretch: tuple[float, float] = NONE
        self._from: float | None = None
        self._before = NONE
        session.loaded.connect(self.clear)

    @property
    def dragging(self) -> bool:
        """Whether an end is being dragged."""
        return self._from is not None

    def lay(self, start: float, end: float) -> None:
        """Play what lies between two moments over and over; they are put on steps, at least one apart."""
        rate = self._session.project.step_rate
        low, high = sorted((max(0, round(start * rate)), max(0, round(end * rate))))
        self._set((low / rate, max(high, low + 1) / rate))

    def clear(self) -> None:
        """Play on to the end."""
        self._set(NONE)

    def toggle(self, start: float, end: float) -> None:
        """Lay out a stretch where there is none; else play on."""
        if self.stretch == NONE:
            self.lay(start, end)
        else:
            self.clear()

    def _set(self, stretch: tuple[float, float]) -> None:
        if stretch != self.stretch:
            self.stretch = stretch
            self.changed.emit(*stretch)

    def grab(self, time: float) -> None:
        """Begin to lay out a stretch at a moment."""
        self._from, self._before = time, self.stretch

    def drag(self, time: float) -> None:
        """Lay it out up to a moment."""
        if self._from is not None:
            self.lay(self._from, time)

    def release(self) -> None:
        """Keep what was laid out."""
        self._from = None

    def give_up(self) -> None:
        """Restore what was there before the drag."""
        self._from = None
        self._set(self._before)

    def fill(self, menu: QMenu, time: float) -> None:
        """Offer what can be done about the stretch at a moment."""
        start, end = self.stretch
        if self.stretch == NONE:
            menu.addAction("Play round from here", lambda: self.lay(time, time + 1.0))
            return
        if time < end:
            menu.addAction("Play round from here", lambda: self.lay(time, end))
        if time > start:
            menu.addAction("Loop up to here", lambda: self.lay(start, time))
        menu.addAction("Play on, not round\tL", self.clear)

    def paint(self, painter: QPainter, lanes: Lanes) -> None:
        """Paint the stretch as a band of the ruler with an upright at either end."""
        if self.stretch == NONE:
            return
        left, right = map(lanes.x_of, self.stretch)
        teal = QColor(TEAL)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(teal.red(), teal.green(), teal.blue(), 70))
        painter.drawRect(QRectF(left, 0, right - left, RULER - 2))
        painter.setBrush(teal)
        painter.drawRect(QRectF(left, 0, 2, RULER - 2))
        painter.drawRect(QRectF(right - 2, 0, 2, RULER - 2))
