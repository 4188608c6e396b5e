"""The kernel that colours what the opaque pass found."""

from __future__ import annotations

import math

import numpy as np
from numba import prange

from wraithon.compiled import drawing_kernel, inlined
from wraithon.picture.doubling import double_row, pair_of_rows
from wraithon.picture.ground_kernels import HORIZON, ray_up
from wraithon.picture.light import (
    KEY_B,
    KEY_G,
    KEY_R,
    LOW_B,
    LOW_G,
    LOW_R,
    RIM_B,
    RIM_G,
    RIM_R,
    SKY_B,
    SKY_G,
    SKY_R,
)  # fmt: skip
from wraithon.picture.raster_kernels import dissolve_noise

__all__ = ["shade_picture"]

ZERO, ONE, HALF, TWO = np.float32(0), np.float32(1), np.float32(0.5), np.float32(2)
QUARTER, THREE_QUARTERS = np.float32(0.25), np.float32(0.75)
TINY = np.float32(1e-12)
BYTE_SQUARED = np.float32(1 / 255**2)
FIGURE = np.float32(0.55)
K0, K1, K2, K3 = np.uint64(0), np.uint64(1), np.uint64(2), np.uint64(3)


@inlined
def _texel(texels, first, wide, high, u, v, out):  # type: ignore[no-untyped-def]
    """Write the linear RGB at (u, v), repeating, of a (high, wide) picture stored from row `first`.

    Texels are square roots of linear light in bytes: a quarter of the memory of floats, which is what
    sampling waits for, and finer in the dark than plain bytes.
    """
    x = (u - np.floor(u)) * np.float32(wide) - HALF
    y = (v - np.floor(v)) * np.float32(high) - HALF
    fx, fy = np.floor(x), np.floor(y)
    sx, sy = x - fx, y - fy
    x0, y0 = int(fx), int(fy)
    x1, y1 = x0 + 1, y0 + 1
    if x0 < 0:
        x0 += wide
    if y0 < 0:
        y0 += high
    if x1 >= wide:
        x1 -= wide
    if y1 >= high:
        y1 -= high
    a, b = np.uint64(first + y0 * wide + x0), np.uint64(first + y0 * wide + x1)
    c, d = np.uint64(first + y1 * wide + x0), np.uint64(first + y1 * wide + x1)
    wa, wb, wc, wd = (ONE - sx) * (ONE - sy), sx * (ONE - sy), (ONE - sx) * sy, sx * sy
    red = wa * np.float32(texels[a, K0]) + wb * np.float32(texels[b, K0])
    red += wc * np.float32(texels[c, K0]) + wd * np.float32(texels[d, K0])
    green = wa * np.float32(texels[a, K1]) + wb * np.float32(texels[b, K1])
    green += wc * np.float32(texels[c, K1]) + wd * np.float32(texels[d, K1])
    blue = wa * np.float32(texels[a, K2]) + wb * np.float32(texels[b, K2])
    blue += wc * np.float32(texels[c, K2]) + wd * np.float32(texels[d, K2])
    out[0], out[1], out[2] = (
        red * red * BYTE_SQUARED,
        green * green * BYTE_SQUARED,
        blue * blue * BYTE_SQUARED,
    )


@inlined
def _body(  # type: ignore[no-untyped-def]
    t,
    x,
    y,
    screen,
    triangles,
    points,
    normals,
    uvs,
    parts,
    materials,
    levels,
    texels,
    heat,
    ramp,
    rest,
    dissolving,
    border,
    eye,
    light,
    pixel,
    hold,
    out,
):
    """Write the colour of triangle `t` at sample (x, y)."""
    # Unsigned places spare the compiler the question whether they count from the end.
    a, b, c = np.uint64(triangles[t, 0]), np.uint64(triangles[t, 1]), np.uint64(triangles[t, 2])
    ax, ay = screen[a, 0], screen[a, 1]
    bx, by = screen[b, 0] - ax, screen[b, 1] - ay
    qx, qy = screen[c, 0] - ax, screen[c, 1] - ay
    scale = ONE / (bx * qy - qx * by)
    px, py = x - ax, y - ay
    share_b = max(ZERO, min(ONE, (px * qy - py * qx) * scale))
    share_c = max(ZERO, min(ONE - share_b, (py * bx - px * by) * scale))
    wa = (ONE - share_b - share_c) * screen[a, 2]
    wb, wc = share_b * screen[b, 2], share_c * screen[c, 2]
    total = ONE / (wa + wb + wc)
    wa, wb, wc = wa * total, wb * total, wc * total
    vx = eye[0] - (wa * points[a, 0] + wb * points[b, 0] + wc * points[c, 0])
    vy = eye[1] - (wa * points[a, 1] + wb * points[b, 1] + wc * points[c, 1])
    vz = eye[2] - (wa * points[a, 2] + wb * points[b, 2] + wc * points[c, 2])
    far = math.sqrt(vx * vx + vy * vy + vz * vz)
    inverse = ONE / far
    vx, vy, vz = vx * inverse, vy * inverse, vz * inverse
    nx = wa * normals[a, 0] + wb * normals[b, 0] + wc * normals[c, 0]
    ny = wa * normals[a, 1] + wb * normals[b, 1] + wc * normals[c, 1]
    nz = wa * normals[a, 2] + wb * normals[b, 2] + wc * normals[c, 2]
    inverse = ONE / math.sqrt(max(nx * nx + ny * ny + nz * nz, TINY))
    nx, ny, nz = nx * inverse, ny * inverse, nz * inverse
    facing = nx * vx + ny * vy + nz * vz
    material = parts[t]
    eaten = border[0] > ZERO and dissolving[t] > 0
    if facing < ZERO and (eaten or materials[material, 8] > ZERO):
        nx, ny, nz, facing = -nx, -ny, -nz, -facing
    facing = max(facing, ZERO)
    red, green, blue = materials[material, 0], materials[material, 1], materials[material, 2]
    glow = ONE
    if len(heat) > 1:
        value = wa * heat[a] + wb * heat[b] + wc * heat[c]
        # The first colour of the ramp is that of no figure at all.
        step = 0 if value < ZERO else 1 + int(min(value, ONE) * np.float32(len(ramp) - 2))
        red, green, blue, glow = ramp[step, 0], ramp[step, 1], ramp[step, 2], ZERO
    elif levels[material, 0, 1] > 0:
        # How many texels a pixel spans decides the level (Williams 1983).
        spanned = materials[material, 7] * far * pixel
        level = 0
        while level < levels.shape[1] - 1 and spanned > np.float32(1.4) and levels[material, level + 1, 1] > 0:
            spanned *= HALF
            level += 1
        u = wa * uvs[a, 0] + wb * uvs[b, 0] + wc * uvs[c, 0]
        v = wa * uvs[a, 1] + wb * uvs[b, 1] + wc * uvs[c, 1]
        _texel(
            texels,
            levels[material, level, 0],
            levels[material, level, 1],
            levels[material, level, 2],
            u,
            v,
            hold,
        )
        red, green, blue = red * hold[0], green * hold[1], blue * hold[2]
    lit = nx * light[0] + ny * light[1] + nz * light[2]
    wrap = max(ZERO, (lit + np.float32(0.25)) * np.float32(0.8))
    wrap = wrap * wrap * np.float32(0.35) + max(ZERO, lit) * np.float32(0.65)
    up = ny * HALF + HALF
    # Highlight: Blinn 1977; the exponent is two to the number of squarings the material asks for.
    hx, hy, hz = light[0] + vx, light[1] + vy, light[2] + vz
    inverse = ONE / math.sqrt(max(hx * hx + hy * hy + hz * hz, TINY))
    shine = max(ZERO, (nx * hx + ny * hy + nz * hz) * inverse)
    power = ONE
    for _ in range(int(materials[material, 3])):
        shine, power = shine * shine, power + power
    shine = shine * (power + TWO) * np.float32(0.006) * max(ZERO, lit)
    edge = ONE - facing
    edge = edge * edge * edge
    if glow == ZERO:
        # Figures are read by their colour: an even light, and nothing that shines.
        wrap, up, shine = HALF * wrap + QUARTER, HALF, ZERO
        red, green, blue, edge = red * FIGURE, green * FIGURE, blue * FIGURE, ZERO
    behind = max(ZERO, np.float32(0.35) - nx * light[0] - nz * light[2]) * edge
    out[0] = red * (KEY_R * wrap + SKY_R * up + LOW_R * (ONE - up)) + KEY_R * shine + RIM_R * behind
    out[1] = green * (KEY_G * wrap + SKY_G * up + LOW_G * (ONE - up)) + KEY_G * shine + RIM_G * behind
    out[2] = blue * (KEY_B * wrap + SKY_B * up + LOW_B * (ONE - up)) + KEY_B * shine + RIM_B * behind
    for k in range(3):
        out[k] += materials[material, 4 + k] * glow
    if eaten:
        beyond = (dissolve_noise(rest, a, b, c, wb, wc, border[1]) - border[0]) / max(border[2], TINY)
        shine = max(ZERO, ONE - max(beyond, ZERO))
        shine = shine * shine
        for k in range(3):
            out[k] += border[3 + k] * shine


@inlined
def _copy_row(around, y, skip, middle, row):  # type: ignore[no-untyped-def]
    """Write a row (3 W,) of the picture from surroundings (h, 3 w) that are `skip` (1 or 2) times as coarse."""
    if skip == 1:
        for i in range(len(row)):
            row[i] = around[y, i]
        return
    near, other = pair_of_rows(y, len(around))
    for i in range(len(middle)):
        middle[i] = around[near, i] * THREE_QUARTERS + around[other, i] * QUARTER
    double_row(middle, row)


@drawing_kernel
def shade_picture(  # type: ignore[no-untyped-def]
    screen, triangles, points, normals, uvs, parts, materials, levels, texels, heat, ramp,
    rest, dissolving, border, around, skip, eye, basis, light, focal, depth, ids, extents, band, rows, out, out_depth,
):  # fmt: skip
    """Colour every pixel: linear RGB into `out` (H, 3 W), inverse distance into `out_depth` (H, W).

    First what is `around` (h, 3 w), `skip` (1 or 2) times as coarse, then the character where its
    samples are. `heat` (V,) colours it by `ramp` (R, 3) instead of its textures; (1,) leaves them.
    `border` (6,) is the dissolve's: share gone, blotches a metre, width, and linear colour of its glow.
    """
    height, width = out_depth.shape
    pixel = ONE / focal
    for turn in prange(len(rows)):
        y = rows[turn]
        hold, one, total = np.empty(4, np.float32), np.empty(3, np.float32), np.empty(3, np.float32)
        middle = np.empty(around.shape[1], np.float32)
        _, up = ray_up(np.float32(y), height, pixel, basis)
        _copy_row(around, y, skip, middle, out[y])
        ground = up / -eye[1] if up < HORIZON else ZERO
        for x in range(width):
            out_depth[y, x] = ground
        first, last = extents[2 * y // band, 0], extents[2 * y // band, 1]
        for x in range(first // 2, (last + 2) // 2):
            d0, d1 = depth[2 * y, 2 * x], depth[2 * y, 2 * x + 1]
            d2, d3 = depth[2 * y + 1, 2 * x], depth[2 * y + 1, 2 * x + 1]
            near, least = max(max(d0, d1), max(d2, d3)), min(min(d0, d1), min(d2, d3))
            if near == ZERO:
                continue
            agree = least > ZERO and near - least < near * np.float32(0.01)
            total[0], total[1], total[2] = ZERO, ZERO, ZERO
            open_samples = 0
            for k in range(4):
                sy, sx = 2 * y + k // 2, 2 * x + k % 2
                t = ids[sy, sx]
                if t < 0:
                    open_samples += 1
                    continue
                _body(
                    t, np.float32(sx) + HALF, np.float32(sy) + HALF, screen, triangles, points, normals, uvs,
                    parts, materials, levels, texels, heat, ramp, rest, dissolving, border,
                    eye, light, pixel, hold, one,
                )  # fmt: skip
                share = ONE if agree else QUARTER
                for c in range(3):
                    total[c] += one[c] * share
                if agree:
                    break
            share = np.float32(open_samples) * QUARTER
            for c in range(3):
                out[y, 3 * x + c] = total[c] + out[y, 3 * x + c] * share
            out_depth[y, x] = near
