"""The rows of lights."""

from __future__ import annotations

from typing import Any

from wraithon.desktop.widgets.form import Number, Row

CALLED = "lights: shine as far as they are large"


def _steady(look: Any) -> str:
    return "" if look.flicker else "it does not flicker"


ROWS = (
    Row(
        "flicker",
        Number("flicker", "How much of its strength comes and goes", unit="%", factor=100, step=5, decimals=0),
        Number("pace", "How often it flickers", lead="pace", unit="/s", step=0.5, idle=_steady),
    ),
)
