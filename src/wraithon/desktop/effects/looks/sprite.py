"""The rows of sprites."""

from __future__ import annotations

from typing import Any

from wraithon.desktop.effects.looks.common import BLEND, LIT, SOFT_EDGE, texture_row
from wraithon.desktop.widgets.form import Choice, Number, Row
from wraithon.project.look import Facing

__all__ = ["CALLED", "ROWS"]

CALLED = "sprites: textured squares"
FACINGS = (
    ("the camera", Facing.CAMERA),
    ("along its velocity", Facing.VELOCITY),
    ("along the skin's normal", Facing.NORMAL),
)


def _uncut(look: Any) -> str:
    """Return why a sheet's cuts do nothing."""
    return "" if look.texture else "the built-in disc has a single frame: pick a texture"


ROWS = (
    texture_row(),
    Row(
        "sheet",
        Number("sheet.columns", "Frames side by side in the texture", unit="wide", step=1, idle=_uncut),
        Number("sheet.rows", "Frames above each other in the texture", unit="high", step=1, idle=_uncut),
    ),
    BLEND,
    Row("faces", Choice("facing", "What it faces", choices=FACINGS, undo="Facing")),
    Row(
        "stretch",
        Number(
            "stretch", "Lengthened by so much of its own way", unit="ms", factor=1000, step=1, decimals=1,
            shows=lambda look: look.facing is Facing.VELOCITY,
        ),
    ),
    SOFT_EDGE,
    LIT,
)  # fmt: skip
