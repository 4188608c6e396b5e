"""Kernels of veils: a posed mesh drawn by itself as a thin film, of which each pixel shows the nearest layer.

A film is the brighter the more it is seen from the side, as rim light is, patterned by two fields that move through
it, and kept to a part of its height. What is drawn is laid among the sprites later (see `laying_kernels`).
"""

from __future__ import annotations

import math

import numpy as np

from wraithon.numeric.compiled import called, drawing_helper, drawing_inlined, drawing_kernel, kernel, prange
from wraithon.numeric.vector_memory import fetch_floats, read, write
from wraithon.numeric.vectors import alike_whole, fused, larger, lowered, root, smaller, spread8, whole
from wraithon.numeric.work_queue import HANDS, fresh_turns, next_turn
from wraithon.picture.kernels.columns import V_FIGURE, V_NX, V_NY, V_NZ, V_U, V_V
from wraithon.picture.kernels.raster_kernels import BAND, raster_band
from wraithon.picture.kernels.texel_kernels import midpoint

ZERO, ONE, HALF, TWO, THREE = np.float32(0), np.float32(1), np.float32(0.5), np.float32(2), np.float32(3)
K0, K1, K2, K3, K4, K5, K6, K7, K8, K9, K10, K11, K12, K13 = (np.uint64(k) for k in range(14))
TINY, BYTE, FAR = np.float32(1e-6), np.float32(1 / 65535), np.float32(1e9)
WEAVE = 30
"""Numbers of a veil.

0 to 3: opacity and linear colour. 4, 5: what is seen of it face on, and how quickly that grows to the side. 6, 7: how
much each field takes away. 8 to 11: its blotches a metre (of pictures: tiles along u and v). 12 to 17: how far each
field has moved, in blotches or tiles. 18: by how many the second distorts the first. 19 to 22: heights between which
it comes and goes. 23: contrast. 24: 1 / soft. 25: pixels it bends what is behind it by. 26: whether it only adds
light. 27: which ingredient shows.
"""
ALL, FIRST, SECOND, MASK, RIM = range(5)
"""Ingredients that show: all, or one alone."""
CELLS = 32
"""Cells of the noise's lattice along each axis; after so many blotches it repeats."""
ROUGH, FINER, LOWER = np.float32(1.1), np.float32(0.55), np.float32(-0.325)
"""How much its two octaves count, and what is taken away for their middle to be a half."""
RIMS = 1024
"""Steps from the side to face on that rims are worked out for."""
OUTLINE = np.float32(9)
"""1 / how much of a film has to face us for all of it to be seen."""
ROW_VALUES = 14
"""Rows of working memory: what is kept of each pixel of a row that shows something."""


@kernel
def span_of(screen, out):  # type: ignore[no-untyped-def]
    """Write what points (N, 3) on the picture span into `out` (6,): left, right, top, bottom, least and most near.

    Those that are not seen, with an inverse distance of 0, do not count; where none is seen, most is 0.
    """
    out[0], out[1], out[2], out[3], out[4], out[5] = FAR, -FAR, FAR, -FAR, FAR, ZERO
    for k in range(np.uint64(len(screen))):
        if screen[k, K2] > ZERO:
            out[0], out[1] = min(out[0], screen[k, K0]), max(out[1], screen[k, K0])
            out[2], out[3] = min(out[2], screen[k, K1]), max(out[3], screen[k, K1])
            out[4], out[5] = min(out[4], screen[k, K2]), max(out[5], screen[k, K2])


@drawing_inlined
def _faded(x):  # type: ignore[no-untyped-def]
    return x * x * (spread8(THREE) - x - x)


@drawing_inlined
def _share(x):  # type: ignore[no-untyped-def]
    """Return numbers within 0 and 1; what is no number is 0."""
    return smaller(larger(x, spread8(ZERO)), spread8(ONE))


@drawing_helper
def _noise(lanes, lattice, x, y, z):  # type: ignore[no-untyped-def]
    """Return value noise at eight points, 0 to 65535, from a `lattice` (CELLS³,) that repeats."""
    fx, fy, fz = lowered(x), lowered(y), lowered(z)
    sx, sy, sz = _faded(x - fx), _faded(y - fy), _faded(z - fz)
    one, mask = alike_whole(lanes, np.int32(1)), alike_whole(lanes, np.int32(CELLS - 1))
    line, sheet = alike_whole(lanes, np.int32(CELLS)), alike_whole(lanes, np.int32(CELLS * CELLS))
    ix, iy, iz = whole(fx), whole(fy), whole(fz)
    column = ix & mask
    row, below = (iy & mask) * line + column, ((iy + one) & mask) * line + column
    near, far = (iz & mask) * sheet, ((iz + one) & mask) * sheet
    front = midpoint(lattice, near + row, near + below, sx, sy)
    back = midpoint(lattice, far + row, far + below, sx, sy)
    return fused(sz, back - front, front)


@drawing_helper
def _blotches(lanes, lattice, x, y, z):  # type: ignore[no-untyped-def]
    """Return figures from 0 to 1 at eight points in blotches: two octaves of noise, spread out."""
    two, half = spread8(TWO), spread8(HALF)
    rough = _noise(lanes, lattice, x, y, z)
    fine = _noise(lanes, lattice, fused(x, two, half), fused(y, two, half), fused(z, two, half))
    value = fused(rough, spread8(ROUGH * BYTE), fused(fine, spread8(FINER * BYTE), spread8(LOWER)))
    return _share(value)


@drawing_kernel
def lattice_noise(lattice, values):  # type: ignore[no-untyped-def]
    """Write noise, 0 to 1, into the last row of `held` (4, n), at x, y and z in blotches; n is a multiple of 8."""
    lanes, many = spread8(ZERO), values.shape[1]
    for block in prange((many // 8 + 127) // 128):
        for k in range(block * 1024, min(many, (block + 1) * 1024), 8):
            at = np.uint64(k)
            x, y = read(lanes, values, at), read(lanes, values, at + np.uint64(many))
            z = read(lanes, values, at + np.uint64(2 * many))
            write(values, at + np.uint64(3 * many), _blotches(lanes, lattice, x, y, z))


@called
def _texel(planes, first, side, column, row):  # type: ignore[no-untyped-def]
    return np.float32(planes[first + row * side + column] & 0xFFFF) * BYTE


@called
def _pictured(planes, first, side, u, v):  # type: ignore[no-untyped-def]
    """Return how bright a picture that repeats is at (u, v)."""
    x, y = (u - np.floor(u)) * np.float32(side) - HALF, (v - np.floor(v)) * np.float32(side) - HALF
    fx, fy = np.floor(x), np.floor(y)
    x0, y0, sx, sy = int(fx) % side, int(fy) % side, x - fx, y - fy
    x1, y1 = (x0 + 1) % side, (y0 + 1) % side
    top = _texel(planes, first, side, x0, y0) * (ONE - sx) + _texel(planes, first, side, x1, y0) * sx
    low = _texel(planes, first, side, x0, y1) * (ONE - sx) + _texel(planes, first, side, x1, y1) * sx
    return top + (low - top) * sy


@drawing_helper
def _field(count, values, shader_parameters, field, pictures, planes, lattice, warped, out):  # type: ignore[no-untyped-def]
    """Write one of the two fields, 0 to 1, into row `out` of what is held, moved by row `warped` blotches."""
    a, b = shader_parameters[8 + 2 * field], shader_parameters[9 + 2 * field]
    dx, dy, dz = (
        shader_parameters[12 + 3 * field],
        shader_parameters[13 + 3 * field],
        shader_parameters[14 + 3 * field],
    )
    if pictures[field, 1] > 0:
        for k in range(count):
            u, v = values[4, k] * a - dx + values[warped, k], values[5, k] * b - dy + values[warped, k]
            values[out, k] = _pictured(planes, pictures[field, 0], pictures[field, 1], u, v)
        return
    lanes, line = spread8(ZERO), np.uint64(values.shape[1])
    scale, by_x, by_y, by_z = spread8(a), spread8(-dx), spread8(-dy), spread8(-dz)
    for k in range(0, count, 8):
        at = np.uint64(k)
        moved = read(lanes, values, at + np.uint64(warped) * line)
        x = fused(read(lanes, values, at + line), scale, by_x + moved)
        y = fused(read(lanes, values, at + line + line), scale, by_y + moved)
        z = fused(read(lanes, values, at + line + line + line), scale, by_z)
        write(values, at + np.uint64(out) * line, _blotches(lanes, lattice, x, y, z))


@drawing_helper
def _look(depth, top, left, fine, share):  # type: ignore[no-untyped-def]
    """Return inverse distance, row and column of a pixel's nearest sample, and how much of it shows anything."""
    near, row, column, covered = ZERO, top, left, ZERO
    for y in range(top, top + fine):
        for x in range(left, left + fine):
            w = depth[y, x]
            if w > ZERO:
                covered += share
                if w > near:
                    near, row, column = w, y, x
    return near, row, column, covered


@drawing_helper
def _find_row(  # type: ignore[no-untyped-def]
    y,
    left,
    right,
    step,
    fine,
    screen,
    triangles,
    vertices,
    positions,
    shader_parameters,
    patterned,
    lens,
    solid,
    depth,
    ids,
    values,
    columns,
):
    """Find what a row of pixels shows of a veil; return of how many pixels.

    `values` (ROW_VALUES, n) receives height, place (3), u, v, how much it faces us, how much of the pixel it covers,
    and which way it faces on the picture; what its fields need only where it is `patterned`. `columns` (n,) are which
    pixels they are.
    """
    count, top, share = K0, np.uint64(fine * y), ONE / np.float32(fine * fine)
    tall, broad = solid.shape
    line = np.uint64(min(int((np.float32(y) + HALF) * step), tall - 1))
    down = np.float32(y) + HALF - lens[4]
    rx, ry, rz = lens[5] + down * lens[11], lens[6] + down * lens[12], lens[7] + down * lens[13]
    before, a, b, c = np.int32(-1), K0, K0, K0
    ax, ay, bx, by, qx, qy, bw, cw, per = ZERO, ZERO, ZERO, ZERO, ZERO, ZERO, ZERO, ZERO, ZERO
    nx, ny, nz, mx, my, mz, ox, oy, oz = ZERO, ZERO, ZERO, ZERO, ZERO, ZERO, ZERO, ZERO, ZERO
    for x in range(np.uint64(left), np.uint64(right)):
        near, row, column, covered = depth[top, x * np.uint64(fine)], top, x * np.uint64(fine), ONE
        if fine > 1:
            near, row, column, covered = _look(depth, top, column, np.uint64(fine), share)
        if near == ZERO:
            continue
        behind = solid[line, np.uint64(min(int((np.float32(x) + HALF) * step), broad - 1))]
        far, gap = ONE / near, ONE
        if behind > ZERO:
            gap = min(max((ONE / behind - far) * shader_parameters[24], ZERO), ONE)
        if gap == ZERO:
            continue
        if ids[row, column] != before:
            # Neighbours mostly show the same triangle.
            before = ids[row, column]
            t = np.uint64(before)
            a, b, c = np.uint64(triangles[t, K0]), np.uint64(triangles[t, K1]), np.uint64(triangles[t, K2])
            ax, ay, bw, cw = screen[a, K0], screen[a, K1], screen[b, K2], screen[c, K2]
            bx, by, qx, qy = screen[b, K0] - ax, screen[b, K1] - ay, screen[c, K0] - ax, screen[c, K1] - ay
            per = ONE / (bx * qy - qx * by)
            nx, ny, nz = vertices[a, V_NX], vertices[a, V_NY], vertices[a, V_NZ]
            mx, my, mz = vertices[b, V_NX] - nx, vertices[b, V_NY] - ny, vertices[b, V_NZ] - nz
            ox, oy, oz = vertices[c, V_NX] - nx, vertices[c, V_NY] - ny, vertices[c, V_NZ] - nz
        px, py = np.float32(column) + HALF - ax, np.float32(row) + HALF - ay
        if covered > ONE - share and fine > 1:
            # Where all of a pixel shows it, what counts is its middle.
            px, py = (np.float32(x) + HALF) * np.float32(fine) - ax, (np.float32(y) + HALF) * np.float32(fine) - ay
        wb, wc = (px * qy - py * qx) * per * far * bw, (py * bx - px * by) * per * far * cw
        sx, sy, sz = nx + wb * mx + wc * ox, ny + wb * my + wc * oy, nz + wb * mz + wc * oz
        right_ = np.float32(x) + HALF - lens[3]
        vx, vy, vz = rx + right_ * lens[8], ry + right_ * lens[9], rz + right_ * lens[10]
        long = sx * sx + sy * sy + sz * sz
        # How much it faces us comes of these, eight at a time.
        values[K6, count] = abs(sx * vx + sy * vy + sz * vz)
        values[K10, count] = long * (vx * vx + vy * vy + vz * vz)
        values[K7, count] = covered * gap
        values[K0, count] = vertices[a, V_FIGURE] + wb * (vertices[b, V_FIGURE] - vertices[a, V_FIGURE])
        values[K0, count] += wc * (vertices[c, V_FIGURE] - vertices[a, V_FIGURE])
        if patterned:
            wa = ONE - wb - wc
            values[K4, count] = wa * vertices[a, V_U] + wb * vertices[b, V_U] + wc * vertices[c, V_U]
            values[K5, count] = wa * vertices[a, V_V] + wb * vertices[b, V_V] + wc * vertices[c, V_V]
            for k in range(K3):
                values[K1 + k, count] = wa * positions[a, k] + wb * positions[b, k] + wc * positions[c, k]
            long = ONE / (math.sqrt(max(long, TINY * TINY)) * lens[14])
            values[K8, count] = (sx * lens[8] + sy * lens[9] + sz * lens[10]) * long
            values[K9, count] = (sx * lens[11] + sy * lens[12] + sz * lens[13]) * long
        columns[count] = x
        count += K1
    _face(int(count), values)
    return int(count)


@drawing_helper
def _face(count, values):  # type: ignore[no-untyped-def]
    """Write how much pixels face us, and how much is covered of them, over the numbers that these come of."""
    one, line, minimum = spread8(ONE), np.uint64(values.shape[1]), spread8(TINY * TINY)
    for k in range(0, count, 8):
        at = np.uint64(k)
        size = root(larger(read(one, values, at + K10 * line), minimum))
        facing = smaller(read(one, values, at + K6 * line) / size, one)
        write(values, at + K6 * line, facing)
        # Its outline comes in softly: corners of triangles would show there.
        outline = smaller(facing * spread8(OUTLINE), one)
        write(values, at + K7 * line, read(one, values, at + K7 * line) * outline)


@drawing_helper
def _strengths(count, shader_parameters, rims, values):  # type: ignore[no-untyped-def]
    """Write each pixel's strength, opacity and how much it bends into rows 10 to 12, where its fields were."""
    shows, lanes, one, half = int(shader_parameters[27]), spread8(ZERO), spread8(ONE), spread8(HALF)
    low, rise = (
        spread8(TINY - shader_parameters[19]),
        spread8(ONE / max(shader_parameters[20] - shader_parameters[19], TINY)),
    )
    high, fall = (
        spread8(TINY + shader_parameters[22]),
        spread8(ONE / max(shader_parameters[22] - shader_parameters[21], TINY)),
    )
    maximum, opaque, fill, rest = (
        spread8(np.float32(RIMS - 1)),
        spread8(shader_parameters[0]),
        spread8(shader_parameters[4]),
        ONE - shader_parameters[4],
    )
    line = np.uint64(values.shape[1])
    for k in range(0, count, 8):
        at = np.uint64(k)
        height, facing = read(lanes, values, at), read(lanes, values, at + K6 * line)
        covered = read(lanes, values, at + K7 * line)
        first, second = read(lanes, values, at + K10 * line), read(lanes, values, at + K11 * line)
        mask = _faded(_share((height + low) * rise)) * _faded(_share((high - height) * fall))
        mask = mask * read(lanes, values, at + K13 * line)
        rim = fetch_floats(rims, whole(fused(_share(facing), maximum, half)))
        pattern = (one - spread8(shader_parameters[6]) * (one - first)) * (
            one - spread8(shader_parameters[7]) * (one - second)
        )
        pattern = _share(fused(pattern - half, spread8(shader_parameters[23]), half))
        shown = pattern * mask
        strength = shown * fused(rim, spread8(rest), fill)
        if shows == FIRST:
            strength = first
        elif shows == SECOND:
            strength = second
        elif shows == MASK:
            strength = mask
        elif shows == RIM:
            strength = rim
        write(values, at + K10 * line, strength)
        write(values, at + K11 * line, smaller(strength * opaque, one) * covered)
        write(values, at + K12 * line, shown * covered * (spread8(shader_parameters[25]) * opaque))


@drawing_helper
def _weave_row(y, count, shader_parameters, rims, pictures, planes, lattice, bands, values, columns, box, patch):  # type: ignore[no-untyped-def]
    """Write a row of a veil's light, what it covers, and which way it bends, into its `patch` (planes, h, pitch)."""
    shows, row, end = int(shader_parameters[27]), np.uint64(y - box[1]), np.uint64(count)
    for k in range(np.uint64((count + 7) & ~7)):
        values[K10, k], values[K11, k], values[K12, k], values[K13, k] = ONE, ONE, ZERO, ONE
    if pictures[2, 1] > 0:
        for k in range(end):
            values[K13, k] = _pictured(planes, pictures[2, 0], pictures[2, 1], values[K4, k], values[K5, k])
    if shader_parameters[7] > ZERO or shader_parameters[18] > ZERO or shows == SECOND:
        _field(count, values, shader_parameters, 1, pictures, planes, lattice, 12, 11)
        for k in range(end):
            values[K12, k] = (values[K11, k] - HALF) * shader_parameters[18]
    if shader_parameters[6] > ZERO or shows == FIRST:
        _field(count, values, shader_parameters, 0, pictures, planes, lattice, 12, 10)
    _strengths(count, shader_parameters, rims, values)
    left, covers, red, green, blue = (
        box[0],
        ONE - shader_parameters[26],
        shader_parameters[1],
        shader_parameters[2],
        shader_parameters[3],
    )
    for k in range(end):
        x, opacity = np.uint64(columns[k] - left), values[K11, k]
        patch[K3, row, x] = covers * opacity
        if len(bands) == 0:
            patch[K0, row, x], patch[K1, row, x], patch[K2, row, x] = red * opacity, green * opacity, blue * opacity
            continue
        step = np.uint64(min(max(values[K10, k], ZERO), ONE) * np.float32(len(bands) - 1) + HALF)
        patch[K0, row, x] = red * bands[step, K0] * opacity
        patch[K1, row, x] = green * bands[step, K1] * opacity
        patch[K2, row, x] = blue * bands[step, K2] * opacity
    if patch.shape[0] > 4:
        for k in range(end):
            x = np.uint64(columns[k] - left)
            patch[K4, row, x], patch[K5, row, x] = values[K8, k] * values[K12, k], values[K9, k] * values[K12, k]


@drawing_kernel
def draw_shell(  # type: ignore[no-untyped-def]
    order, counts, lists, columns, screen, triangles, vertices, positions, shader_parameters, pictures, planes,
    lattice, bands, lens,
    solid, step, fine, broad, depth, ids, extents, box, patch,
):  # fmt: skip
    """Draw a veil, `step` times coarser than the picture, into its `patch` (4 or 6, h, pitch).

    What is listed, `screen` and `vertices` are as `raster_kernels` has them, for a picture `broad` samples wide,
    of which a pixel has `fine` by `fine`; `positions` (V, 3) where its fields are looked up. `pictures` (3, 2) are
    first texel and side of the fields that are pictures, and of the mask, side 0 of what is none; noise comes
    from a `lattice` (CELLS³,); `bands` (B, 3) colours by strength, or empty; `lens` (15,) the middle of the
    picture, the way ahead, and what it grows by for each pixel right and down; `solid` (H, W) the picture's
    inverse distances. `box` (4,) are the first column and row of the patch, and the ends. The patch receives
    light, what is covered, and by how many pixels what is behind is bent.
    """
    rest, none = np.zeros((1, 3), np.float32), np.zeros(1, np.uint8)
    rims = np.empty(RIMS, np.float32)
    for k in range(RIMS):
        rims[k] = max(ONE - np.float32(k) / np.float32(RIMS - 1), TINY) ** shader_parameters[5]
    patterned = (
        shader_parameters[6] > ZERO
        or shader_parameters[7] > ZERO
        or shader_parameters[25] > ZERO
        or shader_parameters[27] > ZERO
        or pictures[2, 1] > 0
    )
    turns = fresh_turns()
    for _hand in prange(HANDS):
        turn = next_turn(turns)
        while turn < len(order):
            band = order[turn]
            raster_band(
                band, screen, triangles, counts, lists, columns, rest, none, ZERO, ONE, broad, depth, ids, extents
            )  # fmt: skip
            left, right = max(extents[band, 0] // fine, box[0]), min((extents[band, 1] + fine) // fine, box[2])
            # What is not written may be worked on, but nothing comes of it.
            many = max(right - left, 1)
            values, where = np.zeros((ROW_VALUES, many + 8), np.float32), np.empty(many, np.int32)
            for y in range(max(band * BAND // fine, box[1]), min((band + 1) * BAND // fine, box[3])):
                for plane in range(patch.shape[0]):
                    patch[plane, y - box[1]] = ZERO
                if left < right:
                    count = _find_row(
                        y, left, right, step, fine, screen, triangles, vertices, positions, shader_parameters,
                        patterned, lens,
                        solid, depth, ids, values, where,
                    )  # fmt: skip
                    _weave_row(
                        y, count, shader_parameters, rims, pictures, planes, lattice, bands, values, where, box, patch
                    )
            turn = next_turn(turns)
