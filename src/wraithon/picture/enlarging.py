"""Making pictures larger, smoothly: each pixel lies between four of the smaller one."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from wraithon.picture.kernels.post_kernels import enlarge
from wraithon.picture.renderer import Buffers

_BUFFERS = Buffers()


def enlarged(pixels: NDArray[np.uint8], width: int, height: int) -> NDArray[np.uint8]:
    """Return a picture (h, w, 4) made `width` by `height` pixels large, opaque; for the engine thread."""
    rows, columns = pixels.shape[:2]
    if (rows, columns) == (height, width):
        return pixels
    out = _BUFFERS.lent("pixels", (height, width), np.uint32)
    packed = np.ascontiguousarray(pixels).view(np.uint32)[..., 0]
    enlarge(packed, *_places(height, rows), *_places(width, columns), out)
    return out.view(np.uint8).reshape(height, width, 4)


@lru_cache(maxsize=16)
def _places(many: int, few: int) -> tuple[NDArray[np.uint64], NDArray[np.uint32]]:
    """Return behind which of `few` pixels each of `many` lies, and how far towards the next in 256ths."""
    position = np.clip((np.arange(many) + 0.5) * few / many - 0.5, 0, few - 1)
    return np.floor(position).astype(np.uint64), np.round((position - np.floor(position)) * 256).astype(np.uint32)
