"""The rows of ribbons."""

from __future__ import annotations

from wraithon.desktop.effects.looks.common import BLEND, LIT, SOFT_EDGE, texture_row

__all__ = ["CALLED", "ROWS"]

CALLED = "ribbon: a band through the births"
ROWS = (texture_row(), BLEND, SOFT_EDGE, LIT)
