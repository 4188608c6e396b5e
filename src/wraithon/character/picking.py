"""What a ray through the picture meets on the skin."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray


Hit = tuple[int, float, float]
"""A triangle's row, and the weights of its second and third corner."""


def hit_skin(
    origin: NDArray[np.floating],
    direction: NDArray[np.floating],
    points: NDArray[np.float32],
    triangles: NDArray[np.int32],
    shown: NDArray[np.bool_] | None = None,
) -> Hit | None:
    """Return the nearest place where a ray meets triangles (T, 3) of points (V, 3), from either side; or None.

    Möller and Trumbore 1997, "Fast, minimum storage ray/triangle intersection". `shown` (T,) leaves some out.
    """
    rows = np.arange(len(triangles)) if shown is None else np.flatnonzero(shown)
    a, b, c = (points[triangles[rows, k]].astype(np.float64) for k in range(3))
    one, two = b - a, c - a
    across = np.cross(direction, two)
    area = (one * across).sum(axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        inverse = 1 / area
        away = np.asarray(origin, np.float64) - a
        u = (away * across).sum(axis=1) * inverse
        other = np.cross(away, one)
        v = (other @ np.asarray(direction, np.float64)) * inverse
        far = (two * other).sum(axis=1) * inverse
        met = (np.abs(area) > 1e-18) & (u >= 0) & (v >= 0) & (u + v <= 1) & (far > 1e-6)
    if not met.any():
        return None
    best = int(np.where(met, far, np.inf).argmin())
    return int(rows[best]), float(u[best]), float(v[best])
