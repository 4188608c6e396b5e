"""The kernel that draws what is solid, and colours it."""

from __future__ import annotations

import numpy as np

from wraithon.numeric.compiled import drawing_helper, drawing_kernel, prange
from wraithon.numeric.vector_memory import read, write
from wraithon.numeric.vectors import (
    any_of,
    chosen,
    evens,
    fused,
    greater,
    larger,
    odds,
    smaller,
    spread8,
)
from wraithon.numeric.work_queue import HANDS, fresh_turns, next_turn
from wraithon.picture.kernels.bump_kernels import slope
from wraithon.picture.kernels.doubling_kernels import SPARE, mix_rows, write_doubled
from wraithon.picture.kernels.ground_kernels import HORIZON, ray_up
from wraithon.picture.kernels.light_kernels import SQUARINGS, light_detailed, light_plain
from wraithon.picture.kernels.raster_kernels import BAND, dissolve_noise, raster_band

ZERO, ONE, HALF, QUARTER = np.float32(0), np.float32(1), np.float32(0.5), np.float32(0.25)
TINY = np.float32(1e-12)
FIGURE = np.float32(0.55)
ADDING = False
COLOUR, HIGHLIGHT, EMISSION, TEXELS, TWO_SIDED, SIZES, MATERIAL_COLUMNS = 0, 3, 4, 7, 8, 9, 10
"""Columns of materials: linear colour, squarings of the highlight, emission, texels a metre, two-sided, levels."""
MATERIAL = np.uint64(MATERIAL_COLUMNS)
ROW_NUMBERS = 33
"""Floats that are kept of a sample while its row is coloured."""
K0, K1, K2, K3, K4, K5 = (np.uint64(k) for k in range(6))
K8, K9 = np.uint64(8), np.uint64(9)


@drawing_helper
def _mix_samples(  # type: ignore[no-untyped-def]
    count, samples, marks, stride, screen, triangles, vertices, positions, parts, materials, ramp, eaten, dissolving,
    detailed, mixed, tables, weights, slopes,
):  # fmt: skip
    """Write what the skin has at each sample into `mixed` (n, 8), and its material into `tables` (n, 8).

    `samples` (n, 4) are x, y, inverse distance (written here), and whether the skin may be seen from behind
    (written here); `marks` (4, n) triangle, and (written here) the first number of its material's levels, each of
    `stride` numbers, and how many there are. Where the dissolve has `eaten` of it, `weights` (n, 2) receive the
    shares of the second and third corner, in perspective. Where the skin is `detailed`, `slopes` (n, 4) receive
    which way u grows, and whether v grows to the left of that (-1) or the right (1) as seen from outside.
    """
    zero, before = spread8(ZERO), -1
    ax, ay, bx, by, qx, qy, aw, bw, cw, scale, both = (
        ZERO, ZERO, ZERO, ZERO, ZERO, ZERO, ZERO, ZERO, ZERO, ZERO, ZERO
    )  # fmt: skip
    level, maximum = np.int32(0), np.int32(0)
    skin_a, skin_b, skin_c, table = zero, zero, zero, zero
    ux, uy, uz, hand = ONE, ZERO, ZERO, ONE
    for i in range(np.uint64(count)):
        # Neighbours mostly show the same triangle.
        if marks[K0, i] != before:
            before = marks[K0, i]
            t = np.uint64(before)
            a, b, c = np.uint64(triangles[t, K0]), np.uint64(triangles[t, K1]), np.uint64(triangles[t, K2])
            skin_a, skin_b, skin_c = (
                read(zero, vertices, a * K8),
                read(zero, vertices, b * K8),
                read(zero, vertices, c * K8),
            )
            ax, ay, aw, bw, cw = screen[a, K0], screen[a, K1], screen[a, K2], screen[b, K2], screen[c, K2]
            bx, by = screen[b, K0] - ax, screen[b, K1] - ay
            qx, qy = screen[c, K0] - ax, screen[c, K1] - ay
            scale = ONE / (bx * qy - qx * by)
            material = np.uint64(parts[t])
            table, both = read(zero, materials, material * MATERIAL), materials[material, TWO_SIDED]
            level, maximum = np.int32(parts[t] * stride), np.int32(materials[material, SIZES])
            if eaten and dissolving[t] > 0:
                both = ONE
            if detailed:
                ux, uy, uz, hand = slope(positions, vertices, a, b, c)
        px, py = samples[i, K0] - ax, samples[i, K1] - ay
        share_b, share_c = (px * qy - py * qx) * scale, (py * bx - px * by) * scale
        wa, wb, wc = (ONE - share_b - share_c) * aw, share_b * bw, share_c * cw
        near = wa + wb + wc
        total = ONE / near
        wb, wc = wb * total, wc * total
        skin = fused(spread8(wb), skin_b, spread8(wa * total) * skin_a)
        write(mixed, i * K8, fused(spread8(wc), skin_c, skin))
        write(tables, i * K8, table)
        samples[i, K2], samples[i, K3], marks[K1, i], marks[K2, i] = near, both, level, maximum
        if eaten:
            weights[i, K0], weights[i, K1] = wb, wc
        if detailed:
            slopes[i, K0], slopes[i, K1], slopes[i, K2], slopes[i, K3] = ux, uy, uz, hand
        if len(ramp) > 0:
            # The first colour of the ramp is that of no figure at all.
            value = mixed[i, K5]
            step = np.uint64(0 if value < ZERO else 1 + int(min(value, ONE) * np.float32(len(ramp) - 2)))
            for channel in range(np.uint64(3)):
                tables[i, channel], tables[i, channel + K4] = ramp[step, channel] * FIGURE, ZERO


@drawing_helper
def _add_glow(count, marks, weights, triangles, rest, dissolving, border, out):  # type: ignore[no-untyped-def]
    """Add the glow of the dissolve's border."""
    for i in range(count):
        t = marks[0, i]
        if dissolving[t] > 0:
            a, b, c = np.uint64(triangles[t, 0]), np.uint64(triangles[t, 1]), np.uint64(triangles[t, 2])
            noise = dissolve_noise(rest, a, b, c, weights[i, 0], weights[i, 1], border[1])
            shine = max(ZERO, ONE - max((noise - border[0]) / max(border[2], TINY), ZERO))
            for channel in range(3):
                out[channel, i] += border[3 + channel] * shine * shine


@drawing_helper
def _copy_rows(around, y, skip, out):  # type: ignore[no-untyped-def]
    """Write a row of the picture (3, H, W) from surroundings (3, h, w) that are `skip` (1 or 2) times as coarse."""
    if skip == 1:
        for channel in range(3):
            out[channel, y] = around[channel, y]
        return
    mixed = np.empty((3, around.shape[2] + SPARE), np.float32)
    mix_rows(around, y, ONE, mixed)
    write_doubled(mixed, y, ADDING, out)


@drawing_helper
def _look_at_samples(y, first, end, depth, nears, agreed):  # type: ignore[no-untyped-def]
    """Write the nearest inverse distance of pixels' samples, and 1 where all show one surface, from `first` on."""
    zero, one, line = spread8(ZERO), spread8(ONE), depth.shape[1]
    for x in range(0, end - first, 8):
        upper = np.uint64(2 * y * line + 2 * (first + x))
        lower = upper + np.uint64(line)
        a, b = read(zero, depth, upper), read(zero, depth, upper + K8)
        c, d = read(zero, depth, lower), read(zero, depth, lower + K8)
        d0, d1, d2, d3 = evens(a, b), odds(a, b), evens(c, d), odds(c, d)
        near, minimum = larger(larger(d0, d1), larger(d2, d3)), smaller(smaller(d0, d1), smaller(d2, d3))
        agree = greater(minimum, zero) & greater(near * spread8(np.float32(0.01)), near - minimum)
        write(nears, np.uint64(x), near)
        write(agreed, np.uint64(x), chosen(agree, one, zero))


@drawing_helper
def _list_samples(y, first, end, nears, agreed, depth, ids, samples, marks, shares, out_depth):  # type: ignore[no-untyped-def]
    """List what has to be coloured of a row's pixels from `first` on; return how much.

    `shares` (n, 2) are how much of what is there is kept, and what is added to it. `out_depth` receives the
    inverse distance.
    """
    count, top, zero, many = np.uint64(0), np.uint64(2 * y), spread8(ZERO), np.uint64(end - first)
    for group in range(K0, many, K8):
        if not any_of(greater(read(zero, nears, group), zero)):
            continue
        for k in range(group, min(group + K8, many)):
            near = nears[k]
            if near == ZERO:
                continue
            x = np.uint64(first) + k
            left = x + x
            out_depth[np.uint64(y), x] = near
            if agreed[k] > ZERO:
                samples[count, K0], samples[count, K1] = np.float32(left) + HALF, np.float32(top) + HALF
                marks[K0, count], marks[K3, count] = ids[top, left], x
                shares[count, K0], shares[count, K1] = ZERO, ONE
                count += K1
                continue
            begun, opened = count, ZERO
            for corner in range(K4):
                row, column = top + (corner >> K1), left + (corner & K1)
                if depth[row, column] == ZERO:
                    opened += QUARTER
                    continue
                samples[count, K0], samples[count, K1] = np.float32(column) + HALF, np.float32(row) + HALF
                marks[K0, count], marks[K3, count] = ids[row, column], x
                shares[count, K0], shares[count, K1] = ONE, QUARTER
                count += K1
            shares[begun, K0] = opened
    return int(count)


@drawing_helper
def _write_row(y, count, marks, shares, found, out):  # type: ignore[no-untyped-def]
    """Put light (3, n) found for samples where they belong in row `y` of the picture (3, H, W)."""
    k, lanes, line = 0, spread8(ZERO), out.shape[2]
    plane, viewport = np.uint64(out.shape[1] * line), np.uint64(found.shape[1])
    while k < count:
        x, end = marks[3, k], k
        # Neighbours that are all of their pixels' light go together.
        while end < count and marks[3, end] == x + end - k and shares[end, 1] == ONE:
            end += 1
        whole = (end - k) & ~7
        to, start = np.uint64(y * line + x), np.uint64(k)
        for turn in range(K0, np.uint64(whole), K8):
            for channel in range(K3):
                light = read(lanes, found, start + turn + channel * viewport)
                write(out, to + turn + channel * plane, light)
        for one in range(k + whole, max(end, k + 1)):
            at, share, added = np.uint64(marks[3, one]), shares[one, 0], shares[one, 1]
            for channel in range(3):
                out[channel, y, at] = out[channel, y, at] * share + found[channel, one] * added
        k = max(end, k + 1)


@drawing_helper
def _shade_row(  # type: ignore[no-untyped-def]
    y, screen, triangles, vertices, positions, parts, materials, levels, texels, details, ramp, rest, dissolving,
    border, lens, light, depth, ids, extents, numbers, marks, maximum, out, out_depth,
):  # fmt: skip
    """Colour a row of pixels where the character is; `numbers` and `marks` are working memory."""
    first, end = extents[2 * y // BAND, 0] // 2, (extents[2 * y // BAND, 1] + 2) // 2
    if first >= end:
        return
    viewport = numbers.shape[1] // ROW_NUMBERS
    samples, shares, weights = (
        numbers[0, : 4 * viewport].reshape((viewport, 4)),
        numbers[0, 4 * viewport : 6 * viewport].reshape((viewport, 2)),
        numbers[0, 6 * viewport : 8 * viewport].reshape((viewport, 2)),
    )
    mixed, tables = (
        numbers[0, 8 * viewport : 16 * viewport].reshape((viewport, 8)),
        numbers[0, 16 * viewport : 24 * viewport].reshape((viewport, 8)),
    )
    found = numbers[0, 24 * viewport : 27 * viewport].reshape((3, viewport))
    nears, agreed = numbers[0, 27 * viewport : 28 * viewport], numbers[0, 28 * viewport : 29 * viewport]
    slopes, figures = numbers[0, 29 * viewport :].reshape((viewport, 4)), len(ramp) > 0
    _look_at_samples(y, first, end, depth, nears, agreed)
    count = _list_samples(y, first, end, nears, agreed, depth, ids, samples, marks, shares, out_depth)
    if count == 0:
        return
    # Eight at a time: the last are done again to fill up.
    full = (count + 7) & ~7
    for k in range(count, full):
        samples[k, 0], samples[k, 1], marks[0, k] = samples[count - 1, 0], samples[count - 1, 1], marks[0, count - 1]
    _mix_samples(
        full, samples, marks, 4 * levels.shape[1], screen, triangles, vertices, positions, parts, materials, ramp,
        border[0] > ZERO, dissolving, len(details) > 1 and not figures, mixed, tables, weights, slopes,
    )  # fmt: skip
    if len(details) > 1 and not figures:
        light_detailed(
            full, samples, marks, mixed, tables, slopes, levels, texels, details, figures, SQUARINGS, lens, light,
            found,
        )  # fmt: skip
    else:
        light_plain(
            full, samples, marks, mixed, tables, slopes, levels, texels, details, figures, maximum, lens, light, found
        )
    if border[0] > ZERO:
        _add_glow(count, marks, weights, triangles, rest, dissolving, border, found)
    _write_row(y, count, marks, shares, found, out)


@drawing_helper
def _lens(basis, pixel, height, width):  # type: ignore[no-untyped-def]
    """Return rays as `_light_samples` takes them, for samples twice as fine as pixels."""
    lens = np.empty(10, np.float32)
    for axis in range(3):
        lens[3 + axis], lens[6 + axis] = basis[0, axis] * pixel * HALF, -basis[1, axis] * pixel * HALF
        corner = np.float32(height) * basis[1, axis] - np.float32(width) * basis[0, axis]
        lens[axis] = basis[2, axis] + corner * pixel * HALF
    lens[9] = pixel
    return lens


@drawing_kernel
def draw_bands(  # type: ignore[no-untyped-def]
    order, counts, lists, columns, screen, triangles, vertices, positions, parts, materials, levels, texels, details,
    ramp, rest, dissolving, border, around, skip, eye, basis, light, focal, depth, ids, extents, out, out_depth,
):  # fmt: skip
    """Draw bands of rows: linear RGB into `out` (3, H, W), inverse distance into `out_depth` (H, W).

    First what is `around` (3, h, w), `skip` (1 or 2) times as coarse, then the character: which triangle each
    sample shows (see `raster_band`), and its colour, while a band is at hand. `vertices` (V, VERTEX_COLUMNS)
    are normals, UVs and figures, `positions` (V, 3) where they are; `details` (N, 4) of the materials have one row
    where there are none; `ramp` (R, 3) colours by figures, or is empty. `border` (6,) is the dissolve's: share gone,
    blotches a metre, width, and linear colour of its glow.
    """
    height, width = out_depth.shape
    pixel, maximum = ONE / focal, 0
    for row in range(len(materials)):
        maximum = max(maximum, int(materials[row, HIGHLIGHT]))
    turns = fresh_turns()
    for _hand in prange(HANDS):
        turn = next_turn(turns)
        while turn < len(order):
            band, lens = order[turn], _lens(basis, pixel, height, width)
            viewport = 4 * width + 16
            numbers, marks = np.empty((1, ROW_NUMBERS * viewport), np.float32), np.empty((4, viewport), np.int32)
            raster_band(
                band, screen, triangles, counts, lists, columns, rest, dissolving, border[0], border[1], 2 * width,
                depth, ids, extents,
            )  # fmt: skip
            for y in range(band * BAND // 2, min(height, (band + 1) * BAND // 2)):
                _, up = ray_up(np.float32(y), height, pixel, basis)
                _copy_rows(around, y, skip, out)
                out_depth[y] = up / -eye[1] if up < HORIZON else ZERO
                _shade_row(
                    y, screen, triangles, vertices, positions, parts, materials, levels, texels, details, ramp, rest,
                    dissolving, border, lens, light, depth, ids, extents, numbers, marks, maximum, out, out_depth,
                )  # fmt: skip
            turn = next_turn(turns)
