"""Making pictures larger, smoothly: each pixel lies between four of the smaller one."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from wraithon.picture.post_kernels import enlarge

__all__ = ["enlarged", "places_between"]


@lru_cache(maxsize=16)
def places_between(many: int, few: int, step: float) -> tuple[NDArray[np.uint64], NDArray[np.float32]]:
    """Return which of `few` pixels, `step` times as wide, each of `many` lies behind, and its share of the way on."""
    place = np.clip((np.arange(many) + 0.5) / step - 0.5, 0, few - 1)
    return np.floor(place).astype(np.uint64), (place - np.floor(place)).astype(np.float32)


def enlarged(pixels: NDArray[np.uint8], width: int, height: int) -> NDArray[np.uint8]:
    """Return a picture (h, w, 4) made `width` by `height` pixels large, opaque; for the engine thread."""
    high, wide = pixels.shape[:2]
    if (high, wide) == (height, width):
        return pixels
    out = np.empty((height, width, 4), np.uint8)
    rows, columns = places_between(height, high, height / high), places_between(width, wide, width / wide)
    enlarge(pixels.reshape(high, -1), *rows, *columns, out.reshape(height, -1))
    return out
