"""Finishing a picture: bloom, exposure, tone curve and sRGB, for any renderer."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.picture.kernels.post_kernels import byte_table, finish, halve_twice, spread_bloom
from wraithon.picture.light import BLOOM_FLOOR, BLOOM_LEVELS, BLOOM_STRENGTH

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.picture.renderer import Buffers

__all__ = ["finished"]

TABLE = byte_table()
WIDENED = np.float32(0.9)
"""How much of each smaller level of bloom is added to the next larger one."""


def finished(light: NDArray[np.float32], exposure: float, buffers: Buffers) -> NDArray[np.uint8]:
    """Return finished pixels (H, W, 4) uint8 sRGB, opaque, of linear light (3, H, W)."""
    high, wide = light.shape[1:]
    levels = []
    for k in range(BLOOM_LEVELS):
        high, wide = max(1, -(-high // 2)), max(1, -(-wide // 2))
        levels.append(buffers.get(f"bloom {k}", (3, high, wide)))
    halve_twice(light, levels[0], levels[1], np.float32(BLOOM_FLOOR))
    spread_bloom(tuple(levels), WIDENED)
    pixels, strength = buffers.unheld("pixels", light.shape[1:], np.uint32), np.float32(BLOOM_STRENGTH)
    finish(light, levels[0], levels[1], WIDENED, strength, np.float32(exposure), TABLE, pixels)
    return pixels.view(np.uint8).reshape(*light.shape[1:], 4)
