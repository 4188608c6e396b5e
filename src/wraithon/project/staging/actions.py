"""The actions of a response: one model for each kind."""

from __future__ import annotations

from typing import Annotated, Literal, get_args

from pydantic import Field, field_validator

from wraithon.project.base import Finite, Id, Model, Share, Unsigned, once
from wraithon.project.binding import Masters
from wraithon.project.ending import Ending
from wraithon.project.life import Colour, Curve
from wraithon.project.quantities import DEGREES, NUMBER, PERCENT, SECONDS, Label, Quantity
from wraithon.project.staging.ground import GroundKind

Seconds = Annotated[float, Field(allow_inf_nan=False, ge=0.0, le=600.0)]
Scaled = Literal["amount", "size", "tempo", "opacity", "brightness"]
SOFTLY = Curve(points=((0.0, 0.0), (0.25, 0.15625), (0.5, 0.5), (0.75, 0.84375), (1.0, 1.0)))
"""A curve that eases in and out."""


class Scaling(Model):
    """A master value scaled by strength: the factor over strength 0..1."""

    what: Scaled = "amount"
    curve: Annotated[Curve, once("course"), Label("How strength scales amount")] = Curve(
        points=((0.0, 0.3), (1.0, 1.0))
    )


class DialCurve(Model):
    """A dial of the effect set by strength: the share of its range over strength 0..1."""

    dial: Id
    curve: Annotated[Curve, once("course"), Label("Where strength sets the dial, as a share of its range")] = Curve(
        points=((0.0, 0.0), (1.0, 1.0))
    )


class OnGroundKind(Model):
    """What is started instead where the ground is of a kind.

    Another effect, or the same one: with another tint, `without` some of its layers, or with another `texture` in the
    place of all of its own.
    """

    ground: Annotated[GroundKind, Label("Which kind of ground")] = "moss"
    effect: Annotated[Id | None, Label("What is started there")] = None
    tint: Annotated[Colour, Label("Its tint there")] = (1.0, 1.0, 1.0)
    without: Annotated[tuple[Id, ...], Field(max_length=64), Label("Layers that are not started there")] = ()
    texture: Annotated[str, Field(max_length=200), Label("Texture that replaces all of its textures there")] = ""


class ResponseAction(Model):
    """An action of a response, `after` seconds later; if a `needed` one fails, the actions below it are skipped."""

    after: Annotated[Unsigned, Quantity("Seconds after the moment", SECONDS, step=0.01)] = 0.0
    needed: Annotated[bool, Label("Where this fails, the actions below it are skipped")] = False


class EffectAction(ResponseAction):
    """An action on an effect, at an anchor."""

    effect: Id | None = None
    anchor: Id | None = None


class StartEffect(EffectAction):
    """Start an effect at an anchor, `after` seconds later; no anchor: where the event belongs.

    With `follow` the firing's source moves with the anchor, else it stays where it began. Its `masters` come on top
    of the effect's own, and so does what strength makes of them by `scalings`, and of its dials by `turns`; `grounds`
    say what is started instead.
    """

    kind: Literal["start effect"] = "start effect"
    follow: Annotated[bool, Label("Moves with the anchor")] = True
    masters: Masters = Masters()
    scalings: Annotated[tuple[Scaling, ...], Field(max_length=5), Label("What strength scales")] = ()
    turns: Annotated[tuple[DialCurve, ...], Field(max_length=16), Label("Dials of it that strength sets")] = ()
    grounds: Annotated[
        tuple[OnGroundKind, ...], Field(max_length=8), Label("Kinds of ground with another effect")
    ] = ()

    @property
    def effects(self) -> tuple[str, ...]:
        """The effects it may start, over all kinds of ground."""
        every = (self.effect, *(each.effect for each in self.grounds))
        return tuple(effect for effect in every if effect is not None)

    def on_ground(self, ground: str) -> OnGroundKind | None:
        """Return the override for a kind of ground, or None."""
        return next((each for each in self.grounds if each.ground == ground), None)

    def shown_on(self, ground: str) -> tuple[str | None, Masters]:
        """Return the effect started on a kind of ground, and its master values."""
        other = self.on_ground(ground)
        if other is None:
            return self.effect, self.masters
        tint = tuple(a * b for a, b in zip(self.masters.tint, other.tint, strict=True))
        return other.effect or self.effect, self.masters.evolve(tint=tint)


class StopEffect(EffectAction):
    """Stop the emission of an effect's firings, `after` seconds later.

    With an anchor only those that are fired there stop. Its `ending` says what becomes of their particles; None: what
    each layer says.
    """

    kind: Literal["stop effect"] = "stop effect"
    ending: Annotated[Ending | None, Label("What becomes of living particles; none: as each layer says")] = None


class PlayClip(ResponseAction):
    """Play a clip of the character once; of a looping clip, one cycle."""

    kind: Literal["play clip"] = "play clip"
    clip: Annotated[str, Label("Clip to play once")] = ""


class Dissolving(ResponseAction):
    """Dissolve the character, or restore it, to a share that is gone after `seconds`.

    The `curve` says how much of the way there it has come, over the share of the time.
    """

    kind: Literal["dissolve"] = "dissolve"
    to: Annotated[Share, Quantity("Share that is gone at the end", PERCENT)] = 1.0
    seconds: Annotated[Seconds, Quantity("Duration", SECONDS)] = 1.0
    curve: Annotated[Curve, once("course"), Label("Progress over the duration")] = SOFTLY


class Hide(ResponseAction):
    """Take the character away, or show it again; effects that follow it stop emitting.

    One that is driven stands still meanwhile; in the running order it is there again with the next clip.
    """

    kind: Literal["hide"] = "hide"
    hidden: Annotated[bool, Label("Takes the character away or shows it again")] = True


class HoldStill(ResponseAction):
    """Freeze the character's pose for `seconds`."""

    kind: Literal["hold still"] = "hold still"
    seconds: Annotated[Seconds, Quantity("Duration", SECONDS, step=0.01)] = 0.1


class Shake(ResponseAction):
    """Shake the camera by up to `degrees`, decaying over `seconds`; scaled by strength."""

    kind: Literal["shake"] = "shake"
    degrees: Annotated[
        float,
        Field(allow_inf_nan=False, ge=0.0, le=20.0),
        Quantity("Largest rotation of the camera; scaled by strength", DEGREES, step=0.1, decimals=3),
    ] = 1.0
    seconds: Annotated[Seconds, Quantity("Time over which it decays", SECONDS)] = 0.4


class ColourShift(ResponseAction):
    """Multiply the picture's light by a colour, fading back over `seconds`."""

    kind: Literal["colour shift"] = "colour shift"
    colour: Annotated[Colour, Label("Colour that multiplies the picture's light")] = (1.6, 1.3, 1.0)
    seconds: Annotated[Seconds, Quantity("Time over which it fades", SECONDS)] = 0.3


class SlowMotion(ResponseAction):
    """Run the show at another speed for `seconds` of show time."""

    kind: Literal["slow motion"] = "slow motion"
    tempo: Annotated[float, Field(allow_inf_nan=False, ge=0.05, le=1.0), Quantity("Speed of the show", PERCENT)] = (
        0.25
    )
    seconds: Annotated[Seconds, Quantity("Duration in show time", SECONDS)] = 0.2


class SetSignal(ResponseAction):
    """Set the value of a signal."""

    kind: Literal["set signal"] = "set signal"
    signal: Annotated[Id, Label("Signal to set")] = "health"
    value: Annotated[Finite, Quantity("The value", NUMBER)] = 0.0


class RampSignal(ResponseAction):
    """Move a given signal, or a dial of an effect, from its value to another within `seconds`.

    The `curve` says how much of the way there it has come, over the share of the time.
    """

    kind: Literal["ramp"] = "ramp"
    signal: Annotated[Id, Label("Signal or dial to change")] = "health"
    to: Annotated[Finite, Quantity("Final value", NUMBER)] = 1.0
    seconds: Annotated[Seconds, Quantity("Duration", SECONDS)] = 0.5
    curve: Annotated[Curve, once("course"), Label("Progress over the duration")] = SOFTLY


class PlaySound(ResponseAction):
    """Play a sound of the project at a volume 0..1, scaled by strength."""

    kind: Literal["sound"] = "sound"
    sound: Annotated[str, Field(max_length=200), Label("Sound to play")] = ""
    volume: Annotated[Share, Quantity("Volume; scaled by strength", PERCENT)] = 1.0


class LogLine(ResponseAction):
    """Write a line to the log of the rehearsal."""

    kind: Literal["log line", "say"] = "log line"
    text: Annotated[
        str, Field(max_length=200), once("words"), Label("Line that is written to the rehearsal's log")
    ] = ""

    @field_validator("kind")
    @classmethod
    def _earlier_name(cls, _kind: str) -> str:
        """Read the kind's earlier name as this one."""
        return "log line"


class WaitFor(ResponseAction):
    """Delay the actions below until the clip that plays ends, or until a signal crosses a value.

    Their `after` counts from then on.
    """

    kind: Literal["wait"] = "wait"
    signal: Annotated[str, Field(max_length=64), Label("What the actions below wait for")] = ""
    """Empty: the clip's end."""
    value: Annotated[Finite, Quantity("Value that the signal crosses", NUMBER)] = 0.5
    falls: Annotated[bool, Label("Direction in which the signal crosses the value")] = False


Action = Annotated[
    StartEffect | StopEffect | PlayClip | Dissolving | Hide | HoldStill | Shake | ColourShift | SlowMotion | SetSignal
    | RampSignal | PlaySound | LogLine | WaitFor,
    Field(discriminator="kind"),
]  # fmt: skip

ACTION_MODELS: tuple[type[Action], ...] = get_args(get_args(Action)[0])
"""Every action there is."""
