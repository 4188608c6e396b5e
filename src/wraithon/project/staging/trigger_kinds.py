"""What a trigger may wait for: a model for each kind of moment."""

from __future__ import annotations

from typing import Annotated, Literal, get_args

from pydantic import Field

from wraithon.project.base import Finite, Id, Model
from wraithon.project.quantities import METRES, NUMBER, SECONDS, Label, Quantity
from wraithon.project.staging.driving import State


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
    event: Annotated[Id | None, Label("Event it waits for")] = None

    @property
    def what(self) -> str | None:
        """Which moments of its kind are waited for; None: none."""
        return self.event


class OnKey(Model):
    """Each time a key goes down in Rehearse, or a game sends it."""

    kind: Literal["key"] = "key"
    key: Annotated[
        str, Field(min_length=1, max_length=1, pattern=r"^[0-9A-Z]$"), Label("Key it waits for in Rehearse")
    ] = "1"

    @property
    def what(self) -> str | None:
        """Which moments of its kind are waited for; None: none."""
        return self.key


class OnSignal(Model):
    """Each time a signal rises above a value, or with `falls` falls below it."""

    kind: Literal["signal"] = "signal"
    signal: Annotated[Id, Label("Signal it waits for")] = "speed"
    value: Annotated[Finite, Quantity("Value that the signal crosses; reaching it counts", NUMBER)] = 1.0
    falls: Annotated[bool, Label("Direction in which the signal crosses the value")] = False

    @property
    def what(self) -> str | None:
        """Which moments of its kind are waited for; None: none."""
        return f"{'under' if self.falls else 'over'} {self.value!r} {self.signal}"


class OnState(Model):
    """Each time the driven character enters a state, or with `leaves` leaves it."""

    kind: Literal["state"] = "state"
    state: Annotated[State, Label("State of the character")] = "landing"
    leaves: Annotated[bool, Label("Beginning or end of the state")] = False

    @property
    def what(self) -> str | None:
        """Which moments of its kind are waited for; None: none."""
        return f"{'from' if self.leaves else 'to'} {self.state}"


class OnHit(Model):
    """Each time the character is hit: anywhere, or on one part of it. The strength is how hard."""

    kind: Literal["hit"] = "hit"
    part: Annotated[str, Field(max_length=200), Label("Part that is hit; a click in Rehearse hits it")] = ""

    @property
    def what(self) -> str | None:
        """Which moments of its kind are waited for; None: none."""
        return self.part


class OnEnd(Model):
    """Each time a firing of an effect is over and nothing of it lives any more."""

    kind: Literal["ended"] = "ended"
    effect: Annotated[Id | None, Label("Effect that is over")] = None

    @property
    def what(self) -> str | None:
        """Which moments of its kind are waited for; None: none."""
        return self.effect


class EverySeconds(Model):
    """Again and again, so many seconds apart, from the show's beginning on."""

    kind: Literal["seconds"] = "seconds"
    seconds: Annotated[
        float,
        Field(allow_inf_nan=False, ge=0.02, le=1e4),
        Quantity("Time from one to the next", SECONDS, step=0.1),
    ] = 1.0

    @property
    def what(self) -> str | None:
        """Which moments of its kind are waited for; None: none."""
        return repr(self.seconds)


class EveryMetres(Model):
    """Each time the character has come so many metres over the ground."""

    kind: Literal["metres"] = "metres"
    metres: Annotated[
        float,
        Field(allow_inf_nan=False, ge=0.01, le=1e4),
        Quantity("Distance from one to the next", METRES, step=0.1),
    ] = 1.0

    @property
    def what(self) -> str | None:
        """Which moments of its kind are waited for; None: none."""
        return repr(self.metres)


class EachStep(Model):
    """At each step of the show, while all that the trigger asks for holds; its cool-down sets how often."""

    kind: Literal["each step"] = "each step"

    @property
    def what(self) -> str | None:
        """Which moments of its kind are waited for; None: none."""
        return ""


class Never(Model):
    """Never by itself: only when it is tried by hand."""

    kind: Literal["never"] = "never"

    @property
    def what(self) -> str | None:
        """Which moments of its kind are waited for; None: none."""
        return None


When = Annotated[
    AtStart | OnEvent | OnKey | OnSignal | OnState | OnHit | OnEnd | EverySeconds | EveryMetres | EachStep | Never,
    Field(discriminator="kind"),
]

TRIGGER_MODELS: dict[str, type[When]] = {
    model.model_fields["kind"].default: model for model in get_args(get_args(When)[0])
}
"""Kind to model."""
