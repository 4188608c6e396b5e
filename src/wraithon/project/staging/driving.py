"""How a character is driven by hand: which clip plays what role, and how quickly it turns and gets going."""

from __future__ import annotations

from typing import Annotated, Literal, get_args

from pydantic import Field

from wraithon.project.base import Finite, Id, Model, Name, new_id
from wraithon.project.quantities import DEGREES_PER_S, M_PER_S2, NUMBER, Label, Quantity

Role = Literal["idle", "walk", "run", "leap", "strike", "fall", "rise"]
ROLES: tuple[Role, ...] = get_args(Role)
State = Literal[
    "standing", "walking", "running", "leaping", "rising", "falling", "landing", "striking", "fallen", "getting up",
    "acting",
]  # fmt: skip
STATES: tuple[State, ...] = get_args(State)


class SignalKind(Model):
    """What is known of a signal: its words, its unit, and what it goes from and to on a meter."""

    text: str
    unit: str
    low: float
    high: float
    given: bool = False
    """Whether it is given from outside instead of measured."""


SIGNALS: dict[str, SignalKind] = {
    "speed": SignalKind(text="speed", unit="m/s", low=0, high=5),
    "rising speed": SignalKind(text="rising speed", unit="m/s", low=0, high=6),
    "falling speed": SignalKind(text="falling speed", unit="m/s", low=0, high=10),
    "on ground": SignalKind(text="on the ground", unit="", low=0, high=1),
    "air time": SignalKind(text="time in the air", unit="s", low=0, high=1.5),
    "distance": SignalKind(text="distance moved", unit="m", low=0, high=50),
    "turn rate": SignalKind(text="turn rate", unit="°/s", low=0, high=600),
    "facing": SignalKind(text="facing", unit="°", low=-180, high=180),
    "health": SignalKind(text="health", unit="", low=0, high=1, given=True),
}
"""Signals there always are, by their keys."""


class Signal(Model):
    """A signal of the artist's own, from `low` to `high`: `value` until a hand or a game says otherwise."""

    id: Id = Field(default_factory=new_id)
    name: Annotated[Name, Label("Name of the signal")] = "signal"
    low: Annotated[Finite, Quantity("Lowest value", NUMBER)] = 0.0
    high: Annotated[Finite, Quantity("Highest value", NUMBER)] = 1.0
    value: Annotated[Finite, Quantity("Value until a hand or a game sets another", NUMBER)] = 0.0


class Driving(Model):
    """How the character is driven by hand: a clip for each role, empty where it is found by itself.

    It turns by up to `turning` degrees a second, and gains or loses `quickening` metres a second in one.
    """

    idle: Annotated[str, Label("Clip for the role idle")] = ""
    walk: Annotated[str, Label("Clip for the role walk")] = ""
    run: Annotated[str, Label("Clip for the role run")] = ""
    leap: Annotated[str, Label("Clip for the role leap")] = ""
    strike: Annotated[str, Label("Clip for the role strike")] = ""
    fall: Annotated[str, Label("Clip for the role fall")] = ""
    rise: Annotated[str, Label("Clip for the role rise")] = ""
    turning: Annotated[
        float,
        Field(allow_inf_nan=False, ge=30.0, le=3600.0),
        Quantity("Largest turn rate; slower while running", DEGREES_PER_S),
    ] = 480.0
    quickening: Annotated[
        float,
        Field(allow_inf_nan=False, ge=0.5, le=200.0),
        Quantity("Acceleration from rest", M_PER_S2, step=0.5, decimals=1),
    ] = 7.0

    def clip_of(self, role: Role) -> str:
        """Return the clip that was chosen for a role; empty where it is found."""
        chosen: str = getattr(self, role)
        return chosen
