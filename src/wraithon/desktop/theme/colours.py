"""The tokens of the look: a kingfisher's colours in a warm dark room."""

from __future__ import annotations

from wraithon.support.preferences import load_preferences

__all__ = [
    "BRICK",
    "EDGE",
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
FAINT = "#9d90a3"
"""Ink of what is disabled or does nothing."""
EDGE = "#7d6e84"
"""Borders of fields."""
TEAL, RUST, MOSS, OCHRE, BRICK = "#39b5a6", "#e07a4f", "#9dbb5c", "#e3b04b", "#d9534a"
if load_preferences().safe_colours:  # blue for what is chosen and fine, yellow and magenta for what is wrong
    TEAL, RUST, MOSS, OCHRE, BRICK = "#5aa9e6", "#f2a65a", "#8ecae6", "#f4d35e", "#e07ab8"
TAGGED = {
    "": SOFT, "teal": TEAL, "rust": RUST, "moss": MOSS, "ochre": OCHRE, "brick": BRICK, "violet": "#a98bd6",
}  # fmt: skip
"""Colour tag of a layer to what its icon is drawn in."""
ROW = 26
