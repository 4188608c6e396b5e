"""Pictures brought in as textures: dropped on the window, or picked, they become the look of the selected layer."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog

from wraithon.project.edit import textures_of

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from wraithon.desktop.session.reading import Reading
    from wraithon.desktop.session.session import Session

__all__ = ["Pictures"]


class Pictures:
    """Gives pictures to layers.

    Parameters
    ----------
    window
        What dialogs belong to.
    session
        Whose layers they are given to.
    reading
        What reads them.
    """

    def __init__(self, window: QWidget, session: Session, reading: Reading) -> None:
        self._window, self._session, self._reading = window, session, reading

    def choose(self) -> None:
        """Ask for a picture file, and give it to the selected layer."""
        name, _ = QFileDialog.getOpenFileName(
            self._window, "Bring in a texture", "", "Pictures (*.png *.jpg *.jpeg *.webp)"
        )
        if name:
            self.give(Path(name))

    def give(self, path: Path) -> None:
        """Keep a picture among the user's textures, and draw the selected layer with it.

        One that layers name, and that was lost, is drawn by them again.
        """
        session = self._session
        kind, layer = session.selection
        lost = textures_of(session.project) - set(session.shelf.names())

        def put(name: str) -> None:
            if name in lost:
                session.look_again()
                session.said.emit(f"{name} was missing; what names it is drawn with it again", "fine")
            elif kind != "layer":
                words = f"{name} is among the textures now; select a layer, and drop it again or pick it in its look"
                session.said.emit(words, "warning")
            elif session.put("layer", layer, "look.texture", name, f"Texture {name}"):
                session.said.emit(f"{name} is the layer's texture; saving puts it into the project", "fine")

        self._reading.read(path, lambda _tell: session.shelf.keep(path), put)
