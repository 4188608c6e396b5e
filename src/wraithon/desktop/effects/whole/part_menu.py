"""Which part of a copied layer goes onto the selected ones."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QMenu, QWidget

from wraithon.interchange.clippings import read_clipping
from wraithon.project.resolving.references import PARTS, pasted_parts
from wraithon.support.errors import ProjectError

if TYPE_CHECKING:
    from PySide6.QtCore import QPoint

    from wraithon.desktop.session.session import Session
    from wraithon.project.effect import Layer


class PartMenu(QMenu):
    """A menu of a layer's parts and rows."""

    def __init__(self, session: Session, over: QWidget) -> None:
        super().__init__(over)
        self._session = session

    def _chosen(self) -> tuple[str, ...]:
        return self._session.chosen if self._session.selection[0] == "layer" else ()

    def open_at(self, position: QPoint) -> None:
        """Ask which part of what was copied goes onto the selected layers."""
        try:
            layers = read_clipping(QGuiApplication.clipboard().text()).layers
        except ProjectError:
            layers = ()
        if len(layers) != 1 or not self._chosen():
            self._session.said.emit("Copy one layer (Ctrl+C), then select those that take a part of it", "warning")
            return
        self.clear()
        for part, fields in (*PARTS.items(), *((name, (name,)) for name in PARTS["life"])):
            text = "All of life" if part == "life" else part.capitalize()
            self.addAction(text, partial(self.paste, layers[0], fields))
            if part == "life":
                self.addSeparator()
        self.popup(position)

    def paste(self, layer: Layer, fields: tuple[str, ...]) -> None:
        """Put fields of a layer onto the selected ones."""
        chosen, named = self._chosen(), "life" if len(fields) > 1 else fields[0]
        text = f"Paste the {named} of {layer.name}"
        if self._session.edit(text, lambda p: pasted_parts(p, layer, chosen, fields), final=True):
            onto = "a layer" if len(chosen) == 1 else f"{len(chosen)} layers"
            self._session.said.emit(f"{text} onto {onto}", "fine")
