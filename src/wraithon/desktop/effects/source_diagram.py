"""A layer's source, drawn on the character's own outline."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

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
    PictureSource,
    PointSource,
    RingSource,
    SkinSource,
    Source,
    SphereSource,
)

TIPS = {
    Heading.UP: [QPointF(0, -34)],
    Heading.FORWARD: [QPointF(26, 12)],
    Heading.AXES: [QPointF(30, 0), QPointF(0, -30), QPointF(-16, 16)],
    Heading.OUTWARD: [QPointF(34, 0), QPointF(-34, 0), QPointF(0, -30)],
}
"""Where the arrows of a heading point."""


def _ball(painter: QPainter, middle: QPointF, _source: Any) -> None:
    painter.drawEllipse(middle, 22, 22)


def _ring(painter: QPainter, middle: QPointF, _source: Any) -> None:
    painter.drawEllipse(middle, 30, 9)


def _box(painter: QPainter, middle: QPointF, _source: Any) -> None:
    front = QRectF(middle.x() - 22, middle.y() - 14, 36, 34)
    back = front.translated(9, -8)
    painter.drawRect(back)
    painter.drawRect(front)
    for corner in ("topLeft", "topRight", "bottomLeft", "bottomRight"):
        painter.drawLine(getattr(front, corner)(), getattr(back, corner)())


def _cone(painter: QPainter, middle: QPointF, source: Any) -> None:
    reach = max(34 * math.tan(math.radians(min(source.angle, 60))), 2.0)
    far = middle + QPointF(34, 14)
    painter.drawEllipse(far, 5, reach)
    for side in (-1, 1):
        painter.drawLine(middle, far + QPointF(0, side * reach))


def _picture(painter: QPainter, middle: QPointF, _source: Any) -> None:
    frame = QRectF(middle.x() - 26, middle.y() - 20, 52, 40)
    painter.drawRect(frame)
    painter.drawEllipse(frame.center() + QPointF(12, -8), 4, 4)
    painter.drawPolyline([frame.bottomLeft(), middle + QPointF(-8, -4), middle + QPointF(6, 10), frame.bottomRight()])


def _line(painter: QPainter, middle: QPointF, _source: Any) -> None:
    end = middle + QPointF(24, -52)
    painter.drawLine(middle, end)
    painter.drawEllipse(end, 3.5, 3.5)


def _offspring(painter: QPainter, middle: QPointF, _source: Any) -> None:
    for way in (QPointF(-18, -10), QPointF(-4, -22), QPointF(14, -16)):
        painter.drawLine(middle, middle + way)
        painter.drawEllipse(middle + way, 2.5, 2.5)


SHAPES: dict[type, Callable[[QPainter, QPointF, Any], None]] = {
    SphereSource: _ball,
    RingSource: _ring,
    BoxSource: _box,
    ConeSource: _cone,
    PictureSource: _picture,
    LineSource: _line,
    OffspringSource: _offspring,
}
"""What each source looks like, around its anchor."""


class SourceDiagram(QWidget):
    """The source drawn on the character's own outline."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(112, 168)
        self._source: Source = PointSource()
        self._outline: tuple[QImage, QImage] | None = None
        self.setToolTip("Where on the character particles are emitted")

    def show_source(self, source: Source, character: Character | None) -> None:
        """Show a source on a character."""
        parts = source.parts if isinstance(source, SkinSource) else ("",)
        self._source = source
        self._outline = character_outline(character, parts, 104, 160) if character else None
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
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
            draw = SHAPES.get(type(self._source))
            if draw is not None:
                draw(painter, middle, self._source)
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
