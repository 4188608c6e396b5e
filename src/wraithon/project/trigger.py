"""Triggers: when something happens, and the response."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wraithon.project.base import Id, Model, Name, Share, Unsigned, new_id
from wraithon.project.binding import Masters

__all__ = [
    "MOST_WAITING",
    "AtStart",
    "EveryMetres",
    "EverySeconds",
    "Never",
    "Often",
    "OnEvent",
    "Only",
    "StartEffect",
    "Step",
    "StopEffect",
    "Trigger",
    "When",
]


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


class EverySeconds(Model):
    """Again and again, so many seconds apart, from the show's beginning on."""

    kind: Literal["seconds"] = "seconds"
    seconds: Annotated[float, Field(allow_inf_nan=False, ge=0.02, le=1e4)] = 1.0

    @property
    def what(self) -> str | None:
        """Which moments of its kind are waited for; None: none."""
        return repr(self.seconds)


class EveryMetres(Model):
    """Each time the character has come so many metres over the ground."""

    kind: Literal["metres"] = "metres"
    metres: Annotated[float, Field(allow_inf_nan=False, ge=0.01, le=1e4)] = 1.0

    @property
    def what(self) -> str | None:
        """Which moments of its kind are waited for; None: none."""
        return repr(self.metres)


class Never(Model):
    """Never by itself: only when it is tried by hand."""

    kind: Literal["never"] = "never"

    @property
    def what(self) -> str | None:
        """Which moments of its kind are waited for; None: none."""
        return None


When = Annotated[AtStart | OnEvent | EverySeconds | EveryMetres | Never, Field(discriminator="kind")]


class Only(Model):
    """What has to be so for a trigger to respond.

    One of `clips` plays, where any are named; the character goes over the ground at `slowest` to `fastest` metres a
    second; and `chance` is for it.
    """

    clips: Annotated[tuple[str, ...], Field(max_length=256)] = ()
    slowest: Unsigned = 0.0
    fastest: Unsigned | None = None
    chance: Share = 1.0


class Often(Model):
    """How often a trigger responds to what it might.

    To the first and then `every` so-manieth; no sooner than `cool_down` seconds after the last time, which chance
    makes longer or shorter by up to a share `jitter` of them; `times` in all, and not while `alive` firings of its
    own live.
    """

    every: Annotated[int, Field(ge=1, le=10_000)] = 1
    cool_down: Annotated[float, Field(allow_inf_nan=False, ge=0.0, le=1e4)] = 0.0
    jitter: Share = 0.0
    times: Annotated[int, Field(ge=1, le=1_000_000)] | None = None
    alive: Annotated[int, Field(ge=1, le=10_000)] | None = None


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


class StopEffect(Model):
    """Have an effect's firings bear no more, `after` seconds later; what lives of them lives out its time.

    With an anchor only those that are fired there stop.
    """

    kind: Literal["stop effect"] = "stop effect"
    effect: Id | None = None
    anchor: Id | None = None
    after: Unsigned = 0.0


Step = Annotated[StartEffect | StopEffect, Field(discriminator="kind")]
MOST_WAITING = 10_000
"""Steps of responses that may wait at once."""


class Trigger(Model):
    """When · only if · how often · then what."""

    id: Id = Field(default_factory=new_id)
    name: Name = "trigger"
    enabled: bool = True
    when: When = OnEvent()
    only: Only = Only()
    often: Often = Often()
    response: Annotated[tuple[Step, ...], Field(max_length=64)] = ()

    @property
    def starts(self) -> tuple[StartEffect, ...]:
        """The steps of its response that start effects."""
        return tuple(step for step in self.response if isinstance(step, StartEffect))

    @property
    def stops(self) -> tuple[StopEffect, ...]:
        """The steps of its response that stop effects."""
        return tuple(step for step in self.response if isinstance(step, StopEffect))
