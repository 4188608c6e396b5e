"""What moves particles, drawn in the picture while it is edited: forces, and the capsules that stand for the body."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from wraithon.character.bones import capsules_at
from wraithon.desktop.picture.picture_tools import PictureTool
from wraithon.desktop.theme.colours import GROUND, RUST
from wraithon.project.motion import Attraction, Curl, Drag, Gravity, Hold, Lift, Orbit, Towards, Vortex, Wind

if TYPE_CHECKING:
    from collections.abc import Callable

    from wraithon.character.model import Character
    from wraithon.desktop.picture.canvas import Canvas
    from wraithon.project.motion import Force


LONGEST, USUAL = 1.0, 6.0
"""Metres of the longest arrow, and the acceleration in m/s² that is drawn half as long."""
AROUND = np.linspace(0, 2 * np.pi, 49)
LEVEL = np.stack([np.cos(AROUND), 0 * AROUND, np.sin(AROUND)], axis=1)
UPRIGHT = np.stack([np.cos(AROUND), np.sin(AROUND), 0 * AROUND], axis=1)
ASIDE = np.stack([0 * AROUND, np.cos(AROUND), np.sin(AROUND)], axis=1)
FOUR = np.array([(1, 0, 0), (0, 0, 1), (-1, 0, 0), (0, 0, -1)], float)

Mark = tuple[np.ndarray, bool]
"""A line through places (N, 3) in metres, from where the force acts; and whether it ends in a tip."""


def _length(strength: float) -> float:
    """Return how long an arrow is in metres: longer for more, but never beyond the picture."""
    return float(LONGEST * np.tanh(abs(strength) / USUAL * np.arctanh(0.5)) * np.sign(strength))


def _arrow(way: np.ndarray, start: np.ndarray | tuple[float, ...] = (0.0, 0.0, 0.0)) -> Mark:
    return np.stack([np.asarray(start, float), np.asarray(start, float) + way]), True


def _counterclockwise(way: np.ndarray) -> np.ndarray:
    """Return the direction of what circles the upright axis, at a point off it; counterclockwise seen from above."""
    return np.array([way[2], 0, -way[0]])


def _gravity(force: Gravity) -> list[Mark]:
    return [_arrow(np.array([0, -_length(force.pull), 0]))]


def _wind(force: Wind) -> list[Mark]:
    push = np.array(force.push, float)
    size = float(np.linalg.norm(push))
    marks = [_arrow(push / size * _length(size))] if size > 0 else []
    if force.scatter:
        marks += [_arrow(way * _length(force.scatter)) for way in (*FOUR, np.array([0, 1.0, 0]))]
    return marks


def _curl(force: Curl) -> list[Mark]:
    return [(ring * force.scale / 2, False) for ring in (LEVEL, UPRIGHT, ASIDE)]


def _vortex(force: Vortex) -> list[Mark]:
    turn, marks = _length(force.strength), [(LEVEL * force.reach, False)]
    for way in FOUR:
        marks.append(_arrow(_counterclockwise(way) * turn, way * force.reach))
        if force.inward:
            marks.append(_arrow(-way * _length(force.inward), way * force.reach))
    return marks


def _orbit(force: Orbit) -> list[Mark]:
    length = _length(2 * force.speed)
    arrows = [_arrow(_counterclockwise(way) * length, way * force.radius) for way in FOUR]
    return [(LEVEL * force.radius, False), *arrows]


def _attraction(force: Attraction) -> list[Mark]:
    if force.towards is Towards.SKIN:
        return [_arrow(-way * _length(force.strength), way * force.reach) for way in FOUR]
    rings: list[Mark] = [(ring * force.reach, False) for ring in (LEVEL, UPRIGHT)]
    return rings + [_arrow(-way * _length(force.strength), way * force.reach) for way in FOUR]


def _hold(force: Hold) -> list[Mark]:
    return [(ring * force.radius, False) for ring in (LEVEL, UPRIGHT, ASIDE)]


def _lift(force: Lift) -> list[Mark]:
    return [_arrow(way * _length(force.strength), way * 0.1) for way in (*FOUR, np.array([0, 1.0, 0]))]


DRAWN: dict[type, Callable[[Any], list[Mark]]] = {
    Gravity: _gravity,
    Drag: lambda _force: [],
    Wind: _wind,
    Curl: _curl,
    Vortex: _vortex,
    Attraction: _attraction,
    Lift: _lift,
    Hold: _hold,
    Orbit: _orbit,
}
"""Force to what it looks like."""


def marks_of(force: Force) -> list[Mark]:
    """Return what is drawn of a force, around where it acts."""
    return DRAWN[type(force)](force)


class ForceGizmo(PictureTool):
    """Draws a force; it takes no presses."""

    def __init__(self) -> None:
        super().__init__()
        self.force: Force | None = None
        self.anchor: str | None = None
        """Where it is drawn when it acts from nowhere in particular."""

    def _place(self, picture: Canvas) -> np.ndarray | None:
        """Return where the force is drawn (3,)."""
        rendered = picture.rendered
        if self.force is None or rendered is None:
            return None
        own = getattr(self.force, "anchor", None) or self.anchor
        matrix = rendered.positions.get(own) if own else None
        if matrix is not None:
            return np.asarray(matrix[:3, 3], float)
        return np.asarray(rendered.joints.mean(axis=0), float) if len(rendered.joints) else np.array([0, 1.0, 0])

    def paint(self, picture: Canvas, painter: QPainter) -> None:
        position = self._place(picture)
        if position is None or self.force is None:
            return
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for points, tipped in marks_of(self.force):
            seen = picture.project(points + position)
            if (seen[:, 2] <= 0.05).any():
                continue
            line = QPolygonF([QPointF(x, y) for x, y, _ in seen])
            for width, colour in ((3.6, GROUND), (1.8, RUST)):
                painter.setPen(QPen(QColor(colour), width))
                painter.drawPolyline(line)
            if tipped:
                _tip(painter, line.at(len(seen) - 2), line.at(len(seen) - 1))


class CapsuleGizmo(PictureTool):
    """Draws the capsules that particles meet instead of the skin; it takes no presses."""

    def __init__(self) -> None:
        super().__init__()
        self.character: Character | None = None
        self.shown = False

    def outlines(self, picture: Canvas) -> list[QPolygonF]:
        """Return the capsules' outlines in the picture."""
        rendered = picture.rendered
        if not self.shown or self.character is None or rendered is None or len(rendered.joints) == 0:
            return []
        capsules = capsules_at(self.character, rendered.joints)
        ends, radii = capsules[:, :6].reshape(-1, 3), np.repeat(capsules[:, 6:], 2, axis=0)
        seen = picture.project(ends)
        beside = picture.project(ends + rendered.camera.basis[0] * radii)
        middles, width = seen[:, :2].reshape(-1, 2, 2), np.abs(beside - seen)[:, 0].reshape(-1, 2)
        before = (seen[:, 2].reshape(-1, 2) > 0.05).all(axis=1)
        around = _around(middles[before], width[before])
        return [QPolygonF([QPointF(x, y) for x, y in points]) for points in around.tolist()]

    def paint(self, picture: Canvas, painter: QPainter) -> None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for outline in self.outlines(picture):
            for width, colour in ((2.6, GROUND), (1.2, RUST)):
                painter.setPen(QPen(QColor(colour), width))
                painter.drawPolygon(outline)


def _around(middles: np.ndarray, radii: np.ndarray) -> np.ndarray:
    """Return outlines (C, N, 2) of pairs of discs and what lies between them; of the larger, where it holds both.

    `middles` (C, 2, 2) and `radii` (C, 2) are the discs'.
    """
    way = middles[:, 1] - middles[:, 0]
    apart = np.hypot(*way.T) <= np.abs(radii[:, 1] - radii[:, 0])
    larger, rows = (radii[:, 1] > radii[:, 0]).astype(int), np.arange(len(radii))
    ends = [(np.where(apart, larger, end), rotated) for end, rotated in ((1, 0.0), (0, np.pi))]
    turns = np.arctan2(way[:, 1], way[:, 0])[:, None] + np.linspace(-np.pi / 2, np.pi / 2, 13)
    halves = [
        middles[rows, end][:, None]
        + radii[rows, end][:, None, None] * np.stack([np.cos(turns + rotated), np.sin(turns + rotated)], axis=-1)
        for end, rotated in ends
    ]
    return np.concatenate(halves, axis=1)


def _tip(painter: QPainter, start: QPointF, end: QPointF) -> None:
    way = end - start
    size = (way.x() ** 2 + way.y() ** 2) ** 0.5
    if size < 1:
        return
    along, aside = way * (9 / size), QPointF(-way.y(), way.x()) * (4.5 / size)
    painter.setPen(QPen(QColor(GROUND), 1))
    painter.setBrush(QColor(RUST))
    painter.drawPolygon(QPolygonF([end, end - along + aside, end - along - aside]))
    painter.setBrush(Qt.BrushStyle.NoBrush)
