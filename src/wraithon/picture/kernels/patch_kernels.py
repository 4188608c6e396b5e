"""Kernels of films' patches: made twice as large, and bending what is behind them (see `veil_kernels`)."""

from __future__ import annotations

import numpy as np

from wraithon.numeric.compiled import drawing_helper, drawing_kernel, prange
from wraithon.numeric.vector_memory import fetch_floats, read, write
from wraithon.numeric.vectors import (
    alike_whole,
    any_of,
    chosen,
    fused,
    greater,
    larger,
    lowered,
    numbered,
    smaller,
    spread8,
    whole,
)
from wraithon.picture.kernels.doubling_kernels import SPARE, doubled

ZERO, QUARTER, CLOSE = np.float32(0), np.float32(0.25), np.float32(0.75)
ROWS = 8
"""Rows of a patch that a thread doubles at a time."""
K0, K1, K3, K4, K5, K8 = (np.uint64(k) for k in (0, 1, 3, 4, 5, 8))


@drawing_helper
def _write_doubled(mixed, first, out, to, pitch):  # type: ignore[no-untyped-def]
    """Write what is mixed from a flat place on, twice as wide, into `out` from another one on."""
    like = spread8(ZERO)
    for x in range(0, pitch, 8):
        write(out, to + np.uint64(x), doubled(read(like, mixed, first + np.uint64(x >> 1))))


@drawing_kernel
def double_patch(source, out):  # type: ignore[no-untyped-def]
    """Write a patch (planes, h, pitch) at twice its height and width into `out` (planes, 2 * h, pitch'), smoothly.

    Both pitches are multiples of eight, and the second is at most twice the first. Beyond the patch there is nothing.
    Of each pixel three quarters come from the one it lies in, one from the next.
    """
    planes, height, width = source.shape
    pitch = out.shape[2]
    for block in prange((height + ROWS - 1) // ROWS):
        # Two rows between a row and its neighbours, with nothing at their ends.
        mixed, second = np.zeros((2, width + SPARE), np.float32), np.uint64(width + SPARE)
        for row in range(block * ROWS, min(height, (block + 1) * ROWS)):
            before, after = max(row - 1, 0), min(row + 1, height - 1)
            close, less = spread8(CLOSE), spread8(QUARTER if row > 0 else ZERO)
            more = spread8(QUARTER if row < height - 1 else ZERO)
            for plane in range(planes):
                here = np.uint64((plane * height + row) * width)
                above, below = (
                    np.uint64((plane * height + before) * width),
                    np.uint64((plane * height + after) * width),
                )
                for x in range(0, width, 8):
                    at = np.uint64(x)
                    maximum = read(close, source, here + at) * close
                    write(mixed, at + K1, fused(read(close, source, above + at), less, maximum))
                    write(mixed, at + K1 + second, fused(read(close, source, below + at), more, maximum))
                to = np.uint64((plane * 2 * height + 2 * row) * pitch)
                _write_doubled(mixed, K0, out, to, pitch)
                _write_doubled(mixed, second, out, to + np.uint64(pitch), pitch)


@drawing_helper
def _bend_eight(by_x, by_y, x, y, source, picture, at):  # type: ignore[no-untyped-def]
    """Bend eight pixels at a flat place; they would come from column `x` on and row `y` of the source unbent."""
    tall, broad = source.shape[1], source.shape[2]
    bent = greater(by_x * by_x + by_y * by_y, spread8(ZERO))
    sx = larger(smaller(by_x + (numbered(by_x) + spread8(x)), spread8(np.float32(broad - 1))), spread8(ZERO))
    sy = larger(smaller(by_y + spread8(y), spread8(np.float32(tall - 1))), spread8(ZERO))
    fx = lowered(smaller(sx, spread8(np.float32(broad - 2))))
    fy = lowered(smaller(sy, spread8(np.float32(tall - 2))))
    across, down, right = sx - fx, sy - fy, alike_whole(by_x, np.int32(1))
    below, plane = alike_whole(by_x, np.int32(broad)), alike_whole(by_x, np.int32(tall * broad))
    spot = whole(fy) * below + whole(fx)
    for channel in range(K3):
        to = at + channel * np.uint64(picture.shape[1] * picture.shape[2])
        a, b = fetch_floats(source, spot), fetch_floats(source, spot + right)
        c, d = fetch_floats(source, spot + below), fetch_floats(source, spot + below + right)
        upper, lower = fused(across, b - a, a), fused(across, d - c, c)
        write(picture, to, chosen(bent, fused(down, lower - upper, upper), read(by_x, picture, to)))
        spot = spot + plane


@drawing_kernel
def bend_picture(source, corner, patch, box, step, picture):  # type: ignore[no-untyped-def]
    """Bend the picture (3, H, W), at least eight wide, where a veil's `patch` says so, `step` times coarser.

    `source` (3, h, w), two wide and high at least, receives how it was, from column and row `corner` (2,) on.
    """
    tall, broad = source.shape[1], np.uint64(source.shape[2])
    for y in prange(tall):
        for channel in range(3):
            for x in range(broad):
                source[channel, y, x] = picture[channel, corner[1] + y, np.uint64(corner[0]) + x]
    height, width = picture.shape[1], picture.shape[2]
    top, left = box[1] * step, box[0] * step
    many = max(min(box[2] * step, width) - left, 0)
    for y in prange(min(box[3] * step, height) - top):
        row, scale, zero = np.uint64(y // step), np.float32(step), spread8(ZERO)
        by, long = np.zeros((2, many + 16), np.float32), np.uint64(many + 16)
        for x in range(np.uint64(many)):
            at = np.uint64(int(x) // step)
            by[K0, x + K8], by[K1, x + K8] = patch[K4, row, at] * scale, patch[K5, row, at] * scale
        for k in range(0, many, 8):
            # The last ones of a row begin further left: what is bent twice is the same both times.
            x = min(k, width - 8 - left)
            by_x, by_y = read(zero, by, np.uint64(x + 8)), read(zero, by, np.uint64(x + 8) + long)
            if any_of(greater(by_x * by_x + by_y * by_y, zero)):
                _bend_eight(
                    by_x, by_y, np.float32(left + x - corner[0]), np.float32(top + y - corner[1]), source, picture,
                    np.uint64((top + y) * width + left + x),
                )  # fmt: skip
