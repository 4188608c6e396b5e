"""The rows of marks."""

from __future__ import annotations

from wraithon.desktop.effects.looks.common import BLEND, LIT, texture_row

CALLED = "decals: flat on the ground"
ROWS = (texture_row(), BLEND, LIT)
