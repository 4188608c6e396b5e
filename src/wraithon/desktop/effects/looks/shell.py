"""The rows of shells."""

from __future__ import annotations

from typing import Any

from wraithon.desktop.effects.looks.common import FILM_BLEND, SOFT_EDGE, WHITE, film_row
from wraithon.desktop.widgets.form import Choice, Colours, Number, Row, Switch, Tick
from wraithon.desktop.widgets.offers import textures_or
from wraithon.project.look import Figure, Ingredient, ShellSide

CALLED = "shell: a thin surface around something"
FIGURES = (
    ("an ellipsoid", Figure.ELLIPSOID),
    ("a capsule", Figure.CAPSULE),
    ("the character's skin", Figure.SKIN),
)
SIDES = (("both sides", ShellSide.BOTH), ("front", ShellSide.FRONT), ("back", ShellSide.BACK))
SHOWS = (
    ("everything", Ingredient.ALL),
    ("first field", Ingredient.FIRST),
    ("second field", Ingredient.SECOND),
    ("height fade", Ingredient.MASK),
    ("rim", Ingredient.RIM),
)


def _stands(look: Any) -> bool:
    return look.figure is not Figure.SKIN


def _calm(look: Any) -> str:
    return "" if look.swell else "displacement is 0"


def _field(name: str, label: str) -> tuple[Row, ...]:
    def only_noise(look: Any) -> str:
        pictured = bool(getattr(look, name).texture) and look.figure is Figure.SKIN
        return "on skin a picture lies as the skin's own does" if pictured else ""

    drift = (
        Number(f"{name}.drift.{k}", f"Drift along {axis} in m/s", lead=axis, unit="", step=0.05, decimals=2)
        for k, axis in enumerate("xyz")
    )
    return (
        Row(
            label,
            Choice(f"{name}.texture", choices=textures_or("noise")),
            Number(f"{name}.amount"),
            Number(f"{name}.scale", idle=only_noise),
            undo=label.capitalize(),
        ),
        Row("drift", *drift, undo=label.capitalize()),
    )


ROWS = (
    Row(
        "shape",
        Choice("figure", choices=FIGURES, undo="Figure"),
        Number("tall", shows=_stands, undo="Height"),
    ),
    Row("sides", Choice("side", choices=SIDES, undo="Side")),
    FILM_BLEND,
    film_row(),
    *_field("first", "first"),
    *_field("second", "second"),
    Row(
        "pattern",
        Number("warp", lead="warp"),
        Number("contrast", lead="contrast"),
    ),
    Row(
        "fade in",
        Number("low.0", "Share of its height below which it is invisible", lead="from"),
        Number("low.1", "Share of its height above which it is fully visible", lead="to"),
        undo="Fade-in height",
    ),
    Row(
        "fade out",
        Number("high.0", "Share of its height below which it is fully visible", lead="from"),
        Number("high.1", "Share of its height above which it is invisible", lead="to"),
        undo="Fade-out height",
    ),
    Row("mask", Choice("mask", choices=textures_or("nothing"))),
    Row(
        "displaced",
        Number("swell"),
        Number("calm", lead="above", idle=_calm),
    ),
    Row(
        "refraction",
        Number("bend"),
        Switch("bands", "Colours the shell by its strength", text="colour scale", on=WHITE, undo="Colour scale"),
    ),
    Row(
        "",
        Colours("bands", shows=lambda look: look.bands is not None),
        undo="Colour scale",
    ),
    SOFT_EDGE,
    Row(
        "preview",
        Choice("shows", choices=SHOWS, undo="Shown"),
        Tick("frozen", text="frozen", undo="Frozen"),
    ),
)
