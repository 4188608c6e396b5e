"""What the mouse can hold in the picture besides the camera: a protocol, and the joints."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QObject, QPointF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen

from wraithon.desktop.theme.colours import GROUND, INK, RUST, SOFT, TEAL
from wraithon.desktop.theme.theme import text_font

if TYPE_CHECKING:
    from PySide6.QtGui import QMouseEvent

    from wraithon.character.model import Character
    from wraithon.desktop.picture.canvas import Canvas


NEAR = 12
"""Pixels within which a thing is under the mouse."""


class PictureTool(QObject):
    """Something that takes the mouse in the picture before the camera does, and paints over it."""

    def press(self, _picture: Canvas, _event: QMouseEvent) -> bool:
        """Take a press; return whether the drag that follows is this hand's."""
        return False

    def move(self, _picture: Canvas, _event: QMouseEvent) -> None:
        """Follow a drag that was taken."""

    def release(self, _picture: Canvas, _event: QMouseEvent) -> None:
        """End a drag that was taken."""

    def cancel(self, _picture: Canvas) -> None:
        """Cancel a drag that was taken: all is as it was."""

    def hover(self, _picture: Canvas, _at: QPointF) -> bool:
        """Follow the mouse; return whether to paint anew."""
        return False

    def paint(self, _picture: Canvas, _painter: QPainter) -> None:
        """Paint over the picture."""


class JointTool(PictureTool):
    """Shows the skeleton, and picks joints.

    Signals
    -------
    picked
        The name of a joint that was clicked.
    """

    picked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.character: Character | None = None
        self.shown = False
        self.chosen: frozenset[str] = frozenset()
        """Joints to show as on."""
        self._under: int | None = None

    def _joints(self, picture: Canvas) -> tuple[np.ndarray, np.ndarray] | None:
        """Return the nodes that are joints, and where all nodes are in the picture (N, 3)."""
        rendered, character = picture.rendered, self.character
        if (
            not self.shown
            or rendered is None
            or character is None
            or len(rendered.joints) != len(character.skeleton.names)
        ):
            return None
        used = character.skeleton.is_joint
        nodes = np.flatnonzero(used) if used.any() else np.arange(len(used))
        return nodes, picture.project(rendered.joints)

    def _find(self, picture: Canvas, at: QPointF) -> int | None:
        found = self._joints(picture)
        if found is None:
            return None
        nodes, positions = found
        away = np.hypot(positions[nodes, 0] - at.x(), positions[nodes, 1] - at.y())
        away[positions[nodes, 2] <= 0] = np.inf
        nearest = int(away.argmin()) if len(away) else -1
        return int(nodes[nearest]) if nearest >= 0 and away[nearest] < NEAR else None

    def press(self, picture: Canvas, event: QMouseEvent) -> bool:
        node = self._find(picture, event.position()) if event.button() == Qt.MouseButton.LeftButton else None
        if node is None or self.character is None:
            return False
        self.picked.emit(self.character.skeleton.names[node])
        return True

    def hover(self, picture: Canvas, at: QPointF) -> bool:
        before, self._under = self._under, self._find(picture, at)
        return before != self._under

    def paint(self, picture: Canvas, painter: QPainter) -> None:
        found = self._joints(picture)
        if found is None or self.character is None:
            return
        nodes, positions = found
        skeleton = self.character.skeleton
        there = set(nodes.tolist())
        painter.setPen(QPen(QColor(185, 171, 182, 150), 1.4))
        for node in nodes:
            parent = int(skeleton.parents[node])
            if parent in there and positions[node, 2] > 0 and positions[parent, 2] > 0:
                painter.drawLine(QPointF(*positions[parent, :2]), QPointF(*positions[node, :2]))
        for node in nodes:
            if positions[node, 2] <= 0:
                continue
            on = skeleton.names[node] in self.chosen
            painter.setPen(QPen(QColor(GROUND), 1.2))
            painter.setBrush(QColor(TEAL if on else SOFT))
            size = 5.5 if on else 3.5
            if node == self._under:
                painter.setBrush(QColor(RUST))
                size = 6.0
            painter.drawEllipse(QPointF(*positions[node, :2]), size, size)
        if self._under is not None:
            painter.setFont(text_font(12))
            painter.setPen(QColor(INK))
            picture.tag(painter, QPointF(*positions[self._under, :2]) + QPointF(9, -9), skeleton.names[self._under])
