"""The dissolve of the character on stage: how much is gone, when, and the glow of its border."""

from __future__ import annotations

from wraithon.desktop.widgets.form import Choice, Colour, Names, Number, Row, Tick
from wraithon.desktop.widgets.offers import clips_while, materials
from wraithon.project.dissolve import Dissolve


def _in_clip(dissolve: Dissolve) -> bool:
    return bool(dissolve.clip)


def _percent(path: str, text: str) -> Number:
    return Number(path, text, unit="%", factor=100, step=1, decimals=0)


ROWS = tuple(
    Row(label, *fields, width=92, undo="Dissolve")
    for label, *fields in (
        ("gone", _percent("amount", "How much of the skin is gone")),
        ("when", Choice("clip", "When it happens", choices=clips_while("always"))),
        (
            "from, to",
            Number("begin", "Begins at this moment of the clip", unit="s", step=0.05, shows=_in_clip),
            Number("end", "All is gone at this moment of the clip", unit="s", step=0.05, shows=_in_clip),
        ),
        ("blotches", Number("scale", "Size of the blotches", unit="cm", factor=100, step=0.5, decimals=1)),
        (
            "border",
            _percent("width", "How wide the border glows"),
            Number("intensity", "How brightly it glows", unit="×", decimals=1),
        ),
        ("colour", Colour("colour", "Colour of the border")),
        ("", Tick("two_sided", text="the inside shows through the holes")),
        (
            "only",
            Names("materials", "Materials it eats; none ticked means all of them", choices=materials, columns=1),
        ),
    )
)
"""The rows of its form."""
