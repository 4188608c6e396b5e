"""The box that an effect stays within, drawn where it is fired."""

from __future__ import annotations

from itertools import product
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QLineF, QPointF
from PySide6.QtGui import QColor, QPainter, QPen

from wraithon.desktop.picture.picture_tools import PictureTool
from wraithon.desktop.theme.colours import GROUND, OCHRE, TEAL

if TYPE_CHECKING:
    from wraithon.desktop.picture.canvas import Canvas
    from wraithon.project.base import Vec3


Box = tuple["Vec3", "Vec3"]
CORNERS = np.array(list(product((0, 1), repeat=3)))
EDGES = [(a, b) for a in range(8) for b in range(a + 1, 8) if np.abs(CORNERS[a] - CORNERS[b]).sum() == 1]
NEAR = 0.05


class BoxGizmo(PictureTool):
    """Draws what was measured, and what is fixed; it takes no presses."""

    def __init__(self) -> None:
        super().__init__()
        self.anchor: str | None = None
        """Where it is fired; None: where the character stands."""
        self.measured: Box | None = None
        self.fixed: Box | None = None
        """Lowest and highest corner, in metres from there along the world's axes."""

    def lines(self, picture: Canvas, box: Box) -> list[QLineF]:
        """Return the edges of a box as they are seen, without what lies behind the camera."""
        rendered = picture.rendered
        if rendered is None:
            return []
        matrix = rendered.positions.get(self.anchor or "")
        origin = np.array(rendered.centre) if matrix is None else np.asarray(matrix[:3, 3], float)
        low, high = (np.array(end) for end in box)
        corners = origin + np.where(CORNERS, high, low)
        first, last = (corners[list(ends)] for ends in zip(*EDGES, strict=True))
        near, far = (picture.project(ends)[:, 2] for ends in (first, last))
        before = (near > NEAR) | (far > NEAR)
        way, deeper = last - first, np.where(near == far, 1.0, far - near)
        share = np.clip((NEAR - near) / deeper, 0, 1)[:, None]
        starts = np.where((near < NEAR)[:, None], first + share * way, first)
        ends = np.where((far < NEAR)[:, None], first + share * way, last)
        seen = zip(picture.project(starts[before]).tolist(), picture.project(ends[before]).tolist(), strict=True)
        return [QLineF(QPointF(*a[:2]), QPointF(*b[:2])) for a, b in seen]

    def paint(self, picture: Canvas, painter: QPainter) -> None:
        for box, colour in ((self.measured, TEAL), (self.fixed, OCHRE)):
            if box is not None:
                lines = self.lines(picture, box)
                for width, ink in ((3.2, GROUND), (1.4, colour)):
                    painter.setPen(QPen(QColor(ink), width))
                    painter.drawLines(lines)
