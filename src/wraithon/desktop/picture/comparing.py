"""Comparing the picture with kept ones: a wipe, a flip, or side by side."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QPointF, QRectF, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from wraithon.desktop.theme.colours import GROUND, INK
from wraithon.desktop.theme.theme import text_font

if TYPE_CHECKING:
    from wraithon.project.project import Project, View


MAX_SNAPSHOTS = 40
NEAR = 8
"""Pixels within which the wipe is taken."""


class Way(StrEnum):
    """How a kept picture is compared with the one of now."""

    NONE = ""
    WIPE = "wipe"
    FLIP = "flip"
    BESIDE = "side by side"


@dataclass(frozen=True)
class Snapshot:
    """A picture, and the settings, view and moment that it shows."""

    name: str
    image: QImage
    project: Project
    view: View
    moment: float


class Comparing(QObject):
    """The kept pictures, and which of them is compared how.

    Signals
    -------
    changed
        There are others, or another is compared, or otherwise.
    """

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.snapshots: list[Snapshot] = []
        self.at = -1
        self.way = Way.NONE
        self.share = 0.5
        """Where the wipe is, from 0 to 1 across."""

    @property
    def chosen(self) -> Snapshot | None:
        """The picture to compare with."""
        return self.snapshots[self.at] if 0 <= self.at < len(self.snapshots) else None

    def keep(self, image: QImage, project: Project, view: View, moment: float) -> None:
        """Keep a picture and what it shows; the oldest goes when there are very many."""
        numbers = [
            int(last) for snapshot in self.snapshots if (last := snapshot.name.removeprefix("snapshot ")).isdigit()
        ]
        self.snapshots.append(Snapshot(f"snapshot {max(numbers, default=0) + 1}", image, project, view, moment))
        del self.snapshots[:-MAX_SNAPSHOTS]
        self.at = len(self.snapshots) - 1
        self.changed.emit()

    def choose(self, number: int) -> None:
        """Compare with another kept picture."""
        self.at = number
        self.changed.emit()

    def rename(self, number: int, name: str) -> None:
        """Call a kept picture something else."""
        if name.strip():
            self.snapshots[number] = replace(self.snapshots[number], name=name.strip())
        self.changed.emit()

    def drop(self) -> None:
        """Keep the chosen picture no longer."""
        if self.chosen is not None:
            del self.snapshots[self.at]
            self.at = min(self.at, len(self.snapshots) - 1)
            self.way = self.way if self.snapshots else Way.NONE
            self.changed.emit()

    def clear(self) -> None:
        """Keep none: another project was opened."""
        self.snapshots, self.at, self.way = [], -1, Way.NONE
        self.changed.emit()

    def compare(self, way: Way) -> None:
        """Compare this way from now on, when there is something to compare with."""
        self.way = way if self.chosen is not None else Way.NONE
        self.changed.emit()

    def takes(self, at: QPointF, width: int) -> bool:
        """Return whether the wipe is under the mouse, in a picture so wide."""
        return self.way is Way.WIPE and abs(at.x() - self.share * width) < NEAR

    def drag(self, at: QPointF, width: int) -> None:
        """Take the wipe along with the mouse."""
        self.share = min(max(at.x() / max(width, 1), 0.02), 0.98)

    # ---- painting -------------------------------------------------------------------------------

    def paint(self, painter: QPainter, position: QRectF, now: QImage | None) -> None:
        """Paint the kept picture over, or beside, that of now."""
        snapshot = self.chosen
        if snapshot is None or self.way is Way.NONE:
            return
        x = {Way.WIPE: self.share * position.width(), Way.FLIP: position.width()}.get(self.way, position.width() / 2)
        if self.way is Way.BESIDE and now is not None:
            painter.fillRect(position, QColor(GROUND))
            half = QRectF(position.left(), position.top(), x - 1, position.height())
            painter.drawImage(half, snapshot.image, _middle(snapshot.image, half))
            half.moveLeft(x + 1)
            painter.drawImage(half, now, _middle(now, half))
        else:
            painter.save()
            painter.setClipRect(QRectF(0, 0, x, position.height()))
            painter.fillRect(position, QColor(GROUND))
            painter.drawImage(_framed(snapshot.image, position), snapshot.image)
            painter.restore()
        painter.setPen(QPen(QColor(INK), 1))
        painter.setFont(text_font(11))
        if self.way is not Way.FLIP:
            painter.drawLine(QPointF(x, 0), QPointF(x, position.height()))
            painter.drawText(QPointF(x + 8, 16), "now")
        width = painter.fontMetrics().horizontalAdvance(snapshot.name)
        painter.drawText(QPointF(max(8.0, x - width - 8), 16), snapshot.name)


def _framed(image: QImage, position: QRectF) -> QRectF:
    """Return where an image lies in a picture of another shape: what is seen from top to bottom is the same."""
    width = image.width() * position.height() / max(image.height(), 1)
    return QRectF((position.width() - width) / 2, 0, width, position.height())


def _middle(image: QImage, half: QRectF) -> QRectF:
    """Return the middle of an image, of the shape of the place it is drawn in."""
    width = min(image.width(), image.height() * half.width() / max(half.height(), 1.0))
    return QRectF((image.width() - width) / 2, 0, width, image.height())
