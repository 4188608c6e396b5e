"""What a new layer may be drawn as: a list of all looks, each with a picture."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QAction, QIcon, QPixmap
from PySide6.QtWidgets import QMenu, QWidget

from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import image_of
from wraithon.project.edit import new_layer
from wraithon.project.effect import Effect
from wraithon.studio.beginning import KINDS, begun_look

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from wraithon.desktop.desk import Desk


KEY = "look "


class LookMenu(QMenu):
    """A menu of looks.

    Signals
    -------
    picked
        The kind of look that a new layer is to have.
    """

    picked = Signal(str)

    def __init__(self, desk: Desk, over: QWidget) -> None:
        super().__init__(over)
        self._desk, self._asked = desk, False
        self.setStyleSheet("QMenu { icon-size: 72px; }")
        self._actions: dict[str, QAction] = {}
        for kind, text in KINDS.items():
            self._actions[kind] = self.addAction(icon("stack-simple"), text, partial(self.picked.emit, kind))
        self.aboutToShow.connect(self._ask)
        desk.engine.pictured.connect(self._take, Qt.ConnectionType.QueuedConnection)

    def _ask(self) -> None:
        """Ask for the pictures, the first time."""
        if not self._asked:
            self._asked = True
            wanted = {f"{KEY}{kind}": Effect(layers=(begun_look(new_layer("layer"), kind),)) for kind in KINDS}
            self._desk.engine.send(pictures=wanted)

    def _take(self, key: str, pixels: NDArray[np.uint8]) -> None:
        action = self._actions.get(key.removeprefix(KEY)) if key.startswith(KEY) else None
        if action is not None:
            action.setIcon(QIcon(QPixmap.fromImage(image_of(pixels))))
