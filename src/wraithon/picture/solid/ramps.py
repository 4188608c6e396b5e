"""Colours for figures on the skin: how much of something, or how far to either side of the middle."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from wraithon.numeric.srgb import to_linear

STEPS = 256
NOTHING = (0.42, 0.39, 0.43)
RAMPS = {
    "share": ((0.42, 0.39, 0.43), (0.24, 0.45, 0.50), (0.22, 0.71, 0.65), (0.80, 0.86, 0.55), (1.0, 0.93, 0.78)),
    "balance": ((0.20, 0.26, 0.62), (0.33, 0.55, 0.75), (0.78, 0.76, 0.74), (0.93, 0.62, 0.36), (0.80, 0.18, 0.14)),
}
"""Name to sRGB colours from low to high, evenly apart."""


@lru_cache(maxsize=4)
def ramp_colours(name: str) -> NDArray[np.float32]:
    """Return linear RGB (STEPS + 1, 3): the colour of no figure at all, then the ramp."""
    stops = np.array(RAMPS[name])
    position = np.linspace(0, len(stops) - 1, STEPS)
    ramp = np.stack([np.interp(position, np.arange(len(stops)), stops[:, k]) for k in range(3)], axis=-1)
    return to_linear(np.concatenate([[NOTHING], ramp])).astype(np.float32)
