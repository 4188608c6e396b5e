"""What a response may do: a model for each kind of its steps."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wraithon.project.base import Finite, Id, Model, Share, Unsigned
from wraithon.project.binding import Masters
from wraithon.project.life import Colour, Curve
from wraithon.project.staging.ground import GroundKind

__all__ = [
    "ColourShift",
    "Dissolving",
    "EffectStep",
    "Hide",
    "HoldStill",
    "OnGroundKind",
    "PlayClip",
    "PlaySound",
    "RampSignal",
    "ResponseStep",
    "Say",
    "Scaling",
    "SetSignal",
    "Shake",
    "SlowMotion",
    "StartEffect",
    "Step",
    "StopEffect",
    "Turn",
    "WaitFor",
]

Seconds = Annotated[float, Field(allow_inf_nan=False, ge=0.0, le=600.0)]
Scaled = Literal["amount", "size", "tempo", "opacity", "brightness"]
SOFTLY = Curve(points=((0.0, 0.0), (0.25, 0.15625), (0.5, 0.5), (0.75, 0.84375), (1.0, 1.0)))
"""A course that begins and ends gently."""


class Scaling(Model):
    """A master value that strength scales: its factor over the share of the strength, from none to all."""

    what: Scaled = "amount"
    course: Curve = Curve(points=((0.0, 0.3), (1.0, 1.0)))


class Turn(Model):
    """A dial of the effect that strength sets: to a share of its range, over the share of the strength."""

    dial: Id
    course: Curve = Curve(points=((0.0, 0.0), (1.0, 1.0)))


class OnGroundKind(Model):
    """What is started instead where the ground is of a kind.

    Another effect, or the same one: with another tint, `without` some of its layers, or with another `texture` in the
    place of all of its own.
    """

    ground: GroundKind = "moss"
    effect: Id | None = None
    tint: Colour = (1.0, 1.0, 1.0)
    without: Annotated[tuple[Id, ...], Field(max_length=64)] = ()
    texture: Annotated[str, Field(max_length=200)] = ""


class ResponseStep(Model):
    """What a response does, `after` seconds later; where one `needed` cannot be done, what follows is left out."""

    after: Unsigned = 0.0
    needed: bool = False


class EffectStep(ResponseStep):
    """A step that is about an effect: at an anchor."""

    effect: Id | None = None
    anchor: Id | None = None


class StartEffect(EffectStep):
    """Start an effect at an anchor, `after` seconds later; no anchor: where the event belongs.

    With `follow` the firing's source moves with the anchor, else it stays where it began. Its `masters` come on top
    of the effect's own, and so does what strength makes of them by `scalings`, and of its dials by `turns`; `grounds`
    say what is started instead.
    """

    kind: Literal["start effect"] = "start effect"
    follow: bool = True
    masters: Masters = Masters()
    scalings: Annotated[tuple[Scaling, ...], Field(max_length=5)] = ()
    turns: Annotated[tuple[Turn, ...], Field(max_length=16)] = ()
    grounds: Annotated[tuple[OnGroundKind, ...], Field(max_length=8)] = ()

    @property
    def effects(self) -> tuple[str, ...]:
        """The effects that it may start, on one kind of ground or another."""
        every = (self.effect, *(each.effect for each in self.grounds))
        return tuple(effect for effect in every if effect is not None)

    def on_ground(self, ground: str) -> OnGroundKind | None:
        """Return what is otherwise on a kind of ground, or None."""
        return next((each for each in self.grounds if each.ground == ground), None)

    def shown_on(self, ground: str) -> tuple[str | None, Masters]:
        """Return the effect that is started on a kind of ground, and its master values."""
        other = self.on_ground(ground)
        if other is None:
            return self.effect, self.masters
        tint = tuple(a * b for a, b in zip(self.masters.tint, other.tint, strict=True))
        return other.effect or self.effect, self.masters.but(tint=tint)


class StopEffect(EffectStep):
    """Have an effect's firings bear no more, `after` seconds later; what lives of them lives out its time.

    With an anchor only those that are fired there stop.
    """

    kind: Literal["stop effect"] = "stop effect"


class PlayClip(ResponseStep):
    """Have the character play a clip once; of one that loops, one round."""

    kind: Literal["play clip"] = "play clip"
    clip: str = ""


class Dissolving(ResponseStep):
    """Have the character dissolve, or come back, to a share that is gone after so many seconds.

    The `course` says how much of the way there it has come, over the share of the time.
    """

    kind: Literal["dissolve"] = "dissolve"
    to: Share = 1.0
    seconds: Seconds = 1.0
    course: Curve = SOFTLY


class Hide(ResponseStep):
    """Take the character away, or show it again; what follows it bears no more.

    One that is driven stands still meanwhile; in the running order it is there again with the next clip.
    """

    kind: Literal["hide"] = "hide"
    hidden: bool = True


class HoldStill(ResponseStep):
    """Hold the character still for some seconds."""

    kind: Literal["hold still"] = "hold still"
    seconds: Seconds = 0.1


class Shake(ResponseStep):
    """Shake the camera by up to so many degrees, dying down over some seconds; strength scales it."""

    kind: Literal["shake"] = "shake"
    degrees: Annotated[float, Field(allow_inf_nan=False, ge=0.0, le=20.0)] = 1.0
    seconds: Seconds = 0.4


class ColourShift(ResponseStep):
    """Multiply the picture's light by a colour, which wears off over some seconds."""

    kind: Literal["colour shift"] = "colour shift"
    colour: Colour = (1.6, 1.3, 1.0)
    seconds: Seconds = 0.3


class SlowMotion(ResponseStep):
    """Have the show go slower for so many of its seconds."""

    kind: Literal["slow motion"] = "slow motion"
    tempo: Annotated[float, Field(allow_inf_nan=False, ge=0.05, le=1.0)] = 0.25
    seconds: Seconds = 0.2


class SetSignal(ResponseStep):
    """Give a signal a value."""

    kind: Literal["set signal"] = "set signal"
    signal: Id = "health"
    value: Finite = 0.0


class RampSignal(ResponseStep):
    """Have a signal that is given, or a dial of an effect, go from what it is to a value within some seconds.

    The `course` says how much of the way there it has come, over the share of the time.
    """

    kind: Literal["ramp"] = "ramp"
    signal: Id = "health"
    to: Finite = 1.0
    seconds: Seconds = 0.5
    course: Curve = SOFTLY


class PlaySound(ResponseStep):
    """Play a sound of the project, as loud as a share of the whole; strength scales that."""

    kind: Literal["sound"] = "sound"
    sound: Annotated[str, Field(max_length=200)] = ""
    volume: Share = 1.0


class Say(ResponseStep):
    """Write a line into the rehearsal's log."""

    kind: Literal["say"] = "say"
    words: Annotated[str, Field(max_length=200)] = ""


class WaitFor(ResponseStep):
    """Have the steps below wait: until the clip that plays is over, or until a signal comes over a value.

    What they come `after` is counted from then on.
    """

    kind: Literal["wait"] = "wait"
    signal: Annotated[str, Field(max_length=64)] = ""
    """Empty: the clip's end."""
    value: Finite = 0.5
    falls: bool = False


Step = Annotated[
    StartEffect | StopEffect | PlayClip | Dissolving | Hide | HoldStill | Shake | ColourShift | SlowMotion | SetSignal
    | RampSignal | PlaySound | Say | WaitFor,
    Field(discriminator="kind"),
]  # fmt: skip
