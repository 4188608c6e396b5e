"""Making rows of a picture twice as wide, smoothly."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wraithon.compiled import inlined

__all__ = ["double_row", "pair_of_rows"]

THREE_QUARTERS, QUARTER = np.float32(0.75), np.float32(0.25)


@inlined
def pair_of_rows(y: int, high: int) -> tuple[int, int]:
    """Return the two rows, of `high` coarse ones, that row `y` of the fine picture lies between, the nearer first."""
    near = min(y // 2, high - 1)
    return near, min(max(near + y % 2 * 2 - 1, 0), high - 1)


@inlined
def double_row(small: NDArray[np.float32], row: NDArray[np.float32]) -> None:
    """Spread RGB pixels `small` (3 w,) over `row` (3 W,), where w is half of W, rounded up.

    Two fine pixels sit a quarter to either side of their coarse one.
    """
    pairs, length, short = len(small) // 3, len(row), len(small)
    for k in range(3):
        row[k] = small[k]
        row[length - 3 + k] = small[short - 3 + k]
    for p in range(1, pairs):
        for k in range(3):
            left, own = small[3 * p - 3 + k], small[3 * p + k]
            row[6 * p - 3 + k] = left * THREE_QUARTERS + own * QUARTER
            row[6 * p + k] = own * THREE_QUARTERS + left * QUARTER
