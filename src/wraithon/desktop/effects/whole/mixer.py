"""The mixer: all layers of an effect in one view, on one time axis, with what each gives when and what it costs."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QWidget

from wraithon.desktop.theme.colours import BRICK, FAINT, INK, LINE, OCHRE, ROW, RUST, SOFT, TEAL
from wraithon.desktop.theme.theme import figures_font, text_font
from wraithon.desktop.widgets.basics import OwnKeys, ShowsFocus, grouped, image_of
from wraithon.project.resolving.durations import lasting
from wraithon.project.source import OffspringSource

if TYPE_CHECKING:
    from collections.abc import Mapping

    import numpy as np
    from numpy.typing import NDArray

    from wraithon.project.effect import Effect, Layer
    from wraithon.studio.cost import LayerCost


NAME, PICTURE, FIGURES, HEAD = 122, 33, 100, 20
"""Pixels of the names, of the pictures before them, of the figures at the right, and of the axis above."""
ENDLESS = 2.0
"""Seconds that are shown of what never ends."""


class Lasting(NamedTuple):
    """When a layer of a firing gives birth, and until when its particles live, in seconds; endless ones go on."""

    start: float
    end: float
    gone: float
    endless: bool


def lasting_of(layer: Layer, length: float | None) -> Lasting:
    """Return when a layer gives birth in a firing of this length."""
    emission, lasts = layer.emission, layer.lifetime.ends[1]
    bursts = [b.time + (b.repeats - 1) * b.interval for b in emission.bursts if b.highest]
    steady = emission.rate > 0 or emission.per_metre > 0
    window = emission.window(length) if steady else 0.0
    endless = (emission.loop is not None and length is None) or math.isinf(window)
    start = min([emission.start] * steady + [b.time for b in emission.bursts if b.highest], default=0.0)
    end = max([emission.start + window] * (steady and not math.isinf(window)) + bursts, default=start)
    if emission.loop is not None and length is not None:
        end = max(end, length)
    if layer.hold is not None:
        stays = length if length is not None else end
        return Lasting(start, end, max(end, stays) + (1 - layer.hold) * lasts, endless or length is None)
    return Lasting(start, end, end + lasts, endless)


class LayerMixer(OwnKeys, ShowsFocus, QWidget):
    """Shows the layers of an effect.

    Signals
    -------
    picked
        Id of a layer to go to.
    """

    picked = Signal(str)
    own_keys = frozenset({Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Return})

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Layers of the effect: births and lives on one time axis")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMouseTracking(True)
        self._effect: Effect | None = None
        self._silent: frozenset[str] = frozenset()
        self._living: Mapping[str, tuple[int, int]] = {}
        self._cost: dict[str, LayerCost] = {}
        self._budget, self._at = 1.0, 0
        self.pictures: dict[str, QPixmap] = {}
        """Layer id to what it looks like alone."""

    def show_effect(self, effect: Effect, silent: frozenset[str], budget: float) -> None:
        """Show an effect; `silent` layers are not seen now, and `budget` is in milliseconds."""
        self._effect, self._silent, self._budget = lasting(effect), silent, budget
        self._at = min(self._at, max(0, len(effect.layers) - 1))
        self.setFixedHeight(HEAD + ROW * len(effect.layers) + 4)
        self.update()

    def show_living(self, living: Mapping[str, tuple[int, int]]) -> None:
        """Show how many of each layer live, and were refused."""
        ids = {layer.id for layer in self._effect.layers} if self._effect else set()
        mine = {layer: living[layer] for layer in ids if layer in living}
        if mine != self._living:
            self._living = mine
            self.update()

    def show_picture(self, layer: str, pixels: NDArray[np.uint8]) -> None:
        """Show what a layer looks like alone."""
        self.pictures[layer] = QPixmap.fromImage(image_of(pixels))
        self.update()

    def show_cost(self, cost: dict[str, LayerCost]) -> None:
        """Show what layers cost."""
        self._cost = cost
        self.update()

    # ---- hands ----------------------------------------------------------------------------------

    def _row_at(self, y: float) -> int | None:
        number = int((y - HEAD) // ROW)
        return number if self._effect and 0 <= number < len(self._effect.layers) else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        number = self._row_at(event.position().y())
        if number is not None and event.button() == Qt.MouseButton.LeftButton and self._effect is not None:
            self._at = number
            self.picked.emit(self._effect.layers[number].id)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        number = self._row_at(event.position().y())
        self.setToolTip(self._text(self._effect.layers[number]) if number is not None and self._effect else "")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self._effect is None or not self._effect.layers:
            return
        if event.key() == Qt.Key.Key_Return:
            self.picked.emit(self._effect.layers[self._at].id)
        elif event.key() in {Qt.Key.Key_Up, Qt.Key.Key_Down}:
            by = 1 if event.key() == Qt.Key.Key_Down else -1
            self._at = min(max(self._at + by, 0), len(self._effect.layers) - 1)
            self.update()
        else:
            super().keyPressEvent(event)

    def _text(self, layer: Layer) -> str:
        span = lasting_of(layer, self._effect.length if self._effect else None)
        until = "endless" if span.endless else f"until {span.end:.2f} s"
        lives = f"{layer.lifetime.ends[1]:g} s at most" if layer.hold is None else "as long as the effect"
        text = [f"{layer.name}: emitted from {span.start:.2f} s {until}; each lives {lives}"]
        if isinstance(layer.source, OffspringSource):
            text = [f"{layer.name}: emitted by another layer's particles"]
        alive, refused = self._living.get(layer.id, (0, 0))
        text.append(f"{alive} live, {refused} births were refused")
        cost = self._cost.get(layer.id)
        if cost is not None:
            text.append(
                f"at the most expensive frame {cost.alive} live: {cost.step_ms:.2f} ms a step,"
                f" {cost.draw_ms:.2f} ms a picture, {grouped(cost.pixels)} pixels"
            )
        return "\n".join(text)

    # ---- painting -------------------------------------------------------------------------------

    def _seconds(self) -> float:
        """Return the seconds that the axis shows."""
        assert self._effect is not None  # it is painted
        layers = [layer for layer in self._effect.layers if not isinstance(layer.source, OffspringSource)]
        spans = [lasting_of(layer, self._effect.length) for layer in layers]
        ends = max([span.end + (ENDLESS if span.endless else 0.0) for span in spans], default=0.0)
        lives = sorted(layer.lifetime.ends[1] for layer in layers)
        # What lives far longer than the others would leave them no room.
        longest = min(lives[-1], 3 * lives[len(lives) // 2]) if lives else 0.0
        return max(self._effect.length or 0.0, ends + longest, 0.1)

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._effect is None:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            lane = QRectF(NAME, 0, max(20.0, self.width() - NAME - FIGURES), HEAD)
            seconds = self._seconds()
            painter.setFont(figures_font(10))
            painter.setPen(QColor(SOFT))
            painter.drawText(lane, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, "0 s")
            painter.drawText(lane, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{seconds:.2f} s")
            right = QRectF(self.width() - FIGURES, 0, FIGURES - 2, HEAD)
            painter.drawText(right, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, "alive      ms")
            for number, layer in enumerate(self._effect.layers):
                self._paint_row(painter, number, layer, lane.translated(0, HEAD + number * ROW), seconds)

    def _paint_row(self, painter: QPainter, number: int, layer: Layer, lane: QRectF, seconds: float) -> None:
        box = QRectF(0, lane.top(), self.width(), ROW)
        quiet = layer.disabled or layer.id in self._silent
        painter.setPen(QPen(QColor(LINE), 1))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        if self.hasFocus() and number == self._at:
            painter.setPen(QPen(QColor(TEAL), 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 3, 3)
        painter.setFont(text_font(12))
        painter.setPen(QColor(FAINT if quiet else INK))
        picture = self.pictures.get(layer.id)
        if picture is not None:
            painter.drawPixmap(QRectF(1, box.top() + 2, PICTURE, ROW - 4), picture, QRectF(picture.rect()))
        name = painter.fontMetrics().elidedText(layer.name, Qt.TextElideMode.ElideRight, NAME - PICTURE - 10)
        painter.drawText(QRectF(PICTURE + 5, box.top(), NAME - PICTURE - 8, ROW), Qt.AlignmentFlag.AlignVCenter, name)
        if not isinstance(layer.source, OffspringSource):
            self._paint_lane(painter, layer, lane.adjusted(0, 5, 0, 1), seconds, quiet=quiet)
        painter.setFont(figures_font(11))
        alive, refused = self._living.get(layer.id, (0, 0))
        painter.setPen(QColor(OCHRE if refused else FAINT if quiet else SOFT))
        position = QRectF(self.width() - FIGURES, box.top(), 52, ROW)
        painter.drawText(position, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, grouped(alive))
        cost = self._cost.get(layer.id)
        if cost is not None:
            self._paint_cost(painter, cost, QRectF(self.width() - 46, box.top(), 44, ROW))

    def _paint_lane(self, painter: QPainter, layer: Layer, lane: QRectF, seconds: float, *, quiet: bool) -> None:
        assert self._effect is not None  # it is painted
        span, high = lasting_of(layer, self._effect.length), lane.height() - 8

        def x(moment: float) -> float:
            return lane.left() + lane.width() * min(moment, seconds) / seconds

        gone = seconds if span.endless else span.gone
        end = seconds if span.endless else span.end
        colour = QColor(FAINT if quiet else TEAL)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(LINE))
        painter.drawRoundedRect(QRectF(x(span.start), lane.top(), max(2.0, x(gone) - x(span.start)), high), 2, 2)
        if layer.emission.rate > 0 or layer.emission.per_metre > 0:
            painter.setBrush(colour)
            start = x(layer.emission.start)
            painter.drawRoundedRect(
                QRectF(start, lane.top() + high * 0.35, max(2.0, x(end) - start), high * 0.65), 2, 2
            )
        painter.setBrush(QColor(FAINT if quiet else RUST))
        for burst in layer.emission.bursts:
            for k in range(min(burst.repeats, 40)):
                at = x(burst.time + k * burst.interval)
                painter.drawRect(QRectF(at, lane.top(), 2, high))
                painter.drawEllipse(QPointF(at + 1, lane.top() + 2), 2.5, 2.5)

    def _paint_cost(self, painter: QPainter, cost: LayerCost, position: QRectF) -> None:
        takes = cost.draw_ms + 2 * cost.step_ms
        share = min(1.0, takes / self._budget)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(BRICK if share >= 0.5 else OCHRE if share >= 0.25 else LINE))
        painter.drawRect(QRectF(position.left(), position.bottom() - 4, position.width() * share, 2))
        painter.setPen(QColor(INK))
        painter.drawText(position, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{takes:.1f}")
