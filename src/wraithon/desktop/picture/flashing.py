"""What has just responded, written where it happened, and gone again after a moment."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from wraithon.desktop.picture.picture_tools import PictureTool
from wraithon.desktop.theme.colours import RUST

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.desktop.engine.rendered_frame import RenderedFrame
    from wraithon.desktop.picture.canvas import Canvas
    from wraithon.desktop.session.session import Session
    from wraithon.project.project import Project


FLASH = 0.6
"""Seconds of the show that a response is shown for."""
MAXIMUM = 6
ROW = 20
"""Pixels from one label to the next where they would lie over one another."""


class Flash(NamedTuple):
    """A response that is shown in the picture."""

    text: str
    position: NDArray[np.floating]
    """(3,) metres in the world."""
    left: float
    """Share of its time that is left."""


def flashes_of(rendered: RenderedFrame, project: Project) -> list[Flash]:
    """Return the responses of a picture's last moments that happened somewhere, the latest last."""
    found: dict[tuple[str, str | None], Flash] = {}
    for response in rendered.triggers.responses:
        left = 1 - (rendered.time - response.time) / FLASH
        trigger = project.trigger(response.trigger) if 0 < left <= 1.05 else None
        if trigger is None or trigger.when.kind == "start":
            continue
        matrix = rendered.positions.get(response.anchor or "")
        position = np.array(rendered.centre) if matrix is None else matrix[:3, 3]
        key = response.trigger, response.anchor
        found.pop(key, None)
        found[key] = Flash(trigger.name, position, min(left, 1.0))
    return list(found.values())[-MAXIMUM:]


class Flashes(PictureTool):
    """Paints what has just responded; it takes no presses."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session

    def paint(self, picture: Canvas, painter: QPainter) -> None:
        if picture.rendered is None:
            return
        rows: list[float] = []
        for flash in flashes_of(picture.rendered, self._session.project):
            x, y, ahead = picture.project(flash.position[None])[0].tolist()
            if ahead <= 0:
                continue
            painter.setOpacity(min(1.0, 2 * flash.left))
            painter.setPen(QPen(QColor(RUST), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            size = 6 + 14 * (1 - flash.left)
            painter.drawEllipse(QPointF(x, y), size, size)
            row = y - 34
            while any(abs(row - other) < ROW for other in rows):
                row -= ROW
            rows.append(row)
            picture.tag(painter, QPointF(x + 12, row), flash.text)
        painter.setOpacity(1.0)
