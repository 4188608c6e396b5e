"""The rows of sprites."""

from __future__ import annotations

from typing import Any

from wraithon.desktop.effects.looks.common import BLEND, LIT, SOFT_EDGE, texture_row
from wraithon.desktop.widgets.form import Choice, Number, Row, Tick
from wraithon.project.look import Blend, Facing, SheetPlay

CALLED = "sprites: textured squares"
FACINGS = (
    ("the camera", Facing.CAMERA),
    ("along its velocity", Facing.VELOCITY),
    ("along the skin's normal", Facing.NORMAL),
    ("along an axis", Facing.AXIS),
    ("lying flat", Facing.FLAT),
)


def _uncut(look: Any) -> str:
    """Return why a sheet's cuts do nothing."""
    return "" if look.texture else "the built-in disc has a single frame: pick a texture"


def _cut(look: Any) -> bool:
    return bool(look.frames > 1)


def _plays(look: Any) -> bool:
    return _cut(look) and look.sheet.play is not SheetPlay.CHANCE


def _by_axis(look: Any) -> bool:
    return look.facing in {Facing.AXIS, Facing.FLAT}


def _orderless(look: Any) -> str:
    return "what only adds light looks the same in any order" if look.blend is Blend.ADDITIVE else ""


PLAYS = (
    ("one, by chance", SheetPlay.CHANCE),
    ("all, through life", SheetPlay.LIFE),
    ("all, from any on", SheetPlay.LIFE_FROM_CHANCE),
)
ORDERS = (("near ones over far ones", False), ("younger ones over older ones", True))
ROWS = (
    texture_row(),
    Row(
        "frames",
        Number("sheet.columns", idle=_uncut),
        Number("sheet.rows", idle=_uncut),
    ),
    Row(
        "shows",
        Choice("sheet.play", choices=PLAYS, undo="Frames shown", shows=_cut),
        Number("sheet.times", shows=_plays),
        Tick("sheet.blended", text="fading", shows=_plays),
    ),
    BLEND,
    Row("faces", Choice("facing", choices=FACINGS, undo="Facing")),
    Row(
        "stretch",
        Number("stretch", shows=lambda look: look.facing is Facing.VELOCITY),
        Number("longest", lead="up to", shows=lambda look: look.facing is Facing.VELOCITY),
    ),
    Row(
        "axis",
        *(
            Number(f"axis.{k}", f"The axis along {name}", unit=name, shows=_by_axis)
            for k, name in enumerate("xyz")
        ),
    ),
    Row("order", Choice("by_age", choices=ORDERS, undo="Order", idle=_orderless)),
    SOFT_EDGE,
    Row("near fade", Number("near")),
    LIT,
)  # fmt: skip
