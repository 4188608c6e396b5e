"""Picking parts of the character in the picture."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.desktop.picture.picking import spot_at

if TYPE_CHECKING:
    from collections.abc import Callable

    from PySide6.QtCore import QPointF

    from wraithon.desktop.picture.picture_view import PictureView
    from wraithon.desktop.session.session import Session


class Picks:
    """A window where a click on the character picks a part of it."""

    session: Session
    hit: Callable[[str, tuple[float, float, float]], None]
    picture: PictureView
    _selected_at: dict[str, tuple[str, str]]

    @property
    def at(self) -> str:
        """The station that is shown."""
        raise NotImplementedError

    @property
    def picked(self) -> tuple[str, str]:
        """Kind and name of what is picked on the character."""
        return self.selected_at("character")

    def selected_at(self, station: str) -> tuple[str, str]:
        """Kind and id of what is selected in a station, or was when another was shown."""
        return self.session.selection if station == self.at else self._selected_at.get(station, ("", ""))

    def pick(self, position: QPointF) -> None:
        """Pick the part under the mouse: select it, or have new layers be born on it; in Rehearse, hit it."""
        use = self.session.project.character
        spot = spot_at(self.picture, position, self.session.character, use.hidden_parts if use else ())
        if spot is None:
            return
        part = spot.part
        if self.at == "character":
            self.session.select("part", part)
        elif self.at == "effects":
            self._selected_at["character"] = ("part", part)
            self.session.said.emit(f"{part} is picked: new effects and layers are emitted from it", "fine")
        elif self.at == "rehearse":
            self.hit(part, spot.position)
