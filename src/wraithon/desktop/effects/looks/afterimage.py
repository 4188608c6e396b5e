"""The rows of afterimages."""

from __future__ import annotations

from wraithon.desktop.effects.looks.common import FILM_BLEND, SOFT_EDGE, film_row

CALLED = "afterimages: poses left behind"
ROWS = (FILM_BLEND, film_row(), SOFT_EDGE)
