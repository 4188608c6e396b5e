"""Kernels of the opaque pass: project, bin into bands of rows, and find what each sample shows.

The picture is sampled SAMPLES x SAMPLES times a pixel for visibility only; shading happens once where
all samples of a pixel agree. A band belongs to one thread, and its triangles come in a fixed order.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from wraithon.numeric.compiled import BLOCK, drawing_helper, drawing_kernel, inlined, kernel, parallel_kernel, prange
from wraithon.numeric.noise import value_at
from wraithon.numeric.vector_memory import read, read_whole, write
from wraithon.numeric.vectors import alike_whole, any_of, at_least, chosen, fused, greater, numbered, smaller, spread8
from wraithon.numeric.work_queue import HANDS, fresh_turns, next_turn
from wraithon.picture.kernels.columns import V_FIGURE, V_NX, V_NY, V_NZ, V_U, V_V

SAMPLES = 2
BAND = 16
"""Sample rows in a band."""
GUARD = 16
"""Sample columns beyond the picture, which what is done eight at a time may touch."""
U0, U1, U2 = np.uint64(0), np.uint64(1), np.uint64(2)
ZERO, ONE, TWO, HALF = np.float32(0), np.float32(1), np.float32(2), np.float32(0.5)
LISTED = 8192
"""What is listed by bands by one thread at a time; of fewer, one is quicker than all."""
FEW_TRIANGLES = 128
"""Triangles whose shadow a thread draws before it goes on to others elsewhere."""
NEAR = np.float32(0.02)
BEYOND = np.float32(2e6)
"""Metres ahead after which nothing is seen: twice as far as a character may reach."""
FARTHEST = np.float32(1e7)
"""Samples from the picture's corner within which corners of triangles are."""


@lru_cache(maxsize=16)
def band_order(bands: int) -> np.ndarray:
    """Return an order of bands in which each run of neighbours is spread over the whole picture."""
    stride = max(1, int(bands * 0.618))
    while math.gcd(stride, max(bands, 1)) != 1:
        stride += 1
    return (np.arange(bands, dtype=np.int64) * stride % max(bands, 1)).astype(np.int32)


@drawing_kernel
def project_points(points, normals, uvs, heat, eye, basis, focal, cx, cy, out, vertices):  # type: ignore[no-untyped-def]
    """Write sample x, sample y and inverse distance (0 when behind) of points (N, 3) into `out` (N, 3).

    `vertices` (N, VERTEX_COLUMNS) receive what is looked up together when they are shaded: normal, UV, and figure.
    """
    count = len(points)
    for block in prange((count + BLOCK - 1) // BLOCK):
        for i in range(block * BLOCK, min(count, (block + 1) * BLOCK)):
            vertices[i, V_NX], vertices[i, V_NY], vertices[i, V_NZ] = normals[i, 0], normals[i, 1], normals[i, 2]
            vertices[i, V_U], vertices[i, V_V] = uvs[i, 0], uvs[i, 1]
            vertices[i, V_FIGURE] = heat[i] if len(heat) == count else ZERO
            vertices[i, 6], vertices[i, 7] = ZERO, ZERO
            x, y, z = points[i, 0] - eye[0], points[i, 1] - eye[1], points[i, 2] - eye[2]
            depth = x * basis[2, 0] + y * basis[2, 1] + z * basis[2, 2]
            # Turned so that what is no number counts as out of sight, too.
            if not (depth >= NEAR and depth <= BEYOND):
                out[i, 2] = ZERO
                continue
            inverse = ONE / depth
            out[i, 0] = cx + (x * basis[0, 0] + y * basis[0, 1] + z * basis[0, 2]) * inverse * focal
            out[i, 1] = cy - (x * basis[1, 0] + y * basis[1, 1] + z * basis[1, 2]) * inverse * focal
            # Beyond what a whole number of samples can hold, or nowhere at all.
            seen = abs(out[i, 0]) < FARTHEST and abs(out[i, 1]) < FARTHEST
            out[i, 2] = inverse if seen else ZERO


@drawing_kernel
def reach_triangles(screen, triangles, shown, width, height, spans, columns):  # type: ignore[no-untyped-def]
    """Write the first and last band that triangles touch into `spans` (T, 2), sample columns into `columns` (T, 2).

    `shown` (T,) uint8: 0 hidden, 1 one-sided, 2 two-sided. One that touches nothing has its last band
    before its first. Triangles that cross the near plane are left out.
    """
    count = len(triangles)
    for block in prange((count + BLOCK - 1) // BLOCK):
        for t in range(block * BLOCK, min(count, (block + 1) * BLOCK)):
            spans[t, 0], spans[t, 1] = 0, -1
            if shown[t] == 0:
                continue
            a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
            if screen[a, 2] == ZERO or screen[b, 2] == ZERO or screen[c, 2] == ZERO:
                continue
            ax, ay, bx, by = screen[a, 0], screen[a, 1], screen[b, 0], screen[b, 1]
            qx, qy = screen[c, 0], screen[c, 1]
            area = (bx - ax) * (qy - ay) - (qx - ax) * (by - ay)
            if area == ZERO or (shown[t] == 1 and area > ZERO):
                continue
            left, right = min(ax, bx, qx), max(ax, bx, qx)
            top, bottom = min(ay, by, qy), max(ay, by, qy)
            if right < ZERO or left >= width or bottom < ZERO or top >= height:
                continue
            spans[t, 0], spans[t, 1] = int(max(top, ZERO)) // BAND, int(min(bottom, height - ONE)) // BAND
            columns[t, 0], columns[t, 1] = int(max(left, ZERO)), int(min(right, width - ONE))


@kernel
def list_by_band(spans, counts, lists):  # type: ignore[no-untyped-def]
    """List, in order, what touches each band, by its row of `spans`; return how many entries there are.

    `spans` (N, 2) are the first and last band of each. `counts` (bands + 1,) receives the starts. When
    `lists` is too short for the entries, it is left as it is.
    """
    bands = len(counts) - 1
    counts[:] = 0
    for k in range(np.uint64(len(spans))):
        for band in range(spans[k, U0], spans[k, U1] + 1):
            counts[np.uint64(band) + U1] += 1
    for band in range(bands):
        counts[band + 1] += counts[band]
    if counts[bands] > len(lists):
        return counts[bands]
    for k in range(np.uint64(len(spans))):
        for band in range(spans[k, U0], spans[k, U1] + 1):
            at = counts[np.uint64(band)]
            lists[np.uint64(at)] = k
            counts[np.uint64(band)] = at + 1
    for band in range(bands, 0, -1):
        counts[band] = counts[band - 1]
    counts[0] = 0
    return counts[bands]


@parallel_kernel
def list_many_by_band(spans, counts, lists):  # type: ignore[no-untyped-def]
    """List as `list_by_band` does, on all threads: each takes LISTED of them at a time, and knows where they go."""
    bands, blocks = len(counts) - 1, (len(spans) + LISTED - 1) // LISTED
    starts = np.zeros((blocks, bands), np.int32)
    for block in prange(blocks):
        for k in range(np.uint64(block * LISTED), np.uint64(min(len(spans), (block + 1) * LISTED))):
            for band in range(spans[k, U0], spans[k, U1] + 1):
                starts[block, np.uint64(band)] += 1
    total = np.int32(0)
    for band in range(bands):
        counts[band] = total
        for block in range(blocks):
            many = starts[block, band]
            starts[block, band] = total
            total += many
    counts[bands] = total
    if total > len(lists):
        return total
    for block in prange(blocks):
        for k in range(np.uint64(block * LISTED), np.uint64(min(len(spans), (block + 1) * LISTED))):
            for band in range(spans[k, U0], spans[k, U1] + 1):
                at = starts[block, np.uint64(band)]
                lists[np.uint64(at)] = k
                starts[block, np.uint64(band)] = at + 1
    return total


@inlined
def dissolve_noise(rest, a, b, c, share_b, share_c, blotches):  # type: ignore[no-untyped-def]
    """Return the dissolve's noise at a place of a triangle a, b, c of the rest pose (V, 3)."""
    share_a = ONE - share_b - share_c
    return value_at(
        (share_a * rest[a, 0] + share_b * rest[b, 0] + share_c * rest[c, 0]) * blotches,
        (share_a * rest[a, 1] + share_b * rest[b, 1] + share_c * rest[c, 1]) * blotches,
        (share_a * rest[a, 2] + share_b * rest[b, 2] + share_c * rest[c, 2]) * blotches,
    )


@drawing_helper
def _clear_band(first_row, end_row, left, right, width, depth):  # type: ignore[no-untyped-def]
    """Clear a band between two columns, and two more to either side; guard columns take what is written beyond."""
    line, zero = depth.shape[1], spread8(ZERO)
    for y in range(first_row, end_row):
        for x in range(max(0, left - 2), min(width, right + 3), 8):
            write(depth, np.uint64(y * line + x), zero)


@inlined
def _first_sample(edge):  # type: ignore[no-untyped-def]
    """Return the first sample (not below 0) whose middle is not before an edge."""
    at = max(edge - HALF, ZERO)
    whole = int(at)
    return whole + 1 if np.float32(whole) < at else whole


@inlined
def _last_sample(edge, last):  # type: ignore[no-untyped-def]
    """Return the last sample (not above `last`) whose middle is not behind an edge; -1 where that is none."""
    at = min(edge - HALF, np.float32(last))
    return int(at) if at >= ZERO else -1


@drawing_helper
def _raster_triangle(  # type: ignore[no-untyped-def]
    t, screen, triangles, y_first, y_end, width, eaten, rest, gone, blotches, depth, ids
):
    """Write a triangle into the rows `y_first` to before `y_end`, where nothing nearer is."""
    a, b, c = np.uint64(triangles[t, U0]), np.uint64(triangles[t, U1]), np.uint64(triangles[t, U2])
    ax, ay, aw = screen[a, U0], screen[a, U1], screen[a, U2]
    bx, by, bw = screen[b, U0], screen[b, U1], screen[b, U2]
    qx, qy, qw = screen[c, U0], screen[c, U1], screen[c, U2]
    x_low, x_high = _first_sample(min(ax, bx, qx)), _last_sample(max(ax, bx, qx), width - 1)
    y_low, y_high = max(_first_sample(min(ay, by, qy)), y_first), _last_sample(max(ay, by, qy), y_end - 1)
    if x_low > x_high or y_low > y_high:
        return  # so small that it lies between samples
    scale = ONE / ((bx - ax) * (qy - ay) - (qx - ax) * (by - ay))
    step_b, step_c = (qy - ay) * scale, (ay - by) * scale
    down_b, down_c = (ax - qx) * scale, (bx - ax) * scale
    zero, one, line, mine = spread8(ZERO), spread8(ONE), depth.shape[1], alike_whole(spread8(ONE), np.int32(t))
    more_b, more_c, columns = bw - aw, qw - aw, numbered(spread8(ONE))
    # What shares and inverse distance change by from row to row; all are straight lines.
    rows_a, rows_b, rows_c = spread8(-down_b - down_c), spread8(down_b), spread8(down_c)
    rows_w = spread8(down_b * more_b + down_c * more_c)
    for x in range(x_low, x_high + 1, 8):
        px, py = np.float32(x) + HALF - ax, np.float32(y_low) + HALF - ay
        first_b = fused(columns, spread8(step_b), spread8(px * step_b))
        first_c = fused(columns, spread8(step_c), spread8(px * step_c))
        first_a = one - first_b - first_c
        first_w = fused(first_b, spread8(more_b), fused(first_c, spread8(more_c), spread8(aw)))
        within = spread8(np.float32(x_high - x) + HALF) - columns
        for y in range(y_low, y_high + 1):
            down, at = spread8(py), np.uint64(y * line + x)
            share_a, share_b = fused(down, rows_a, first_a), fused(down, rows_b, first_b)
            share_c, w = fused(down, rows_c, first_c), fused(down, rows_w, first_w)
            inside, before = smaller(smaller(share_a, share_b), smaller(share_c, within)), read(zero, depth, at)
            # Turned so that what is no number is outside.
            there = at_least(inside, zero) & greater(w, before)
            if not eaten:
                write(depth, at, chosen(there, w, before))
                write(ids, at, chosen(there, mine, read_whole(zero, ids, at)))
            elif any_of(there):
                for k in range(min(8, x_high + 1 - x)):
                    one_b, one_c = px * step_b + py * down_b, px * step_c + py * down_c
                    one_b, one_c = one_b + np.float32(k) * step_b, one_c + np.float32(k) * step_c
                    w_one = aw + one_b * more_b + one_c * more_c
                    position = np.uint64(x + k)
                    if min(one_b, one_c, ONE - one_b - one_c) >= ZERO and w_one > depth[y, position]:
                        wb, wc = one_b * bw / w_one, one_c * qw / w_one
                        if dissolve_noise(rest, a, b, c, wb, wc, blotches) >= gone:
                            depth[y, position], ids[y, position] = w_one, t
            py += ONE


@drawing_helper
def raster_band(  # type: ignore[no-untyped-def]
    band, screen, triangles, counts, lists, columns, rest, dissolving, gone, blotches, width, depth, ids, extents
):
    """Write inverse distance and triangle number of the nearest surface of every sample of a band within its extent.

    Where there is none the inverse distance is 0, and the number is any.

    `extents` (bands, 2) receive the first and last sample column that any of its triangles reaches (last
    below first: none), from the triangles' own `columns` (T, 2). Two samples beyond each extent are cleared,
    too, so that a pixel on its border reads no old ones. Of triangles that are `dissolving` (T,) what has
    less noise than `gone` is not there; noise is looked up in the rest pose, `rest` (V, 3), at `blotches` a
    metre. `depth` and `ids` are (H, `width` + GUARD).
    """
    y_first, y_end = band * BAND, min(len(depth), (band + 1) * BAND)
    left, right = width, -1
    for entry in range(counts[band], counts[band + 1]):
        t = np.uint64(lists[np.uint64(entry)])
        left, right = min(left, columns[t, U0]), max(right, columns[t, U1])
    extents[band, 0], extents[band, 1] = left, right
    _clear_band(y_first, y_end, left, right, width, depth)
    for entry in range(counts[band], counts[band + 1]):
        t = np.uint64(lists[np.uint64(entry)])
        eaten = gone > ZERO and dissolving[t] > 0
        _raster_triangle(t, screen, triangles, y_first, y_end, width, eaten, rest, gone, blotches, depth, ids)


@inlined
def _throw_large(ax, ay, bx, by, qx, qy, out):  # type: ignore[no-untyped-def]
    """Draw the shadow of a triangle, given in cells."""
    size, area = len(out), (bx - ax) * (qy - ay) - (qx - ax) * (by - ay)
    if area == ZERO:
        return
    scale = ONE / area
    step_b, step_c = (qy - ay) * scale, (ay - by) * scale
    down_b, down_c = (ax - qx) * scale, (bx - ax) * scale
    x_low, x_end = max(int(min(ax, bx, qx)), 1), min(int(max(ax, bx, qx)) + 1, size - 2) + 1
    y_low, y_end = max(int(min(ay, by, qy)), 1), min(int(max(ay, by, qy)) + 1, size - 2) + 1
    px = np.float32(x_low) + HALF - ax
    for y in range(np.uint64(y_low), np.uint64(max(y_end, y_low))):
        py = np.float32(y) + HALF - ay
        share_b, share_c = px * step_b + py * down_b, px * step_c + py * down_c
        for x in range(np.uint64(x_low), np.uint64(max(x_end, x_low))):
            if min(share_b, share_c, ONE - share_b - share_c) >= ZERO:
                out[y, x] = ONE
            share_b += step_b
            share_c += step_c


@inlined
def _mark(x, y, out):  # type: ignore[no-untyped-def]
    """Mark a cell, unless it is marked: what one thread writes the other has to fetch again."""
    row, column = np.uint64(int(y)), np.uint64(int(x))
    if out[row, column] == ZERO:
        out[row, column] = ONE


@parallel_kernel
def raster_shadow(order, points, triangles, shown, light, origin, cell, thrown, within, out):  # type: ignore[no-untyped-def]
    """Draw the shadow that triangles throw on the ground along `light` into `out` (S, S).

    `order` is that of blocks of triangles. `thrown` (V, 2) receives where points meet the ground, in cells; `within`
    (4,) the first column and the one after the last, and rows, that the shadow may be drawn in. All that is
    written is the same number, so it does not matter which thread is first.
    """
    size, count, edge = len(out), len(triangles), np.float32(len(out))
    left, right, top, bottom = FARTHEST, -FARTHEST, FARTHEST, -FARTHEST
    # By one thread: there is less to do than others would take to wake.
    for i in range(np.uint64(len(points))):
        x = (points[i, U0] - points[i, U1] * light[0] - origin[0]) * cell
        y = (points[i, U2] - points[i, U1] * light[1] - origin[1]) * cell
        thrown[i, U0], thrown[i, U1] = x, y
        # Turned so that what is no number is passed over.
        left, right = min(left, x), max(right, x)
        top, bottom = min(top, y), max(bottom, y)
    within[0], within[1] = int(max(min(left, edge), ONE)), int(max(min(right, edge), ZERO)) + 2
    within[2], within[3] = int(max(min(top, edge), ONE)), int(max(min(bottom, edge), ZERO)) + 2
    for row in range(size):
        for column in range(size):
            out[row, column] = ZERO
    last = edge - TWO
    turns = fresh_turns()
    for _hand in prange(HANDS):
        turn = next_turn(turns)
        while turn < len(order):
            for t in range(order[turn] * FEW_TRIANGLES, min(count, (order[turn] + 1) * FEW_TRIANGLES)):
                if shown[t] == 0:
                    continue
                a, b, c = np.uint64(triangles[t, U0]), np.uint64(triangles[t, U1]), np.uint64(triangles[t, U2])
                ax, ay, bx, by = thrown[a, U0], thrown[a, U1], thrown[b, U0], thrown[b, U1]
                qx, qy = thrown[c, U0], thrown[c, U1]
                x_low, x_high = min(ax, bx, qx), max(ax, bx, qx)
                y_low, y_high = min(ay, by, qy), max(ay, by, qy)
                # Turned so that what is no number is left out.
                if not (max(x_high, y_high) < FARTHEST and min(x_low, y_low) > -FARTHEST):
                    continue
                if x_high - x_low >= TWO or y_high - y_low >= TWO:
                    _throw_large(ax, ay, bx, by, qx, qy, out)
                elif x_low >= ONE and y_low >= ONE and x_high < last and y_high < last:
                    # As small as the softening is wide: its corners are enough.
                    _mark(ax, ay, out)
                    _mark(bx, by, out)
                    _mark(qx, qy, out)
                else:
                    for x, y in ((ax, ay), (bx, by), (qx, qy)):
                        if x >= ONE and y >= ONE and x < last and y < last:
                            _mark(x, y, out)
            turn = next_turn(turns)


@kernel
def soften_shadow(out, within, blurred):  # type: ignore[no-untyped-def]
    """Soften a shadow (S, S), of which `within` (4,) says where it is drawn: twice, over five cells either way."""
    left, right, top, bottom = within
    for _ in range(2):
        left, right = left - 2, right + 2
        _average(out, blurred, left, right, top, bottom, 1)
        top, bottom = top - 2, bottom + 2
        _average(blurred, out, left, right, top, bottom, len(out))


@kernel
def _average(source, target, left, right, top, bottom, stride):  # type: ignore[no-untyped-def]
    """Average five cells, each `stride` numbers from the next, within some columns and rows; elsewhere is nothing.

    What is averaged along x goes on to the edges of its rows, and likewise along y; two cells there are left out.
    """
    size, fifth = len(source), np.float32(0.2)
    cells, edge = source.reshape(size * size), 2
    left, right = max(left, edge if stride == 1 else 0), min(right, size - (edge if stride == 1 else 0))
    top, bottom = max(top, 0 if stride == 1 else edge), min(bottom, size - (0 if stride == 1 else edge))
    target[:] = ZERO
    for y in range(top, bottom):
        for x in range(left, right):
            at = np.uint64(y * size + x - 2 * stride)
            one, two, step = at, at + np.uint64(stride), np.uint64(2 * stride)
            total = cells[one] + cells[two] + cells[one + step] + cells[two + step] + cells[one + step + step]
            target[y, x] = total * fifth
