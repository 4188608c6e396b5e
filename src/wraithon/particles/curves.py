"""Courses through life, baked into tables that kernels read."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from wraithon.project.life import Curve, Gradient, WeightedChoice


TABLE = 128
"""Entries of a table: normalised ages 0 to 1, evenly spaced, both ends included."""


def curve_values(curve: Curve, ages: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the curve at normalised ages: smooth through its points without overshooting, flat outside.

    A monotone cubic (Fritsch and Butland 1984), as SciPy's PchipInterpolator, which tests hold it to; it
    stands here because importing SciPy's takes longer than all else at start.
    """
    points = np.array(curve.points)
    if len(points) == 1:
        return np.full(np.shape(ages), points[0, 1])
    x, y = points.T
    inside = np.clip(ages, x[0], x[-1])
    k = np.clip(np.searchsorted(x, inside, side="right") - 1, 0, len(x) - 2)
    span, slope = np.diff(x), _slopes(x, y)
    t = (inside - x[k]) / span[k]
    rise = y[k] + (y[k + 1] - y[k]) * t * t * (3 - 2 * t)
    return rise + span[k] * t * (1 - t) * ((1 - t) * slope[k] - t * slope[k + 1])


@lru_cache(maxsize=4096)
def curve_value(curve: Curve, age: float) -> float:
    """Return the curve at one normalised age."""
    return float(curve_values(curve, np.array([age]))[0])


def _slopes(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return slopes at the points: weighted harmonic means of the secants, zero where they change sign."""
    h, secant = np.diff(x), np.diff(y) / np.diff(x)
    if len(x) == 2:
        return np.repeat(secant, 2)
    same = secant[:-1] * secant[1:] > 0
    before, after = 2 * h[1:] + h[:-1], h[1:] + 2 * h[:-1]
    safe = np.where(same[:, None], np.stack([secant[:-1], secant[1:]], axis=1), 1.0)
    inner = np.where(same, (before + after) / (before / safe[:, 0] + after / safe[:, 1]), 0.0)
    return np.concatenate(
        [[_end_slope(h[0], h[1], secant[0], secant[1])], inner, [_end_slope(h[-1], h[-2], secant[-1], secant[-2])]]
    )


def _end_slope(h: float, beyond: float, secant: float, next_secant: float) -> float:
    """Return the slope at an end: the three-point one, kept from overshooting."""
    slope = ((2 * h + beyond) * secant - h * next_secant) / (h + beyond)
    if slope * secant <= 0:
        return 0.0
    return 3 * secant if secant * next_secant < 0 and abs(slope) > 3 * abs(secant) else slope


@lru_cache(maxsize=512)
def curve_table(curve: Curve | None, default: float = 1.0) -> NDArray[np.float32]:
    """Return a curve as (TABLE,) float32; without one, `default` throughout."""
    if curve is None:
        return np.full(TABLE, default, np.float32)
    return curve_values(curve, np.linspace(0, 1, TABLE)).astype(np.float32)


@lru_cache(maxsize=512)
def integral_table(curve: Curve | None, default: float = 1.0) -> NDArray[np.float32]:
    """Return the running integral of a curve over normalised age as (TABLE,) float32, from 0."""
    values = curve_table(curve, default).astype(np.float64)
    trapezoids = (values[1:] + values[:-1]) / 2 / (TABLE - 1)
    return np.concatenate([[0.0], np.cumsum(trapezoids)]).astype(np.float32)


@lru_cache(maxsize=512)
def gradient_table(gradient: Gradient | None) -> NDArray[np.float32]:
    """Return a gradient as (TABLE, 3) float32 linear RGB; without one, white."""
    if gradient is None:
        return np.ones((TABLE, 3), np.float32)
    at = [stop.at for stop in gradient.stops]
    ages = np.linspace(0, 1, TABLE)
    channels = [np.interp(ages, at, [stop.colour[k] for stop in gradient.stops]) for k in range(3)]
    return np.stack(channels, axis=1).astype(np.float32)


def choice_table(choices: Sequence[WeightedChoice]) -> NDArray[np.float64]:
    """Return values (TABLE,), each as often as its weight says; where all weigh nothing, equally often."""
    if not choices:
        return np.zeros(TABLE)
    weights = np.array([choice.weight for choice in choices])
    weights = weights / weights.max() if weights.max() > 0 else np.ones(len(choices))
    ends = np.cumsum(weights) / weights.sum()
    at = np.searchsorted(ends, (np.arange(TABLE) + 0.5) / TABLE)
    return np.array([choice.value for choice in choices])[np.minimum(at, len(choices) - 1)]
