"""Handles of an anchor, or of where a layer is born: arrows and a middle to move it by, rings to turn it by."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from wraithon.character.anchoring import moved, offset_in, on_whole_centimetres, rotated
from wraithon.desktop.picture.picture_tools import PictureTool
from wraithon.desktop.theme.colours import BRICK, GROUND, INK, MOSS, RUST, TEAL

if TYPE_CHECKING:
    from PySide6.QtGui import QMouseEvent

    from wraithon.character.anchoring import HasOffset
    from wraithon.desktop.picture.canvas import Canvas
    from wraithon.project.character import Anchor


COLOURS = (BRICK, MOSS, TEAL)
ARROW, RING = 66.0, 46.0
"""Pixels of an arrow and of a ring's radius, whatever the distance."""
REACH = 7.0
TURN = np.radians(np.arange(0, 361, 10))


@dataclass(frozen=True)
class _Grip:
    """What is held, and how things stood when it was taken."""

    kind: str
    axis: int
    placed: HasOffset
    matrix: np.ndarray
    start: QPointF
    metres: float
    """Metres a pixel stands for there."""


class OffsetGizmo(PictureTool):
    """Moves and turns something in the picture; Ctrl goes by whole centimetres and 15 degrees.

    Signals
    -------
    changed
        The thing as it would be, and whether the gesture is over.
    """

    changed = Signal(object, bool)

    def __init__(self) -> None:
        super().__init__()
        self.scale = 1.0
        """Metres of the world that a metre of its offset is."""
        self._grip: _Grip | None = None
        self._went = False
        """Whether the mouse has moved since."""
        self._under: tuple[str, int] | None = None

    @property
    def placed(self) -> HasOffset | None:
        """What is moved and turned; None for nothing."""
        raise NotImplementedError

    def _matrix(self, picture: Canvas) -> np.ndarray | None:
        """Return where that is in the world (4, 4)."""
        raise NotImplementedError

    def _drawn(self, picture: Canvas) -> tuple[QPointF, float, list[QPointF], list[list[QPointF]]] | None:
        """Return the middle, metres a pixel, the arrows' tips and the rings' points."""
        matrix = self._matrix(picture)
        if matrix is None:
            return None
        origin = matrix[:3, 3].astype(np.float64)
        middle = picture.project(origin[None])[0]
        if middle[2] <= 0.05 or picture.rendered is None:
            return None
        metres = middle[2] / (picture.rendered.camera.lens * picture.height())
        tips = picture.project(origin + matrix[:3, :3].T * (ARROW * metres))
        rings = []
        for axis in range(3):
            u, v = matrix[:3, (axis + 1) % 3], matrix[:3, (axis + 2) % 3]
            circle = origin + (np.cos(TURN)[:, None] * u + np.sin(TURN)[:, None] * v) * (RING * metres)
            rings.append([QPointF(x, y) for x, y, _ in picture.project(circle).tolist()])
        return QPointF(middle[0], middle[1]), metres, [QPointF(x, y) for x, y, _ in tips.tolist()], rings

    def _find(self, picture: Canvas, at: QPointF) -> tuple[str, int] | None:
        drawn = self._drawn(picture)
        if drawn is None:
            return None
        middle, _, tips, rings = drawn
        if _apart(at, middle) < 8:
            return ("middle", 0)
        for axis, tip in enumerate(tips):
            if _from_line(at, middle, tip) < REACH and _apart(middle, tip) > 10:
                return ("arrow", axis)
        for axis, ring in enumerate(rings):
            if min(_apart(at, point) for point in ring) < REACH:
                return ("ring", axis)
        return None

    def press(self, picture: Canvas, event: QMouseEvent) -> bool:
        placed = self.placed
        if event.button() != Qt.MouseButton.LeftButton or placed is None:
            return False
        found, matrix, drawn = self._find(picture, event.position()), self._matrix(picture), self._drawn(picture)
        if found is None or matrix is None or drawn is None:
            return False
        self._grip = _Grip(*found, placed, matrix.copy(), event.position(), drawn[1])
        return True

    def move(self, picture: Canvas, event: QMouseEvent) -> None:
        self._went = True
        self._offer(picture, event, final=False)

    def release(self, picture: Canvas, event: QMouseEvent) -> None:
        if self._went:  # a click alone changes nothing
            self._offer(picture, event, final=True)
        self._grip, self._went = None, False

    def cancel(self, _picture: Canvas) -> None:
        if self._grip is not None and self._went:
            self.changed.emit(self._grip.placed, True)
        self._grip, self._went = None, False

    def _offer(self, picture: Canvas, event: QMouseEvent, *, final: bool) -> None:
        grip, rendered = self._grip, picture.rendered
        if grip is None or rendered is None:
            return
        drag = event.position() - grip.start
        whole = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if grip.kind == "ring":
            degrees = self._angle(picture, grip, event.position())
            placed = rotated(grip.placed, grip.axis, round(degrees / 15) * 15 if whole else degrees)
        else:
            basis = rendered.camera.basis.astype(np.float64)
            way = (basis[0] * drag.x() - basis[1] * drag.y()) * grip.metres
            if grip.kind == "arrow":
                way = self._along(picture, grip, drag, whole=whole)
            placed = moved(grip.placed, grip.matrix, way, self.scale)
            if whole and grip.kind == "middle":
                placed = on_whole_centimetres(placed)
        self.changed.emit(placed, final)

    @staticmethod
    def _along(picture: Canvas, grip: _Grip, drag: QPointF, *, whole: bool) -> np.ndarray:
        """Return the way (3,) along an arrow that a drag in the picture means, in `whole` centimetres maybe."""
        axis = grip.matrix[:3, grip.axis].astype(np.float64)
        ends = picture.project(grip.matrix[:3, 3] + np.array([np.zeros(3), axis * ARROW * grip.metres]))
        seen = ends[1, :2] - ends[0, :2]
        length = float(seen @ seen)
        share = float(seen @ (drag.x(), drag.y())) / length if length > 25 else 0.0
        metres = share * ARROW * grip.metres
        return axis * (round(metres, 2) if whole else metres)

    @staticmethod
    def _angle(picture: Canvas, grip: _Grip, at: QPointF) -> float:
        """Return the degrees a drag around a ring means."""
        middle = picture.project(grip.matrix[None, :3, 3])[0]
        start, end = grip.start - QPointF(*middle[:2]), at - QPointF(*middle[:2])
        turn = np.degrees(np.arctan2(-end.y(), end.x()) - np.arctan2(-start.y(), start.x()))
        turn = (turn + 180) % 360 - 180
        camera = picture.rendered.camera if picture.rendered else None
        towards = grip.matrix[:3, 3] - camera.eye if camera else np.array([0, 0, -1.0])
        # Seen from behind, a turn goes the other way round.
        return float(turn if grip.matrix[:3, grip.axis] @ towards < 0 else -turn)

    def hover(self, picture: Canvas, at: QPointF) -> bool:
        before, self._under = self._under, self._find(picture, at)
        return before != self._under

    def paint(self, picture: Canvas, painter: QPainter) -> None:
        drawn = self._drawn(picture)
        if drawn is None:
            return
        middle, _, tips, rings = drawn
        marked = (self._grip.kind, self._grip.axis) if self._grip else self._under
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for axis, ring in enumerate(rings):
            painter.setPen(QPen(QColor(RUST if marked == ("ring", axis) else COLOURS[axis]), 1.6))
            painter.drawPolyline(QPolygonF(ring))
        for axis, tip in enumerate(tips):
            colour = QColor(RUST if marked == ("arrow", axis) else COLOURS[axis])
            painter.setPen(QPen(colour, 2.4))
            painter.drawLine(middle, tip)
            painter.setPen(QPen(QColor(GROUND), 1))
            painter.setBrush(colour)
            painter.drawEllipse(tip, 4.5, 4.5)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QColor(INK))
            painter.drawText(tip + QPointF(7, 4), "xyz"[axis])
        painter.setPen(QPen(QColor(GROUND), 1.5))
        painter.setBrush(QColor(RUST if marked == ("middle", 0) else INK))
        painter.drawEllipse(middle, 5, 5)


class AnchorGizmo(OffsetGizmo):
    """Moves and turns an anchor."""

    def __init__(self) -> None:
        super().__init__()
        self.anchor: Anchor | None = None

    @property
    def placed(self) -> HasOffset | None:
        """The anchor."""
        return self.anchor

    def _matrix(self, picture: Canvas) -> np.ndarray | None:
        if self.anchor is None or picture.rendered is None:
            return None
        return picture.rendered.positions.get(self.anchor.id)


class SourceGizmo(OffsetGizmo):
    """Moves and turns where a layer is born, away from the anchor its effect is fired at."""

    def __init__(self) -> None:
        super().__init__()
        self.source: HasOffset | None = None
        self.anchor: str | None = None
        """Where it is fired; None: where the character stands."""

    @property
    def placed(self) -> HasOffset | None:
        """The layer's source."""
        return self.source

    def _matrix(self, picture: Canvas) -> np.ndarray | None:
        rendered = picture.rendered
        if self.source is None or rendered is None:
            return None
        stands = np.eye(4, dtype=np.float32)
        stands[:3, 3] = rendered.centre
        return offset_in(self.source, rendered.positions.get(self.anchor or "", stands), self.scale)


def _apart(a: QPointF, b: QPointF) -> float:
    return float(np.hypot(a.x() - b.x(), a.y() - b.y()))


def _from_line(at: QPointF, start: QPointF, end: QPointF) -> float:
    """Return the distance from a stretch of line, its first quarter left out for what sits in the middle."""
    way, away = end - start, at - start
    length = way.x() ** 2 + way.y() ** 2
    share = (way.x() * away.x() + way.y() * away.y()) / max(length, 1e-9)
    share = min(max(share, 0.25), 1.05)
    return _apart(at, start + way * share)
