"""The lanes of the timeline: what is painted of ruler, clips, flags, firings and how many live."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from wraithon.character.pose import clip_poses, rest_pose
from wraithon.character.remembering import cached_by_content
from wraithon.desktop.theme.colours import GROUND, INK, LINE, RAISED, ROW, RUST, SOFT, TEAL
from wraithon.desktop.theme.theme import figures_font, text_font
from wraithon.desktop.widgets.basics import grouped

if TYPE_CHECKING:
    from wraithon.character.model import Character, Clip
    from wraithon.desktop.engine.rendered_frame import RenderedFrame
    from wraithon.project.character import Mark
    from wraithon.project.project import Project
    from wraithon.stage.firing import FiringRecord
    from wraithon.stage.performance import Segment


LEFT = 72
RULER, CLIP, EVENTS, FIRINGS = 18, 34, 24, 54
CLIP_TOP, EVENTS_TOP = RULER, RULER + CLIP
FIRINGS_TOP, ALIVE_TOP = EVENTS_TOP + EVENTS, EVENTS_TOP + EVENTS + FIRINGS


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


@dataclass
class Lanes:
    """The stretch of time that is in sight, and the size it is painted at."""

    start: float = 0.0
    span: float = 8.0
    width: int = 0
    height: int = 0

    def x_of(self, time: float) -> float:
        """Return where a moment is drawn."""
        return LEFT + (time - self.start) / self.span * (self.width - LEFT - 8)

    def time_at(self, x: float) -> float:
        """Return the moment at an x, at least 0."""
        return max(0.0, self.start + (x - LEFT) / max(1, self.width - LEFT - 8) * self.span)

    def clip_to_time(self, painter: QPainter) -> None:
        """Keep what is painted right of the lanes' names."""
        painter.setClipRect(QRectF(LEFT, 0, self.width - LEFT, self.height))

    def paint_names(self, painter: QPainter, *, empty: bool) -> None:
        """Paint the lines between the lanes and their names; `empty` when there is no character."""
        painter.setFont(text_font(11))
        lanes = ((CLIP_TOP, "clip"), (EVENTS_TOP, "events"), (FIRINGS_TOP, "firings"), (ALIVE_TOP, "alive"))
        for top, text in lanes:
            painter.setPen(QPen(QColor(RAISED), 1))
            painter.drawLine(0, top, self.width, top)
            painter.setPen(QColor(SOFT))
            painter.drawText(QRectF(10, top, LEFT - 14, 22), Qt.AlignmentFlag.AlignVCenter, text)
        if empty:
            where = QRectF(LEFT, CLIP_TOP, self.width - LEFT, CLIP)
            painter.drawText(where, Qt.AlignmentFlag.AlignVCenter, "Import a character: its clips appear here")

    def paint_ruler(self, painter: QPainter) -> None:
        """Paint seconds."""
        painter.setFont(figures_font(10))
        rough = self.span / max(4, (self.width - LEFT) / 90)
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

    def paint_clips(
        self, painter: QPainter, passes: list[tuple[float, Segment]], character: Character | None, clip_run: int = -1
    ) -> None:
        """Paint passes of clips, each with the heights of the character's feet; those of one `clip run` framed."""
        top = CLIP_TOP
        for base, segment in passes:
            left, right = self.x_of(base), self.x_of(base + segment.moving)
            rest = self.x_of(base + segment.length)
            box = QRectF(left + 0.5, top + 3, max(right - left - 1, 1), CLIP - 6)
            painter.setPen(Qt.PenStyle.NoPen)
            if rest > right:
                painter.setBrush(QColor("#2d2530"))
                painter.drawRect(QRectF(right, top + 3, rest - right - 1, CLIP - 6))
            painter.setBrush(QColor(RAISED))
            if clip_run >= 0 and segment.clip_run == clip_run:
                painter.setPen(QPen(QColor(TEAL), 1.4))
            painter.drawRoundedRect(box, 3, 3)
            if segment.clip is not None and character is not None:
                _paint_heights(painter, character, segment.clip, box)
            painter.setPen(QColor(INK))
            painter.setFont(text_font(11))
            name = segment.use.name or "rest pose"
            painter.drawText(box.adjusted(6, 1, -4, 0), Qt.AlignmentFlag.AlignTop, name)

    def paint_states(self, painter: QPainter, rendered: RenderedFrame) -> None:
        """Paint what a driven character was at, up to now."""
        if not rendered.driven:
            return
        painter.setFont(text_font(11))
        ends = [*(start for start, _ in rendered.states), rendered.time][1:]
        for (start, state), end in zip(rendered.states, ends, strict=True):
            if end < self.start or start > self.start + self.span or start >= rendered.time:
                continue
            left, right = self.x_of(start), self.x_of(min(end, rendered.time))
            box = QRectF(left + 0.5, CLIP_TOP + 3, max(right - left - 1, 1), CLIP - 6)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(RAISED))
            painter.drawRoundedRect(box, 3, 3)
            if box.width() > painter.fontMetrics().horizontalAdvance(state) + 10:
                painter.setPen(QColor(INK))
                box.setLeft(max(box.left(), LEFT))
                painter.drawText(box.adjusted(6, 1, -4, 0), Qt.AlignmentFlag.AlignTop, state)

    def paint_flags(
        self,
        painter: QPainter,
        positions: list[FlagPlace],
        kind: str,
        what: str,
        chosen: frozenset[str] = frozenset(),
    ) -> None:
        """Paint flags; those of the marks that are chosen, or of the selected event, stand out."""
        top = EVENTS_TOP
        painter.setFont(text_font(11))
        flags = sorted(positions, key=lambda f: f.x)
        ends = [*(f.x for f in flags), float(self.width + 200)][1:]
        for flag, end in zip(flags, ends, strict=True):
            own = flag.mark.id in chosen
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
                text = painter.fontMetrics().elidedText(flag.name, Qt.TextElideMode.ElideRight, room)
                painter.drawText(QPointF(flag.x + 12, top + 14), text)

    def paint_lit(self, painter: QPainter, positions: list[FlagPlace]) -> None:
        """Paint flags that the clips have just passed over what is there."""
        for flag in positions:
            top = EVENTS_TOP
            painter.setPen(QPen(QColor(RUST), 2))
            painter.drawLine(QPointF(flag.x, top - 8), QPointF(flag.x, top + EVENTS - 3))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(RUST))
            corners = ((0, 3), (12, 9), (0, 15))
            painter.drawPolygon(QPolygonF([QPointF(flag.x + x, top + y) for x, y in corners]))

    def paint_firings(self, painter: QPainter, rendered: RenderedFrame, project: Project, time: float) -> None:
        """Paint firings as bars, from start to the death of the last particle; one bar for those that are alike."""
        top, names = FIRINGS_TOP, {e.id: e.name for e in project.effects}
        alike: dict[tuple[str, float], list[FiringRecord]] = {}
        for record in sorted(rendered.records, key=lambda r: r.start):
            alike.setdefault((record.shown, record.start), []).append(record)
        rows: list[float] = [-1e9] * 4
        painter.setFont(text_font(9))
        for (effect, start), records in alike.items():
            lives = any(record.end is None for record in records)
            end = max(time, start) if lives else max(record.end or start for record in records)
            if end < self.start or start > self.start + self.span:
                continue
            left, right = self.x_of(start), max(self.x_of(end), self.x_of(start) + 3)
            row = next((k for k, used in enumerate(rows) if used < left), 3)
            rows[row] = right + 2
            box = QRectF(left, top + 3 + row * 12.5, right - left, 11.5)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(TEAL if lives else "#2e6a63"))
            painter.drawRoundedRect(box, 2, 2)
            name = names.get(effect, "") + (f" ×{len(records)}" if len(records) > 1 else "")
            left_text = max(left, LEFT) + 3
            if right - left_text > painter.fontMetrics().horizontalAdvance(name) + 4:
                painter.setPen(QColor(GROUND if lives else INK))
                painter.drawText(QPointF(left_text, box.bottom() - 3), name)

    def paint_alive(self, painter: QPainter, rendered: RenderedFrame) -> None:
        """Paint how many particles lived."""
        box = QRectF(LEFT, ALIVE_TOP + 3, self.width - LEFT - 8, self.height - ALIVE_TOP - 6)
        if box.height() < 8:
            return
        times, alive = rendered.trace
        seen = (times >= self.start - 0.1) & (times <= self.start + self.span)
        if seen.sum() < 2:
            return
        maximum = int(alive[seen].max())
        xs = self.x_of(0.0) + times[seen] * (self.x_of(1.0) - self.x_of(0.0))
        ys = box.bottom() - alive[seen] / max(maximum, 1) * box.height()
        # One column in three pixels is all that can be seen.
        keep = np.concatenate([[True], np.diff(np.floor(xs / 3)) > 0])
        points = [QPointF(x, y) for x, y in zip(xs[keep].tolist(), ys[keep].tolist(), strict=True)]
        ends = [QPointF(points[-1].x(), box.bottom()), QPointF(points[0].x(), box.bottom())]
        painter.setPen(QPen(QColor(TEAL), 1.2))
        painter.setBrush(QColor(57, 181, 166, 50))
        painter.drawPolygon(QPolygonF([*points, *ends]))
        painter.setPen(QColor(SOFT))
        painter.setFont(figures_font(10))
        painter.drawText(box, Qt.AlignmentFlag.AlignRight, f"max {grouped(maximum)}")


def _paint_heights(painter: QPainter, character: Character, clip: Clip, box: QRectF) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for heights, colour in zip(_joint_heights(character, clip), ("#6fa79f", "#b07a62"), strict=False):
        path = QPainterPath()
        for k, value in enumerate(heights):
            x = box.left() + box.width() * k / (len(heights) - 1)
            y = box.bottom() - 2 - min(1.0, value) * (box.height() - 12)
            path.lineTo(x, y) if k else path.moveTo(x, y)
        painter.setPen(QPen(QColor(colour), 1))
        painter.drawPath(path)


@cached_by_content(maxsize=128)
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
    poses = list(clip_poses(character, clip, times.tolist()))
    for joint in dict.fromkeys(parents):
        heights = np.array([m[joint, 1, 3] for m in poses])
        out.append(np.clip((heights - heights.min()) / (0.3 * tall), 0, 1))
    return out
