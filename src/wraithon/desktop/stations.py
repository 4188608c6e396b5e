"""The stations, in the order of the work: a table of what each is, and what it shows."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from wraithon.desktop.character.station import character_station
from wraithon.desktop.effects.station import effects_station
from wraithon.desktop.rehearse.station import rehearse_station
from wraithon.desktop.triggers.station import triggers_station

if TYPE_CHECKING:
    from wraithon.desktop.desk import Desk
    from wraithon.desktop.widgets.panels import Index, Sheet


@dataclass(frozen=True)
class Station:
    """One station: what it is called, what it shows, and what kinds of things are at home in it."""

    key: str
    title: str
    icon: str
    build: Callable[[Desk], tuple[Index, Sheet]]
    kinds: tuple[str, ...]
    """Kinds of things it selects, deletes and duplicates; findings lead to them in this order."""
    comes_up: bool = False
    """Whether selecting such a thing elsewhere brings the station up."""


STATIONS = (
    Station(
        "character",
        "Character",
        "person-simple",
        character_station,
        ("anchor", "mask", "clip", "part", "joint"),
        comes_up=True,
    ),
    Station("effects", "Effects", "sparkle", effects_station, ("layer", "effect")),
    Station("triggers", "Triggers", "lightning", triggers_station, ("trigger", "event", "mark"), comes_up=True),
    Station("rehearse", "Rehearse", "person-simple-run", rehearse_station, ("block",)),
)
