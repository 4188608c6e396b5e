"""Finishing a picture: bloom, exposure, tone curve and sRGB, for any renderer."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.picture.kernels.post_kernels import byte_table, finish
from wraithon.picture.light import BLOOM_FLOOR, BLOOM_LEVELS, BLOOM_STRENGTH

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.picture.renderer import Buffers


TABLE = byte_table()
FLOOR, STRENGTH = np.float32(BLOOM_FLOOR), np.float32(BLOOM_STRENGTH)
WIDENED = np.float32(0.9)
"""How much of each smaller level of bloom is added to the next larger one."""


def finished(light: NDArray[np.float32], exposure: float, buffers: Buffers, bloom: float = 1.0) -> NDArray[np.uint8]:
    """Return finished pixels (H, W, 4) uint8 sRGB, opaque, of linear light (3, H, W); `bloom` times as aglow."""
    height, width = light.shape[1:]
    levels = buffers.stored("bloom", (height, width), lambda: _levels(height, width))
    pixels = buffers.lent("pixels", (height, width), np.uint32)
    finish(light, levels, FLOOR, WIDENED, STRENGTH * np.float32(bloom), np.float32(exposure), TABLE, pixels)
    return pixels.view(np.uint8).reshape(height, width, 4)


def _levels(height: int, width: int) -> tuple[NDArray[np.float32], ...]:
    """Return memory for the levels of bloom of a picture, each half as large as the one before."""
    sizes = (tuple(max(1, -(-side // 2 ** (k + 1))) for side in (height, width)) for k in range(BLOOM_LEVELS))
    return tuple(np.empty((3, *size), np.float32) for size in sizes)
