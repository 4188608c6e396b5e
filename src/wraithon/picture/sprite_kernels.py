"""Kernels of the transparent pass: place sprites on the picture, bin them, and lay them over each other."""

from __future__ import annotations

import math

import numpy as np
from numba import prange

from wraithon.compiled import BLOCK, kernel, parallel_kernel

__all__ = ["COLUMNS", "ROWS", "bin_sprites", "lay_over", "lay_sprites", "place_sprites"]

ZERO, ONE, HALF, TWO = np.float32(0), np.float32(1), np.float32(0.5), np.float32(2)
NEAR = np.float32(0.05)
LEAST = np.float32(0.75)
"""Smallest half width in pixels; thinner sprites are drawn this wide and as much fainter."""
ROWS = 8
"""Pixel rows in a band of the transparent pass."""
COLUMNS = 12
"""x, y, inverse distance, half width, half height, cosine, sine, red, green, blue, opacity, 1 / soft."""


@parallel_kernel
def place_sprites(  # type: ignore[no-untyped-def]
    positions, velocities, sizes, turns, colours, frames, eye, basis, focal, width, height,
    along, stretch, soft, lit, levels, frame_count, out, picks,
):  # fmt: skip
    """Write placed sprites into `out` (N, COLUMNS) and their texels' start and side into `picks` (N, 2).

    A sprite that cannot be seen gets an inverse distance of 0. `along` turns its upright along the
    velocity as seen, lengthened by `stretch` seconds of it. `lit` scales colour by the storm's light.
    """
    count = len(positions)
    for block in prange((count + BLOCK - 1) // BLOCK):
        for i in range(block * BLOCK, min(count, (block + 1) * BLOCK)):
            out[i, 2] = ZERO
            x, y, z = positions[i, 0] - eye[0], positions[i, 1] - eye[1], positions[i, 2] - eye[2]
            depth = x * basis[2, 0] + y * basis[2, 1] + z * basis[2, 2]
            opacity = colours[i, 3]
            # Comparisons are turned so that a NaN is left out, too.
            if not depth >= NEAR or not sizes[i] > ZERO or not opacity > ZERO:
                continue
            inverse = ONE / depth
            scale = inverse * focal
            sx = np.float32(width) * HALF + (x * basis[0, 0] + y * basis[0, 1] + z * basis[0, 2]) * scale
            sy = np.float32(height) * HALF - (x * basis[1, 0] + y * basis[1, 1] + z * basis[1, 2]) * scale
            half_x = sizes[i] * HALF * scale
            half_y = half_x
            cosine, sine = math.cos(turns[i]), math.sin(turns[i])
            if along:
                vx, vy, vz = velocities[i, 0], velocities[i, 1], velocities[i, 2]
                right = vx * basis[0, 0] + vy * basis[0, 1] + vz * basis[0, 2]
                up = vx * basis[1, 0] + vy * basis[1, 1] + vz * basis[1, 2]
                speed = math.sqrt(right * right + up * up)
                if speed > np.float32(1e-5):
                    cosine, sine = up / speed, right / speed
                half_y = half_x + speed * stretch * HALF * scale
            faint = ONE
            if half_x < LEAST:
                faint = max(half_x, ZERO) / LEAST
                half_x = LEAST
            if half_y < LEAST:
                faint *= max(half_y, ZERO) / LEAST
                half_y = LEAST
            reach = abs(half_x) + abs(half_y)
            if not (
                sx + reach >= ZERO and sx - reach <= width and sy + reach >= ZERO and sy - reach <= height
            ):
                continue
            # Nearer than its own size a sprite would cover everything: it fades out instead.
            close = min(ONE, max(ZERO, (depth - NEAR) / max(sizes[i], np.float32(0.05))))
            opacity = min(opacity, ONE) * faint * close
            if opacity <= np.float32(0.0005):
                continue
            level = 0
            while level < levels.shape[0] - 1 and np.float32(levels[level + 1, 1]) >= half_y * TWO:
                level += 1
            side = levels[level, 1]
            picks[i, 0] = levels[level, 0] + (frames[i] % frame_count) * side * side
            picks[i, 1] = side
            out[i, 0], out[i, 1], out[i, 2] = sx, sy, inverse
            out[i, 3], out[i, 4], out[i, 5], out[i, 6] = half_x, half_y, cosine, sine
            shade = np.float32(0.55) if lit else ONE
            out[i, 7] = colours[i, 0] * shade
            out[i, 8] = colours[i, 1] * shade
            out[i, 9] = colours[i, 2] * shade
            out[i, 10] = opacity
            out[i, 11] = ONE / max(soft, np.float32(1e-4))


@kernel
def bin_sprites(sprites, order, height, counts, lists):  # type: ignore[no-untyped-def]
    """List, in drawing order, the sprites that touch each band of rows; return how many entries there are."""
    bands = len(counts) - 1
    for phase in range(2):
        if phase == 0:
            counts[:] = 0
        for k in range(len(order)):
            i = order[k]
            reach = abs(sprites[i, 3] * sprites[i, 6]) + abs(sprites[i, 4] * sprites[i, 5])
            top, bottom = sprites[i, 1] - reach, sprites[i, 1] + reach
            if bottom < ZERO or top >= height:
                continue
            first = int(max(top, ZERO)) // ROWS
            last = min(int(min(bottom, np.float32(height - 1))) // ROWS, bands - 1)
            for band in range(first, last + 1):
                if phase == 0:
                    counts[band + 1] += 1
                else:
                    lists[counts[band]] = i
                    counts[band] += 1
        if phase == 0:
            for band in range(bands):
                counts[band + 1] += counts[band]
            if counts[bands] > len(lists):
                return counts[bands]
    for band in range(bands, 0, -1):
        counts[band] = counts[band - 1]
    counts[0] = 0
    return counts[bands]


@parallel_kernel
def lay_sprites(sprites, picks, additive, counts, lists, order, texels, depth, step, out):  # type: ignore[no-untyped-def]
    """Lay sprites over nothing: premultiplied light and what is let through, into `out` (h, w, 4).

    `out` is `step` times coarser than `depth` (H, W), the inverse distance of what is solid. Blending
    is `over` with premultiplied alpha (Porter and Duff 1984); additive sprites let all light through.
    """
    high, wide = out.shape[0], out.shape[1]
    tall, broad = depth.shape
    for turn in prange(len(order)):
        band = order[turn]
        y_first, y_end = band * ROWS, min(high, (band + 1) * ROWS)
        for y in range(y_first, y_end):
            for x in range(wide):
                out[y, x, 0], out[y, x, 1], out[y, x, 2], out[y, x, 3] = ZERO, ZERO, ZERO, ONE
        for entry in range(counts[band], counts[band + 1]):
            i = lists[entry]
            cx, cy, near = sprites[i, 0], sprites[i, 1], sprites[i, 2]
            half_x, half_y, cosine, sine = sprites[i, 3], sprites[i, 4], sprites[i, 5], sprites[i, 6]
            red, green, blue = sprites[i, 7], sprites[i, 8], sprites[i, 9]
            opacity, soft = sprites[i, 10], sprites[i, 11]
            blocks = ZERO if additive[i] else ONE
            first, side = picks[i, 0], picks[i, 1]
            reach_x = abs(half_x * cosine) + abs(half_y * sine)
            reach_y = abs(half_x * sine) + abs(half_y * cosine)
            x_low, x_high = int(max(cx - reach_x, ZERO)), int(min(cx + reach_x, np.float32(wide - 1)))
            y_low = max(int(max(cy - reach_y, ZERO)), y_first)
            y_high = min(int(min(cy + reach_y, np.float32(high - 1))), y_end - 1)
            across_x, across_y = ONE / half_x, ONE / half_y
            own = ONE / near
            edge = np.float32(side - 1)
            half_side = np.float32(side) * HALF
            for y in range(y_low, y_high + 1):
                dy = np.float32(y) + HALF - cy
                row = min(int((np.float32(y) + HALF) * step), tall - 1)
                for x in range(x_low, x_high + 1):
                    dx = np.float32(x) + HALF - cx
                    u = (dx * cosine + dy * sine) * across_x
                    v = (dy * cosine - dx * sine) * across_y
                    if abs(u) >= ONE or abs(v) >= ONE:
                        continue
                    solid = depth[row, min(int((np.float32(x) + HALF) * step), broad - 1)]
                    strength = opacity
                    if solid > ZERO:
                        gap = (ONE / solid - own) * soft
                        if gap <= ZERO:
                            continue
                        strength *= min(gap, ONE)
                    tx = min(max((u + ONE) * half_side - HALF, ZERO), edge)
                    ty = min(max((v + ONE) * half_side - HALF, ZERO), edge)
                    x0, y0 = int(tx), int(ty)
                    fx, fy = tx - np.float32(x0), ty - np.float32(y0)
                    x1, y1 = min(x0 + 1, side - 1), min(y0 + 1, side - 1)
                    a, b = first + y0 * side + x0, first + y0 * side + x1
                    c, d = first + y1 * side + x0, first + y1 * side + x1
                    wa, wb = (ONE - fx) * (ONE - fy), fx * (ONE - fy)
                    wc, wd = (ONE - fx) * fy, fx * fy
                    alpha = wa * texels[a, 3] + wb * texels[b, 3] + wc * texels[c, 3] + wd * texels[d, 3]
                    if alpha <= ZERO:
                        continue
                    through = ONE - alpha * strength * blocks
                    r = wa * texels[a, 0] + wb * texels[b, 0] + wc * texels[c, 0] + wd * texels[d, 0]
                    g = wa * texels[a, 1] + wb * texels[b, 1] + wc * texels[c, 1] + wd * texels[d, 1]
                    bl = wa * texels[a, 2] + wb * texels[b, 2] + wc * texels[c, 2] + wd * texels[d, 2]
                    out[y, x, 0] = r * red * strength + out[y, x, 0] * through
                    out[y, x, 1] = g * green * strength + out[y, x, 1] * through
                    out[y, x, 2] = bl * blue * strength + out[y, x, 2] * through
                    out[y, x, 3] *= through


@parallel_kernel
def lay_over(layer, step, picture):  # type: ignore[no-untyped-def]
    """Lay the transparent pass (h, w, 4), `step` times coarser, over the picture (H, W, 3), smoothly."""
    high, wide = layer.shape[0], layer.shape[1]
    height, width = picture.shape[0], picture.shape[1]
    inverse = ONE / step
    for y in prange(height):
        fy = min(max((np.float32(y) + HALF) * inverse - HALF, ZERO), np.float32(high - 1))
        y0 = int(fy)
        y1 = min(y0 + 1, high - 1)
        sy = fy - np.float32(y0)
        for x in range(width):
            if step == ONE:
                for k in range(3):
                    picture[y, x, k] = picture[y, x, k] * layer[y, x, 3] + layer[y, x, k]
                continue
            fx = min(max((np.float32(x) + HALF) * inverse - HALF, ZERO), np.float32(wide - 1))
            x0 = int(fx)
            x1 = min(x0 + 1, wide - 1)
            sx = fx - np.float32(x0)
            wa, wb = (ONE - sx) * (ONE - sy), sx * (ONE - sy)
            wc, wd = (ONE - sx) * sy, sx * sy
            through = (
                wa * layer[y0, x0, 3] + wb * layer[y0, x1, 3] + wc * layer[y1, x0, 3] + wd * layer[y1, x1, 3]
            )
            for k in range(3):
                light = (
                    wa * layer[y0, x0, k]
                    + wb * layer[y0, x1, k]
                    + wc * layer[y1, x0, k]
                    + wd * layer[y1, x1, k]
                )
                picture[y, x, k] = picture[y, x, k] * through + light
