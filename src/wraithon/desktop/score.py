"""The score: time lanes along the bottom, with the clips, the events on them, what was fired and what lives."""

from __future__ import annotations

import math
import time
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
    QWheelEvent,
)
from PySide6.QtWidgets import QLineEdit, QMenu, QWidget

from wraithon.character.model import Character, Clip
from wraithon.character.pose import clip_locals, pose_of, rest_pose
from wraithon.desktop.backdrop import Backdrop
from wraithon.desktop.engine import Shot
from wraithon.desktop.fields import OwnKeys, ShowsFocus, grouped
from wraithon.desktop.session import Session
from wraithon.desktop.theme import (
    GROUND,
    INK,
    LINE,
    PANEL,
    RAISED,
    ROW,
    RUST,
    SOFT,
    TEAL,
    figures_font,
    text_font,
)
from wraithon.project.base import new_id
from wraithon.project.character import Event, Mark
from wraithon.project.edit import find_mark, fresh_name, put_event, put_mark, remove_mark
from wraithon.project.project import Project
from wraithon.stage.performance import Performance, Segment

__all__ = ["FlagPlace", "Score"]

LEFT = 72
RULER, CLIP, EVENTS, FIRINGS = 18, 34, 24, 54
CLIP_TOP, EVENTS_TOP = RULER, RULER + CLIP
FIRINGS_TOP, ALIVE_TOP = EVENTS_TOP + EVENTS, EVENTS_TOP + EVENTS + FIRINGS
RUN_BEAT = 0.25
"""Seconds between paintings of the firings while playing: the picture comes first."""
FEWEST_SECONDS, MOST_SECONDS = 0.25, 600.0


@dataclass(frozen=True)
class FlagPlace:
    """One flag as it is drawn: a mark on one pass of its clip."""

    mark: Mark
    clip: str
    name: str
    base: float
    """Show time at which this pass of the clip begins."""
    moving: float
    x: float


class Score(OwnKeys, ShowsFocus, QWidget):
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
        self.time, self.start, self.span = 0.0, 0.0, 8.0
        self._shot: Shot | None = None
        self._performance: Performance | None = None
        self._painted = -1.0
        self._still = Backdrop(PANEL)
        self._run = Backdrop()
        self._run_drawn = 0.0
        self._made_of: tuple[object, ...] = ()
        self._heights: dict[tuple[int, str], list[np.ndarray]] = {}
        self._drag: FlagPlace | None = None
        self._moved = False
        self._seeking = False
        self._renaming: str | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(146)
        # Nothing beneath it is painted again with every frame.
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMouseTracking(True)
        self.setAccessibleName("Score")
        self._name = QLineEdit(self)
        self._name.setMaxLength(120)
        self._name.hide()
        self._name.editingFinished.connect(self._renamed)
        session.changed.connect(self.refresh)
        session.loaded.connect(self.refresh)
        session.selected.connect(lambda _kind, _what: self.update())
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

    def show_shot(self, shot: Shot) -> None:
        """Take over the moment, the firings and the number alive."""
        self._shot = shot
        start = self.start
        if not self._seeking:
            self.time = shot.time
            if shot.playing:
                self._keep_in_sight()
        # The lanes need not keep up with the picture, whose frames come first; mostly only the playhead moves.
        if not shot.playing or self.start != start or time.perf_counter() - self._run_drawn > RUN_BEAT:
            self.update()
        elif abs(shot.time - self._painted) > 1 / 15:
            for moment in (self._painted, self.time):
                self.update(QRect(round(self.x_of(moment)) - 7, 0, 14, self.height()))

    def _keep_in_sight(self) -> None:
        if self.time > self.start + self.span * 0.94:
            self.start = self.time - self.span * 0.06
        elif self.time < self.start:
            self.start = max(0.0, self.time - self.span * 0.06)

    def x_of(self, time: float) -> float:
        """Return where a moment is drawn."""
        return LEFT + (time - self.start) / self.span * (self.width() - LEFT - 8)

    def time_at(self, x: float) -> float:
        """Return the moment at an x, at least 0."""
        return max(0.0, self.start + (x - LEFT) / max(1, self.width() - LEFT - 8) * self.span)

    def passes(self) -> list[tuple[float, Segment]]:
        """Return the passes of clips in sight: show time of their beginning, and the segment."""
        performance = self._performance
        if performance is None:
            return []
        found: list[tuple[float, Segment]] = []
        turn = math.floor(self.start / performance.period)
        while turn * performance.period < self.start + self.span and len(found) < 600:
            for segment in performance.segments:
                base = turn * performance.period + segment.start
                if base + segment.length >= self.start and base < self.start + self.span:
                    found.append((base, segment))
            turn += 1
        return found

    def flags(self) -> list[FlagPlace]:
        """Return all flags in sight."""
        project = self._session.project
        found = []
        for base, segment in self.passes():
            for mark in segment.use.marks:
                event = project.event(mark.event)
                name = event.name if event else "(no event)"
                x = self.x_of(base + mark.time)
                found.append(FlagPlace(mark, segment.use.name, name, base, segment.moving, x))
        return found

    # ---- doing ----------------------------------------------------------------------------------

    def mark_here(self) -> None:
        """Mark the selected event (or a new one) on the clip at the playhead, and select the mark."""
        self.mark_at(self.time)

    def mark_at(self, time: float) -> None:
        """Mark the selected event, or a new one, on the clip that is played at a moment of the show."""
        performance = self._performance
        use = self._session.project.character
        if performance is None or use is None or performance.segments[0].clip is None:
            self._session.said.emit("Play a clip first: events are marked on clips", "warning")
            return
        segment, inside = performance.clip_moment(time)
        inside = min(inside, max(0.0, segment.moving - 1e-3))
        event = self._chosen_event() or Event(name=fresh_name("event", (e.name for e in use.events)))
        mark = Mark(event=event.id, time=round(inside, 4))

        def change(project: Project) -> Project:
            known = project.event(event.id) is not None
            return put_mark(project if known else put_event(project, event), segment.use.name, mark)

        self._session.edit(f"Mark {event.name}", change)
        self._session.select("mark", mark.id)

    def _chosen_event(self) -> Event | None:
        kind, what = self._session.selection
        project = self._session.project
        if kind == "event":
            return project.event(what)
        if kind == "trigger":
            trigger = project.trigger(what)
            return project.event(trigger.when.event) if trigger and trigger.when.kind == "event" else None
        return None

    def duplicate_mark(self) -> None:
        """Put a second mark of the same event a tenth of a second after the selected one."""
        place = find_mark(self._session.project, self._selected_mark())
        if place is not None:
            twin = place.mark.but(id=new_id(), time=round(place.mark.time + 0.1, 4))
            self._session.edit("Duplicate mark", lambda p: put_mark(p, place.clip, twin))
            self._session.select("mark", twin.id)

    def remove_selected(self) -> None:
        """Delete the selected mark; its event stays."""
        mark = self._selected_mark()
        if mark is not None:
            self._session.edit("Delete mark", lambda p: remove_mark(p, mark))
            self._session.select("", "")

    def nudge(self, seconds: float) -> None:
        """Move the selected mark."""
        place = find_mark(self._session.project, self._selected_mark())
        if place is not None:
            moved = place.mark.but(time=max(0.0, round(place.mark.time + seconds, 4)))
            self._session.edit("Move mark", lambda p: put_mark(p, place.clip, moved), merge=f"move {moved.id}")

    def _selected_mark(self) -> str | None:
        kind, what = self._session.selection
        return what if kind == "mark" else None

    def rename_event(self, flag: FlagPlace) -> None:
        """Open a field over a flag to rename its event."""
        self._renaming = flag.mark.event
        self._name.setText(flag.name)
        self._name.setGeometry(int(flag.x) + 2, RULER + CLIP + 1, 130, 22)
        self._name.show()
        self._name.setFocus()
        self._name.selectAll()

    def _renamed(self) -> None:
        name, key = self._name.text().strip(), self._renaming
        self._renaming = None
        self._name.hide()
        event = self._session.project.event(key)
        if event is not None and name and name != event.name:
            self._session.edit(f"Rename event to {name}", lambda p: put_event(p, event.but(name=name)))

    # ---- hands ----------------------------------------------------------------------------------

    def _flag_at(self, at: QPointF) -> FlagPlace | None:
        if not RULER + CLIP - 2 <= at.y() <= RULER + CLIP + EVENTS:
            return None
        near = [f for f in self.flags() if f.x - 5 <= at.x() <= f.x + 12 + self._flag_width(f)]
        return min(near, key=lambda f: abs(f.x - at.x()), default=None)

    def _flag_width(self, flag: FlagPlace) -> float:
        return min(7.0 * len(flag.name), 90.0)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        flag = self._flag_at(event.position())
        self._moved = False
        if flag is not None:
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                twin = flag.mark.but(id=new_id())
                self._session.edit("Duplicate mark", lambda p: put_mark(p, flag.clip, twin))
                flag = FlagPlace(twin, flag.clip, flag.name, flag.base, flag.moving, flag.x)
            self._session.select("mark", flag.mark.id)
            self._drag = flag
        elif event.position().x() >= LEFT - 6:
            self._seeking = True
            self._seek_to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._moved = True
            self._drag_to(self.time_at(event.position().x()))
        elif self._seeking:
            self._seek_to(event.position().x())
        else:
            over = self._flag_at(event.position())
            self.setCursor(Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor)
            self.setToolTip(self._tip(over))

    def _tip(self, flag: FlagPlace | None) -> str:
        if flag is None:
            return ""
        words = f"{flag.name}: {flag.mark.time:.3f} s on {flag.clip}"
        return f"{words}\nDrag moves it, Ctrl + drag duplicates, F2 renames, Delete removes"

    def _drag_to(self, time: float) -> None:
        flag = self._drag
        assert flag is not None  # only called while dragging
        rate = self._session.project.step_rate
        inside = round((time - flag.base) * rate) / rate
        moved = flag.mark.but(time=min(max(inside, 0.0), flag.moving - 1e-3))
        self._session.edit("Move mark", lambda p: put_mark(p, flag.clip, moved), merge=f"move {moved.id}")

    def _seek_to(self, x: float) -> None:
        self.time = self.time_at(x)
        self.sought.emit(self.time)
        self.update()

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        if self._drag is not None:
            self._session.history.seal()
        self._drag = None
        self._seeking = False

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        flag = self._flag_at(event.position())
        if flag is not None:
            self._drag = None
            self.rename_event(flag)
        elif RULER + CLIP <= event.position().y() <= RULER + CLIP + EVENTS:
            self.mark_at(self.time_at(event.position().x()))

    def wheelEvent(self, event: QWheelEvent) -> None:
        turns = event.angleDelta().y() / 120 or -event.angleDelta().x() / 120
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(0.85**turns, event.position().x())
        else:
            self.start = max(0.0, self.start - turns * self.span * 0.12)
        self.update()

    def zoom(self, factor: float, x: float) -> None:
        """Show more (above 1) or less time; what is at `x` stays there."""
        at = self.time_at(x)
        span = min(max(self.span * factor, FEWEST_SECONDS), MOST_SECONDS)
        self.start = max(0.0, at - (at - self.start) * span / self.span)
        self.span = span
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = Qt.Key
        step = 1 / self._session.project.step_rate
        if event.key() in {keys.Key_Delete, keys.Key_Backspace} and self._selected_mark():
            self.remove_selected()
        elif event.key() == keys.Key_Left:
            self.nudge(-step) if self._selected_mark() else self.sought.emit(max(0.0, self.time - step))
        elif event.key() == keys.Key_Right:
            self.nudge(step) if self._selected_mark() else self.sought.emit(self.time + step)
        elif event.key() == keys.Key_F2 and self._selected_mark():
            flag = next((f for f in self.flags() if f.mark.id == self._selected_mark()), None)
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
            menu.addAction("Duplicate mark", self.duplicate_mark)
            menu.addAction("Delete mark", self.remove_selected)
        else:
            at = self.time_at(event.pos().x())
            menu.addAction("Mark an event here", lambda: self.mark_at(at))
        menu.popup(event.globalPos())

    # ---- looks ----------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        self._painted = self.time
        place = (self.start, self.span, self.size())
        project = self._session.project
        shown = (self._session.character, project.character, project.stage)
        self._still.draw_on(painter, self, (*place, self._session.selection), shown, self._paint_lanes)
        playing = self._shot is not None and self._shot.playing
        now = time.perf_counter()
        if not playing or now - self._run_drawn > RUN_BEAT:
            self._run.forget()
            self._run_drawn = now
        self._run.draw_on(painter, self, place, (project.effects,), self._paint_run)
        painter.setClipRect(QRectF(LEFT, 0, self.width() - LEFT, self.height()))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
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
        painter.setClipRect(QRectF(LEFT, 0, self.width() - LEFT, self.height()))
        self._paint_firings(painter, FIRINGS_TOP)
        room = QRectF(LEFT, ALIVE_TOP + 3, self.width() - LEFT - 8, self.height() - ALIVE_TOP - 6)
        self._paint_alive(painter, room)

    def _paint_lanes(self, painter: QPainter) -> None:
        painter.save()
        painter.setClipRect(QRectF(LEFT, 0, self.width() - LEFT, self.height()))
        self._paint_ruler(painter)
        self._paint_clips(painter, CLIP_TOP)
        self._paint_flags(painter, EVENTS_TOP)
        painter.restore()
        painter.setFont(text_font(11))
        lanes = ((CLIP_TOP, "clip"), (EVENTS_TOP, "events"), (FIRINGS_TOP, "firings"), (ALIVE_TOP, "alive"))
        for top, words in lanes:
            painter.setPen(QPen(QColor(RAISED), 1))
            painter.drawLine(0, top, self.width(), top)
            painter.setPen(QColor(SOFT))
            painter.drawText(QRectF(10, top, LEFT - 14, 22), Qt.AlignmentFlag.AlignVCenter, words)
        if self._performance is None:
            where = QRectF(LEFT, CLIP_TOP, self.width() - LEFT, CLIP)
            painter.drawText(where, Qt.AlignmentFlag.AlignVCenter, "Bring in a character: its clips appear here")

    def _paint_ruler(self, painter: QPainter) -> None:
        painter.setFont(figures_font(10))
        rough = self.span / max(4, (self.width() - LEFT) / 90)
        power = 10 ** math.floor(math.log10(rough))
        step = next(f * power for f in (1, 2, 5, 10) if f * power >= rough)
        first = math.ceil(self.start / step)
        for k in range(first, first + 200):
            time = k * step
            if time > self.start + self.span:
                break
            x = self.x_of(time)
            painter.setPen(QPen(QColor(LINE), 1))
            painter.drawLine(QPointF(x, RULER - 5), QPointF(x, RULER))
            painter.setPen(QColor(SOFT))
            painter.drawText(QPointF(x + 3, 12), f"{time:g} s")

    def _paint_clips(self, painter: QPainter, top: int) -> None:
        character = self._session.character
        for base, segment in self.passes():
            left, right = self.x_of(base), self.x_of(base + segment.moving)
            rest = self.x_of(base + segment.length)
            box = QRectF(left + 0.5, top + 3, max(right - left - 1, 1), CLIP - 6)
            painter.setPen(Qt.PenStyle.NoPen)
            if rest > right:
                painter.setBrush(QColor("#2d2530"))
                painter.drawRect(QRectF(right, top + 3, rest - right - 1, CLIP - 6))
            painter.setBrush(QColor(RAISED))
            painter.drawRoundedRect(box, 3, 3)
            if segment.clip is not None and character is not None:
                self._paint_heights(painter, character, segment.clip, box)
            painter.setPen(QColor(INK))
            painter.setFont(text_font(11))
            name = segment.use.name or "rest pose"
            painter.drawText(box.adjusted(6, 1, -4, 0), Qt.AlignmentFlag.AlignTop, name)

    def _paint_heights(self, painter: QPainter, character: Character, clip: Clip, box: QRectF) -> None:
        key = (id(character), clip.name)
        if key not in self._heights:
            self._heights[key] = _joint_heights(character, clip)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for heights, colour in zip(self._heights[key], ("#6fa79f", "#b07a62"), strict=False):
            path = QPainterPath()
            for k, value in enumerate(heights):
                x = box.left() + box.width() * k / (len(heights) - 1)
                y = box.bottom() - 2 - min(1.0, value) * (box.height() - 12)
                path.lineTo(x, y) if k else path.moveTo(x, y)
            painter.setPen(QPen(QColor(colour), 1))
            painter.drawPath(path)

    def _paint_flags(self, painter: QPainter, top: int) -> None:
        chosen = self._selected_mark()
        kind, what = self._session.selection
        painter.setFont(text_font(11))
        flags = sorted(self.flags(), key=lambda f: f.x)
        ends = [*(f.x for f in flags), float(self.width() + 200)][1:]
        for flag, end in zip(flags, ends, strict=True):
            own = flag.mark.id == chosen
            related = own or (kind == "event" and flag.mark.event == what)
            colour = QColor(RUST if own else TEAL if related else SOFT)
            painter.setPen(QPen(colour, 1.6 if related else 1.2))
            painter.drawLine(QPointF(flag.x, top - 8), QPointF(flag.x, top + EVENTS - 3))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour)
            painter.drawPolygon(
                QPolygonF([QPointF(flag.x, top + 5), QPointF(flag.x + 9, top + 9), QPointF(flag.x, top + 13)])
            )
            room = int(end - flag.x - 16)
            if room > 12:
                painter.setPen(QColor(INK if related else SOFT))
                words = painter.fontMetrics().elidedText(flag.name, Qt.TextElideMode.ElideRight, room)
                painter.drawText(QPointF(flag.x + 12, top + 14), words)

    def _paint_firings(self, painter: QPainter, top: int) -> None:
        if self._shot is None:
            return
        names = {e.id: e.name for e in self._session.project.effects}
        rows: list[float] = [-1e9] * 4
        painter.setFont(text_font(9))
        for record in sorted(self._shot.records, key=lambda r: r.start):
            end = record.end if record.end is not None else max(self.time, record.start)
            if end < self.start or record.start > self.start + self.span:
                continue
            left, right = self.x_of(record.start), max(self.x_of(end), self.x_of(record.start) + 3)
            row = next((k for k, used in enumerate(rows) if used < left), 3)
            rows[row] = right + 2
            box = QRectF(left, top + 3 + row * 12.5, right - left, 11.5)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor("#2e6a63" if record.end is not None else TEAL))
            painter.drawRoundedRect(box, 2, 2)
            name = names.get(record.effect, "")
            left_words = max(left, LEFT) + 3
            if right - left_words > painter.fontMetrics().horizontalAdvance(name) + 4:
                painter.setPen(QColor(INK if record.end is not None else GROUND))
                painter.drawText(QPointF(left_words, box.bottom() - 3), name)

    def _paint_alive(self, painter: QPainter, box: QRectF) -> None:
        if self._shot is None or box.height() < 8:
            return
        times, alive = self._shot.trace
        seen = (times >= self.start - 0.1) & (times <= self.start + self.span)
        if seen.sum() < 2:
            return
        most = int(alive[seen].max())
        xs = self.x_of(0.0) + times[seen] * (self.x_of(1.0) - self.x_of(0.0))
        ys = box.bottom() - alive[seen] / max(most, 1) * box.height()
        # One column in three pixels is all that can be seen.
        keep = np.concatenate([[True], np.diff(np.floor(xs / 3)) > 0])
        points = [QPointF(x, y) for x, y in zip(xs[keep].tolist(), ys[keep].tolist(), strict=True)]
        ends = [QPointF(points[-1].x(), box.bottom()), QPointF(points[0].x(), box.bottom())]
        painter.setPen(QPen(QColor(TEAL), 1.2))
        painter.setBrush(QColor(57, 181, 166, 50))
        painter.drawPolygon(QPolygonF([*points, *ends]))
        painter.setPen(QColor(SOFT))
        painter.setFont(figures_font(10))
        painter.drawText(box, Qt.AlignmentFlag.AlignRight, f"{grouped(most)} most")


def _joint_heights(character: Character, clip: Clip) -> list[np.ndarray]:
    """Return the heights over a clip of the two joints that stand lowest at rest, as shares of a knee's height."""
    rest = rest_pose(character).matrices[:, 1, 3]
    joints = [character.skeleton.index[n] for n in character.skeleton.joint_names]
    lowest = sorted(joints, key=lambda j: (round(float(rest[j]), 3), j))
    ends = [j for j in lowest if j not in set(character.skeleton.parents.tolist())]
    parents = [int(character.skeleton.parents[j]) for j in ends[:2]] or lowest[:2]
    tall = max(float(np.ptp(rest)), 1e-6)
    out = []
    times = np.linspace(0, clip.seconds, max(2, min(int(clip.seconds * 30), ROW * 4)))
    identity = np.eye(4, dtype=np.float32)
    poses = [pose_of(character, clip_locals(character, clip, float(t)), identity).matrices for t in times]
    for joint in dict.fromkeys(parents):
        heights = np.array([m[joint, 1, 3] for m in poses])
        out.append(np.clip((heights - heights.min()) / (0.3 * tall), 0, 1))
    return out
