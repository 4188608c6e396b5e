"""Kernels that finish a picture: bloom, tone map, sRGB."""

from __future__ import annotations

import numpy as np

from wraithon.numeric.compiled import drawing_helper, drawing_inlined, drawing_kernel, prange
from wraithon.numeric.srgb import to_srgb
from wraithon.numeric.vector_memory import read, write
from wraithon.numeric.vectors import alike_whole, bits, evens, fused, larger, odds, shifted, smaller, spread8
from wraithon.numeric.work_queue import HANDS, fresh_turns, next_turn
from wraithon.picture.kernels.doubling_kernels import (
    SPARE,
    doubled,
    doubled_at,
    mix_row,
    mix_rows,
    pair_of_rows,
    repeat_ends,
    write_doubled_row,
)

ZERO, ONE, HALF = np.float32(0), np.float32(1), np.float32(0.5)
QUARTER, THREE_QUARTERS = np.float32(0.25), np.float32(0.75)
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
    seen = (to_srgb(mapped) * 255 + 0.5).astype(np.uint8)
    seen[0] = 0
    return seen


@drawing_helper
def _halve_row(source, channel, y, out):  # type: ignore[no-untyped-def]
    """Write row `y` of a channel of `out` (3, h, w): the average of two by two pixels of `source` (3, H, W)."""
    width, tall, broad = out.shape[2], source.shape[1], source.shape[2]
    pairs, above, below = broad // 2, min(2 * y, tall - 1), min(2 * y + 1, tall - 1)
    upper, lower = np.uint64((channel * tall + above) * broad), np.uint64((channel * tall + below) * broad)
    row, lanes = np.uint64((channel * out.shape[1] + y) * width), spread8(QUARTER)
    for x in range(0, pairs - 7, 8):
        i = U2 * np.uint64(x)
        one = read(lanes, source, upper + i) + read(lanes, source, lower + i)
        two = read(lanes, source, upper + i + U8) + read(lanes, source, lower + i + U8)
        write(out, row + np.uint64(x), (evens(one, two) + odds(one, two)) * lanes)
    for x in range(pairs & ~7, pairs):
        left = source[channel, above, 2 * x] + source[channel, below, 2 * x]
        right = source[channel, above, 2 * x + 1] + source[channel, below, 2 * x + 1]
        out[channel, y, x] = (left + right) * QUARTER
    if pairs < width:
        out[channel, y, pairs] = (source[channel, above, broad - 1] + source[channel, below, broad - 1]) * HALF


@drawing_helper
def _keep_bright(y, floor, out):  # type: ignore[no-untyped-def]
    """Fade light of row `y` out that is under `floor` (bloom's soft knee)."""
    red, green, blue = out[0, y], out[1, y], out[2, y]
    for x in range(out.shape[2]):
        bright = max(red[x], max(green[x], blue[x]))
        # One very bright pixel must not flicker over the whole picture (Karis 2013).
        damped = max(bright, np.float32(1e-6)) * (ONE + bright * np.float32(0.06))
        keep = max(ZERO, bright - floor) / damped
        red[x] *= keep
        green[x] *= keep
        blue[x] *= keep


@drawing_helper
def _spread_bloom(levels, channel, share):  # type: ignore[no-untyped-def]
    """Fill a channel of all but the first two of the `levels` of bloom, each half of the one before, and spread them.

    From the last to the third, `share` of each is added to the one before, widened by a tent filter (Jimenez 2014).
    """
    count = len(levels)
    for k in range(2, count):
        for y in range(levels[k].shape[1]):
            _halve_row(levels[k - 1], channel, y, levels[k])
    for turn in range(count - 2):
        small, large = levels[count - 1 - turn], levels[count - 2 - turn]
        mixed = np.empty((1, small.shape[2] + SPARE), np.float32)
        for y in range(large.shape[1]):
            mix_row(small, channel, y, share, mixed, 0)
            write_doubled_row(mixed, 0, channel, y, ADDING, large)


@drawing_inlined
def _steps(light, exposure, near, nearer, other, farther):  # type: ignore[no-untyped-def]
    """Return the places in the table of bytes of eight pixels' light and of bloom, given what rows of it hold.

    What is no number is as good as black.
    """
    seen = fused(light, exposure, doubled(fused(near, nearer, other * farther)))
    seen = smaller(larger(seen, spread8(DARKEST)), spread8(BRIGHTEST))
    return shifted(bits(seen), np.int32(STEP_BITS)) - alike_whole(seen, np.int32(FIRST_STEP))


@drawing_helper
def _steps_of_row(picture, rows, near, other, strength, exposure, y, steps):  # type: ignore[no-untyped-def]
    """Write into `steps` (3, W + 8) where each colour of row `y` is to be looked up.

    `rows` (3, h, w + SPARE) hold bloom, of which `near` and `other` are the two that row `y` lies between.
    """
    height, width = picture.shape[1], picture.shape[2]
    tall, length, whole, end = rows.shape[1], rows.shape[2], width & ~7, np.uint64((width & ~7) >> 1)
    lanes, spare = spread8(exposure), np.zeros(8, np.float32)
    nearer, farther = spread8(strength * exposure * THREE_QUARTERS), spread8(strength * exposure * QUARTER)
    for channel in range(3):
        one, two = np.uint64((channel * tall + near) * length), np.uint64((channel * tall + other) * length)
        at, position = np.uint64((channel * height + y) * width), np.uint64(channel * steps.shape[1])
        for x in range(0, whole, 8):
            far, half = np.uint64(x), np.uint64(x >> 1)
            light, a, b = read(lanes, picture, at + far), read(lanes, rows, one + half), read(lanes, rows, two + half)
            write(steps, position + far, _steps(light, lanes, a, nearer, b, farther))
        for k in range(whole, width):
            spare[k - whole] = picture[channel, y, k]
        light, a, b = read(lanes, spare, np.uint64(0)), read(lanes, rows, one + end), read(lanes, rows, two + end)
        write(steps, position + np.uint64(whole), _steps(light, lanes, a, nearer, b, farther))


@drawing_helper
def _look_up(steps, table, y, out):  # type: ignore[no-untyped-def]
    """Write the bytes of a row, of which `steps` (3, W + 8) say where they stand in `table` (N,)."""
    pixels, positions = out.reshape(out.size), steps.reshape(steps.size)
    viewport, first = np.uint64(steps.shape[1]), np.uint64(y * out.shape[1])
    for x in range(np.uint64(out.shape[1])):
        red, green = np.uint32(table[positions[x]]), np.uint32(table[positions[viewport + x]]) << GREEN
        pixels[first + x] = red | green | (np.uint32(table[positions[U2 * viewport + x]]) << BLUE) | OPAQUE


@drawing_helper
def _bloom_rows(bloom, smaller_, share, first, count, mixed, out):  # type: ignore[no-untyped-def]
    """Write `count` rows of bloom (3, h, w) into `out` (3, count, w + SPARE), as rows to be doubled.

    A share of what is half as large, widened, is added.
    """
    height, width, lanes = bloom.shape[1], bloom.shape[2], spread8(ONE)
    for row in range(count):
        mix_rows(smaller_, first + row, share, mixed)
        for channel in range(3):
            at, half = (channel * height + first + row) * width, channel * mixed.shape[1]
            position = (channel * out.shape[1] + row) * out.shape[2] + 1
            for x in range(0, width - 7, 8):
                wider = doubled(read(lanes, mixed, np.uint64(half + (x >> 1))))
                write(out, np.uint64(position + x), read(lanes, bloom, np.uint64(at + x)) + wider)
            for x in range(width & ~7, width):
                out[channel, row, 1 + x] = bloom[channel, first + row, x] + doubled_at(mixed, channel, x)
            repeat_ends(out[channel, row], width)


@drawing_kernel
def finish(picture, levels, floor, share, strength, exposure, table, out):  # type: ignore[no-untyped-def]
    """Add bloom to light (3, H, W), and write sRGB bytes into `out` (H, W) uint32.

    `levels` of bloom are memory, (3, h, w) each: the first half as large as the picture, the others half of the one
    before. Light over `floor` goes into the first; then `share` of each is added, widened, to the one before, and
    `strength` of all to the light. `table` (N,) is that of `byte_table`, by the upper bits of exposed light.
    """
    bloom, smaller_ = levels[0], levels[1]
    (height, width), (coarse, half) = out.shape, bloom.shape[1:]
    for y in prange(smaller_.shape[1]):
        for row in range(2 * y, min(2 * y + 2, coarse)):
            for channel in range(3):
                _halve_row(picture, channel, row, bloom)
            _keep_bright(row, floor, bloom)
        for channel in range(3):
            _halve_row(bloom, channel, y, smaller_)
    for channel in prange(3):
        _spread_bloom(levels, channel, share)
    turns = fresh_turns()
    for _hand in prange(HANDS):
        block = next_turn(turns)
        while block < (height + ROWS - 1) // ROWS:
            rows = np.empty((3, ROWS // 2 + 2, half + SPARE), np.float32)
            mixed, steps = np.empty((3, half + SPARE), np.float32), np.empty((3, width + 8), np.uint32)
            first = max(block * ROWS // 2 - 1, 0)
            _bloom_rows(bloom, smaller_, share, first, min(coarse - first, ROWS // 2 + 2), mixed, rows)
            for y in range(block * ROWS, min(height, (block + 1) * ROWS)):
                near, other = pair_of_rows(y, coarse)
                _steps_of_row(picture, rows, near - first, other - first, strength, exposure, y, steps)
                _look_up(steps, table, y, out)
            block = next_turn(turns)


@drawing_kernel
def enlarge(small, rows, row_shares, columns, column_shares, out):  # type: ignore[no-untyped-def]
    """Write pixels (h, w), four bytes in a uint32 each, into `out` (H, W), each between the four it lies amid.

    `rows` (H,) and `columns` (W,) say before which row and column, the shares (in 256ths) how far towards
    the next. All four bytes are worked on at once, each in 16 bits of a number. The last comes out full.
    """
    height, width = small.shape
    for y in prange(out.shape[0]):
        near, share = rows[y], np.uint64(row_shares[y])
        other = min(near + U1, np.uint64(height - 1))
        mixed = np.empty(width + 1, np.uint64)
        for x in range(width):
            a, b = np.uint64(small[near, x]), np.uint64(small[other, x])
            a = (a & EVEN) | (((a >> U8) & EVEN) << U32)
            b = (b & EVEN) | (((b >> U8) & EVEN) << U32)
            mixed[x] = ((a * (U256 - share) + b * share + ROUND) >> U8) & BYTES
        mixed[width] = mixed[width - 1]
        for x in range(out.shape[1]):
            at, part = columns[x], np.uint64(column_shares[x])
            pixel = ((mixed[at] * (U256 - part) + mixed[at + U1] * part + ROUND) >> U8) & BYTES
            out[y, x] = np.uint32((pixel & LOW) | (pixel >> U24) | FULL)
