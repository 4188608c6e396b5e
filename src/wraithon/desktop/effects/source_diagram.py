"""A layer's source, drawn on the character's own outline."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from wraithon.character.model import Character
from wraithon.desktop.picture.outline import character_outline
from wraithon.desktop.theme.colours import GROUND, INK, LINE, RUST, SOFT, TEAL
from wraithon.desktop.theme.theme import text_font
from wraithon.project.source import (
    BoxSource,
    ConeSource,
    Heading,
    LineSource,
    OffspringSource,
    PointSource,
    RingSource,
    SkinSource,
    Source,
    SphereSource,
)

__all__ = ["SourceDiagram"]

TIPS = {
    Heading.UP: [QPointF(0, -34)],
    Heading.FORWARD: [QPointF(26, 12)],
    Heading.AXES: [QPointF(30, 0), QPointF(0, -30), QPointF(-16, 16)],
    Heading.OUTWARD: [QPointF(34, 0), QPointF(-34, 0), QPointF(0, -30)],
}
"""Where the arrows of a heading point."""


class SourceDiagram(QWidget):
    """The source drawn on the character's own outline."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(112, 168)
        self._source: Source = PointSource()
        self._outline: tuple[QImage, QImage] | None = None
        self.setToolTip("Where on the character particles are born")

    def show_source(self, source: Source, character: Character | None) -> None:
        """Show a source on a character."""
        parts = source.parts if isinstance(source, SkinSource) else ("",)
        self._source = source
        self._outline = character_outline(character, parts, 104, 160) if character else None
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(LINE), 1))
        painter.setBrush(QColor(GROUND))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)
        if self._outline is None:
            painter.setPen(QColor(SOFT))
            painter.setFont(text_font(11))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.rect().adjusted(8, 8, -8, -8), flags, "no character yet")
            return
        body, chosen = self._outline
        painter.drawImage(4, 4, body)
        if isinstance(self._source, SkinSource):
            painter.drawImage(4, 4, chosen)
            return
        middle = QPointF(self.width() / 2, self.height() * 0.62)
        painter.setPen(QPen(QColor(TEAL), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if isinstance(self._source, SphereSource):
            painter.drawEllipse(middle, 22, 22)
        elif isinstance(self._source, RingSource):
            painter.drawEllipse(middle, 30, 9)
        elif isinstance(self._source, BoxSource):
            front = QRectF(middle.x() - 22, middle.y() - 14, 36, 34)
            back = front.translated(9, -8)
            painter.drawRect(back)
            painter.drawRect(front)
            for corner in ("topLeft", "topRight", "bottomLeft", "bottomRight"):
                painter.drawLine(getattr(front, corner)(), getattr(back, corner)())
        elif isinstance(self._source, ConeSource):
            reach = math.tan(math.radians(min(self._source.angle, 60)))
            far = middle + QPointF(34, 14)
            painter.drawEllipse(far, 5, max(34 * reach, 2))
            for side in (-1, 1):
                painter.drawLine(middle, far + QPointF(0, side * max(34 * reach, 2)))
        elif isinstance(self._source, LineSource):
            end = middle + QPointF(24, -52)
            painter.drawLine(middle, end)
            painter.drawEllipse(end, 3.5, 3.5)
        elif isinstance(self._source, OffspringSource):
            for way in (QPointF(-18, -10), QPointF(-4, -22), QPointF(14, -16)):
                painter.drawLine(middle, middle + way)
                painter.drawEllipse(middle + way, 2.5, 2.5)
        painter.setPen(QPen(QColor(INK), 1))
        painter.setBrush(QColor(RUST))
        painter.drawEllipse(middle, 3.5, 3.5)
        self._arrow(painter, middle)

    def _arrow(self, painter: QPainter, start: QPointF) -> None:
        painter.setPen(QPen(QColor(RUST), 1.5))
        for tip in TIPS[self._source.aim.heading]:
            path = QPainterPath(start + tip * 0.35)
            path.lineTo(start + tip)
            painter.drawPath(path)
            painter.drawEllipse(start + tip, 1.5, 1.5)
