"""The rows of shells."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from wraithon.desktop.effects.looks.common import FILM_BLEND, SOFT_EDGE, WHITE, film_row, percent
from wraithon.desktop.widgets.form import Choice, Colours, Number, Row, Switch, Tick
from wraithon.desktop.widgets.offers import textures_or
from wraithon.project.look import Figure, Ingredient, Side

__all__ = ["CALLED", "ROWS"]

CALLED = "shell: a film around something"
FIGURES = (
    ("an egg", Figure.ELLIPSOID),
    ("a capsule", Figure.CAPSULE),
    ("the character's skin", Figure.SKIN),
)
SIDES = (("both sides", Side.BOTH), ("its front", Side.FRONT), ("its back", Side.BACK))
SHOWS = (
    ("all of it", Ingredient.ALL),
    ("only the first field", Ingredient.FIRST),
    ("only the second field", Ingredient.SECOND),
    ("only what keeps it to its height", Ingredient.MASK),
    ("only the rim", Ingredient.RIM),
)


def _stands(look: Any) -> bool:
    return look.figure is not Figure.SKIN


def _calm(look: Any) -> str:
    return "" if look.swell else "it does not swell"


def _cm(path: str, words: str, lead: str = "", step: float = 1, **more: Any) -> Number:
    return Number(path, words, lead=lead, unit="cm", factor=100, step=step, decimals=1, **more)


def _field(name: str, label: str) -> tuple[Row, ...]:
    def laid(look: Any) -> str:
        pictured = bool(getattr(look, name).texture) and look.figure is Figure.SKIN
        return "on skin a picture lies as the skin's own does" if pictured else ""

    drift = (
        Number(f"{name}.drift.{k}", f"How quickly it moves along {axis}, in m/s", lead=axis, step=0.05, decimals=2)
        for k, axis in enumerate("xyz")
    )
    return (
        Row(
            label,
            Choice(f"{name}.texture", "What it is made of", choices=textures_or("noise")),
            percent(f"{name}.amount", "How much it takes away"),
            _cm(f"{name}.scale", "How large its blotches are, or a picture's tiles", idle=laid),
            undo=label.capitalize(),
        ),
        Row("moves", *drift, undo=label.capitalize()),
    )


ROWS = (
    Row(
        "around",
        Choice("figure", "What it is shaped like", choices=FIGURES, undo="Figure"),
        Number(
            "tall", "How many times as high as wide", unit="×", step=0.1, decimals=2, shows=_stands, undo="Height"
        ),
    ),
    Row("seen", Choice("side", "Which of its sides are seen", choices=SIDES, undo="Side")),
    FILM_BLEND,
    film_row(),
    *_field("first", "first"),
    *_field("second", "second"),
    Row(
        "pattern",
        _cm("warp", "By how much the second field distorts the first", "warp"),
        Number("contrast", "How hard its pattern is", lead="hard", step=0.25, decimals=2),
    ),
    Row(
        "comes",
        percent("low.0", "Below this share of its height there is nothing", "from"),
        percent("low.1", "Above this share all of it is there", "to"),
        undo="Comes",
    ),
    Row(
        "goes",
        percent("high.0", "Below this share of its height all of it is there", "from"),
        percent("high.1", "Above this share there is nothing", "to"),
        undo="Goes",
    ),
    Row(
        "masked", Choice("mask", "The picture that keeps it to where that is bright", choices=textures_or("nothing"))
    ),
    Row(
        "swells",
        _cm("swell", "How far it swells where the first field is strong", step=0.5),
        replace(percent("calm", "The share of its height below which it keeps calmer", "calm"), idle=_calm),
    ),
    Row(
        "bends",
        _cm("bend", "By how much it shifts what is seen through it", step=0.5),
        Switch("bands", "Colour it by its strength", text="bands", on=WHITE, undo="Bands"),
    ),
    Row("", Colours("bands", "Colours by its strength", shows=lambda look: look.bands is not None), undo="Bands"),
    SOFT_EDGE,
    Row(
        "shows",
        Choice("shows", "What of it is shown", choices=SHOWS, undo="Shown"),
        Tick("frozen", "Hold its fields still", text="held", undo="Held"),
    ),
)
