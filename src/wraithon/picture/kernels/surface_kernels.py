"""Kernels that change what is solid in a finished opaque pass: marks on the ground, and lights on everything.

Where a pixel is in the world follows from how far what it shows is; nothing else of the opaque pass is needed.
"""

from __future__ import annotations

import math

import numpy as np
from numba import prange

from wraithon.compiled import drawing_helper, drawing_kernel

__all__ = ["MARK", "SHINE", "add_lights", "lay_marks"]

ZERO, ONE, HALF = np.float32(0), np.float32(1), np.float32(0.5)
MARK = 9
"""Numbers of a mark: x, z, 1 / half its side, cosine and sine of its turn, and red, green, blue, opacity."""
SHINE = 7
"""Numbers of a light: x, y, z, how far it reaches, and red, green, blue."""
ROWS = 8
FLAT, FLATTER = np.float32(0.004), np.float32(0.001)
"""Metres from the ground within which a pixel shows it, and as many more for each metre ahead."""
TINY, TINIEST = np.float32(1e-9), np.float32(1e-18)
TEXEL = np.float32(1 / 65535)
MEAN, LEAST_COLOUR, MOST_COLOUR = np.float32(0.8), np.float32(0.05), np.float32(0.8)
"""How bright a white surface is in the usual light, and what a surface throws back at least and at most."""
WRAP = np.float32(0.25)
"""How much light comes round to what faces at right angles to it."""
U16, LOW = np.uint32(16), np.uint32(0xFFFF)


@drawing_helper
def _texel(planes, first, side, u, v):  # type: ignore[no-untyped-def]
    """Return premultiplied red, green, blue and opacity of a texture's level at u and v, -1 to 1 each."""
    half = np.float32(side) * HALF
    x = min(max((u + ONE) * half - HALF, ZERO), np.float32(side - 1))
    y = min(max((v + ONE) * half - HALF, ZERO), np.float32(side - 1))
    column, row = min(int(x), side - 2), min(int(y), side - 2)
    x, y = x - np.float32(column), y - np.float32(row)
    at, many = first + row * side + column, len(planes) // 4
    red = green = blue = cover = ZERO
    for channel in range(4):
        upper, lower = planes[channel * many + at], planes[channel * many + at + side]
        a, b = np.float32(upper & LOW), np.float32(lower & LOW)
        top, low = a + x * (np.float32(upper >> U16) - a), b + x * (np.float32(lower >> U16) - b)
        found = (top + y * (low - top)) * TEXEL
        if channel == 0:
            red = found
        elif channel == 1:
            green = found
        elif channel == 2:
            blue = found
        else:
            cover = found
    return red, green, blue, cover


@drawing_helper
def _mark_row(picture, depth, y, eye, basis, focal, marks, k, spans, picks, additive, planes):  # type: ignore[no-untyped-def]
    """Lay a row of one mark."""
    high, wide = depth.shape
    up = (np.float32(high) * HALF - np.float32(y) - HALF) / focal
    for x in range(spans[k, 0], spans[k, 1]):
        inverse = depth[y, x]
        if inverse <= ZERO:
            continue
        ahead, right = ONE / inverse, (np.float32(x) + HALF - np.float32(wide) * HALF) / focal
        height = eye[1] + ahead * (basis[2, 1] + right * basis[0, 1] + up * basis[1, 1])
        if abs(height) > FLAT + FLATTER * ahead:
            continue
        dx = eye[0] + ahead * (basis[2, 0] + right * basis[0, 0] + up * basis[1, 0]) - marks[k, 0]
        dz = eye[2] + ahead * (basis[2, 2] + right * basis[0, 2] + up * basis[1, 2]) - marks[k, 1]
        u = (marks[k, 3] * dx - marks[k, 4] * dz) * marks[k, 2]
        v = (marks[k, 4] * dx + marks[k, 3] * dz) * marks[k, 2]
        if not (abs(u) < ONE and abs(v) < ONE):
            continue
        red, green, blue, cover = _texel(planes, picks[k, 0], picks[k, 1], u, v)
        kept = ONE if additive else ONE - cover * marks[k, 8]
        picture[0, y, x] = picture[0, y, x] * kept + red * marks[k, 5] * marks[k, 8]
        picture[1, y, x] = picture[1, y, x] * kept + green * marks[k, 6] * marks[k, 8]
        picture[2, y, x] = picture[2, y, x] * kept + blue * marks[k, 7] * marks[k, 8]


@drawing_kernel
def lay_marks(picture, depth, eye, basis, focal, marks, spans, picks, additive, planes):  # type: ignore[no-untyped-def]
    """Lay marks over the ground where the picture (3, H, W) shows it, one after another.

    `depth` (H, W) is the inverse distance of what is solid; `marks` (N, MARK) lie on the plane y = 0 within the
    columns and rows `spans` (N, 4: first, end, first, end); `picks` (N, 2) are first texel and side of the level of
    each one's texture in `planes` (4 M,).
    """
    high = depth.shape[0]
    for block in prange((high + ROWS - 1) // ROWS):
        for y in range(block * ROWS, min(high, (block + 1) * ROWS)):
            for k in range(len(marks)):
                if spans[k, 2] <= y < spans[k, 3]:
                    _mark_row(picture, depth, y, eye, basis, focal, marks, k, spans, picks, additive, planes)


@drawing_helper
def _slope(depth, y, x, down, across):  # type: ignore[no-untyped-def]
    """Return which way to a neighbour that is likelier on the same surface, and its inverse distance."""
    high, wide = depth.shape
    here = depth[y, x]
    y0, x0, y1, x1 = max(y - down, 0), max(x - across, 0), min(y + down, high - 1), min(x + across, wide - 1)
    before, after = depth[y0, x0], depth[y1, x1]
    if (y0 == y and x0 == x) or (abs(after - here) < abs(before - here) and not (y1 == y and x1 == x)):
        return ONE, after
    return -ONE, before


@drawing_helper
def _light_row(picture, depth, y, eye, basis, focal, lights, spans, listed, count):  # type: ignore[no-untyped-def]
    """Add what the `listed` lights do to a row."""
    high, wide = depth.shape
    first, end = wide, 0
    for n in range(count):
        first, end = min(first, spans[listed[n], 0]), max(end, spans[listed[n], 1])
    up = (np.float32(high) * HALF - np.float32(y) - HALF) / focal
    for x in range(first, end):
        if depth[y, x] <= ZERO:
            continue
        ahead, right = ONE / depth[y, x], (np.float32(x) + HALF - np.float32(wide) * HALF) / focal
        px = ahead * (basis[2, 0] + right * basis[0, 0] + up * basis[1, 0])
        py = ahead * (basis[2, 1] + right * basis[0, 1] + up * basis[1, 1])
        pz = ahead * (basis[2, 2] + right * basis[0, 2] + up * basis[1, 2])
        nx = ny = nz = length = ZERO
        red = green = blue = ZERO
        for n in range(count):
            k = listed[n]
            if not spans[k, 0] <= x < spans[k, 1]:
                continue
            lx, ly, lz = lights[k, 0] - eye[0] - px, lights[k, 1] - eye[1] - py, lights[k, 2] - eye[2] - pz
            away = math.sqrt(lx * lx + ly * ly + lz * lz)
            share = ONE - (away / lights[k, 3]) * (away / lights[k, 3])
            if not share > ZERO:
                continue
            if length == ZERO:  # only now is it worth knowing which way the surface faces
                way_x, beside = _slope(depth, y, x, 0, 1)
                way_y, below = _slope(depth, y, x, 1, 0)
                one, two = ONE / max(beside, TINY), ONE / max(below, TINY)
                r, d = right + way_x / focal, up - way_y / focal
                ax = one * (basis[2, 0] + r * basis[0, 0] + up * basis[1, 0]) - px
                ay = one * (basis[2, 1] + r * basis[0, 1] + up * basis[1, 1]) - py
                az = one * (basis[2, 2] + r * basis[0, 2] + up * basis[1, 2]) - pz
                bx = two * (basis[2, 0] + right * basis[0, 0] + d * basis[1, 0]) - px
                by = two * (basis[2, 1] + right * basis[0, 1] + d * basis[1, 1]) - py
                bz = two * (basis[2, 2] + right * basis[0, 2] + d * basis[1, 2]) - pz
                nx, ny, nz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
                length = TINIEST + np.float32(math.sqrt(nx * nx + ny * ny + nz * nz))
                if nx * px + ny * py + nz * pz > ZERO:
                    length = -length
            facing = (nx * lx + ny * ly + nz * lz) / (length * (away + TINY)) + WRAP
            strength = share * share * (max(ZERO, facing)) / (ONE + WRAP)
            red += strength * lights[k, 4]
            green += strength * lights[k, 5]
            blue += strength * lights[k, 6]
        if length != ZERO:
            picture[0, y, x] += red * min(max(picture[0, y, x] / MEAN, LEAST_COLOUR), MOST_COLOUR)
            picture[1, y, x] += green * min(max(picture[1, y, x] / MEAN, LEAST_COLOUR), MOST_COLOUR)
            picture[2, y, x] += blue * min(max(picture[2, y, x] / MEAN, LEAST_COLOUR), MOST_COLOUR)


@drawing_kernel
def add_lights(picture, depth, eye, basis, focal, lights, spans):  # type: ignore[no-untyped-def]
    """Add what lights (N, SHINE) do to all that is solid in the picture (3, H, W).

    `depth` (H, W) is its inverse distance; each light shows within the columns and rows `spans` (N, 4: first, end,
    first, end). It fades to nothing at its reach, by (1 - r²)² for a distance of r reaches, and falls on surfaces by
    how they face it. What colour a surface has is guessed from how it looks in the light there is.
    """
    high = depth.shape[0]
    for block in prange((high + ROWS - 1) // ROWS):
        listed = np.empty(len(lights), np.int32)
        for y in range(block * ROWS, min(high, (block + 1) * ROWS)):
            count = 0
            for k in range(len(lights)):
                if spans[k, 2] <= y < spans[k, 3]:
                    listed[count] = k
                    count += 1
            if count:
                _light_row(picture, depth, y, eye, basis, focal, lights, spans, listed, count)
