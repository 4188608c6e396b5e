"""Colours: between linear light and what the screen shows, and a picker without a dialog."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QLinearGradient, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from wraithon.desktop.theme.colours import GROUND, INK, LINE, TEAL
from wraithon.desktop.theme.theme import figures_font
from wraithon.desktop.widgets.basics import ShowsFocus
from wraithon.numeric import srgb
from wraithon.project.life import Colour


def to_screen(colour: Colour) -> QColor:
    """Return a linear colour as the screen shows it; light beyond 1 is shown at full strength."""
    return QColor.fromRgbF(*srgb.to_srgb([min(max(x, 0.0), 1.0) for x in colour]).tolist())


def to_linear(colour: QColor) -> Colour:
    """Return a screen colour in linear light."""
    red, green, blue = srgb.to_linear([colour.redF(), colour.greenF(), colour.blueF()]).tolist()
    return (round(red, 5), round(green, 5), round(blue, 5))


class Swatch(ShowsFocus, QWidget):
    """A colour that can be clicked.

    Signals
    -------
    clicked
        By mouse, Enter or Space.
    """

    clicked = Signal()

    def __init__(self, name: str) -> None:
        super().__init__()
        self._colour: Colour = (1.0, 1.0, 1.0)
        self.active = False
        self.setFixedHeight(24)
        self.setMinimumWidth(36)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(name)
        self.setToolTip(name)

    def set_colour(self, colour: Colour, *, active: bool = False) -> None:
        """Show a linear colour; `active` frames it."""
        self._colour, self.active = colour, active
        self.update()

    def mousePressEvent(self, _event: QMouseEvent) -> None:
        self.setFocus()
        self.clicked.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space}:
            self.clicked.emit()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            framed = self.active or self.hasFocus()
            painter.setPen(QPen(QColor(TEAL if framed else LINE), 2 if framed else 1))
            painter.setBrush(to_screen(self._colour))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)


class ColourPicker(QWidget):
    """A field of lightness and depth, a strip of hues, and a hex code.

    Signals
    -------
    edited
        The linear colour, and whether the gesture is over.
    """

    edited = Signal(object, bool)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._area = _HueArea()
        self._area.edited.connect(self._from_area)
        self._code = QLineEdit()
        self._code.setFont(figures_font())
        self._code.setMaximumWidth(86)
        self._code.setAccessibleName("Colour as hex")
        self._code.editingFinished.connect(self._typed)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self._area, 1)
        column = QVBoxLayout()
        column.addWidget(self._code)
        column.addStretch(1)
        layout.addLayout(column)

    def set_colour(self, colour: Colour) -> None:
        """Show a linear colour; nothing is signalled."""
        screen = to_screen(colour)
        if screen.rgb() != self._area.colour().rgb():
            self._area.set_colour(screen)
        if not self._code.hasFocus():
            self._code.setText(screen.name())

    def _from_area(self, colour: QColor, final: bool) -> None:
        self._code.setText(colour.name())
        self.edited.emit(to_linear(colour), final)

    def _typed(self) -> None:
        text = self._code.text().strip()
        colour = QColor(text if text.startswith("#") else f"#{text}")
        if colour.isValid() and colour.rgb() != self._area.colour().rgb():
            self._area.set_colour(colour)
            self.edited.emit(to_linear(colour), True)
        self._code.setText(self._area.colour().name())


class ColourField(QWidget):
    """A swatch that opens and closes a picker below it.

    Signals
    -------
    edited
        The linear colour, and whether the gesture is over.
    """

    edited = Signal(object, bool)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.swatch, self.picker = Swatch(name), ColourPicker()
        self.swatch.clicked.connect(lambda: self.picker.setVisible(not self.picker.isVisible()))
        self.picker.edited.connect(self.edited)
        self.picker.hide()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.swatch)
        layout.addWidget(self.picker)

    def set_value(self, colour: Colour) -> None:
        """Show a linear colour; nothing is signalled."""
        self.swatch.set_colour(colour)
        self.picker.set_colour(colour)


class _HueArea(ShowsFocus, QWidget):
    """Hue along the strip below; depth to the right, lightness upwards. Arrow keys move, with Ctrl along the hues."""

    edited = Signal(QColor, bool)
    STRIP = 14

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(112)
        self._hue, self._depth, self._light = 0.5, 0.5, 0.5
        self._on_strip = False
        self._before: QColor | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Depth and lightness; with Ctrl, the hue")
        self.setToolTip("Drag, or use the arrow keys: depth and lightness, with Ctrl the hue; Shift is finer")
        self._field: tuple[float, QImage] | None = None

    def colour(self) -> QColor:
        return QColor.fromHsvF(self._hue, self._depth, self._light)

    def set_colour(self, colour: QColor) -> None:
        hue, depth, light, _ = colour.getHsvF()
        self._hue = hue if hue >= 0 else self._hue
        self._depth, self._light = depth, light
        self.update()

    def _area(self) -> QRectF:
        return QRectF(0, 0, self.width(), self.height() - self.STRIP - 6)

    def _move(self, at: QPointF, final: bool) -> None:
        area = self._area()
        share = min(max(at.x() / max(area.width() - 1, 1), 0.0), 1.0)
        if self._on_strip:
            self._hue = min(share, 0.9999)
        else:
            self._depth = share
            self._light = 1 - min(max(at.y() / max(area.height() - 1, 1), 0.0), 1.0)
        self.update()
        self.edited.emit(self.colour(), final)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = Qt.Key
        by = 0.01 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.05
        across = {keys.Key_Left: -by, keys.Key_Right: by}.get(keys(event.key()), 0.0)
        up = {keys.Key_Down: -by, keys.Key_Up: by}.get(keys(event.key()), 0.0)
        if event.key() == keys.Key_Escape and self._before is not None:
            self.set_colour(self._before)
            self._before = None
        elif not across and not up:
            super().keyPressEvent(event)
            return
        elif event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._hue = min(max(self._hue + across, 0.0), 0.9999)
        else:
            self._depth = min(max(self._depth + across, 0.0), 1.0)
            self._light = min(max(self._light + up, 0.0), 1.0)
        self.update()
        self.edited.emit(self.colour(), True)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._before = self.colour()
        self._on_strip = event.position().y() > self._area().bottom() + 2
        self._move(event.position(), final=False)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton and self._before is not None:
            self._move(event.position(), final=False)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._before is not None:
            self._before = None
            self._move(event.position(), final=True)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            area = self._area()
            across = QLinearGradient(0, 0, area.width(), 0)
            across.setColorAt(0, QColor("white"))
            across.setColorAt(1, QColor.fromHsvF(self._hue, 1, 1))
            painter.fillRect(area, across)
            down = QLinearGradient(0, 0, 0, area.height())
            down.setColorAt(0, QColor(0, 0, 0, 0))
            down.setColorAt(1, QColor("black"))
            painter.fillRect(area, down)
            strip = QRectF(0, self.height() - self.STRIP, self.width(), self.STRIP)
            hues = QLinearGradient(0, 0, strip.width(), 0)
            for k in range(13):
                hues.setColorAt(k / 12, QColor.fromHsvF(min(k / 12, 0.9999), 0.85, 0.95))
            painter.fillRect(strip, hues)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            # The rings stay whole: at the borders they stand a little inside.
            x, y = (
                _inside(share, side)
                for share, side in ((self._depth, area.width()), (1 - self._light, area.height()))
            )
            spot = QPointF(x, y)
            at = QPointF(_inside(self._hue, strip.width()), strip.center().y())
            for pen in (QPen(QColor(GROUND), 3), QPen(QColor(TEAL if self.hasFocus() else INK), 1.5)):
                painter.setPen(pen)
                painter.drawEllipse(spot, 5, 5)
                painter.drawEllipse(at, 5, 5)


def _inside(share: float, side: float, rim: float = 6.5) -> float:
    """Return where a share of a side is, no nearer to its ends than a ring's rim."""
    return min(max(share * side, rim), side - rim)
