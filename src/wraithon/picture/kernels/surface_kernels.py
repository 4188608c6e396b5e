"""Kernels that change what is solid in a finished opaque pass: marks on the ground, and lights on everything.

Where a pixel is in the world follows from how far what it shows is; nothing else of the opaque pass is needed.
"""

from __future__ import annotations

import math

import numpy as np

from wraithon.numeric.compiled import called, drawing_helper, drawing_inlined, drawing_kernel, kernel, prange
from wraithon.numeric.vector_memory import read, write
from wraithon.numeric.vectors import (
    alike_whole,
    any_of,
    chosen,
    floats,
    fused,
    greater,
    larger,
    numbered,
    root,
    smaller,
    spread8,
    whole,
)
from wraithon.numeric.work_queue import HANDS, fresh_turns, next_turn
from wraithon.picture.kernels.columns import (
    ALPHA,
    D_BLUE,
    D_COSINE,
    D_GREEN,
    D_INVERSE_HALF,
    D_OPACITY,
    D_RED,
    D_SINE,
    D_X,
    D_Z,
    L_BLUE,
    L_GREEN,
    L_REACH,
    L_RED,
    L_X,
    L_Y,
    L_Z,
    S_BOTTOM,
    S_LEFT,
    S_RIGHT,
    S_TOP,
)
from wraithon.picture.kernels.ground_kernels import HORIZON
from wraithon.picture.kernels.texel_kernels import midpoint

ZERO, ONE, HALF = np.float32(0), np.float32(1), np.float32(0.5)
ROWS = 8
FLAT, FLATTER = np.float32(0.004), np.float32(0.001)
"""Metres from the ground within which a pixel shows it, and as many more for each metre ahead."""
TINY, TINIEST = np.float32(1e-9), np.float32(1e-18)
TEXEL = np.float32(1 / 65535)
MEAN, MIN_COLOUR, MAX_COLOUR = np.float32(0.8), np.float32(0.05), np.float32(0.8)
"""How bright a white surface is in the usual light, and what a surface throws back at least and at most."""
WRAP = np.float32(0.25)
"""How much light comes round to what faces at right angles to it."""
FAR, NEAR = np.float32(1e6), np.float32(0.05)
U1, U2 = np.uint64(1), np.uint64(2)
SPARE = 18
"""Places that a row of working memory has more than the picture."""


@called
def _on_picture(x, y, z, eye, basis, focal, height, width):  # type: ignore[no-untyped-def]
    """Return column, row and metres ahead of a place in the world."""
    x, y, z = x - eye[0], y - eye[1], z - eye[2]
    ahead = x * basis[2, 0] + y * basis[2, 1] + z * basis[2, 2]
    scale = focal / max(ahead, TINY)
    column = np.float32(width) * HALF + (x * basis[0, 0] + y * basis[0, 1] + z * basis[0, 2]) * scale
    return column, np.float32(height) * HALF - (x * basis[1, 0] + y * basis[1, 1] + z * basis[1, 2]) * scale, ahead


@called
def _span(spans, k, left, right, top, bottom, everywhere, height, width):  # type: ignore[no-untyped-def]
    """Write first column, end, first row, end of a box on the picture; return whether any of it is seen."""
    spans[k, S_LEFT], spans[k, S_RIGHT], spans[k, S_TOP], spans[k, S_BOTTOM] = 0, width, 0, height
    if everywhere:
        return True
    broad, tall = np.float32(width), np.float32(height)
    spans[k, S_LEFT], spans[k, S_RIGHT] = (
        int(min(max(left, ZERO), broad)),
        int(min(max(right + ONE, ZERO), broad - ONE)) + 1,
    )
    spans[k, S_TOP], spans[k, S_BOTTOM] = (
        int(min(max(top, ZERO), tall)),
        int(min(max(bottom + ONE, ZERO), tall - ONE)) + 1,
    )
    return right >= ZERO and left <= broad and bottom >= ZERO and top <= tall


@kernel
def place_decals(  # type: ignore[no-untyped-def]
    positions, sizes, turns, colours, eye, basis, focal, height, width, shade, levels, marks, spans, picks
):
    """Write decals (N, DECAL_COLUMNS), their `spans` (N, 4) and `picks` (N, 2) for `draw_decals`; return how many.

    Those that cannot be seen are left out. `levels` (L, 2) are first texel and side of the texture's levels, the
    finest first; `shade` is what is left of the colours.
    """
    count = 0
    for i in range(len(sizes)):
        half, opacity, x, z = sizes[i] * HALF, colours[i, ALPHA], positions[i, 0], positions[i, 2]
        # Comparisons are turned so that a NaN is left out, too.
        if not (half > ZERO and opacity > ZERO and abs(x) < FAR and abs(z) < FAR):
            continue
        c, s, near, seen = math.cos(turns[i]), math.sin(turns[i]), False, False
        left, right, top, bottom = FAR, -FAR, FAR, -FAR
        for corner in range(4):
            across, deep = half if corner & 1 else -half, half if corner & 2 else -half
            column, row, ahead = _on_picture(
                x + c * across + s * deep, ZERO, z - s * across + c * deep, eye, basis, focal, height, width
            )  # fmt: skip
            near, seen = near or ahead < NEAR, seen or ahead > ZERO
            left, right, top, bottom = min(left, column), max(right, column), min(top, row), max(bottom, row)
        if not (seen and _span(spans, count, left, right, top, bottom, near, height, width)):
            continue
        level = 0
        while level + 1 < len(levels) and levels[level + 1, 1] >= max(right - left, np.float32(2)):
            level += 1
        picks[count, 0], picks[count, 1] = levels[level, 0], levels[level, 1]
        (
            marks[count, D_X],
            marks[count, D_Z],
            marks[count, D_INVERSE_HALF],
            marks[count, D_COSINE],
            marks[count, D_SINE],
        ) = x, z, ONE / half, c, s
        for channel in range(3):
            marks[count, D_RED + np.uint64(channel)] = colours[i, channel] * shade
        marks[count, D_OPACITY] = opacity
        count += 1
    return count


@kernel
def place_lights(positions, reaches, colours, eye, basis, focal, height, width, lights, spans):  # type: ignore[no-untyped-def]
    """Write lights (N, LIGHT_COLUMNS) and their `spans` (N, 4) for `add_lights`; return how many are seen."""
    count = 0
    for i in range(len(reaches)):
        reach, x, y, z = reaches[i], positions[i, 0], positions[i, 1], positions[i, 2]
        bright = max(colours[i, 0], max(colours[i, 1], colours[i, 2]))
        if not (reach > ZERO and bright > ZERO and abs(x) < FAR and abs(y) < FAR and abs(z) < FAR):
            continue
        column, row, ahead = _on_picture(x, y, z, eye, basis, focal, height, width)
        if ahead + reach < NEAR:
            continue
        around, near = focal * reach / max(ahead - reach, NEAR), ahead - reach < NEAR
        if not _span(spans, count, column - around, column + around, row - around, row + around, near, height, width):
            continue
        lights[count, L_X], lights[count, L_Y], lights[count, L_Z], lights[count, L_REACH] = x, y, z, reach
        for channel in range(3):
            lights[count, L_RED + np.uint64(channel)] = colours[i, channel]
        count += 1
    return count


@drawing_helper
def _within(start, step, first, end):  # type: ignore[no-untyped-def]
    """Return the columns from `first` to `end` where what is `start` at 0 and grows by `step` is between -1 and 1."""
    if abs(step) < TINY:
        return (first, end) if abs(start) < ONE else (end, end)
    one, two = (-ONE - start) / step, (ONE - start) / step
    low, high = min(one, two), max(one, two)
    return max(first, int(min(max(low, ZERO), FAR)) + (1 if low > ZERO else 0)), min(
        end, int(min(max(high, -ONE), FAR)) + 1
    )


@drawing_helper
def _mark_row(depths, rows, u, v, step_u, step_v, ahead, marks, k, first, end, pick, side, flags, planes):  # type: ignore[no-untyped-def]
    """Lay a row of one mark over `rows` (3, W + SPARE) where `depths` (3, W + SPARE) are those of the ground.

    `u` and `v` are where column 0 lies on the mark, -1 to 1 each; `flags` are whether it only adds light, and whether
    its texture is grey.
    """
    lanes, line, half = spread8(ZERO), np.uint64(rows.shape[1]), np.float32(side) * HALF
    zero, one, edge = lanes, spread8(ONE), spread8(np.float32(side - 1))
    last, pitch = alike_whole(lanes, np.int32(side - 2)), alike_whole(lanes, np.int32(side))
    start = alike_whole(lanes, np.int32(pick))
    many = alike_whole(lanes, np.int32(len(planes) // 4))
    unit = marks[k, D_OPACITY] * TEXEL
    red, green, blue = (
        spread8(marks[k, D_RED] * unit),
        spread8(marks[k, D_GREEN] * unit),
        spread8(marks[k, D_BLUE] * unit),
    )
    factor, size = spread8(ZERO if flags[0] else unit), spread8(half)
    inverse, slack = spread8(ONE / ahead[0]), spread8(ahead[1])
    for x in range(first, end, 8):
        at = np.uint64(x)
        gap = read(zero, depths, at + line + U1) - inverse
        position = numbered(zero) + spread8(np.float32(x))
        shown = greater(slack, larger(gap, zero - gap)) & greater(spread8(np.float32(end) - HALF), position)
        if not any_of(shown):
            continue
        tu, tv = fused(position, spread8(step_u), spread8(u)), fused(position, spread8(step_v), spread8(v))
        across = smaller(larger((tu + one) * size - spread8(HALF), zero), edge)
        along = smaller(larger((tv + one) * size - spread8(HALF), zero), edge)
        column, row = smaller(whole(across), last), smaller(whole(along), last)
        across, along = across - floats(column), along - floats(row)
        spot = row * pitch + column + start
        below = spot + pitch
        light = chosen(shown, midpoint(planes, spot, below, across, along), zero)
        more_r, more_g, more_b = light * red, light * green, light * blue
        if not flags[1]:
            spot, below = spot + many, below + many
            more_g = chosen(shown, midpoint(planes, spot, below, across, along), zero) * green
            spot, below = spot + many, below + many
            more_b = chosen(shown, midpoint(planes, spot, below, across, along), zero) * blue
        else:
            spot, below = spot + many + many, below + many + many
        spot, below = spot + many, below + many
        through = one - chosen(shown, midpoint(planes, spot, below, across, along), zero) * factor
        write(rows, at, fused(read(zero, rows, at), through, more_r))
        write(rows, at + line, fused(read(zero, rows, at + line), through, more_g))
        write(rows, at + line + line, fused(read(zero, rows, at + line + line), through, more_b))


@drawing_helper
def _columns_of(y, marks, spans, width):  # type: ignore[no-untyped-def]
    """Return the first column that any of the marks of a row touches, and the one after the last."""
    left, right = width, 0
    for k in range(len(marks)):
        if spans[k, S_TOP] <= y < spans[k, S_BOTTOM]:
            left, right = min(left, int(spans[k, S_LEFT])), max(right, int(spans[k, S_RIGHT]))
    return left, right


@drawing_kernel
def draw_decals(picture, depth, eye, basis, focal, marks, spans, picks, flags, planes):  # type: ignore[no-untyped-def]
    """Lay marks over the ground where the picture (3, H, W) shows it, one after another.

    `depth` (H, W) is the inverse distance of what is solid; `marks` (N, DECAL_COLUMNS) lie on the plane y = 0 within
    `spans` (N, 4) of the picture; `picks` (N, 2) are first texel and side of the level of each one's texture in
    `planes` (4 M,); `flags` are whether they only add light, and whether the texture is grey.
    The camera does not roll, so that a row meets the ground at one distance ahead, and all is linear along it.
    """
    height, width = depth.shape
    turns = fresh_turns()
    for _hand in prange(HANDS):
        block = next_turn(turns)
        while block < (height + ROWS - 1) // ROWS:
            depths, rows = np.empty((3, width + SPARE), np.float32), np.empty((3, width + SPARE), np.float32)
            for y in range(block * ROWS, min(height, (block + 1) * ROWS)):
                up = (np.float32(height) * HALF - np.float32(y) - HALF) / focal
                slope, left_end, right_end = basis[2, 1] + up * basis[1, 1], 0, 0
                if slope >= HORIZON:
                    continue
                ahead = -eye[1] / slope
                slack = (FLAT + FLATTER * ahead) / (ahead * eye[1])
                left, pixel = (HALF - np.float32(width) * HALF) / focal, ahead / focal
                x0 = eye[0] + ahead * (basis[2, 0] + left * basis[0, 0] + up * basis[1, 0])
                z0 = eye[2] + ahead * (basis[2, 2] + left * basis[0, 2] + up * basis[1, 2])
                for k in range(len(marks)):
                    if not spans[k, S_TOP] <= y < spans[k, S_BOTTOM]:
                        continue
                    c, s, per = marks[k, D_COSINE], marks[k, D_SINE], marks[k, D_INVERSE_HALF]
                    u, v = (
                        (c * (x0 - marks[k, D_X]) - s * (z0 - marks[k, D_Z])) * per,
                        (s * (x0 - marks[k, D_X]) + c * (z0 - marks[k, D_Z])) * per,
                    )
                    step_u = (c * basis[0, 0] - s * basis[0, 2]) * pixel * per
                    step_v = (s * basis[0, 0] + c * basis[0, 2]) * pixel * per
                    first, end = _within(u, step_u, int(spans[k, S_LEFT]), int(spans[k, S_RIGHT]))
                    first, end = _within(v, step_v, first, end)
                    if first >= end:
                        continue
                    if left_end == right_end:
                        left_end, right_end = _columns_of(y, marks, spans, width)
                        for x in range(np.uint64(left_end), np.uint64(right_end)):
                            depths[U1, x + U1] = depth[y, x]
                            for channel in range(3):
                                rows[channel, x] = picture[channel, y, x]
                        for x in range(right_end, right_end + 8):
                            depths[1, x + 1] = ZERO
                            rows[0, x], rows[1, x], rows[2, x] = ZERO, ZERO, ZERO
                    _mark_row(
                        depths, rows, u, v, step_u, step_v, (ahead, slack), marks, k, first, end, picks[k, 0],
                        picks[k, 1], flags, planes,
                    )  # fmt: skip
                for channel in range(3):
                    for x in range(np.uint64(left_end), np.uint64(right_end)):
                        picture[channel, y, x] = rows[channel, x]
            block = next_turn(turns)


@drawing_helper
def _begin_row(depth, y, out):  # type: ignore[no-untyped-def]
    """Write row `y` of depths, with those above and below, into `out` (3, W + SPARE), and a column on either side.

    Beyond the picture all goes on as it was: of what is plane, inverse distances lie on a line.
    """
    height, width = depth.shape
    for k in range(3):
        row, line, to = depth[min(max(y + k - 1, 0), height - 1)], out[k], y + k - 1
        if to < 0 or to >= height:
            other = depth[min(1, height - 1) if to < 0 else max(height - 2, 0)]
            for x in range(width):
                line[x + 1] = row[x] + row[x] - other[x]
        else:
            for x in range(width):
                line[x + 1] = row[x]
        line[0] = line[1] + line[1] - line[min(2, width)]
        for x in range(width + 1, width + SPARE):
            line[x] = line[width] + line[width] - line[max(width - 1, 1)]


@drawing_inlined
def _likelier(here, before, after):  # type: ignore[no-untyped-def]
    """Return which of two neighbours is likelier on the same surface, as 1 or -1, and how far it is, inverse too."""
    zero, one = here - here, spread8(ONE)
    back, on = before - here, after - here
    later = greater(larger(back, zero - back), larger(on, zero - on))
    way, found = chosen(later, one, zero - one), chosen(later, after, before)
    return way, one / larger(found, spread8(TINY))


@drawing_helper
def _light_row(depths, y, height, width, eye, basis, focal, lights, spans, listed, count, first, end, out):  # type: ignore[no-untyped-def]
    """Write what the `listed` lights send to a row's pixels from `first` to `end` into `out` (3, W + SPARE).

    `depths` (3, W + SPARE) are as `_begin_row` writes them.
    """
    line, per, zero, one = np.uint64(depths.shape[1]), ONE / focal, spread8(ZERO), spread8(ONE)
    up, half = (np.float32(height) * HALF - np.float32(y) - HALF) * per, np.float32(width) * HALF - HALF
    ax, ay, az = spread8(basis[0, 0] * per), spread8(basis[0, 1] * per), spread8(basis[0, 2] * per)
    bx, by, bz = spread8(-basis[1, 0] * per), spread8(-basis[1, 1] * per), spread8(-basis[1, 2] * per)
    wrap, share_out = spread8(WRAP), spread8(ONE / (ONE + WRAP))
    for x in range(first, end, 8):
        at = np.uint64(x)
        here = read(zero, depths, at + line + U1)
        red, green, blue = zero, zero, zero
        solid = greater(here, zero)
        if any_of(solid):
            right = numbered(zero) + spread8(np.float32(x) - half)
            vx = fused(right, ax, spread8(basis[2, 0] + up * basis[1, 0]))
            vy = fused(right, ay, spread8(basis[2, 1] + up * basis[1, 1]))
            vz = fused(right, az, spread8(basis[2, 2] + up * basis[1, 2]))
            ahead = one / larger(here, spread8(TINY))
            px, py, pz = ahead * vx, ahead * vy, ahead * vz
            # Which way the surface faces: across the ways to two neighbours on it.
            way, far = _likelier(here, read(zero, depths, at + line), read(zero, depths, at + line + U2))
            cx, cy, cz = far * fused(way, ax, vx) - px, far * fused(way, ay, vy) - py, far * fused(way, az, vz) - pz
            way, far = _likelier(here, read(zero, depths, at + U1), read(zero, depths, at + line + line + U1))
            dx, dy, dz = far * fused(way, bx, vx) - px, far * fused(way, by, vy) - py, far * fused(way, bz, vz) - pz
            nx, ny, nz = cy * dz - cz * dy, cz * dx - cx * dz, cx * dy - cy * dx
            size = root(nx * nx + ny * ny + nz * nz) + spread8(TINIEST)
            away = greater(nx * px + ny * py + nz * pz, zero)
            unit = chosen(away, zero - one, one) / size
            nx, ny, nz = nx * unit, ny * unit, nz * unit
            for n in range(count):
                k = listed[n]
                if spans[k, S_LEFT] < x + 8 and spans[k, S_RIGHT] > x:
                    lx = spread8(lights[k, L_X] - eye[0]) - px
                    ly = spread8(lights[k, L_Y] - eye[1]) - py
                    lz = spread8(lights[k, L_Z] - eye[2]) - pz
                    square = lx * lx + ly * ly + lz * lz
                    share = larger(one - square * spread8(ONE / (lights[k, L_REACH] * lights[k, L_REACH])), zero)
                    if any_of(greater(share, zero)):
                        facing = (nx * lx + ny * ly + nz * lz) / (root(square) + spread8(TINY)) + wrap
                        strength = share * share * larger(facing, zero) * share_out
                        red = fused(strength, spread8(lights[k, L_RED]), red)
                        green = fused(strength, spread8(lights[k, L_GREEN]), green)
                        blue = fused(strength, spread8(lights[k, L_BLUE]), blue)
        write(out, at, chosen(solid, red, zero))
        write(out, at + line, chosen(solid, green, zero))
        write(out, at + line + line, chosen(solid, blue, zero))


@drawing_kernel
def add_lights(picture, depth, eye, basis, focal, lights, spans, skip):  # type: ignore[no-untyped-def]
    """Add what lights (N, LIGHT_COLUMNS) do to all that is solid in the picture (3, H, W).

    `depth` (H, W) is its inverse distance; each light shows within the columns and rows `spans` (N, 4: first, end,
    first, end). It fades to nothing at its reach, by (1 - r²)² for a distance of r reaches, and falls on surfaces by
    how they face it. What colour a surface has is guessed from how it looks in the light there is. Of each `skip`
    (1 or 2) rows what is sent to the first serves all.
    """
    height, width = depth.shape
    for block in prange((height + ROWS - 1) // ROWS):
        listed = np.empty(len(lights), np.int32)
        depths, sent = np.empty((3, width + SPARE), np.float32), np.empty((3, width + SPARE), np.float32)
        for y in range(block * ROWS, min(height, (block + 1) * ROWS), skip):
            count, first, end = 0, width, 0
            for k in range(len(lights)):
                if spans[k, S_TOP] < y + skip and spans[k, S_BOTTOM] > y:
                    listed[count] = k
                    count += 1
                    first, end = min(first, spans[k, S_LEFT]), max(end, spans[k, S_RIGHT])
            if first >= end:
                continue
            _begin_row(depth, y, depths)
            _light_row(depths, y, height, width, eye, basis, focal, lights, spans, listed, count, first, end, sent)
            for other in range(y, min(y + skip, height)):
                for channel in range(3):
                    row, more = picture[channel, other], sent[channel]
                    for x in range(first, end):
                        row[x] += more[x] * min(max(row[x] / MEAN, MIN_COLOUR), MAX_COLOUR)
