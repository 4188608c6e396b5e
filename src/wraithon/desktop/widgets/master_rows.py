"""Rows of master values, wherever an effect is made or started."""

from __future__ import annotations

from wraithon.desktop.widgets.form import Colour, Number, Row
from wraithon.project.binding import Masters
from wraithon.project.quantities import quantities_of

WIDE = 92


def master_rows(where: str, lead: str = "") -> tuple[Row, ...]:
    """Return the rows of the master values that are held under `masters`; `where` they act, in words.

    `lead` comes before each label.
    """

    def number(name: str) -> Number:
        return Number(f"masters.{name}", f"{quantities_of(Masters)[name].label}, {where}")

    return (
        Row(f"{lead}size", number("size"), width=WIDE, undo="Master size"),
        Row(f"{lead}time scale", number("tempo"), width=WIDE, undo="Master time scale"),
        Row(f"{lead}emission", number("amount"), width=WIDE, undo="Master emission"),
        Row(
            f"{lead}opacity, tint", number("opacity"),
            Colour("masters.tint", f"Colour that multiplies all others, {where}"),
            width=WIDE, undo="Master opacity or tint",
        ),
    )  # fmt: skip
