"""Parts of a widget that are painted once and kept."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtGui import QColor, QPainter, QPixmap
from PySide6.QtWidgets import QWidget

from wraithon.support.identity import same_objects


class Backdrop:
    """A layer of a widget's painting, kept until something it shows has changed.

    With a `ground` it covers the whole widget, which then may call itself opaque.
    """

    def __init__(self, ground: str = "transparent") -> None:
        self._ground = QColor(ground)
        self._key: tuple[object, ...] | None = None
        self._shown: tuple[object, ...] = ()
        self._pixmap = QPixmap()

    def forget(self) -> None:
        """Paint anew next time."""
        self._key = None

    def draw_on(
        self,
        painter: QPainter,
        widget: QWidget,
        key: tuple[object, ...],
        shown: tuple[object, ...],
        paint: Callable[[QPainter], None],
    ) -> None:
        """Draw the layer, after painting it anew when `key` is not equal or `shown` not the same objects."""
        ratio = widget.devicePixelRatioF()
        key = (*key, ratio)
        if key != self._key or not same_objects(shown, self._shown):
            self._key, self._shown = key, shown
            self._pixmap = QPixmap(widget.size() * ratio)
            self._pixmap.setDevicePixelRatio(ratio)
            self._pixmap.fill(self._ground)
            with QPainter(self._pixmap) as inner:
                inner.setRenderHint(QPainter.RenderHint.Antialiasing)
                paint(inner)
        painter.drawPixmap(0, 0, self._pixmap)
