"""Kernels that finish a picture: bloom, tone map, sRGB."""

from __future__ import annotations

import numpy as np
from numba import prange

from wraithon.compiled import drawing_helper, drawing_inlined, drawing_kernel
from wraithon.picture.kernels.doubling_kernels import (
    SPARE,
    doubled,
    mix_pair,
    mix_rows,
    pair_of_rows,
    put_doubled,
)
from wraithon.vector_memory import read, write
from wraithon.vectors import alike_whole, bits, larger, shifted, smaller, spread8

__all__ = ["byte_table", "enlarge", "finish", "halve_twice", "spread_bloom"]

ZERO, ONE, HALF, QUARTER = np.float32(0), np.float32(1), np.float32(0.5), np.float32(0.25)
DARKEST, BRIGHTEST = np.float32(2.0**-13), np.float32(15.99)
"""Exposed light below which all is black, and above which all is white."""
ADDING = True
ROWS = 16
"""Rows of the picture that are finished one after another, while what they share is at hand."""
STEP_BITS = 15
"""Lower bits of light that no byte tells apart."""
FIRST_STEP, LAST_STEP = (int(np.float32(x).view(np.int32)) >> STEP_BITS for x in (DARKEST, BRIGHTEST))
BLUE, GREEN, OPAQUE = np.uint32(16), np.uint32(8), np.uint32(0xFF000000)
U1, U2, U8, U24, U32, U256 = np.uint64(1), np.uint64(2), np.uint64(8), np.uint64(24), np.uint64(32), np.uint64(256)
EVEN, LOW, FULL = np.uint64(0x00FF00FF), np.uint64(0xFFFFFFFF), np.uint64(0xFF000000)
BYTES, ROUND = np.uint64(0x00FF00FF00FF00FF), np.uint64(0x0080008000800080)


def byte_table() -> np.ndarray:
    """Return uint8 (N,): the byte of a colour, by the upper bits of exposed light.

    The tone curve is Narkowicz 2015, "ACES filmic tone mapping curve", with sRGB after it (IEC 61966-2-1).
    """
    steps = np.arange(FIRST_STEP, LAST_STEP + 1, dtype=np.int64)
    middles = ((steps << STEP_BITS) + (1 << (STEP_BITS - 1))).astype(np.int32).view(np.float32)
    light = middles.astype(np.float64)
    mapped = light * (2.51 * light + 0.03) / (light * (2.43 * light + 0.59) + 0.14)
    mapped = np.clip(mapped, 0, 1)
    curve = np.where(mapped <= 0.0031308, mapped * 12.92, 1.055 * mapped ** (1 / 2.4) - 0.055)
    seen = (curve * 255 + 0.5).astype(np.uint8)
    seen[0] = 0
    return seen


@drawing_helper
def _halve_row(source, y, floor, out):  # type: ignore[no-untyped-def]
    """Write row `y` of `out` (3, h, w): the average of two by two pixels of `source` (3, H, W)."""
    wide, tall, broad = out.shape[2], source.shape[1], source.shape[2]
    pairs = broad // 2
    for channel in range(3):
        upper, lower = source[channel, min(2 * y, tall - 1)], source[channel, min(2 * y + 1, tall - 1)]
        row = out[channel, y]
        for x in range(pairs):
            i = U2 * np.uint64(x)
            row[x] = (upper[i] + upper[i + U1] + lower[i] + lower[i + U1]) * QUARTER
        if pairs < wide:
            row[wide - 1] = (upper[broad - 1] + lower[broad - 1]) * HALF
    if floor > ZERO:
        red, green, blue = out[0, y], out[1, y], out[2, y]
        for x in range(wide):
            bright = max(red[x], max(green[x], blue[x]))
            # One very bright pixel must not flicker over the whole picture (Karis 2013).
            damped = max(bright, np.float32(1e-6)) * (ONE + bright * np.float32(0.06))
            keep = max(ZERO, bright - floor) / damped
            red[x] *= keep
            green[x] *= keep
            blue[x] *= keep


@drawing_kernel
def halve_twice(source, out, smaller_, floor):  # type: ignore[no-untyped-def]
    """Write the average of two by two pixels (3, H, W) into `out`, and of two by two of its own into `smaller_`.

    Light under `floor` fades out (bloom's soft knee).
    """
    for y in prange(smaller_.shape[1]):
        for row in range(2 * y, min(2 * y + 2, out.shape[1])):
            _halve_row(source, row, floor, out)
        _halve_row(out, y, ZERO, smaller_)


@drawing_helper
def spread_bloom(levels, share):  # type: ignore[no-untyped-def]
    """Fill all but the first two of the `levels` of bloom, each half as large as the one before, and spread them.

    From the last to the third, `share` of each is added to the one before, widened by a tent filter (Jimenez
    2014). They are so small that one thread is quicker than waking others.
    """
    count = len(levels)
    for k in range(2, count):
        for y in range(levels[k].shape[1]):
            _halve_row(levels[k - 1], y, ZERO, levels[k])
    for turn in range(count - 2):
        small, large = levels[count - 1 - turn], levels[count - 2 - turn]
        mixed = np.empty((3, small.shape[2] + SPARE), np.float32)
        for y in range(large.shape[1]):
            mix_rows(small, y, share, mixed)
            put_doubled(mixed, y, ADDING, large)


@drawing_inlined
def _step(light, exposure):  # type: ignore[no-untyped-def]
    """Return the places of light in the tables of bytes; what is no number is as good as black."""
    seen = smaller(larger(light * spread8(exposure), spread8(DARKEST)), spread8(BRIGHTEST))
    return shifted(bits(seen), np.int32(STEP_BITS)) - alike_whole(seen, np.int32(FIRST_STEP))


@drawing_helper
def _steps_of_row(picture, mixed, exposure, y, steps):  # type: ignore[no-untyped-def]
    """Write into `steps` (3, W + 8) where each colour of row `y` is to be looked up."""
    high, wide = picture.shape[1], picture.shape[2]
    plane, length, room = np.uint64(high * wide), np.uint64(mixed.shape[1]), np.uint64(steps.shape[1])
    lanes, spare = spread8(ONE), np.zeros((3, 8), np.float32)
    for x in range(0, wide - 7, 8):
        at, half, place = np.uint64(y * wide + x), np.uint64(x >> 1), np.uint64(x)
        for _ in range(3):
            light = read(lanes, picture, at) + doubled(read(lanes, mixed, half))
            write(steps, place, _step(light, exposure))
            at, half, place = at + plane, half + length, place + room
    x = wide & ~7
    for channel in range(3):
        for k in range(wide - x):
            spare[channel, k] = picture[channel, y, x + k]
        light = read(lanes, spare, np.uint64(8 * channel))
        light = light + doubled(read(lanes, mixed, np.uint64(channel * mixed.shape[1] + (x >> 1))))
        write(steps, np.uint64(channel * steps.shape[1] + x), _step(light, exposure))


@drawing_helper
def _look_up(steps, table, y, out):  # type: ignore[no-untyped-def]
    """Write the bytes of a row, of which `steps` (3, W + 8) say where they stand in `table` (N,)."""
    pixels, places = out.reshape(out.size), steps.reshape(steps.size)
    room, first = np.uint64(steps.shape[1]), np.uint64(y * out.shape[1])
    for x in range(np.uint64(out.shape[1])):
        red, green = np.uint32(table[places[x]]), np.uint32(table[places[room + x]]) << GREEN
        pixels[first + x] = red | green | (np.uint32(table[places[U2 * room + x]]) << BLUE) | OPAQUE


@drawing_helper
def _bloom_rows(bloom, smaller_, share, first, count, mixed, out):  # type: ignore[no-untyped-def]
    """Write `count` rows of bloom (3, h, w) into `out`, with a share of what is half as large, widened, added."""
    for row in range(count):
        mix_rows(smaller_, first + row, share, mixed)
        for channel in range(3):
            out[channel, row] = bloom[channel, first + row]
        put_doubled(mixed, row, ADDING, out)


@drawing_kernel
def finish(picture, bloom, smaller_, share, strength, exposure, table, out):  # type: ignore[no-untyped-def]
    """Add bloom to light (3, H, W), and write sRGB bytes into `out` (H, W) uint32.

    The bloom is `bloom` (3, ceil(H / 2), ceil(W / 2)) and, widened by a tent filter, `share` of what is half as
    large again. `table` (N,) is that of `byte_table`, by the upper bits of exposed light.
    """
    (high, wide), (coarse, half) = out.shape, bloom.shape[1:]
    for block in prange((high + ROWS - 1) // ROWS):
        rows = np.empty((3, ROWS // 2 + 2, half), np.float32)
        mixed, steps = np.empty((3, half + SPARE), np.float32), np.empty((3, wide + 8), np.uint32)
        first = max(block * ROWS // 2 - 1, 0)
        _bloom_rows(bloom, smaller_, share, first, min(coarse - first, ROWS // 2 + 2), mixed, rows)
        for y in range(block * ROWS, min(high, (block + 1) * ROWS)):
            near, other = pair_of_rows(y, coarse)
            mix_pair(rows, near - first, other - first, strength, mixed)
            _steps_of_row(picture, mixed, exposure, y, steps)
            _look_up(steps, table, y, out)


@drawing_kernel
def enlarge(small, rows, row_shares, columns, column_shares, out):  # type: ignore[no-untyped-def]
    """Write pixels (h, w), four bytes in a uint32 each, into `out` (H, W), each between the four it lies amid.

    `rows` (H,) and `columns` (W,) say before which row and column, the shares (in 256ths) how far towards
    the next. All four bytes are worked on at once, each in 16 bits of a number. The last comes out full.
    """
    high, wide = small.shape
    for y in prange(out.shape[0]):
        near, share = rows[y], np.uint64(row_shares[y])
        other = min(near + U1, np.uint64(high - 1))
        mixed = np.empty(wide + 1, np.uint64)
        for x in range(wide):
            a, b = np.uint64(small[near, x]), np.uint64(small[other, x])
            a = (a & EVEN) | (((a >> U8) & EVEN) << U32)
            b = (b & EVEN) | (((b >> U8) & EVEN) << U32)
            mixed[x] = ((a * (U256 - share) + b * share + ROUND) >> U8) & BYTES
        mixed[wide] = mixed[wide - 1]
        for x in range(out.shape[1]):
            at, part = columns[x], np.uint64(column_shares[x])
            pixel = ((mixed[at] * (U256 - part) + mixed[at + U1] * part + ROUND) >> U8) & BYTES
            out[y, x] = np.uint32((pixel & LOW) | (pixel >> U24) | FULL)
