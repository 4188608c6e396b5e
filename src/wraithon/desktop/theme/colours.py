"""The tokens of the look: a kingfisher's colours in a warm dark room."""

from __future__ import annotations

__all__ = [
    "BRICK",
    "FAINT",
    "GROUND",
    "INK",
    "LINE",
    "MOSS",
    "OCHRE",
    "PANEL",
    "RAISED",
    "ROW",
    "RUST",
    "SOFT",
    "TAGGED",
    "TEAL",
]

GROUND, PANEL, RAISED, LINE = "#1f1a22", "#282129", "#332a35", "#4a3f4c"
INK, SOFT = "#f0e8dc", "#b9abb6"
FAINT = "#85788a"
"""Ink of what is disabled or does nothing."""
TEAL, RUST, MOSS, OCHRE, BRICK = "#39b5a6", "#e07a4f", "#9dbb5c", "#e3b04b", "#d9534a"
TAGGED = {
    "": SOFT, "teal": TEAL, "rust": RUST, "moss": MOSS, "ochre": OCHRE, "brick": BRICK, "violet": "#a98bd6",
}  # fmt: skip
"""Colour tag of a layer to what its icon is drawn in."""
ROW = 26
