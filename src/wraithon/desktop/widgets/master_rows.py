"""Rows of master values, wherever an effect is made or started."""

from __future__ import annotations

from wraithon.desktop.widgets.form import Colour, Number, Row

WIDE = 92


def master_rows(lead: str = "") -> tuple[Row, ...]:
    """Return the rows of the master values that are held under `masters`; `lead` comes before each label."""
    return (
        Row(f"{lead}size", Number("masters.size"), width=WIDE, undo="Master size"),
        Row(f"{lead}time scale", Number("masters.tempo"), width=WIDE, undo="Master time scale"),
        Row(f"{lead}emission", Number("masters.amount"), width=WIDE, undo="Master emission"),
        Row(
            f"{lead}opacity, tint", Number("masters.opacity"),
            Colour("masters.tint", "Colour that multiplies all others"),
            width=WIDE, undo="Master opacity or tint",
        ),
    )  # fmt: skip
