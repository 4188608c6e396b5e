"""The timeline: time lanes along the bottom, with the clips, the events on them, what was fired and what lives."""

from __future__ import annotations

import time
from itertools import islice
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QPointF, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QHideEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QLineEdit, QMenu, QScrollBar, QWidget

from wraithon.desktop.theme.colours import PANEL, RUST, TEAL
from wraithon.desktop.timeline.flag_tool import FlagTool
from wraithon.desktop.timeline.lanes import CLIP, EVENTS, LEFT, RULER, FlagPlace, Lanes
from wraithon.desktop.timeline.loop_tool import LoopTool
from wraithon.desktop.timeline.marks import duplicate_mark, mark_at, selected_mark
from wraithon.desktop.timeline.order_tool import OrderTool
from wraithon.desktop.widgets.backdrop import Backdrop
from wraithon.desktop.widgets.basics import OwnKeys, ShowsFocus
from wraithon.project.base import LONGEST_NAME
from wraithon.stage.performance import Performance, Segment
from wraithon.support.identity import same_objects

if TYPE_CHECKING:
    from wraithon.desktop.engine.rendered_frame import RenderedFrame
    from wraithon.desktop.session.session import Session


RUN_BEAT = 0.25
"""Seconds between paintings of the firings while playing: the picture comes first."""
FEWEST_SECONDS, MAX_SECONDS = 0.25, 600.0
MAX_PASSES = 600
BAR, EDGE, BEYOND_BEAT = 10, 14, 40
"""Height of the bar in pixels, how near to an edge a drag goes beyond it, and milliseconds between its steps."""
LIT = 0.3
"""Seconds of the show that a flag stands out for once its clip has passed it."""
ROUND_TIP = "Drag moves the playhead, Shift + drag marks a loop (O)"


class Timeline(OwnKeys, ShowsFocus, QWidget):
    """The lanes. Dragging in the ruler or an empty place moves the playhead.

    Signals
    -------
    sought
        A moment of the show to go to, in seconds.
    """

    sought = Signal(float)
    own_keys = frozenset({Qt.Key.Key_Delete, Qt.Key.Key_Backspace})

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.time = 0.0
        self.lanes = Lanes()
        self.order = OrderTool(session)
        self.rounds = LoopTool(session)
        self.rounds.changed.connect(self.update)
        self._rendered: RenderedFrame | None = None
        self._performance: Performance | None = None
        self._painted = -1.0
        self._still = Backdrop(PANEL)
        self._run = Backdrop()
        self._run_drawn = 0.0
        self._made_of: tuple[object, ...] = ()
        self._flags: list[FlagPlace] = []
        self._flags_of: tuple[tuple[object, ...], tuple[object, ...]] = ((), ())
        """Where the flags were put last, and for what."""
        self.flag = FlagTool(session)
        self.lit: list[FlagPlace] = []
        """Flags that the clips have just passed."""
        self._seeking = False
        self._renaming: str | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(146)
        # Nothing beneath it is painted again with every frame.
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMouseTracking(True)
        self.setAccessibleName("Timeline")
        self._name = QLineEdit(self)
        self._name.setMaxLength(LONGEST_NAME)
        self._name.hide()
        self._name.editingFinished.connect(self._renamed)
        self._name.installEventFilter(self)
        self.bar = QScrollBar(Qt.Orientation.Horizontal, self)
        self.bar.setAccessibleName("What of the timeline is seen")
        self.bar.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.bar.valueChanged.connect(self._bar_moved)
        self._drag_x = 0.0
        """Where a drag is, across."""
        self._beyond = QTimer(self, interval=BEYOND_BEAT)
        """Runs while a drag is beyond an edge."""
        self._beyond.timeout.connect(self._go_beyond)
        session.changed.connect(self.refresh)
        session.loaded.connect(self.refresh)
        session.selected.connect(self._selected)
        self.refresh()

    # ---- what is shown --------------------------------------------------------------------------

    def refresh(self) -> None:
        """Take over the project's clips and marks."""
        project, character = self._session.project, self._session.character
        use = project.character
        made_of = (character, use, project.stage)
        if made_of != self._made_of:
            self._made_of = made_of
            there = character is not None and use is not None
            self._performance = Performance(character, use, project.stage) if there else None
        self.update()

    def _selected(self, _kind: str, _what: str) -> None:
        self.update()

    def show_rendered(self, rendered: RenderedFrame) -> None:
        """Take over the moment, the firings and the number alive."""
        self._rendered = rendered
        start = self.lanes.start
        if not self._seeking:
            self.time = rendered.time
            if rendered.playing:
                self._keep_in_sight()
        self._light_up(rendered)
        # The lanes need not keep up with the picture, whose frames come first; mostly only the playhead moves.
        if not rendered.playing or self.lanes.start != start or time.perf_counter() - self._run_drawn > RUN_BEAT:
            self.update()
        elif abs(rendered.time - self._painted) > 1 / 15:
            for moment in (self._painted, self.time):
                self.update(QRect(round(self.x_of(moment)) - 7, 0, 14, self.height()))

    def _light_up(self, rendered: RenderedFrame) -> None:
        """Highlight the flags that clips have just passed."""
        ago = (
            (rendered.time - flag.base - flag.mark.time, flag) for flag in (self.flags() if rendered.playing else ())
        )
        lit = [flag for late, flag in ago if 0 <= late < LIT]
        for flag in {(flag.mark.id, flag.x): flag for flag in (*self.lit, *lit)}.values():
            self.update(QRect(round(flag.x) - 3, RULER + CLIP - 9, 18, EVENTS + 9))
        self.lit = lit

    def _keep_in_sight(self) -> None:
        if self.time > self.lanes.start + self.lanes.span * 0.94:
            self.lanes.start = self.time - self.lanes.span * 0.06
        elif self.time < self.lanes.start:
            self.lanes.start = max(0.0, self.time - self.lanes.span * 0.06)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.lanes.width, self.lanes.height = self.width(), self.height() - BAR
        self.bar.setGeometry(LEFT, self.height() - BAR, max(0, self.width() - LEFT), BAR)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._beyond.stop()

    # ---- what is in sight -----------------------------------------------------------------------

    def fit(self) -> None:
        """Show the whole running order, or all that has been played where that is longer or there is none."""
        performance = self._performance
        period = performance.period if performance is not None else 0.0
        played = self._rendered.time if self._rendered is not None and performance is None else 0.0
        self.lanes.start, self.lanes.span = 0.0, min(max(1.04 * max(period, played), 1.0), MAX_SECONDS)
        self.update()

    def zoom_in(self) -> None:
        """Show less time, around the playhead."""
        self.zoom(0.8, self.x_of(self.time))

    def zoom_out(self) -> None:
        """Show more time, around the playhead."""
        self.zoom(1.25, self.x_of(self.time))

    def _show_bar(self) -> None:
        """Let the bar show what of the timeline is seen."""
        lanes = self.lanes
        period = self._performance.period if self._performance is not None else 0.0
        end = max(period, self.time, lanes.start + lanes.span)
        values = (max(0, round((end - lanes.span) * 1000)), round(lanes.span * 1000), round(lanes.start * 1000))
        if values != (self.bar.maximum(), self.bar.pageStep(), self.bar.value()):
            self.bar.blockSignals(True)
            self.bar.setRange(0, values[0])
            self.bar.setPageStep(values[1])
            self.bar.setSingleStep(max(1, values[1] // 20))
            self.bar.setValue(values[2])
            self.bar.blockSignals(False)

    def _bar_moved(self, value: int) -> None:
        self.lanes.start = value / 1000
        self.update()

    def _go_beyond(self) -> None:
        """Move on while a drag is held beyond an edge, faster the farther it is."""
        away = max(self._drag_x - (self.width() - EDGE), 0.0) + min(self._drag_x - (LEFT + EDGE), 0.0)
        if not away or not self._dragging:
            self._beyond.stop()
            return
        by = min(max(away / 400, -0.1), 0.1) * self.lanes.span
        self.lanes.start = max(0.0, self.lanes.start + by)
        self._drag_to(min(max(self._drag_x, LEFT), float(self.width())))
        self.update()

    @property
    def _dragging(self) -> bool:
        return self.flag.dragged is not None or self._seeking or self.rounds.dragging

    def _drag_to(self, x: float) -> None:
        """Move what is being dragged."""
        if self.flag.dragged is not None:
            self.flag.drag(self.lanes.time_at(x))
        elif self._seeking:
            self._seek_to(x)
        elif self.rounds.dragging:
            self.rounds.drag(self.lanes.time_at(x))

    def x_of(self, time: float) -> float:
        """Return where a moment is drawn."""
        return self.lanes.x_of(time)

    def passes(self) -> list[tuple[float, Segment]]:
        """Return the passes of clips in sight: show time of their beginning, and the segment."""
        performance = self._performance
        if performance is None or (self._rendered is not None and self._rendered.driven):
            return []
        return list(islice(performance.passes(self.lanes.start, self.lanes.start + self.lanes.span), MAX_PASSES))

    def flags(self) -> list[FlagPlace]:
        """Return all flags in sight; worked out anew only where something of it has changed."""
        project, lanes = self._session.project, self.lanes
        driven = self._rendered is not None and self._rendered.driven
        position, shown = (lanes.start, lanes.span, lanes.width, driven), (self._performance, project.character)
        if position != self._flags_of[0] or not same_objects(shown, self._flags_of[1]):
            names = {event.id: event.name for event in project.character.events} if project.character else {}
            self._flags_of = position, shown
            self._flags = [
                FlagPlace(
                    mark, segment.use.name, names.get(mark.event, "(no event)"), base, segment.moving,
                    self.x_of(base + mark.time),
                )
                for base, segment in self.passes() for mark in segment.use.marks
            ]  # fmt: skip
        return self._flags

    # ---- doing ----------------------------------------------------------------------------------

    def mark_here(self) -> None:
        """Mark the selected event (or a new one) on the clip at the playhead, and select the mark."""
        self.mark_at(self.time)

    def mark_at(self, time: float) -> None:
        """Mark the selected event, or a new one, on the clip that is played at a moment of the show."""
        mark_at(self._session, self._performance, time)

    def play_round(self) -> None:
        """Play the clip's pass at the playhead round and round; or play on, where a stretch is played round."""
        if self._performance is not None:
            _, number, inside = self._performance.segment_at(self.time)
            start = self.time - inside
            self.rounds.toggle(start, start + self._performance.segment(number).length)

    def remove_selected(self) -> None:
        """Delete the selected marks; their events stay."""
        self.flag.remove()

    def nudge(self, seconds: float) -> None:
        """Move the selected marks."""
        self.flag.nudge(seconds)

    def rename_event(self, flag: FlagPlace) -> None:
        """Open a field over a flag to rename its event."""
        self._renaming = flag.mark.event
        self._name.setText(flag.name)
        self._name.setGeometry(int(flag.x) + 2, RULER + CLIP + 1, 130, 22)
        self._name.show()
        self._name.setFocus()
        self._name.selectAll()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Let Escape close the field over a flag and leave the name as it was."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() == Qt.Key.Key_Escape:
            self._renaming = None
            self._name.hide()
            self.setFocus()
            return True
        return super().eventFilter(watched, event)

    def _renamed(self) -> None:
        name, key = self._name.text().strip(), self._renaming
        self._renaming = None
        self._name.hide()
        event = self._session.project.event(key)
        if event is not None and name and name != event.name:
            self._session.set_value("event", event.id, "name", name, f"Rename event to {name}")

    # ---- hands ----------------------------------------------------------------------------------

    def _flag_at(self, at: QPointF) -> FlagPlace | None:
        if not RULER + CLIP - 2 <= at.y() <= RULER + CLIP + EVENTS:
            return None
        near = [f for f in self.flags() if f.x - 5 <= at.x() <= f.x + 12 + self._flag_width(f)]
        return min(near, key=lambda f: abs(f.x - at.x()), default=None)

    def clip_run_at(self, at: QPointF) -> int:
        """Return which entry of the running order is drawn at a point; -1 for none."""
        if at.x() < LEFT or not RULER <= at.y() < RULER + CLIP - 2:
            return -1
        time = self.lanes.time_at(at.x())
        return next((s.clip_run for base, s in self.passes() if base <= time < base + s.length), -1)

    def _flag_width(self, flag: FlagPlace) -> float:
        return min(7.0 * len(flag.name), 90.0)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        flag = self._flag_at(event.position())
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.rounds.grab(self.lanes.time_at(event.position().x()))
        elif flag is not None:
            self.flag.press(flag, control=bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
        elif event.position().x() >= LEFT - 6:
            if (clip_run := self.clip_run_at(event.position())) >= 0:
                self.order.select(clip_run)
            self._seeking = True
            self._seek_to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragging:
            self._drag_x = event.position().x()
            self._drag_to(min(max(self._drag_x, LEFT), float(self.width())))
            if not LEFT + EDGE <= self._drag_x <= self.width() - EDGE:
                self._beyond.start()
        else:
            over = self._flag_at(event.position())
            self.setCursor(Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor)
            self.setToolTip(self._tip(over) if over else ROUND_TIP if event.position().y() < RULER else "")

    @staticmethod
    def _tip(flag: FlagPlace) -> str:
        text = f"{flag.name}: {flag.mark.time:.3f} s on {flag.clip}"
        return (
            f"{text}\nDrag moves it, Ctrl + click takes one more, Ctrl + drag duplicates, F2 renames, Delete removes"
        )

    def _seek_to(self, x: float) -> None:
        self.time = self.lanes.time_at(x)
        self.sought.emit(self.time)
        self.update()

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._beyond.stop()
        self.flag.release()
        self._seeking = False
        self.rounds.release()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        flag = self._flag_at(event.position())
        if flag is not None:
            self.flag.release()
            self.rename_event(flag)
        elif RULER + CLIP <= event.position().y() <= RULER + CLIP + EVENTS:
            self.mark_at(self.lanes.time_at(event.position().x()))

    def wheelEvent(self, event: QWheelEvent) -> None:
        turns = event.angleDelta().y() / 120 or -event.angleDelta().x() / 120
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(0.85**turns, event.position().x())
        else:
            self.lanes.start = max(0.0, self.lanes.start - turns * self.lanes.span * 0.12)
        self.update()

    def zoom(self, factor: float, x: float) -> None:
        """Show more (above 1) or less time; what is at `x` stays there."""
        at = self.lanes.time_at(x)
        span = min(max(self.lanes.span * factor, FEWEST_SECONDS), MAX_SECONDS)
        self.lanes.start = max(0.0, at - (at - self.lanes.start) * span / self.lanes.span)
        self.lanes.span = span
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = Qt.Key
        step = 1 / self._session.project.step_rate
        if event.key() == keys.Key_Escape and self.flag.dragged is not None:
            self.flag.cancel()
        elif event.key() == keys.Key_Escape and self.rounds.dragging:
            self.rounds.give_up()
        elif event.key() in {keys.Key_Delete, keys.Key_Backspace} and selected_mark(self._session):
            self.remove_selected()
        elif self.order.key(event):
            pass
        elif event.key() == keys.Key_Left:
            self.nudge(-step) if selected_mark(self._session) else self.sought.emit(max(0.0, self.time - step))
        elif event.key() == keys.Key_Right:
            self.nudge(step) if selected_mark(self._session) else self.sought.emit(self.time + step)
        elif event.key() == keys.Key_F2 and selected_mark(self._session):
            flag = next((f for f in self.flags() if f.mark.id == selected_mark(self._session)), None)
            if flag is not None:
                self.rename_event(flag)
        elif event.key() in {keys.Key_Plus, keys.Key_Equal, keys.Key_Minus}:
            self.zoom(1.25 if event.key() == keys.Key_Minus else 0.8, self.x_of(self.time))
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        flag = self._flag_at(QPointF(event.pos()))
        menu = QMenu(self)
        if flag is not None:
            self._session.select("mark", flag.mark.id)
            menu.addAction("Rename event", lambda: self.rename_event(flag))
            menu.addAction("Duplicate mark", lambda: duplicate_mark(self._session))
            menu.addAction("Delete mark", self.remove_selected)
        elif (clip_run := self.clip_run_at(QPointF(event.pos()))) >= 0:
            self.order.select(clip_run)
            self.order.fill(menu)
        else:
            at = self.lanes.time_at(event.pos().x())
            menu.addAction("Mark an event here", lambda: self.mark_at(at))
            self.rounds.fill(menu, at)
        menu.popup(event.globalPos())

    # ---- looks ----------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            self._painted = self.time
            self._show_bar()
            position = (self.lanes.start, self.lanes.span, self.size(), self.rounds.stretch)
            project = self._session.project
            shown = (self._session.character, project.character, project.stage)
            playing, driven = (
                (self._rendered.playing, self._rendered.driven) if self._rendered is not None else (False, False)
            )
            self._still.draw_on(
                painter,
                self,
                (*position, driven, self._session.selection, self.flag.chosen),
                shown,
                self._paint_lanes,
            )
            now = time.perf_counter()
            if not playing or now - self._run_drawn > RUN_BEAT:
                self._run.forget()
                self._run_drawn = now
            self._run.draw_on(painter, self, position, (project.effects,), self._paint_run)
            painter.setClipRect(QRectF(LEFT, 0, self.width() - LEFT, self.height()))
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self.lanes.paint_lit(painter, self.lit)
            x = self.x_of(self.time)
            painter.setPen(QPen(QColor(RUST), 1.5))
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
            painter.setBrush(QColor(RUST))
            painter.drawPolygon(QPolygonF([QPointF(x - 5, 0), QPointF(x + 5, 0), QPointF(x, 7)]))
            painter.setClipping(False)
            if self.hasFocus():
                painter.setPen(QPen(QColor(TEAL), 1))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))

    def _paint_run(self, painter: QPainter) -> None:
        """Paint what changes while playing: firings, and how many are alive."""
        self.lanes.clip_to_time(painter)
        if self._rendered is not None:
            self.lanes.paint_states(painter, self._rendered)
            self.lanes.paint_firings(painter, self._rendered, self._session.project, self.time)
            self.lanes.paint_alive(painter, self._rendered)

    def _paint_lanes(self, painter: QPainter) -> None:
        painter.save()
        self.lanes.clip_to_time(painter)
        self.rounds.paint(painter, self.lanes)
        self.lanes.paint_ruler(painter)
        self.lanes.paint_clips(painter, self.passes(), self._session.character, self.order.selected)
        self.lanes.paint_flags(painter, self.flags(), *self._session.selection, self.flag.chosen)
        painter.restore()
        self.lanes.paint_names(painter, empty=self._performance is None)
