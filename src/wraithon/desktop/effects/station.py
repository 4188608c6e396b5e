"""The Effects station: effects, their layers, and the whole life of their particles."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.desktop.effects.index import EffectsIndex
from wraithon.desktop.effects.sheet import EffectsSheet

if TYPE_CHECKING:
    from wraithon.desktop.desk import Desk


def effects_station(desk: Desk) -> tuple[EffectsIndex, EffectsSheet]:
    """Return the station's index and sheet."""
    return EffectsIndex(desk), EffectsSheet(desk)
