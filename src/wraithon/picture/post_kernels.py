"""Kernels that finish a picture: bloom, tone map, sRGB."""

from __future__ import annotations

import math

import numpy as np
from numba import prange

from wraithon.compiled import drawing_kernel, inlined
from wraithon.picture.doubling import double_row, pair_of_rows

__all__ = ["SRGB_STEPS", "enlarge", "finish", "halve", "srgb_table", "widen"]

ZERO, ONE, HALF, QUARTER = np.float32(0), np.float32(1), np.float32(0.5), np.float32(0.25)
THREE_QUARTERS = np.float32(0.75)
SRGB_STEPS = 4096
U1, U8, U24, U32, U256 = np.uint64(1), np.uint64(8), np.uint64(24), np.uint64(32), np.uint64(256)
EVEN, LOW, FULL = np.uint64(0x00FF00FF), np.uint64(0xFFFFFFFF), np.uint64(0xFF000000)
BYTES, ROUND = np.uint64(0x00FF00FF00FF00FF), np.uint64(0x0080008000800080)


def srgb_table() -> np.ndarray:
    """Return sRGB bytes (SRGB_STEPS,) of evenly spaced square roots of linear light (IEC 61966-2-1)."""
    linear = (np.arange(SRGB_STEPS) / (SRGB_STEPS - 1)) ** 2
    curve = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
    return (curve * 255 + 0.5).astype(np.uint8)


@drawing_kernel
def halve(source, out, floor):  # type: ignore[no-untyped-def]
    """Write the average of two by two pixels; light under `floor` fades out (bloom's soft knee)."""
    high, wide = out.shape[0], out.shape[1]
    tall, broad = source.shape[0], source.shape[1]
    for y in prange(high):
        y0, y1 = min(2 * y, tall - 1), min(2 * y + 1, tall - 1)
        for x in range(wide):
            x0, x1 = min(2 * x, broad - 1), min(2 * x + 1, broad - 1)
            r = (source[y0, x0, 0] + source[y0, x1, 0] + source[y1, x0, 0] + source[y1, x1, 0]) * QUARTER
            g = (source[y0, x0, 1] + source[y0, x1, 1] + source[y1, x0, 1] + source[y1, x1, 1]) * QUARTER
            b = (source[y0, x0, 2] + source[y0, x1, 2] + source[y1, x0, 2] + source[y1, x1, 2]) * QUARTER
            if floor > ZERO:
                bright = max(r, max(g, b))
                keep = max(ZERO, bright - floor) / max(bright, np.float32(1e-6))
                # One very bright pixel must not flicker over the whole picture (Karis 2013).
                keep /= ONE + bright * np.float32(0.06)
                r, g, b = r * keep, g * keep, b * keep
            out[y, x, 0], out[y, x, 1], out[y, x, 2] = r, g, b


@inlined
def _widened_row(small, row):  # type: ignore[no-untyped-def]
    """Spread pixels `small` (w, 3) over `row` (W, 3), where w is half of W, rounded up: each between its two."""
    broad, wide = len(small), len(row)
    for k in range(3):
        row[0, k], row[wide - 1, k] = small[0, k], small[broad - 1, k]
    for p in range(1, broad):
        for k in range(3):
            left, step = small[p - 1, k], small[p, k] - small[p - 1, k]
            row[2 * p - 1, k] = left + QUARTER * step
            row[2 * p, k] = left + THREE_QUARTERS * step


@drawing_kernel
def widen(small, out, share):  # type: ignore[no-untyped-def]
    """Add the next smaller level, widened by a tent filter, to `out` (Jimenez 2014)."""
    high, wide = out.shape[0], out.shape[1]
    tall = small.shape[0]
    for y in prange(high):
        top, low = np.empty((wide, 3), np.float32), np.empty((wide, 3), np.float32)
        fy = min(max((np.float32(y) + HALF) * HALF - HALF, ZERO), np.float32(tall - 1))
        y0 = int(fy)
        y1 = min(y0 + 1, tall - 1)
        sy = fy - np.float32(y0)
        _widened_row(small[y0], top)
        _widened_row(small[y1], low)
        for x in range(wide):
            for k in range(3):
                out[y, x, k] += share * (top[x, k] + sy * (low[x, k] - top[x, k]))


@drawing_kernel
def finish(picture, bloom, strength, exposure, table, out):  # type: ignore[no-untyped-def]
    """Add bloom, expose, tone map and write sRGB bytes (H, W, 4).

    `picture` is (H, 3 W) and `bloom` (ceil(H / 2), 3 ceil(W / 2)), so that the long loops run over
    plain rows. The tone curve is Narkowicz 2015, "ACES filmic tone mapping curve".
    """
    height, length = picture.shape
    tall, short = bloom.shape
    top_step = np.float32(SRGB_STEPS - 1)
    for y in prange(height):
        wide, row = np.empty(short, np.float32), np.empty(length, np.float32)
        steps = np.empty(length, np.int32)
        near, other = pair_of_rows(y, tall)
        for i in range(short):
            wide[i] = (bloom[near, i] * THREE_QUARTERS + bloom[other, i] * QUARTER) * strength
        double_row(wide, row)
        for i in range(length):
            light = (picture[y, i] + row[i]) * exposure
            # Written so that a NaN turns black instead of indexing anywhere.
            light = min(light, np.float32(6e4)) if light > ZERO else ZERO
            mapped = (light * (np.float32(2.51) * light + np.float32(0.03))) / (
                light * (np.float32(2.43) * light + np.float32(0.59)) + np.float32(0.14)
            )
            steps[i] = np.int32(math.sqrt(min(mapped, ONE)) * top_step + HALF)
        for x in range(length // 3):
            out[y, x, 0] = table[steps[3 * x]]
            out[y, x, 1] = table[steps[3 * x + 1]]
            out[y, x, 2] = table[steps[3 * x + 2]]
            out[y, x, 3] = 255


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
