"""Making rows of a picture twice as wide, smoothly."""

from __future__ import annotations

import numpy as np

from wraithon.numeric.compiled import drawing_helper, drawing_inlined, inlined
from wraithon.numeric.vector_memory import read, write
from wraithon.numeric.vectors import beside, fused, spread8, twice

THREE_QUARTERS, QUARTER = np.float32(0.75), np.float32(0.25)
SPARE = 10
"""Places that a mixed row has more than its coarse one."""


@inlined
def pair_of_rows(y: int, high: int) -> tuple[int, int]:
    """Return the two rows, of `height` coarse ones, that row `y` of the fine one lies between, the nearer first."""
    near = min(y // 2, high - 1)
    return near, min(max(near + y % 2 * 2 - 1, 0), high - 1)


@drawing_helper
def repeat_ends(row, count):  # type: ignore[no-untyped-def]
    """Repeat the ends of a row (w + SPARE,), whose `count` values begin at the second place."""
    row[0] = row[1]
    for x in range(count + 1, count + SPARE):
        row[x] = row[count]


@drawing_helper
def mix_row(coarse, channel, y, share, mixed, which):  # type: ignore[no-untyped-def]
    """Mix the two rows of a channel of `coarse` (3, h, w) that row `y` of the fine picture lies between.

    They come into row `which` of `mixed` (n, w + SPARE), times `share`, from its second place on, with their ends
    repeated beyond them.
    """
    high, count = coarse.shape[1], coarse.shape[2]
    near, other = pair_of_rows(y, high)
    one, two = np.uint64((channel * high + near) * count), np.uint64((channel * high + other) * count)
    nearer, farther = THREE_QUARTERS * share, QUARTER * share
    lanes, out = spread8(nearer), np.uint64(which * mixed.shape[1] + 1)
    for x in range(0, count - 7, 8):
        at = np.uint64(x)
        away = read(lanes, coarse, two + at) * spread8(farther)
        write(mixed, out + at, fused(read(lanes, coarse, one + at), lanes, away))
    for x in range(count & ~7, count):
        mixed[which, 1 + x] = coarse[channel, near, x] * nearer + coarse[channel, other, x] * farther
    repeat_ends(mixed[which], count)


@drawing_helper
def mix_rows(coarse, y, share, mixed):  # type: ignore[no-untyped-def]
    """Mix rows of all channels as `mix_row` does, into `mixed` (3, w + SPARE)."""
    for channel in range(3):
        mix_row(coarse, channel, y, share, mixed, channel)


@drawing_inlined
def doubled(lanes):  # type: ignore[no-untyped-def]
    """Return eight fine pixels of a mixed row, given what it holds from half their place on.

    Two fine pixels sit a quarter to either side of their coarse one.
    """
    return fused(twice(lanes), spread8(THREE_QUARTERS), beside(lanes) * spread8(QUARTER))


@drawing_inlined
def doubled_at(mixed, which, x):  # type: ignore[no-untyped-def]
    """Return one fine pixel of row `which` of what is mixed (n, w + SPARE), as `doubled` gives eight."""
    return mixed[which, 1 + x // 2] * THREE_QUARTERS + mixed[which, x // 2 + x % 2 * 2] * QUARTER


@drawing_helper
def write_doubled_row(mixed, which, channel, y, adding, out):  # type: ignore[no-untyped-def]
    """Write row `which` of what is mixed (n, w + SPARE), twice as wide, into row `y` of a channel of `out` (3, H, W).

    When `adding`, it is added to what stands there.
    """
    height, width = out.shape[1], out.shape[2]
    first, lanes = which * mixed.shape[1], spread8(QUARTER)
    row = (channel * height + y) * width
    for x in range(0, width - 7, 8):
        at = np.uint64(row + x)
        light = doubled(read(lanes, mixed, np.uint64(first + (x >> 1))))
        if adding:
            light = light + read(lanes, out, at)
        write(out, at, light)
    for x in range(width & ~7, width):
        own = doubled_at(mixed, which, x)
        out[channel, y, x] = out[channel, y, x] + own if adding else own


@drawing_helper
def write_doubled(mixed, y, adding, out):  # type: ignore[no-untyped-def]
    """Write what is mixed (3, w + SPARE), twice as wide, into row `y` of `out` (3, H, W), or add it to that."""
    for channel in range(3):
        write_doubled_row(mixed, channel, channel, y, adding, out)
