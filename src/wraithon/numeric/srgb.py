"""Colours as files hold them, and as light."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray


def linear_light(srgb: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Return sRGB bytes as linear light 0..1 (IEC 61966-2-1)."""
    steps = np.arange(256) / 255
    table = np.where(steps <= 0.04045, steps / 12.92, ((steps + 0.055) / 1.055) ** 2.4).astype(np.float32)
    return table[srgb]
