"""The rows of lights."""

from __future__ import annotations

from typing import Any

from wraithon.desktop.widgets.form import Number, Row

CALLED = "lights: reach as far as they are large"


def _steady(look: Any) -> str:
    return "" if look.flicker else "it does not flicker"


ROWS = (
    Row(
        "flicker",
        Number("flicker"),
        Number("pace", lead="pace", idle=_steady),
    ),
)
