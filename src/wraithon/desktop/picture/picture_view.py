"""The picture: shows what the engine made, and turns the mouse into a view."""

from __future__ import annotations

import time

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QColor,
    QImage,
    QKeyEvent,
    QLinearGradient,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from wraithon.desktop.engine.rendered_frame import RenderedFrame
from wraithon.desktop.picture.comparing import Comparing
from wraithon.desktop.picture.picture_tools import PictureTool
from wraithon.desktop.theme.colours import BRICK, GROUND, INK, MOSS, OCHRE, RUST, SOFT, TEAL
from wraithon.desktop.theme.theme import figures_font, text_font
from wraithon.desktop.widgets.backdrop import Backdrop
from wraithon.desktop.widgets.basics import grouped
from wraithon.picture.camera import camera_of
from wraithon.picture.solid.ramps import RAMPS
from wraithon.project.project import FARTHEST, NEAREST, View

TURN = 0.4
"""Degrees a pixel."""
STRIP = 22
CLICK = 4
"""Pixels that a click may move by."""
FIGURES_BEAT = 0.2
"""Seconds the figures stay while playing."""


class PictureView(QWidget):
    """Shows rendered frames; left-drag turns, right-drag or Shift slides, the wheel nears.

    Signals
    -------
    view_changed
        The view to draw from.
    resized
        Width and height of the picture in device pixels.
    clicked
        Where it was clicked without a drag.
    """

    view_changed = Signal(object)
    resized = Signal(int, int)
    clicked = Signal(QPointF)

    def __init__(self) -> None:
        super().__init__()
        self.view = View()
        self.rendered: RenderedFrame | None = None
        self._image: QImage | None = None
        self._pixels: object = None
        self.comparing = Comparing()
        self.comparing.changed.connect(self.update)
        self._figures = Backdrop()
        self.hands: list[PictureTool] = []
        """What takes the mouse before the camera does."""
        self._tool: PictureTool | None = None
        self.legend: tuple[str, str, str] | None = None
        """The ramp that colours the skin, and what its two ends mean."""
        self.setMouseTracking(True)
        self._last: QPointF | None = None
        self._pressed = QPointF()
        self._sliding = False
        self.text = ""
        """Said in the middle: why there is nothing yet."""
        self.progress: float | None = None
        self.marked: list[tuple[str, np.ndarray]] = []
        """Names and world matrices (4, 4) of the anchors to show."""
        self.joint: np.ndarray | None = None
        """World position (3,) of a joint to show."""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(240, 160)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Picture")
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    def sizeHint(self) -> QSize:
        return QSize(596, 580)

    # ---- in and out -----------------------------------------------------------------------------

    def show_rendered(self, rendered: RenderedFrame) -> None:
        """Show a new picture."""
        self.rendered = rendered
        height, width = rendered.pixels.shape[:2]
        # The image reads this memory, which is used again as soon as nobody holds it.
        self._pixels = rendered.pixels
        self._image = QImage(rendered.pixels.data, width, height, width * 4, QImage.Format.Format_RGBX8888)
        self.text, self.progress = "", None
        self.update()

    def show_message(self, text: str, progress: float | None = None) -> None:
        """Show words in the middle, with a bar when `progress` is a share."""
        self.text, self.progress = text, progress
        self.update()

    def set_view(self, view: View) -> None:
        """Look from elsewhere, and tell."""
        self.view = view
        self.view_changed.emit(view)

    @property
    def image(self) -> QImage | None:
        """The picture that is shown, as an image of its own."""
        return self._image.copy() if self._image is not None else None

    def picture_size(self) -> tuple[int, int]:
        """Return width and height in device pixels, within what can be drawn quickly."""
        ratio = self.devicePixelRatioF()
        width, height = max(64, round(self.width() * ratio)), max(64, round(self.height() * ratio))
        shrink = min(1.0, (1920 * 1200 / (width * height)) ** 0.5)
        return max(64, int(width * shrink)), max(64, int(height * shrink))

    # ---- hands ----------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.resized.emit(*self.picture_size())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self._tool = next((hand for hand in self.hands if hand.press(self, event)), None)
        if self._tool is not None:
            return
        self._last = self._pressed = event.position()
        shifted = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self._sliding = event.button() == Qt.MouseButton.RightButton or shifted
        self._wipe_drag = self.comparing.takes(event.position(), self.width())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._tool is not None:
            self._tool.move(self, event)
            return
        if self._last is None:
            changed = [hand.hover(self, event.position()) for hand in self.hands]
            if any(changed):
                self.update()
            return
        move = event.position() - self._last
        self._last = event.position()
        if self._wipe_drag:
            self.comparing.drag(event.position(), self.width())
            self.update()
        elif self._sliding:
            self.slide(move.x(), move.y())
        else:
            self.turn(move.x(), move.y())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._tool is not None:
            self._tool.release(self, event)
            self._tool = None
            return
        still = self._last is not None and (event.position() - self._pressed).manhattanLength() < CLICK
        self._last = None
        if still and event.button() == Qt.MouseButton.LeftButton and not self._wipe_drag:
            self.clicked.emit(event.position())

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.near(0.9 ** (event.angleDelta().y() / 120))

    def turn(self, across: float, down: float) -> None:
        """Turn around the target by a drag in pixels."""
        azimuth = (self.view.azimuth - across * TURN + 180) % 360 - 180
        elevation = min(max(self.view.elevation + down * TURN, -85.0), 89.0)
        self.set_view(self.view.evolve(azimuth=azimuth, elevation=elevation))

    def slide(self, across: float, down: float) -> None:
        """Slide the target with the drag, in pixels."""
        metres = self.view.metres_high / max(self.height(), 1)
        right, up, _ = camera_of(self.view, (0.0, 0.0, 0.0)).basis.astype(np.float64)
        target = np.array(self.view.target) + (up * down - right * across) * metres
        self.set_view(self.view.evolve(target=tuple(float(x) for x in np.clip(target, -FARTHEST, FARTHEST))))

    def near(self, factor: float) -> None:
        """Bring the camera nearer (below 1) or farther."""
        self.set_view(self.view.evolve(distance=min(max(self.view.distance * factor, NEAREST), FARTHEST)))

    def frame_all(self) -> None:
        """Look at the whole character as it stands, however tall or far."""
        skin = self.rendered.skin if self.rendered is not None else None
        self.frame(skin if skin is not None and len(skin) else np.array([[0.0, 0, 0], [0, 1.75, 0]]))

    def frame(self, points: np.ndarray, minimum: float = 0.1) -> None:
        """Look at world points (N, 3), turned as the camera is, `minimum` metres around their middle at least."""
        seen = points[np.isfinite(points).all(axis=1)].astype(np.float64)
        if not len(seen):
            return
        low, high = seen.min(axis=0), seen.max(axis=0)
        centre = np.array(self.rendered.centre) if self.rendered is not None else np.zeros(3)
        low, high = (low - centre).tolist(), (high - centre).tolist()
        self.set_view(self.view.around(low, high, self.width() / max(self.height(), 1), minimum))

    def look_from(self, azimuth: float, elevation: float) -> None:
        """Look from a side, in degrees, from where the distance is now."""
        self.set_view(self.view.evolve(azimuth=azimuth, elevation=elevation))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._tool is not None:
            self._tool.cancel(self)
            self._tool = None
            return
        steps = {
            Qt.Key.Key_Left: (-20, 0),
            Qt.Key.Key_Right: (20, 0),
            Qt.Key.Key_Up: (0, -15),
            Qt.Key.Key_Down: (0, 15),
        }
        if event.key() in steps:
            self.turn(*steps[Qt.Key(event.key())])
        elif event.key() in {Qt.Key.Key_Plus, Qt.Key.Key_Equal}:
            self.near(0.9)
        elif event.key() == Qt.Key.Key_Minus:
            self.near(1 / 0.9)
        else:
            super().keyPressEvent(event)

    # ---- looks ----------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            if self._image is None:
                painter.fillRect(self.rect(), QColor("#171319"))
            else:
                ratio = self.devicePixelRatioF()
                if self._image.size() == (self.size() * ratio):
                    self._image.setDevicePixelRatio(ratio)
                    painter.drawImage(0, 0, self._image)
                else:
                    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
                    painter.drawImage(QRectF(self.rect()), self._image)
            self.comparing.paint(painter, QRectF(self.rect()), self._image)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            if self.rendered is not None:
                self._paint_marks(painter)
                for hand in self.hands:
                    hand.paint(self, painter)
                if self.legend is not None and self.rendered.heat is not None:
                    self._paint_legend(painter, *self.legend)
                # Figures that change with every frame cannot be read.
                beat = int(time.perf_counter() / FIGURES_BEAT) if self.rendered.playing else -1
                said = () if self.rendered.playing else (self.rendered,)
                painter.setClipRect(self._strip)
                self._figures.draw_on(painter, self, (self.size(), beat), said, self._paint_figures)
                painter.setClipping(False)
            if self.text:
                self._paint_text(painter)
            if self.hasFocus():
                painter.setPen(QPen(QColor(TEAL), 1))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))

    def project(self, points: np.ndarray) -> np.ndarray:
        """Return where world points (N, 3) are in the widget: x, y and distance ahead (N, 3)."""
        if self.rendered is None:
            return np.zeros((0, 3))
        return self.rendered.camera.project(points, self.width(), self.height())

    def _paint_marks(self, painter: QPainter) -> None:
        if self.joint is not None:
            (x, y, ahead) = self.project(self.joint[None])[0]
            if ahead > 0:
                painter.setPen(QPen(QColor(INK), 1.5))
                painter.setBrush(QColor(RUST))
                painter.drawEllipse(QPointF(x, y), 5, 5)
        for name, matrix in self.marked:
            ends = matrix[:3, 3] + np.vstack([np.zeros(3), matrix[:3, :3].T * 0.12])
            positions = self.project(ends)
            if positions[0, 2] <= 0:
                continue
            start = QPointF(positions[0, 0], positions[0, 1])
            for k, colour in enumerate((BRICK, MOSS, TEAL)):
                painter.setPen(QPen(QColor(colour), 2))
                painter.drawLine(start, QPointF(positions[k + 1, 0], positions[k + 1, 1]))
            painter.setPen(QPen(QColor(GROUND), 1.5))
            painter.setBrush(QColor(INK))
            painter.drawEllipse(start, 4, 4)
            self.tag(painter, start + QPointF(9, -9), name)

    def tag(self, painter: QPainter, at: QPointF, text: str) -> None:
        """Write words on a small dark ground."""
        painter.setFont(text_font(11))
        width = painter.fontMetrics().horizontalAdvance(text) + 10
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(31, 26, 34, 215))
        painter.drawRoundedRect(QRectF(at.x(), at.y() - 9, width, 18), 4, 4)
        painter.setPen(QColor(INK))
        painter.drawText(QRectF(at.x(), at.y() - 9, width, 18), Qt.AlignmentFlag.AlignCenter, text)

    def _paint_legend(self, painter: QPainter, ramp: str, low: str, high: str) -> None:
        painter.setFont(text_font(11))
        metrics = painter.fontMetrics()
        left, bar = metrics.horizontalAdvance(low), 90
        width = left + bar + metrics.horizontalAdvance(high) + 36
        box = QRectF(self.width() - width - 10, 10, width, 24)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(31, 26, 34, 215))
        painter.drawRoundedRect(box, 4, 4)
        stops = RAMPS[ramp]
        gradient = QLinearGradient(box.left() + left + 18, 0, box.left() + left + 18 + bar, 0)
        for k, stop in enumerate(stops):
            gradient.setColorAt(k / (len(stops) - 1), QColor.fromRgbF(*stop))
        painter.setBrush(QBrush(gradient))
        painter.drawRoundedRect(QRectF(box.left() + left + 18, box.top() + 7, bar, 10), 2, 2)
        painter.setPen(QColor(INK))
        painter.drawText(QPointF(box.left() + 10, box.top() + 16), low)
        painter.drawText(QPointF(box.left() + left + bar + 26, box.top() + 16), high)

    @property
    def _strip(self) -> QRectF:
        """Where figures are, along the lower edge."""
        return QRectF(0, self.height() - STRIP, self.width(), STRIP)

    def _paint_figures(self, painter: QPainter) -> None:
        assert self.rendered is not None  # the caller has looked
        figures = self.rendered.figures
        strip = self._strip
        painter.fillRect(strip, QColor(31, 26, 34, 205))
        painter.setFont(figures_font(11))
        speed = f"{figures.frames_a_second:.0f} frames/s" if self.rendered.playing else "paused"
        left = [(speed, INK), (f"{grouped(figures.alive)} alive", INK)]
        if figures.refused:
            left.append((f"{grouped(figures.refused)} refused", OCHRE))
        right = f"draw {figures.draw_ms:.1f} ms"
        if self.rendered.playing:
            right = f"step {figures.step_ms:.1f} ms   {right}"
        if figures.coarseness > 1:
            left.append((f"sprites at 1/{figures.coarseness}", OCHRE))
        if figures.scale < 1:
            left.append((f"picture at {figures.scale:.0%}", OCHRE))
        x = 10.0
        for text, colour in left:
            painter.setPen(QColor(colour))
            painter.drawText(QPointF(x, strip.center().y() + 4), text)
            x += painter.fontMetrics().horizontalAdvance(text) + 18
        painter.setPen(QColor(SOFT))
        painter.drawText(
            strip.adjusted(0, 0, -10, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, right
        )

    def _paint_text(self, painter: QPainter) -> None:
        painter.setFont(text_font(14))
        width = min(max(painter.fontMetrics().horizontalAdvance(self.text) + 40, 220), self.width() - 20)
        middle = QPointF(self.width() / 2, self.height() / 2)
        box = QRectF(middle.x() - width / 2, middle.y() - 30, width, 60)
        if self.rendered is not None:  # a picture is there: say it small, at the top
            box.moveTop(10)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(40, 33, 41, 235))
        painter.drawRoundedRect(box, 6, 6)
        painter.setPen(QColor(INK))
        flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(box.adjusted(12, 4, -12, -14 if self.progress is not None else -4), flags, self.text)
        if self.progress is not None:
            bar = QRectF(box.left() + 20, box.bottom() - 16, box.width() - 40, 4)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(GROUND))
            painter.drawRoundedRect(bar, 2, 2)
            painter.setBrush(QColor(TEAL))
            painter.drawRoundedRect(
                QRectF(bar.left(), bar.top(), bar.width() * min(max(self.progress, 0), 1), 4), 2, 2
            )
