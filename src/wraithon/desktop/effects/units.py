"""How attributes are shown: their units and scales, and what will really be drawn of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wraithon.desktop.widgets.basics import shown
from wraithon.numeric.meeting import met
from wraithon.particles.curves import TABLE, curve_table
from wraithon.project.effect import Layer
from wraithon.project.life import Attribute, LifeMode, Range
from wraithon.project.quantities import quantities_of


@dataclass(frozen=True)
class AttributeUnit:
    """How an attribute's numbers are shown: `factor` turns the file's unit into the shown one."""

    name: str
    factor: float = 1.0
    step: float = 0.1
    decimals: int = 2
    low: float = 0.0
    """Usual lowest and highest, in shown units: how far the bar goes, while no value lies beyond."""
    high: float = 1e6
    scale_top: float = 1.0
    """Least top of the row's scale, in shown units."""


RANGES = {
    "lifetime": (0.01, 600, 2.0), "speed": (0.0, 1000, 2.0), "size": (0.0, 10_000, 5.0),
    "intensity": (0.0, 1000, 2.0), "opacity": (0.0, 1.0, 1.0), "turn": (-3600, 3600, 360),
    "stretch": (0.0, 100, 2.0), "spin": (-7200, 7200, 180),
}  # fmt: skip
"""Attribute to the lowest and highest of its bar and the least top of its scale."""
MODE_WORDS = {LifeMode.SCALE: "× scale", LifeMode.ADD: "+ add", LifeMode.REPLACE: "= replace"}


def unit_of(name: str) -> AttributeUnit:
    """Return how an attribute is shown."""
    said = quantities_of(Layer)[name]
    return AttributeUnit(said.symbol, said.unit.factor, said.arrow_step, said.shown_decimals, *RANGES[name])


def drawn_band(attribute: Attribute, *, angle: bool = False) -> tuple[np.ndarray, np.ndarray]:
    """Return lowest and highest drawn value over what its curve runs over, (TABLE,) each, in the file's unit."""
    curve = curve_table(attribute.life).astype(float)
    ends = [met(np.full(TABLE, end), curve, attribute.code) for end in attribute.ends]
    low, high = np.sort(np.stack(ends), axis=0)
    if not attribute.wobble.size:
        return low, high
    # Of what is an angle it is degrees more or less; of all else a share.
    by = attribute.wobble.size if angle else np.maximum(abs(low), abs(high)) * attribute.wobble.size
    return low - by, high + by


def range_text(birth: Range, unit: AttributeUnit) -> str:
    """Return a range in words, with its unit."""
    low, high = birth.low * unit.factor, birth.high * unit.factor
    # Of large numbers fewer decimals say as much.
    maximum = max(abs(low), abs(high))
    decimals = max(0, unit.decimals - (2 if maximum >= 100 else 1 if maximum >= 20 else 0))
    text = shown(low, decimals) if low == high else f"{shown(low, decimals)}–{shown(high, decimals)}"
    return f"{text} {unit.name}" if unit.name not in {"", "°"} else f"{text}{unit.name}"
