"""Handles on a curve through life: one is picked, dragged, nudged by keys, added and deleted."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QGuiApplication, QKeyEvent, QKeySequence, QMouseEvent
from PySide6.QtWidgets import QMenu, QWidget

from wraithon.desktop.widgets.basics import OwnKeys, ShowsFocus
from wraithon.interchange.clippings import curve_text, read_curve
from wraithon.project.life import Curve, Gradient
from wraithon.support.errors import ProjectError

GAP = 0.002
"""Least distance of two ages."""
NEAR = 9.0
"""Pixels within which a handle is under the mouse."""


class Handles(OwnKeys, ShowsFocus, QWidget):
    """What the plot of a curve and the strip of a gradient share.

    Signals
    -------
    edited
        The curve as it should be, and whether the gesture is over.
    picked
        Another handle is picked: its number.
    said
        Why nothing was pasted.
    """

    own_shortcuts = (QKeySequence.StandardKey.Copy, QKeySequence.StandardKey.Paste)
    own_keys = frozenset({Qt.Key.Key_Delete, Qt.Key.Key_Backspace})

    edited = Signal(object, bool)
    picked = Signal(int)
    said = Signal(str)

    def __init__(self, name: str, thing: str, height: int) -> None:
        super().__init__()
        self.picked_index = 0
        self._dragging = False
        self._before: object = None
        """The curve before a drag."""
        self.setFixedHeight(height)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setToolTip(
            f"Drag {thing}; double-click adds one; Delete removes it; arrow keys nudge; Page keys pick; "
            "Ctrl+C and Ctrl+V copy and paste them all"
        )

    def ages(self) -> list[float]:
        """Return the ages of all handles, rising."""
        raise NotImplementedError

    def position_of(self, index: int) -> QPointF:
        """Return where a handle is drawn."""
        raise NotImplementedError

    def move_to(self, at: QPointF, *, final: bool) -> None:
        """Move the picked handle under the mouse."""
        raise NotImplementedError

    def add_at(self, at: QPointF) -> None:
        """Add a handle under the mouse."""
        raise NotImplementedError

    def delete_picked(self) -> None:
        """Delete the picked handle; the last one stays."""
        raise NotImplementedError

    def nudge(self, event: QKeyEvent) -> bool:
        """Move the picked handle by an arrow key; return whether the key was one."""
        raise NotImplementedError

    def between(self, age: float) -> float:
        """Return an age that lies between the picked handle's neighbours."""
        ages, k = self.ages(), self.picked_index
        before = ages[k - 1] + GAP if k else 0.0
        after = ages[k + 1] - GAP if k + 1 < len(ages) else 1.0
        return min(max(age, before), after)

    def has_room(self, age: float, maximum: int) -> bool:
        """Return whether a handle fits at an age, and there are fewer than `maximum`."""
        return len(self.ages()) < maximum and all(abs(age - other) >= GAP for other in self.ages())

    def pick(self, index: int) -> None:
        """Pick a handle."""
        self.picked_index = index
        self.update()
        self.picked.emit(index)

    def nearest(self, at: QPointF) -> int | None:
        """Return the handle under the mouse, if there is one."""
        away = [self.away(self.position_of(k) - at) for k in range(len(self.ages()))]
        best = away.index(min(away))
        return best if away[best] <= NEAR else None

    @staticmethod
    def away(way: QPointF) -> float:
        """Return how far a handle is from the mouse, given the way between them."""
        return float((way.x() ** 2 + way.y() ** 2) ** 0.5)

    def shape(self) -> Curve | Gradient:
        """Return the curve as it is shown."""
        raise NotImplementedError

    def restore(self, curve: object) -> None:
        """Show and tell a curve that was shown before, or elsewhere."""
        raise NotImplementedError

    def reversed_in_time(self) -> Curve | Gradient:
        """Return the curve from its end to its beginning."""
        raise NotImplementedError

    def copy(self) -> None:
        """Copy the curve as text."""
        QGuiApplication.clipboard().setText(curve_text(self.shape()))

    def paste(self) -> None:
        """Take over a curve that was copied."""
        try:
            self.restore(read_curve(QGuiApplication.clipboard().text(), self.shape()))
        except ProjectError as error:
            self.said.emit(str(error))

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        menu = QMenu(self)
        menu.addAction("Copy all points", QKeySequence.StandardKey.Copy, self.copy)
        menu.addAction("Paste over them", QKeySequence.StandardKey.Paste, self.paste)
        menu.addAction("Turn round in time", lambda: self.restore(self.reversed_in_time()))
        menu.popup(event.globalPos())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        near = self.nearest(event.position())
        if near is not None:
            self.pick(near)
            self._dragging = True
            self._before = self.shape()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragging:
            self.move_to(event.position(), final=False)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._dragging and event.button() == Qt.MouseButton.LeftButton:
            self._dragging = False
            self.move_to(event.position(), final=True)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self._dragging = False
        self.add_at(event.position())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = Qt.Key
        if event.key() == keys.Key_Escape and self._dragging:
            self._dragging = False
            self.restore(self._before)
        elif event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
        elif event.matches(QKeySequence.StandardKey.Paste):
            self.paste()
        elif event.key() in {keys.Key_Delete, keys.Key_Backspace}:
            self.delete_picked()
        elif event.key() in {keys.Key_PageUp, keys.Key_PageDown}:
            step = 1 if event.key() == keys.Key_PageDown else -1
            self.pick((self.picked_index + step) % len(self.ages()))
        elif not self.nudge(event):
            super().keyPressEvent(event)
