"""Making rows of a picture twice as wide, smoothly."""

from __future__ import annotations

import numpy as np

from wraithon.compiled import drawing_helper, drawing_inlined, inlined
from wraithon.vector_memory import read, write
from wraithon.vectors import beside, fused, spread8, twice

__all__ = ["SPARE", "doubled", "mix_pair", "mix_rows", "pair_of_rows", "put_doubled"]

THREE_QUARTERS, QUARTER = np.float32(0.75), np.float32(0.25)
SPARE = 10
"""Places that a mixed row has more than its coarse one."""


@inlined
def pair_of_rows(y: int, high: int) -> tuple[int, int]:
    """Return the two rows, of `high` coarse ones, that row `y` of the fine picture lies between, the nearer first."""
    near = min(y // 2, high - 1)
    return near, min(max(near + y % 2 * 2 - 1, 0), high - 1)


@drawing_helper
def mix_pair(coarse, near, other, share, mixed):  # type: ignore[no-untyped-def]
    """Write two rows of `coarse` (3, h, w), the nearer first, into `mixed` (3, w + SPARE): mixed, and times `share`.

    Each begins at the second place, and repeats its ends beyond them.
    """
    count = coarse.shape[2]
    for channel in range(3):
        one, two, out = coarse[channel, near], coarse[channel, other], mixed[channel, 1 : count + 1]
        for x in range(count):
            out[x] = (one[x] * THREE_QUARTERS + two[x] * QUARTER) * share
        mixed[channel, 0] = mixed[channel, 1]
        for x in range(count + 1, count + SPARE):
            mixed[channel, x] = mixed[channel, count]


@drawing_helper
def mix_rows(coarse, y, share, mixed):  # type: ignore[no-untyped-def]
    """Write the rows of `coarse` (3, h, w) that row `y` of the fine picture lies between as `mix_pair` does."""
    near, other = pair_of_rows(y, coarse.shape[1])
    mix_pair(coarse, near, other, share, mixed)


@drawing_inlined
def doubled(lanes):  # type: ignore[no-untyped-def]
    """Return eight fine pixels of a mixed row, given what it holds from half their place on.

    Two fine pixels sit a quarter to either side of their coarse one.
    """
    return fused(twice(lanes), spread8(THREE_QUARTERS), beside(lanes) * spread8(QUARTER))


@drawing_helper
def put_doubled(mixed, y, adding, out):  # type: ignore[no-untyped-def]
    """Write what is mixed (3, w + SPARE), twice as wide, into row `y` of `out` (3, H, W), or add it to that."""
    high, wide = out.shape[1], out.shape[2]
    length, lanes = mixed.shape[1], spread8(QUARTER)
    for channel in range(3):
        row = (channel * high + y) * wide
        for x in range(0, wide - 7, 8):
            at = np.uint64(row + x)
            light = doubled(read(lanes, mixed, np.uint64(channel * length + (x >> 1))))
            if adding:
                light = light + read(lanes, out, at)
            write(out, at, light)
        for x in range(wide & ~7, wide):
            own = mixed[channel, 1 + x // 2] * THREE_QUARTERS + mixed[channel, x // 2 + x % 2 * 2] * QUARTER
            out[channel, y, x] = out[channel, y, x] + own if adding else own
