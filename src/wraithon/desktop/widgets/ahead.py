"""Parts of the window that are made before they are asked for, a little at a time, once the picture is there."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import chain

from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QWidget

from wraithon.desktop.engine.spare import give_back

PAUSE = 120
"""Milliseconds from one part to the next, for all else that there is to do."""

Parts = Callable[[], Iterator[object]]
"""Makes one part at each turn."""


class Ahead(QObject):
    """Makes parts one after another, unless the window closes first."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._parts: Iterator[object] = iter(())
        self._timer = QTimer(self)
        self._timer.setInterval(PAUSE)
        self._timer.timeout.connect(self._next)

    def start(self, *parts: Parts) -> None:
        """Begin; each is asked for its parts when those before it are made."""
        self._parts = chain.from_iterable(each() for each in parts)
        self._timer.start()

    def stop(self) -> None:
        """Make no more."""
        self._timer.stop()

    def _next(self) -> None:
        try:
            next(self._parts)
        except StopIteration:
            self._timer.stop()
            give_back()
        except Exception:
            self._timer.stop()  # they are made when they are asked for
            raise


def polished(widget: QWidget) -> QWidget:
    """Give a widget and all in it their looks, as showing them would."""
    for each in (widget, *widget.findChildren(QWidget)):
        each.ensurePolished()
    return widget
