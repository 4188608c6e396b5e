"""The Triggers station: events of the clips, and what they fire."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.desktop.timeline.found_lane import FoundLane
from wraithon.desktop.triggers.drops import EffectDrops
from wraithon.desktop.triggers.index import TriggersIndex
from wraithon.desktop.triggers.sheet import TriggersSheet

if TYPE_CHECKING:
    from wraithon.desktop.desk import Desk


def triggers_station(desk: Desk) -> tuple[TriggersIndex, TriggersSheet]:
    """Return the station's index and sheet."""
    EffectDrops(desk)
    return TriggersIndex(desk, FoundLane(desk.timeline, desk.session)), TriggersSheet(desk)
