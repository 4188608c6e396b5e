"""What colours the skin in the picture and what the mouse holds there, as the sheet that is shown asks."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from wraithon.desktop.picture.flashing import Flashes
from wraithon.stage.overlays import Overlay

if TYPE_CHECKING:
    from wraithon.desktop.engine.engine import Engine
    from wraithon.desktop.picture.picture_view import PictureView
    from wraithon.desktop.session.session import Session
    from wraithon.desktop.widgets.panels import Sheet


LEGENDS = {
    "weights": ("share", "low weight", "full weight"),
    "density": ("balance", "fewer births than fair", "more"),
    "mask": ("share", "not painted", "painted"),
}


class PictureTools(QObject):
    """Keeps the picture's overlay and hands in step with the sheet that is shown."""

    def __init__(self, picture: PictureView, engine: Engine, session: Session) -> None:
        super().__init__(picture)
        self._picture, self._engine, self._flashes = picture, engine, Flashes(session)
        self._overlay = Overlay()

    def show_sheet(self, sheet: Sheet) -> None:
        """Do as a sheet asks."""
        overlay = sheet.overlay()
        if overlay != self._overlay:
            self._overlay = overlay
            self._engine.send(overlay=overlay, redraw=True)
        self._picture.hands = [*sheet.hands, self._flashes]
        self._picture.legend = LEGENDS.get(overlay.kind)
        self._picture.update()
