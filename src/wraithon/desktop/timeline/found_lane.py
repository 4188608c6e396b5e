"""Moments that were found, as hollow flags over the lane of events: taken, dragged, or left out."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtCore import QEvent, QObject, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from wraithon.desktop.theme.colours import OCHRE, PANEL
from wraithon.desktop.theme.theme import figures_font
from wraithon.desktop.timeline.lanes import EVENTS, EVENTS_TOP, LEFT
from wraithon.desktop.widgets.basics import OwnKeys, counted
from wraithon.desktop.widgets.fields import DRAG_START, ENTER
from wraithon.stage.performance import on_a_step
from wraithon.studio.moments import taken

if TYPE_CHECKING:
    from collections.abc import Iterable

    from wraithon.character.moments.peaks import Candidate
    from wraithon.desktop.session.session import Session
    from wraithon.desktop.timeline.timeline import Timeline
    from wraithon.project.project import Project


REACH = 9
MIN_ROOM = 30
"""Pixels up to the next flag from which on the reason is written there."""


class _Flag(NamedTuple):
    number: int
    """Which of the moments it is."""
    base: float
    """Seconds of the show at which this pass of the clip begins."""
    moving: float
    x: float


def _marks(project: Project) -> list[str]:
    """Return the ids of all marks of the character's clips."""
    return [mark.id for clip in (project.character.clips if project.character else ()) for mark in clip.marks]


class FoundLane(OwnKeys, QWidget):
    """Lies over a timeline's lane of events while there are moments to take."""

    own_keys = frozenset({Qt.Key.Key_Escape})

    def __init__(self, timeline: Timeline, session: Session) -> None:
        super().__init__(timeline)
        self._timeline, self._session = timeline, session
        self.found: list[Candidate] = []
        self._dragged: _Flag | None = None
        self._pressed, self._moved = QPointF(), False
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Moments that were found")
        self.hide()
        timeline.installEventFilter(self)
        session.loaded.connect(lambda: self.show_found(()))

    def show_found(self, found: Iterable[Candidate]) -> None:
        """Show moments to take; none hides the lane."""
        self.found = list(found)
        self._dragged = None
        self.setVisible(bool(self.found))
        self._fit()
        if self.found:
            self.setFocus()
            clips = len({candidate.clip for candidate in self.found})
            text = f"{counted(len(self.found), 'moment')} found on {counted(clips, 'clip')}"
            keys = "Enter accepts all, a click one; the right button skips one"
            self._session.said.emit(f"{text}: {keys}", "fine")
        self.update()

    def eventFilter(self, _watched: QObject, event: QEvent) -> bool:
        """Stay over the timeline's lane, and be painted anew with it."""
        if event.type() == QEvent.Type.Resize:
            self._fit()
        elif event.type() == QEvent.Type.Paint and self.isVisible():
            self.update()
        return False

    def _fit(self) -> None:
        self.setGeometry(LEFT, EVENTS_TOP, max(0, self._timeline.width() - LEFT), EVENTS)

    # ---- what is there --------------------------------------------------------------------------

    def flags(self) -> list[_Flag]:
        """Return the moments as they are drawn: once for each pass of their clips."""
        return [
            _Flag(number, base, segment.moving, self._timeline.x_of(base + candidate.time) - LEFT)
            for base, segment in self._timeline.passes()
            for number, candidate in enumerate(self.found)
            if candidate.clip == segment.use.name and candidate.time < segment.moving
        ]

    def _at(self, at: QPointF) -> _Flag | None:
        near = [flag for flag in self.flags() if -3 <= at.x() - flag.x <= REACH]
        return min(near, key=lambda flag: abs(flag.x - at.x()), default=None)

    def take(self, numbers: Iterable[int]) -> None:
        """Mark moments on their clips, and offer them no more."""
        chosen = set(numbers)
        picked = [candidate for number, candidate in enumerate(self.found) if number in chosen]
        text = f"Take {counted(len(picked), 'moment')}"
        before = _marks(self._session.project)
        if picked and self._session.edit(text, lambda p: taken(p, picked), final=True):
            self.leave(chosen)
            marks = [mark for mark in _marks(self._session.project) if mark not in before]
            if marks:
                self._session.select("mark", *marks)
            self._session.said.emit(f"{counted(len(picked), 'moment')} taken: pick what their triggers start", "fine")

    def leave(self, numbers: Iterable[int]) -> None:
        """Offer moments no more."""
        gone = set(numbers)
        self.found = [candidate for number, candidate in enumerate(self.found) if number not in gone]
        self._dragged = None
        if not self.found and self.hasFocus():
            self._timeline.setFocus()
        self.setVisible(bool(self.found))
        self.update()

    # ---- hands ----------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        flag = self._at(event.position())
        if flag is None:
            event.ignore()  # it is the timeline's
        elif event.button() == Qt.MouseButton.RightButton:
            self.leave([flag.number])
        elif event.button() == Qt.MouseButton.LeftButton:
            self._dragged, self._pressed, self._moved = flag, event.position(), False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        flag = self._dragged
        if flag is None:
            over = self._at(event.position())
            self.setCursor(Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor)
            self.setToolTip(self._text(self.found[over.number]) if over else "")
            event.ignore()
            return
        self._moved = self._moved or abs(event.position().x() - self._pressed.x()) >= DRAG_START
        if self._moved:
            inside = self._timeline.lanes.time_at(event.position().x() + LEFT) - flag.base
            time = on_a_step(inside, flag.moving, self._session.project.step_rate)
            self.found[flag.number] = replace(self.found[flag.number], time=round(time, 4))
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        flag, self._dragged = self._dragged, None
        if flag is None:
            event.ignore()
        elif not self._moved:
            self.take([flag.number])

    def contextMenuEvent(self, event: QEvent) -> None:
        event.accept()  # the right button leaves moments out

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in ENTER:
            self.take(range(len(self.found)))
        elif event.key() == Qt.Key.Key_Escape:
            self.leave(range(len(self.found)))
        else:
            super().keyPressEvent(event)

    # ---- looks ----------------------------------------------------------------------------------

    def _unseen(self) -> str:
        """Return why none of the moments has a flag."""
        clips = ", ".join(dict.fromkeys(candidate.clip for candidate in self.found))
        return f"{counted(len(self.found), 'moment')} on {clips}, not played here: Enter accepts all, Escape none"

    @staticmethod
    def _text(candidate: Candidate) -> str:
        where = f"{candidate.joint}, {candidate.time:.3f} s on {candidate.clip}"
        return f"{where}: {candidate.reason}; sure to {candidate.confidence:.0%}"

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(figures_font(9))
            shade = QColor(PANEL)  # the events there are already show through
            shade.setAlphaF(0.82)
            painter.fillRect(self.rect(), shade)
            flags = sorted(self.flags(), key=lambda flag: flag.x)
            if not flags:
                painter.setPen(QColor(OCHRE))
                painter.drawText(self.rect().adjusted(8, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, self._unseen())
            ends = [*(flag.x for flag in flags), float(self.width())][1:]
            for flag, end in zip(flags, ends, strict=True):
                candidate, colour = self.found[flag.number], QColor(OCHRE)
                colour.setAlphaF(0.45 + 0.55 * candidate.confidence)
                painter.setPen(QPen(colour, 1.6))
                painter.drawLine(QPointF(flag.x, 2), QPointF(flag.x, EVENTS - 2))
                tip = [QPointF(flag.x, 3), QPointF(flag.x + REACH, 7), QPointF(flag.x, 11)]
                painter.drawPolygon(QPolygonF(tip))
                where = QRectF(flag.x + 3, 11, 34, 12)
                painter.drawText(where, Qt.AlignmentFlag.AlignLeft, f"{candidate.confidence:.0%}")
                room = end - flag.x - REACH - 6
                if room > MIN_ROOM:
                    why = painter.fontMetrics().elidedText(candidate.reason, Qt.TextElideMode.ElideRight, int(room))
                    painter.drawText(QRectF(flag.x + REACH + 3, 1, room, 12), Qt.AlignmentFlag.AlignLeft, why)
