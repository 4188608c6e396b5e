"""What hands may ask of the picture they work in."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    import numpy as np
    from PySide6.QtCore import QPointF
    from PySide6.QtGui import QPainter

    from wraithon.desktop.engine.rendered_frame import RenderedFrame
    from wraithon.project.project import View


class Canvas(Protocol):
    """The picture, as hands know it."""

    rendered: RenderedFrame | None
    view: View

    def width(self) -> int:
        """Return its width in pixels."""

    def height(self) -> int:
        """Return its height in pixels."""

    def update(self) -> None:
        """Repaint it."""

    def project(self, points: np.ndarray) -> np.ndarray:
        """Return where world points (N, 3) are: x, y and distance ahead (N, 3)."""

    def tag(self, painter: QPainter, at: QPointF, text: str) -> None:
        """Write words on a small dark ground."""
