"""Triggers: when something happens, and the response."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wraithon.project.base import Id, Model, Name, Unsigned, new_id
from wraithon.project.binding import Masters

__all__ = ["MOST_WAITING", "AtStart", "OnEvent", "StartEffect", "Trigger", "When"]


class AtStart(Model):
    """Once, when the show begins."""

    kind: Literal["start"] = "start"

    @property
    def what(self) -> str | None:
        """Which moments of its kind are waited for; None: none."""
        return ""


class OnEvent(Model):
    """Each time a clip passes a mark of the event."""

    kind: Literal["event"] = "event"
    event: Id | None = None

    @property
    def what(self) -> str | None:
        """Which moments of its kind are waited for; None: none."""
        return self.event


When = Annotated[AtStart | OnEvent, Field(discriminator="kind")]


class StartEffect(Model):
    """Start an effect at an anchor, `after` seconds later; no anchor: where the event belongs.

    With `follow` the firing's source moves with the anchor, else it stays where it began. Its `masters` come on top
    of the effect's own.
    """

    kind: Literal["start effect"] = "start effect"
    effect: Id | None = None
    anchor: Id | None = None
    after: Unsigned = 0.0
    follow: bool = True
    masters: Masters = Masters()


MOST_WAITING = 10_000
"""Steps of responses that may wait at once."""


class Trigger(Model):
    """When · then what."""

    id: Id = Field(default_factory=new_id)
    name: Name = "trigger"
    enabled: bool = True
    when: When = OnEvent()
    response: Annotated[tuple[StartEffect, ...], Field(max_length=64)] = ()
