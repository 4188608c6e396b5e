"""The Rehearse station: the character driven by hand."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.desktop.rehearse.index import RehearseIndex
from wraithon.desktop.rehearse.sheet import RehearseSheet

if TYPE_CHECKING:
    from wraithon.desktop.desk import Desk


def rehearse_station(desk: Desk) -> tuple[RehearseIndex, RehearseSheet]:
    """Return the station's index and sheet."""
    return RehearseIndex(desk), RehearseSheet(desk)
