"""Colours as files and screens hold them, and as light (IEC 61966-2-1)."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import ArrayLike, NDArray


def to_linear(encoded: ArrayLike) -> NDArray[np.float64]:
    """Return sRGB values 0..1 as linear light 0..1."""
    encoded = np.asarray(encoded, np.float64)
    return np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)


def to_srgb(linear: ArrayLike) -> NDArray[np.float64]:
    """Return linear light 0..1 as sRGB values 0..1."""
    linear = np.asarray(linear, np.float64)
    return np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)


def linear_light(srgb: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Return sRGB bytes as linear light 0..1."""
    return to_linear(np.arange(256) / 255).astype(np.float32)[srgb]
