"""What there is to say of a trigger: rows for each kind of moment, what has to be so, how often and how strongly."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.desktop.widgets.form import Choice, Names, Number, Row, Switch
from wraithon.desktop.widgets.offers import (
    clip_names,
    effects_or,
    events_or,
    grounds,
    parts_or,
    signals_or,
)
from wraithon.project.staging.actions import (
    PlaySound,
    Shake,
)
from wraithon.project.staging.driving import STATES

if TYPE_CHECKING:
    from wraithon.project.trigger import Trigger


WIDE = 92
WHEN_CHOICES = (
    ("a clip reaches an event", "event"),
    ("the show starts", "start"),
    ("on key …", "key"),
    ("the character is hit", "hit"),
    ("a state begins or ends", "state"),
    ("a signal rises above or falls below a value", "signal"),
    ("an effect ends", "ended"),
    ("every … seconds", "seconds"),
    ("every … metres", "metres"),
    ("every step while the conditions hold", "each step"),
    ("never by itself", "never"),
)


KEYS = tuple((key, key) for key in "1234567890BCEFGHIKLMNOPQTUVXYZ")
"""Keys that do not drive."""
WHEN_ROWS: dict[str, tuple[Row, ...]] = {
    "event": (
        Row("event", Choice("event", choices=events_or("choose an event")), width=WIDE,
            undo="Trigger event"),
    ),
    "start": (),
    "key": (Row("key", Choice("key", choices=KEYS), width=WIDE),),
    "hit": (
        Row("on", Choice("part", choices=parts_or("any part")),
            width=WIDE),
    ),
    "state": (
        Row(
            "state", Choice("state", choices=tuple((state, state) for state in STATES)),
            Choice("leaves", choices=(("begins", False), ("ends", True))),
            width=WIDE, undo="State",
        ),
    ),
    "signal": (
        Row("signal", Choice("signal", choices=signals_or()), width=WIDE),
        Row(
            "crosses", Choice("falls",
                              choices=(("rises above", False), ("falls below", True))),
            Number("value"), width=WIDE,
            undo="Signal's value",
        ),
    ),
    "ended": (
        Row("effect", Choice("effect", choices=effects_or("choose an effect")), width=WIDE),
    ),
    "seconds": (Row("every", Number("seconds"), width=WIDE),),
    "metres": (Row("every", Number("metres"), width=WIDE),),
    "each step": (),
    "never": (),
}  # fmt: skip
"""Kind of moment to what there is to say about it."""
WHERES = (("anywhere", "anywhere"), ("on the ground", "on the ground"), ("in the air", "in the air"))
ONLY_ROWS = (
    Row(
        "while", Names("only.clips", choices=clip_names,
                       columns=3),
        width=WIDE, undo="Only while clips play",
    ),
    Row(
        "speed from",
        Number("only.slowest"),
        Switch("only.fastest", "Limits the speed", text="up to", on=3.0),
        Number("only.fastest", shows=lambda trigger: trigger is not None and trigger.only.fastest is not None),
        width=WIDE, undo="Only at speeds",
    ),
    Row("where", Choice("only.where", choices=WHERES), width=WIDE),
    Row(
        "ground", Names("only.grounds",
                        choices=grounds, columns=2),
        width=WIDE, undo="Only on kinds of ground",
    ),
    Row(
        "signal", Choice("only.signal", choices=signals_or("any")),
        width=WIDE, undo="Only at values of a signal",
    ),
    Row(
        "from", Number("only.least", shows=lambda response: bool(response.only.signal)),
        Number("only.most", lead="to", shows=lambda response: bool(response.only.signal)),
        width=WIDE, undo="Only at values of a signal",
    ),
    Row(
        "chance", Number("only.chance"),
        width=WIDE, undo="Chance of the trigger",
    ),
)  # fmt: skip


def _no_cool_down(trigger: Trigger) -> str:
    return "" if trigger.often.cool_down else "there is no cool-down"


OFTEN_ROWS = (
    Row("every", Number("often.every"),
        width=WIDE, undo="How often"),
    Row(
        "cool-down",
        Number("often.cool_down"),
        Number("often.jitter", lead="±", idle=_no_cool_down),
        width=WIDE, undo="Cool-down",
    ),
    Row(
        "at most", Switch("often.times", "Limits how often it responds", text="in all", on=1),
        Number("often.times", shows=lambda trigger: trigger is not None and trigger.often.times is not None),
        Switch("often.alive", "Limits how many of its firings live at once", text="alive", on=1),
        Number("often.alive", shows=lambda trigger: trigger is not None and trigger.often.alive is not None),
        width=WIDE, undo="How often",
    ),
)  # fmt: skip


def _unscaled(trigger: Trigger) -> str:
    """Return why strength does nothing, or nothing."""
    scaled = any(action.scalings or action.turns for action in trigger.starts)
    scaled = scaled or any(isinstance(action, Shake | PlaySound) for action in trigger.response)
    return "" if scaled else "no action below asks for it"


def _no_range(trigger: Trigger) -> str:
    """Return why the range of strength does nothing, or nothing."""
    if trigger.when.kind == "hit" and not trigger.strength.signal:
        return "how hard a hit is needs no range"
    return _unscaled(trigger)


STRENGTH_ROWS = (
    Row(
        "by", Choice("strength.signal",
                     choices=signals_or("the moment: fall, hit or value, else all"), idle=_unscaled),
        width=WIDE, undo="Strength",
    ),
    Row(
        "none at", Number("strength.low", idle=_no_range),
        Number("strength.high", lead="all at", idle=_no_range),
        width=WIDE, undo="Range of strength",
    ),
)  # fmt: skip
