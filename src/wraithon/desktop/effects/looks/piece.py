"""The rows of pieces."""

from __future__ import annotations

from typing import Any

from wraithon.desktop.widgets.form import Choice, Names, Number, Row, Tick
from wraithon.desktop.widgets.offers import pieces
from wraithon.project.look import Orientation

CALLED = "meshes: small solid things"
ORIENTATIONS = (
    ("tumbling", Orientation.TUMBLING),
    ("each its own way, fixed", Orientation.FIXED),
    ("along its velocity", Orientation.VELOCITY),
    ("along the skin's normal", Orientation.NORMAL),
)


def _shining(look: Any) -> str:
    return "" if look.lit else "without light on them, all of their colour shines"


ROWS = (
    Row("shapes", Names("shapes", choices=pieces, columns=3)),
    Row("turned", Choice("orientation", choices=ORIENTATIONS, undo="Turned")),
    Row(
        "light",
        Tick("lit", "Whether light falls on them", text="lit", undo="Lit"),
        Tick("shadow", text="shadow", undo="Shadow"),
        Number("glow", lead="glow"),
    ),
)
