"""Courses through life, baked into tables that kernels read."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np
from scipy.interpolate import PchipInterpolator

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.project.life import Curve, Gradient

__all__ = ["TABLE", "curve_table", "curve_values", "gradient_table", "integral_table"]

TABLE = 128
"""Entries of a table: normalised ages 0 to 1, evenly spaced, both ends included."""


def curve_values(curve: Curve, ages: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the curve at normalised ages: monotone cubic (Fritsch and Carlson 1980), flat outside."""
    points = np.array(curve.points)
    if len(points) == 1:
        return np.full(np.shape(ages), points[0, 1])
    inside = np.clip(ages, points[0, 0], points[-1, 0])
    return np.asarray(PchipInterpolator(points[:, 0], points[:, 1])(inside))


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
