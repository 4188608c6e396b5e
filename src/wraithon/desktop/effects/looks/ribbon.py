"""The rows of ribbons."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from wraithon.desktop.effects.looks.common import BLEND, FULL, LIT, SOFT_EDGE, WHITE, texture_row
from wraithon.desktop.widgets.form import Choice, Colours, CurveField, Number, Row, Switch
from wraithon.project.look import Through

CALLED = "ribbon: a band through particles"
THROUGH = (
    ("one birth after another", Through.BIRTHS),
    ("each particle's own past", Through.PAST),
    ("what a line sweeps", Through.SWEEP),
)


def _drawn_out(look: Any) -> str:
    return "" if look.tile else "its texture is stretched over all of it: let it repeat"


def _has(curve: str) -> Callable[[Any], bool]:
    return lambda look: getattr(look, curve) is not None


ROWS = (
    texture_row(),
    BLEND,
    Row(
        "through",
        Choice("through", choices=THROUGH, undo="Ribbon through"),
        Number("past", shows=lambda look: look.through is Through.PAST),
    ),
    Row(
        "tapers",
        Number("head", lead="head"),
        Number("tail", lead="tail"),
    ),
    Row(
        "repeats",
        Number("tile"),
        Number("flow", lead="flow", idle=_drawn_out),
    ),
    Row(
        "along",
        Switch("widening", "Changes the width from head to tail", text="width", on=FULL),
        Switch("fading", "Changes the opacity from head to tail", text="opacity", on=FULL),
        Switch("tinting", "Changes the colour from head to tail", text="colour", on=WHITE),
        undo="Along the ribbon",
    ),
    Row("", CurveField("widening", shows=_has("widening")), undo="Width"),
    Row("", CurveField("fading", limits=(0, 1), shows=_has("fading")), undo="Opacity"),
    Row("", Colours("tinting", shows=_has("tinting")), undo="Colours"),
    SOFT_EDGE,
    LIT,
)  # fmt: skip
