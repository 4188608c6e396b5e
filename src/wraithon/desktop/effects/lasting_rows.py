"""How long particles stay: whether they wait for the end of their effect, how they fade, and how they end."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.desktop.widgets.form import Choice, Number, Row, Switch
from wraithon.desktop.widgets.offers import ENDINGS
from wraithon.project.ending import AtEnd

if TYPE_CHECKING:
    from wraithon.project.effect import Layer


def _never_attached(layer: Layer) -> str:
    released = layer.ending.what is AtEnd.RELEASE and layer.source.riding.share == 0
    return "its particles are not attached to anything" if released else ""


LASTING_ROWS = (
    Row(
        "hold",
        Switch("hold", text="until the effect ends, at", on=0.5, undo="Hold", stretch=0),
        Number("hold", undo="Hold"),
    ),
    Row("fade", Number("fade_in", lead="in", undo="Fade in"), Number("fade_out", lead="out", undo="Fade out")),
    Row(
        "at the end",
        Choice("ending.what", choices=ENDINGS, undo="At the end", idle=_never_attached),
        Number("ending.seconds", lead="in", undo="At the end", shows=lambda layer: layer.ending.what is AtEnd.FADE),
    ),
)
"""Of a layer."""
