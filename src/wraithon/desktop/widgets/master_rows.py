"""Rows of master values, wherever an effect is made or started."""

from __future__ import annotations

from wraithon.desktop.widgets.form import Colour, Number, Row

WIDE = 92


def master_rows(where: str, lead: str = "") -> tuple[Row, ...]:
    """Return the rows of the master values that are held under `masters`; `where` they act, in words.

    `lead` comes before each label.
    """

    def number(name: str, text: str, unit: str = "×", factor: float = 1.0, step: float = 0.05) -> Number:
        return Number(f"masters.{name}", f"{text} {where}", unit=unit, factor=factor, step=step)

    return (
        Row(
            f"{lead}size",
            number("size", "Scale of positions, speeds, distances and sizes"),
            width=WIDE, undo="Master size",
        ),
        Row(
            f"{lead}time scale",
            number("tempo", "Time scale: twice as fast at 2,"),
            width=WIDE, undo="Master time scale",
        ),
        Row(
            f"{lead}emission",
            number("amount", "Scale of the number of particles"),
            width=WIDE, undo="Master emission",
        ),
        Row(
            f"{lead}opacity, tint",
            number("opacity", "Opacity", "%", 100, 1),
            Colour("masters.tint", f"Colour that multiplies all others, {where}"),
            width=WIDE, undo="Master opacity or tint",
        ),
    )  # fmt: skip
