"""The Character station: bring it in, look at parts, joints and clips, place anchors, see how it samples."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.desktop.character.index import CharacterIndex
from wraithon.desktop.character.sheet import CharacterSheet

if TYPE_CHECKING:
    from wraithon.desktop.desk import Desk


def character_station(desk: Desk) -> tuple[CharacterIndex, CharacterSheet]:
    """Return the station's index and sheet."""
    index = CharacterIndex(desk.session, desk.keeper.bringing.choose)
    return index, CharacterSheet(desk, index)
