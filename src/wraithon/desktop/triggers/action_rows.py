"""What there is to say of the actions of a response: rows for each kind."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wraithon.desktop.triggers.rows import WIDE
from wraithon.desktop.widgets.form import Choice, Colour, CurveField, Names, Number, Row, Text, Tick
from wraithon.desktop.widgets.list_form import Tupled
from wraithon.desktop.widgets.master_rows import master_rows
from wraithon.desktop.widgets.model_ticks import Models
from wraithon.desktop.widgets.offers import (
    ENDINGS,
    anchors_or,
    clip_names,
    effects_or,
    given_signals,
    grounds,
    signals_or,
    sounds_or,
    textures_or,
)
from wraithon.project.ending import AtEnd, Ending
from wraithon.project.staging.actions import (
    ColourShift,
    DialCurve,
    Dissolving,
    Hide,
    HoldStill,
    LogLine,
    OnGroundKind,
    PlayClip,
    PlaySound,
    RampSignal,
    Scaling,
    SetSignal,
    Shake,
    SlowMotion,
    StartEffect,
    StopEffect,
    WaitFor,
)

if TYPE_CHECKING:
    from collections.abc import Callable

    from wraithon.desktop.session.session import Session
    from wraithon.desktop.widgets.curve_editor import CurveEditor
    from wraithon.project.base import Model
    from wraithon.project.staging.actions import Action


def _anchors(session: Session) -> list[tuple[str, object]]:
    """Return where an action of the selected trigger may be: where it happens, and all anchors."""
    trigger = session.project.trigger(session.selection[1])
    event = trigger is not None and trigger.when.kind == "event"
    return anchors_or("where the event belongs" if event else "the character's root")(session)


AFTER = Row("after", Number("after"), width=WIDE, undo="Action")


class _EndingChoice(Choice):
    """Picks what becomes of living particles, whatever time it takes."""

    def show(self, widget: Any, value: Ending | None, session: Session) -> None:
        """Show which ending it is."""
        super().show(widget, value and Ending(what=value.what), session)


def _fades(action: StopEffect) -> bool:
    return action.ending is not None and action.ending.what is AtEnd.FADE


STOP_ENDINGS = (("as each layer says", None), *((text, Ending(what=what)) for text, what in ENDINGS))
SCALED = (
    ("amount", "amount"), ("size", "size"), ("time scale", "tempo"), ("opacity", "opacity"),
    ("brightness", "brightness"),
)  # fmt: skip


@dataclass(frozen=True)
class _ByStrength(CurveField):
    """A curve over strength."""

    scaled: str = ""
    """What it scales, in a word."""

    def make(self, kind: type[Model]) -> CurveEditor:
        """Return an editor of its points."""
        editor = super().make(kind)
        editor.set_axis("at", "weak", self.scaled, "strong")
        return editor


def _start_rows(action: StartEffect) -> tuple[Row, ...]:
    rows = [
        Row("start", Choice("effect", "Effect to start", choices=effects_or("choose an effect")), width=WIDE,
            undo="Action"),
        Row("at", Choice("anchor", "Anchor to start it at", choices=_anchors), width=WIDE, undo="Action"),
        Row("after", Number("after"),
            Tick("follow", text="moves with the anchor"), width=WIDE, undo="Action"),
        *master_rows("of what this action starts, on top of the effect's own", "its "),
        Row(
            "by strength", Models("scalings", name="what", choices=SCALED,
                                  made=lambda what: Scaling(what=what)),
            width=WIDE, undo="What strength scales",
        ),
    ]  # fmt: skip
    rows += [
        Row("", _ByStrength(f"scalings.{k}.curve", f"How strength scales {scaling.what}", scaled=scaling.what),
            undo="Strength")
        for k, scaling in enumerate(action.scalings)
    ]  # fmt: skip
    rows.append(
        Row("its dials", Models("turns", name="dial", choices=_dials(action),
                                made=lambda dial: DialCurve(dial=dial), columns=2,
                                nothing="it has no dials: the effect's own page makes them"),
            width=WIDE, undo="What strength sets")
    )  # fmt: skip
    rows += [
        Row("", _ByStrength(f"turns.{k}.curve",
                            scaled="dial"), undo="Strength")
        for k in range(len(action.turns))
    ]  # fmt: skip
    rows.append(
        Row(
            "but on", Models("grounds", name="ground", choices=grounds,
                             made=lambda ground: OnGroundKind(ground=ground), columns=2),
            width=WIDE, undo="Other effects on kinds of ground",
        )
    )  # fmt: skip
    for k, each in enumerate(action.grounds):
        rows += [
            Row(
                "on", Choice(f"grounds.{k}.ground", choices=grounds),
                Choice(f"grounds.{k}.effect", choices=effects_or("the same")), width=WIDE,
                undo="Otherwise on a ground",
            ),
            Row("tint", Colour(f"grounds.{k}.tint"),
                Choice(f"grounds.{k}.texture", lead="texture",
                       choices=textures_or("its layers' own")), width=WIDE, undo="Otherwise on a ground"),
            Row("without", Names(f"grounds.{k}.without",
                                 choices=_layers(each.effect or action.effect)), width=WIDE,
                undo="Otherwise on a ground"),
        ]  # fmt: skip
    return tuple(rows)


def _layers(effect_id: str | None) -> Callable[[Session], list[tuple[str, object]]]:
    """Return what offers the layers of an effect."""

    def offer(session: Session) -> list[tuple[str, object]]:
        effect = session.project.effect(effect_id)
        return [(layer.name, layer.id) for layer in effect.layers] if effect else []

    return offer


def _dials(action: StartEffect) -> Callable[[Session], list[tuple[str, object]]]:
    """Return what offers the dials of the effect that an action starts."""

    def offer(session: Session) -> list[tuple[str, object]]:
        effect = session.project.effect(action.effect)
        return [(dial.name, dial.id) for dial in effect.dials if dial.kind != "colour"] if effect else []

    return offer


class _Way(CurveField):
    """A curve over the time that something takes."""

    def make(self, kind: type[Model]) -> CurveEditor:
        """Return an editor of its points."""
        editor = super().make(kind)
        editor.set_axis("at", "begins", "way", "there")
        return editor


_WAY = Row("", _Way("curve", limits=(-1.0, 2.0)), undo="Curve")
ACTION_ROWS: dict[type, Callable[..., tuple[Row, ...]]] = {
    StartEffect: _start_rows,
    StopEffect: lambda _action: (
        Row("stop", Choice("effect", "What stops emitting", choices=effects_or("choose an effect")), width=WIDE,
            undo="Action"),
        Row("at", Choice("anchor", "Only those that are fired there", choices=anchors_or("any anchor")), width=WIDE,
            undo="Action"),
        Row("living", _EndingChoice("ending", choices=STOP_ENDINGS), width=WIDE, undo="Action"),
        Row("", Number("ending.seconds", lead="in", shows=_fades), width=WIDE, undo="Action"),
        AFTER,
    ),
    PlayClip: lambda _action: (
        Row("play", Choice("clip", choices=lambda session: [
            ("choose a clip", ""), *clip_names(session)]), width=WIDE, undo="Action"),
        AFTER,
    ),
    Dissolving: lambda _action: (
        Row("dissolve to", Number("to"),
            Number("seconds", lead="in"), width=WIDE, undo="Action"),
        _WAY, AFTER,
    ),
    Hide: lambda _action: (
        Row("character", Choice("hidden", choices=(
            ("take away", True), ("show again", False))), width=WIDE, undo="Action"),
        AFTER,
    ),
    HoldStill: lambda _action: (
        Row("hold still", Number("seconds"), width=WIDE, undo="Action"), AFTER,
    ),
    Shake: lambda _action: (
        Row("shake by", Number("degrees"),
            Number("seconds", lead="for"), width=WIDE,
            undo="Action"),
        AFTER,
    ),
    ColourShift: lambda _action: (
        Row("colour", Colour("colour"),
            Number("seconds", lead="for"), width=WIDE,
            undo="Action"),
        AFTER,
    ),
    SlowMotion: lambda _action: (
        Row("speed", Number("tempo"),
            Number("seconds", lead="for"), width=WIDE,
            undo="Action"),
        AFTER,
    ),
    SetSignal: lambda _action: (
        Row("set", Choice("signal", choices=given_signals),
            Number("value", lead="to"), width=WIDE, undo="Action"),
        AFTER,
    ),
    RampSignal: lambda _action: (
        Row("bring", Choice("signal", choices=given_signals), width=WIDE,
            undo="Action"),
        Row("to", Number("to"),
            Number("seconds", lead="in"), width=WIDE, undo="Action"),
        _WAY, AFTER,
    ),
    PlaySound: lambda _action: (
        Row("play", Choice("sound", choices=sounds_or("choose a sound")),
            Number("volume"), width=WIDE,
            undo="Action"),
        AFTER,
    ),
    LogLine: lambda _action: (
        Row("text", Text("text"), width=WIDE, undo="Action"), AFTER,
    ),
    WaitFor: lambda action: (
        Row("wait for", Choice("signal", choices=signals_or("end of the clip")),
            width=WIDE, undo="Action"),
        *((Row("until it", Choice("falls",
                                   choices=(("rises above", False), ("falls below", True))),
               Number("value"), width=WIDE, undo="Action"),)
          if action.signal else ()),
        AFTER,
    ),
}  # fmt: skip
"""Model of an action to the rows it has."""
ACTION_KINDS: tuple[tuple[str, Callable[[], Action]], ...] = (
    ("Start an effect", StartEffect), ("Stop an effect", StopEffect), ("Play a clip", PlayClip),
    ("Dissolve the character", Dissolving), ("Take the character away", Hide),
    ("Hold the character still", HoldStill),
    ("Wait for the clip's end or a signal", WaitFor), ("Shake the camera", Shake),
    ("Shift the colours", ColourShift), ("Slow motion", SlowMotion), ("Play a sound", PlaySound),
    ("Set a signal or dial", SetSignal), ("Ramp a signal or dial", RampSignal),
    ("Write a log line", LogLine),
)  # fmt: skip
"""What an action may do, in words, and what makes one."""


def new_action(make: Callable[[], Action]) -> Action:
    """Return a new action: what comes below a clip is made for it, so it needs it unless somebody says otherwise."""
    action = make()
    return action.evolve(needed=True) if isinstance(action, PlayClip) else action


ALWAYS = frozenset({LogLine, WaitFor, Shake, ColourShift, SlowMotion})
"""Steps that nothing stands against."""
NEEDED = Row(
    "", Tick("needed", text="what follows needs it"),
    undo="Action",
)  # fmt: skip


def _rows(action: Action) -> tuple[Row, ...]:
    """Return the rows of an action."""
    own = ACTION_ROWS[type(action)](action)
    return own if type(action) in ALWAYS else (*own, NEEDED)


def _shape(action: Action) -> str:
    """Return what of an action its rows hang on."""
    if isinstance(action, StartEffect):
        turns = [each.dial for each in action.turns]
        grounds = [(each.ground, each.effect) for each in action.grounds]
        return f"{action.effect} {[each.what for each in action.scalings]} {turns} {grounds}"
    return str(bool(action.signal)) if isinstance(action, WaitFor) else ""


ACTIONS = Tupled("response", _rows, lambda action: action.kind, _shape)
"""How the actions of a response are listed."""
