"""Kernels that colour ground and sky, row by row."""

from __future__ import annotations

import math

import numpy as np

from wraithon.numeric.compiled import drawing_helper, drawing_kernel, inlined, prange
from wraithon.numeric.vector_memory import fetch, fetch_floats, read, write
from wraithon.numeric.vectors import (
    alike_whole,
    floats,
    fused,
    larger,
    lowered,
    numbered,
    shifted,
    smaller,
    spread8,
    whole,
)
from wraithon.numeric.work_queue import HANDS, fresh_turns, next_turn
from wraithon.picture.light import (
    KEY_B,
    KEY_G,
    KEY_R,
    SKY_B,
    SKY_G,
    SKY_R,
)  # fmt: skip

ZERO, ONE, HALF, TWO = np.float32(0), np.float32(1), np.float32(0.5), np.float32(2)
HORIZON = np.float32(-1e-4)
"""Rays that look less far down than this see the sky."""
BYTE = np.float32(1 / 255)
GROUND_UNIT = np.float32(0.3 / 255**2)


@inlined
def _sky_row(vy, up, vx_start, stride, sky, red, green, blue):  # type: ignore[no-untyped-def]
    """Write a row of sky; `up` is the vertical part of its rays before they are made unit length."""
    for x in range(len(red)):
        vx = vx_start + np.float32(x) * stride
        share = ONE - min(ONE, max(ZERO, up / math.sqrt(ONE + vx * vx + vy * vy) * np.float32(1.6)))
        share = share * share * share
        red[x] = sky[0] + (sky[3] - sky[0]) * share
        green[x] = sky[1] + (sky[4] - sky[1]) * share
        blue[x] = sky[2] + (sky[5] - sky[2]) * share


@inlined
def _inside(start, step, low, high, count):  # type: ignore[no-untyped-def]
    """Return the first place and the end of where start + step * x lies in [low, high), for x below count."""
    if abs(step) < np.float32(1e-9):
        return (0, count) if low <= start < high else (0, 0)
    p, q = (low - start) / step, (high - start) / step
    first, end = min(p, q), max(p, q)
    limit = np.float32(count)
    return int(min(max(np.ceil(first), ZERO), limit)), int(min(max(np.floor(end), ZERO), limit))


@drawing_helper
def _shade_row(shadow, u_start, u_step, v_start, v_step, first, end, work):  # type: ignore[no-untyped-def]
    """Write what the shadow lets through into the third row of `work`, from column `first` to before `end`."""
    one, size = spread8(ONE), np.int32(len(shadow))
    next_, line, maximum = alike_whole(one, np.int32(1)), alike_whole(one, size), alike_whole(one, size - np.int32(2))
    zero, row = alike_whole(one, np.int32(0)), 2 * work.shape[1]
    for x in range(first, end, 8):
        along = numbered(one) + spread8(np.float32(x))
        u, v = fused(along, spread8(u_step), spread8(u_start)), fused(along, spread8(v_step), spread8(v_start))
        fu, fv = lowered(u), lowered(v)
        su, sv = u - fu, v - fv
        # The last eight may reach beyond the end, and what is written there is put right below.
        at = smaller(larger(whole(fv), zero), maximum) * line + smaller(larger(whole(fu), zero), maximum)
        a, c = fetch_floats(shadow, at), fetch_floats(shadow, at + line)
        top = fused(su, fetch_floats(shadow, at + next_) - a, a)
        low = fused(su, fetch_floats(shadow, at + line + next_) - c, c)
        write(work, np.uint64(row + x), one - spread8(np.float32(0.88)) * fused(sv, low - top, top))
    if first < end:
        write(work, np.uint64(row + end), one)


@drawing_helper
def _kind_row(lies, x_start, x_step, z_start, z_step, count, work):  # type: ignore[no-untyped-def]
    """Write by how many texels the ground's kind lies after the first kind, into the first row of `work`."""
    one, high, width = spread8(ONE), np.int32(lies.starts.shape[0]), np.int32(lies.starts.shape[1])
    zero, line = spread8(ZERO), alike_whole(one, width)
    right, low = spread8(np.float32(width - 1)), spread8(np.float32(high - 1))
    for x in range(0, count, 8):
        along = numbered(one) + spread8(np.float32(x))
        # What lies beyond the outermost cells is as they are: of the stage's own kind.
        column = fused(along, spread8(x_step * lies.finer), spread8((x_start - lies.x) * lies.finer))
        row = fused(along, spread8(z_step * lies.finer), spread8((z_start - lies.z) * lies.finer))
        column = whole(lowered(smaller(larger(column, zero), right)))
        row = whole(lowered(smaller(larger(row, zero), low)))
        write(work, np.uint64(x), fetch_floats(lies.starts, row * line + column))


@drawing_helper
def _stone_row(  # type: ignore[no-untyped-def]
    texels, first, side, u_start, u_step, v_start, v_step, count, several, work
):
    """Write the ground's texels, red, green, blue and gloss, into the last four rows of `work`.

    Of `several` kinds, the first row says by how many texels each comes after the first.
    """
    one, half = spread8(ONE), spread8(HALF)
    next_, mask, line = (
        alike_whole(one, np.int32(1)),
        alike_whole(one, np.int32(side - 1)),
        alike_whole(one, np.int32(side)),
    )
    start, byte, viewport = alike_whole(one, np.int32(first)), alike_whole(one, np.int32(255)), work.shape[1]
    for x in range(0, count, 8):
        along = numbered(one) + spread8(np.float32(x))
        begin = start + whole(read(one, work, np.uint64(x))) if several else start
        u = fused(along, spread8(u_step), spread8(u_start)) - half
        v = fused(along, spread8(v_step), spread8(v_start)) - half
        fu, fv = lowered(u), lowered(v)
        su, sv = u - fu, v - fv
        x0, y0 = whole(fu), whole(fv)
        x1, y1 = (x0 + next_) & mask, ((y0 + next_) & mask) * line + begin
        x0, y0 = x0 & mask, (y0 & mask) * line + begin
        a, b, c, d = fetch(texels, y0 + x0), fetch(texels, y0 + x1), fetch(texels, y1 + x0), fetch(texels, y1 + x1)
        wa, wb, wc, wd = (one - su) * (one - sv), su * (one - sv), (one - su) * sv, su * sv
        for channel in range(4):
            by = np.int32(8 * channel)
            light = wa * floats(shifted(a, by) & byte) + wb * floats(shifted(b, by) & byte)
            light = light + wc * floats(shifted(c, by) & byte) + wd * floats(shifted(d, by) & byte)
            write(work, np.uint64((3 + channel) * viewport + x), light)


@inlined
def _ground_row(  # type: ignore[no-untyped-def]
    vy,
    down,
    vx_start,
    stride,
    eye,
    basis,
    light,
    texels,
    levels,
    lies,
    metres,
    shadow,
    origin,
    cell,
    sky,
    work,
    red,
    green,
    blue,
):
    """Write a row of ground.

    The camera never rolls, so a row of pixels meets the ground along a straight line at one distance
    ahead: level of detail, haze and mirror strength belong to the row. The work is split into plain
    loops over `work` (7, width + 8) because the compiler turns those into vector code.
    """
    count = len(red)
    far = -eye[1] / down
    x_start = eye[0] + far * (basis[2, 0] + vy * basis[1, 0] + vx_start * basis[0, 0])
    z_start = eye[2] + far * (basis[2, 2] + vy * basis[1, 2] + vx_start * basis[0, 2])
    x_step, z_step = far * basis[0, 0] * stride, far * basis[0, 2] * stride
    slant = -down / math.sqrt(ONE + vy * vy)
    # A pixel covers more ground along the ray than across it; the square root of both is a fair middle.
    spanned = far * stride * np.float32(levels[0, 1]) / metres / math.sqrt(max(slant, np.float32(0.02)))
    level = 0
    while level < levels.shape[0] - 1 and spanned > np.float32(1.3):
        spanned *= HALF
        level += 1
    first, side = levels[level, 0], levels[level, 1]
    size = np.float32(shadow.shape[0])
    x_pool, z_pool = x_start - origin[0] - HALF * size / cell, z_start - origin[1] - HALF * size / cell
    lx, ly, lz = light[0], light[1], light[2]
    glint_start = (basis[2, 0] + vy * basis[1, 0] + vx_start * basis[0, 0]) * lx - down * ly
    glint_start += (basis[2, 2] + vy * basis[1, 2] + vx_start * basis[0, 2]) * lz
    glint_step = (basis[0, 0] * lx + basis[0, 2] * lz) * stride
    long = ONE + vy * vy
    scale = np.float32(side) / metres
    several = lies.starts.size > 0
    if several:
        _kind_row(lies, x_start, x_step, z_start, z_step, count, work)
    _stone_row(
        texels, first, side, x_start * scale, x_step * scale, z_start * scale, z_step * scale, count, several, work
    )
    for x in range(count):
        along = np.float32(x)
        px, pz = x_pool + along * x_step, z_pool + along * z_step
        vx = vx_start + along * stride
        glint = max(ZERO, glint_start + along * glint_step) / math.sqrt(long + vx * vx)
        glint = glint * glint
        glint = glint * glint
        # A pool of light around the stage, so that the horizon sinks into the haze.
        work[0, x] = ONE / (ONE + (px * px + pz * pz) * np.float32(0.05))
        work[1, x] = glint * glint * glint
        work[2, x] = ONE
    u_start, v_start = (x_start - origin[0]) * cell - HALF, (z_start - origin[1]) * cell - HALF
    a0, a1 = _inside(u_start, x_step * cell, ONE, size - TWO, count)
    b0, b1 = _inside(v_start, z_step * cell, ONE, size - TWO, count)
    _shade_row(shadow, u_start, x_step * cell, v_start, z_step * cell, max(a0, b0), min(a1, b1), work)
    # Wet stone mirrors the sky (Schlick 1994) and glints where the key light is mirrored.
    grazing = ONE - slant
    fresnel = np.float32(0.05) + np.float32(0.95) * grazing * grazing * grazing * grazing * grazing
    up = ONE - min(ONE, slant * np.float32(1.6))
    up = up * up * up * np.float32(2.2) * fresnel
    haze_r, haze_g, haze_b = sky[3], sky[4], sky[5]
    mirror_r, mirror_g, mirror_b = (
        haze_r * up + sky[0] * fresnel,
        haze_g * up + sky[1] * fresnel,
        haze_b * up + sky[2] * fresnel,
    )
    haze = ONE - math.exp(-far * math.sqrt(long) * np.float32(0.07))
    for x in range(count):
        pool, shade, gloss = work[0, x], work[2, x], work[6, x] * BYTE
        direct = ly * shade * pool
        ambient = (np.float32(0.35) + np.float32(0.65) * shade) * (HALF + HALF * pool)
        glint = gloss * gloss * work[1, x] * shade * pool * HALF
        stone = work[3, x] * work[3, x] * GROUND_UNIT
        light_r = stone * (KEY_R * direct + SKY_R * ambient) + gloss * mirror_r + glint * KEY_R
        stone = work[4, x] * work[4, x] * GROUND_UNIT
        light_g = stone * (KEY_G * direct + SKY_G * ambient) + gloss * mirror_g + glint * KEY_G
        stone = work[5, x] * work[5, x] * GROUND_UNIT
        light_b = stone * (KEY_B * direct + SKY_B * ambient) + gloss * mirror_b + glint * KEY_B
        red[x] = light_r + (haze_r - light_r) * haze
        green[x] = light_g + (haze_g - light_g) * haze
        blue[x] = light_b + (haze_b - light_b) * haze


@inlined
def ray_up(y, height, pixel, basis):  # type: ignore[no-untyped-def]
    """Return how far up the rays of a row of pixels look, in the camera and in the world."""
    vy = (np.float32(height) * HALF - y - HALF) * pixel
    return vy, basis[2, 1] + vy * basis[1, 1]


@drawing_kernel
def light_context(  # type: ignore[no-untyped-def]
    ground_levels, ground_texels, lies, metres, shadow, origin, cell, eye, basis, light, focal, sky, rows, skip,
    width, height, out,
):  # fmt: skip
    """Write the linear RGB of ground and sky into `out` (3, h, w), of which a pixel is `skip` picture pixels wide.

    The `sky` (6,) is its linear RGB overhead, and that of the haze at the horizon.
    """
    pixel = ONE / focal
    step = np.float32(skip)
    stride = pixel * step
    vx_start = (step * HALF - np.float32(width) * HALF) * pixel
    turns = fresh_turns()
    for _hand in prange(HANDS):
        turn = next_turn(turns)
        while turn < len(rows):
            y = rows[turn]
            work, red, green, blue = np.empty((7, out.shape[2] + 8), np.float32), out[0, y], out[1, y], out[2, y]
            vy, up = ray_up((np.float32(y) + HALF) * step - HALF, height, pixel, basis)
            if up < HORIZON:
                _ground_row(
                    vy, up, vx_start, stride, eye, basis, light, ground_texels, ground_levels, lies, metres,
                    shadow, origin, cell, sky, work, red, green, blue,
                )  # fmt: skip
            else:
                _sky_row(vy, up, vx_start, stride, sky, red, green, blue)
            turn = next_turn(turns)
