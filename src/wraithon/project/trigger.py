"""Triggers: when something happens, and the response."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wraithon.project.base import Finite, Id, Model, Name, Share, Unsigned, new_id
from wraithon.project.quantities import COUNT, M_PER_S, NUMBER, PERCENT, SECONDS, Label, Quantity
from wraithon.project.staging.actions import Action, EffectAction, StartEffect, StopEffect
from wraithon.project.staging.ground import GroundKind
from wraithon.project.staging.trigger_kinds import OnEvent, When


class Only(Model):
    """What has to be so for a trigger to respond.

    One of `clips` plays, where any are named; the character goes over the ground at `slowest` to `fastest` metres a
    second, and is `where` it is asked for; the ground where it happens is one of `grounds`, if any are named; a
    `signal` is from `minimum` to `maximum`; and `chance` is for it.
    """

    clips: Annotated[
        tuple[str, ...], Field(max_length=256), Label("Only while one of these clips plays; none ticked means any")
    ] = ()
    slowest: Annotated[Unsigned, Quantity("Lowest speed of the character", M_PER_S)] = 0.0
    fastest: Annotated[Unsigned | None, Quantity("Highest speed of the character", M_PER_S)] = None
    where: Annotated[Literal["anywhere", "on the ground", "in the air"], Label("Where the character has to be")] = (
        "anywhere"
    )
    grounds: Annotated[
        tuple[GroundKind, ...],
        Field(max_length=16),
        Label("Only where the ground is one of these; none ticked means any"),
    ] = ()
    signal: Annotated[str, Field(max_length=64), Label("A signal that has to be within a range")] = ""
    least: Annotated[Finite, Quantity("Lowest value", NUMBER)] = 0.0
    most: Annotated[Finite, Quantity("Highest value", NUMBER)] = 1.0
    chance: Annotated[Share, Quantity("Probability of a response", PERCENT)] = 1.0

    @property
    def looks(self) -> bool:
        """Whether it asks for more than chance."""
        return self.evolve(chance=1.0) != Only()


class Strength(Model):
    """How strong a moment is: none at `low`, all at `high` of what is measured of it.

    That is a `signal`; where it names none, how fast the character falls as it comes down on the ground, or the value
    of the signal that is waited for. Of other moments nothing is measured: they have all of it.
    """

    signal: Annotated[str, Field(max_length=64), Label("Signal that measures strength")] = ""
    low: Annotated[Finite, Quantity("Value at no strength", NUMBER)] = 0.0
    high: Annotated[Finite, Quantity("Value at full strength", NUMBER)] = 5.0

    def share(self, measured: float) -> float:
        """Return the strength of what is measured, from 0 to 1."""
        span = self.high - self.low
        return min(max((measured - self.low) / span, 0.0), 1.0) if span else float(measured >= self.low)


class Often(Model):
    """How often a trigger responds to what it might.

    To the first and then `every` so-manieth; no sooner than `cool_down` seconds after the last time, which chance
    makes longer or shorter by up to a share `jitter` of them; `times` in all, and not while `alive` firings of its
    own live.
    """

    every: Annotated[
        int, Field(ge=1, le=10_000), Quantity("Responds to the first moment, then to every nth", COUNT, word="th")
    ] = 1
    cool_down: Annotated[
        float,
        Field(allow_inf_nan=False, ge=0.0, le=1e4),
        Quantity("Shortest time between responses", SECONDS),
    ] = 0.0
    jitter: Annotated[Share, Quantity("Random variation of the cool-down", PERCENT)] = 0.0
    times: Annotated[
        Annotated[int, Field(ge=1, le=1_000_000)] | None, Quantity("Number of responses in all", COUNT, word="times")
    ] = None
    alive: Annotated[
        Annotated[int, Field(ge=1, le=10_000)] | None, Quantity("Maximum living firings of its own", COUNT)
    ] = None


MAX_WAITING = 10_000
"""Steps of responses that may wait at once."""


class Trigger(Model):
    """When · only if · how often · then what."""

    id: Id = Field(default_factory=new_id)
    name: Annotated[Name, Label("Name of the trigger")] = "trigger"
    enabled: Annotated[bool, Label("Responds to its moments")] = True
    when: When = OnEvent()
    only: Only = Only()
    often: Often = Often()
    strength: Strength = Strength()
    response: Annotated[tuple[Action, ...], Field(max_length=64)] = ()

    @property
    def starts(self) -> tuple[StartEffect, ...]:
        """The actions of its response that start effects."""
        return tuple(action for action in self.response if isinstance(action, StartEffect))

    def forgetting(self, field: Literal["effect", "anchor"], what: str) -> Trigger:
        """Return the trigger with the actions that name an effect, or an anchor, naming none."""
        actions = tuple(
            action.evolve(**{field: None})
            if isinstance(action, EffectAction) and getattr(action, field) == what
            else action
            for action in self.response
        )
        return self.evolve(response=actions) if actions != self.response else self

    @property
    def about(self) -> tuple[EffectAction, ...]:
        """The actions of its response that are about effects."""
        return tuple(action for action in self.response if isinstance(action, EffectAction))

    @property
    def stops(self) -> tuple[StopEffect, ...]:
        """The actions of its response that stop effects."""
        return tuple(action for action in self.response if isinstance(action, StopEffect))
