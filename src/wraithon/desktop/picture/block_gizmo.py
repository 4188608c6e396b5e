"""The selected block in the picture: its outline, and handles that move, size and turn it."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPen, QPolygonF

from wraithon.desktop.picture.picture_tools import NEAR, PictureTool
from wraithon.desktop.theme.colours import GROUND, INK, RUST, TEAL

if TYPE_CHECKING:
    from wraithon.desktop.picture.canvas import Canvas
    from wraithon.desktop.session.session import Session
    from wraithon.project.staging.ground import Block


BEYOND = 0.4
"""Metres beyond its far end that the handle which turns it is."""
MINIMUM = 0.1
ROUND = np.linspace(0, 2 * np.pi, 41)


class BlockGizmo(PictureTool):
    """Moves, sizes and turns a block."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.what = ""
        """The id of the piece it holds; empty for none."""
        self._grip = ""
        self._before: Block | None = None
        self._off = (0.0, 0.0)

    @property
    def piece(self) -> Block | None:
        """The piece it holds."""
        return next((p for p in self._session.project.stage.pieces if p.id == self.what), None)

    def _at(self, piece: Block, along: float, half_depth: float) -> np.ndarray:
        """Return a place of a piece in the world (3,): metres from its middle along its own axes, on its top."""
        x, z = piece.out(along, half_depth)
        end = piece.size[1] / 2
        return np.array([x, piece.top(min(max(half_depth, -end), end)), z])

    def handles(self, piece: Block) -> dict[str, np.ndarray]:
        """Return where the handles of a piece are in the world."""
        width, half_depth = piece.size[0] / 2, piece.size[1] / 2
        return {
            "move": self._at(piece, 0, 0), "size": self._at(piece, width, half_depth),
            "turn": self._at(piece, 0, half_depth + BEYOND),
        }  # fmt: skip

    def press(self, picture: Canvas, event: QMouseEvent) -> bool:
        piece = self.piece
        if piece is None or event.button() != Qt.MouseButton.LeftButton:
            return False
        at = event.position()
        for name, position in self.handles(piece).items():
            x, y, ahead = picture.project(position[None])[0]
            if ahead > 0 and math.hypot(x - at.x(), y - at.y()) < NEAR:
                on = self._ground_under(picture, at, float(position[1]))
                if on is not None:
                    self._grip, self._before = name, piece
                    self._off = (float(position[0]) - on[0], float(position[2]) - on[1])
                    return True
        return False

    def _ground_under(self, picture: Canvas, at: QPointF, height: float) -> tuple[float, float] | None:
        """Return the place (x, z) at a height that a point of the picture shows; None above the horizon."""
        rendered = picture.rendered
        if rendered is None:
            return None
        way = rendered.camera.ray(at.x(), at.y(), picture.width(), picture.height())
        if way[1] > -1e-3:
            return None
        far = (height - float(rendered.camera.eye[1])) / float(way[1])
        point = rendered.camera.eye + far * way
        return float(point[0]), float(point[2])

    def move(self, picture: Canvas, event: QMouseEvent) -> None:
        piece = self._before
        on = self._ground_under(picture, event.position(), piece.height) if piece is not None else None
        if piece is None or on is None:
            return
        x, z = on[0] + self._off[0], on[1] + self._off[1]
        free = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        self._put(piece, x, z, free=free)

    def _put(self, piece: Block, x: float, z: float, *, free: bool) -> None:
        grid, set_value = 0.01 if free else 0.1, self._session.set_value
        if self._grip == "move":
            set_value("block", self.what, "place", (_to(x, grid), _to(z, grid)), "Move ground", final=False)
        elif self._grip == "turn":
            towards = math.degrees(math.atan2(x - piece.place[0], z - piece.place[1]))
            turn = _to(towards, 0.5 if free else 5.0)
            set_value("block", self.what, "turn", turn, "Turn ground", final=False)
        else:
            size = tuple(min(max(_to(2 * abs(part), grid), MINIMUM), 60.0) for part in piece.within(x, z))
            set_value("block", self.what, "size", size, "Size of ground", final=False)

    def release(self, _picture: Canvas, _event: QMouseEvent) -> None:
        self._grip, self._before = "", None
        self._session.history.seal()

    def cancel(self, _picture: Canvas) -> None:
        piece = self._before
        if piece is not None:
            for path in ("place", "turn", "size"):
                self._session.set_value("block", self.what, path, getattr(piece, path), "Move ground")
        self._grip, self._before = "", None

    def paint(self, picture: Canvas, painter: QPainter) -> None:
        piece = self.piece
        if piece is None or picture.rendered is None:
            return
        half_width, half_depth = piece.size[0] / 2, piece.size[1] / 2
        corners = [
            (-half_width, -half_depth),
            (half_width, -half_depth),
            (half_width, half_depth),
            (-half_width, half_depth),
            (-half_width, -half_depth),
        ]
        ring = [(half_width * math.cos(a), half_depth * math.sin(a)) for a in ROUND] if piece.round else corners
        seen = picture.project(np.array([self._at(piece, *point) for point in ring]))
        if (seen[:, 2] > 0).all():
            line = QPolygonF([QPointF(x, y) for x, y, _ in seen.tolist()])
            for width, colour in ((3.4, GROUND), (1.6, TEAL)):
                painter.setPen(QPen(QColor(colour), width))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawPolyline(line)
        for name, point in self.handles(piece).items():
            x, y, ahead = picture.project(point[None])[0].tolist()
            if ahead > 0:
                painter.setPen(QPen(QColor(GROUND), 1.4))
                painter.setBrush(QColor(RUST if name == self._grip else INK if name == "move" else TEAL))
                (painter.drawRect if name == "size" else painter.drawEllipse)(int(x) - 5, int(y) - 5, 10, 10)


def _to(value: float, grid: float) -> float:
    """Return the nearest multiple of a grid."""
    return round(round(value / grid) * grid, 4)
