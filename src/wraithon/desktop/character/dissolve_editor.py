"""The dissolve of the character on stage: how much is gone, when, and the glow of its border."""

from __future__ import annotations

from wraithon.desktop.widgets.form import Choice, Colour, Names, Number, Row, Tick
from wraithon.desktop.widgets.offers import clips_while, materials
from wraithon.project.dissolve import Dissolve


def _in_clip(dissolve: Dissolve) -> bool:
    return bool(dissolve.clip)


ROWS = tuple(
    Row(label, *fields, width=92, undo="Dissolve")
    for label, *fields in (
        ("gone", Number("amount")),
        ("when", Choice("clip", choices=clips_while("always"))),
        (
            "from, to",
            Number("begin", shows=_in_clip),
            Number("end", shows=_in_clip),
        ),
        ("blotches", Number("scale")),
        (
            "border",
            Number("width"),
            Number("intensity"),
        ),
        ("colour", Colour("colour")),
        ("", Tick("two_sided", text="the inside shows through the holes")),
        (
            "only",
            Names("materials", choices=materials, columns=1),
        ),
    )
)
"""The rows of its form."""
