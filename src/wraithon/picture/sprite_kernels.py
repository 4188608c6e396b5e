"""Kernels of the transparent pass: place sprites on the picture, bin them, and lay them over each other."""

from __future__ import annotations

import math

import numpy as np
from numba import prange

from wraithon.compiled import BLOCK, SizedKernel, drawing_kernel, inlined
from wraithon.picture.light import SHADE

__all__ = ["COLUMNS", "ROWS", "lay_over", "lay_sprites", "place_sprites", "reach_bands"]

ZERO, ONE, HALF, TWO = np.float32(0), np.float32(1), np.float32(0.5), np.float32(2)
FAR, TINY = np.float32(1e5), np.float32(1e-6)
K0, K1, K2, K3 = np.uint64(0), np.uint64(1), np.uint64(2), np.uint64(3)
NEAR = np.float32(0.05)
TINIEST = np.float32(1.1)
"""Half width in pixels below which a sprite is drawn as an upright square of one colour."""
LEAST = np.float32(0.75)
"""Smallest half width in pixels; thinner sprites are drawn this wide and as much fainter."""
ROWS = 8
"""Pixel rows in a band of the transparent pass."""
COLUMNS = 12
"""x, y, inverse distance, half width, half height, cosine, sine, red, green, blue, opacity, 1 / soft."""


@SizedKernel
def place_sprites(  # type: ignore[no-untyped-def]
    positions, uprights, sizes, turns, colours, frames, eye, basis, focal, width, height,
    along, stretch, soft, lit, levels, frame_count, out, picks,
):  # fmt: skip
    """Write placed sprites into `out` (N, COLUMNS) and their texels' start and side into `picks` (N, 2).

    A sprite that cannot be seen gets an inverse distance of 0. `along` turns its upright along its row
    of `uprights` (N, 3) as seen, lengthened by `stretch` times that. `lit` dims what does not
    shine by itself.
    """
    count = len(positions)
    for block in prange((count + BLOCK - 1) // BLOCK):
        for i in range(block * BLOCK, min(count, (block + 1) * BLOCK)):
            out[i, 2], out[i, 3], out[i, 4] = ZERO, ZERO, ZERO
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
            cosine, sine = ONE, ZERO
            if not along and half_x >= TINIEST:
                cosine, sine = np.cos(turns[i]), np.sin(turns[i])
            elif along:
                vx, vy, vz = uprights[i, 0], uprights[i, 1], uprights[i, 2]
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
            if not (sx + reach >= ZERO and sx - reach <= width and sy + reach >= ZERO and sy - reach <= height):
                continue
            # Nearer than its own size a sprite would cover everything: it fades out instead.
            close = min(ONE, max(ZERO, (depth - NEAR) / max(sizes[i], np.float32(0.05))))
            opacity = min(opacity, ONE) * faint * close
            if opacity <= np.float32(0.0005):
                continue
            level = levels.shape[0] - 1 if max(half_x, half_y) < TINIEST else 0
            while level < levels.shape[0] - 1 and np.float32(levels[level + 1, 1]) >= half_y * TWO:
                level += 1
            side = levels[level, 1]
            picks[i, 0] = levels[level, 0] + (frames[i] % frame_count) * side * side
            picks[i, 1] = side
            out[i, 0], out[i, 1], out[i, 2] = sx, sy, inverse
            out[i, 3], out[i, 4], out[i, 5], out[i, 6] = half_x, half_y, cosine, sine
            shade = SHADE if lit else ONE
            out[i, 7] = colours[i, 0] * shade
            out[i, 8] = colours[i, 1] * shade
            out[i, 9] = colours[i, 2] * shade
            out[i, 10] = opacity
            out[i, 11] = ONE / max(soft, np.float32(1e-4))


@SizedKernel
def reach_bands(sprites, order, step, height, spans):  # type: ignore[no-untyped-def]
    """Write the first and last band of rows that the sprites of `order` (N,) touch into `spans` (N, 2).

    A sprite that touches none has its last before its first. The picture is `step` times coarser than
    sprites were placed for: they are placed anew, and those thinner than its pixels become wider, and
    fainter for it.
    """
    count = len(order)
    for block in prange((count + BLOCK - 1) // BLOCK):
        for k in range(block * BLOCK, min(count, (block + 1) * BLOCK)):
            i = order[k]
            if step != ONE:
                sprites[i, 0] /= step
                sprites[i, 1] /= step
                for side in range(3, 5):
                    half = sprites[i, side] / step
                    wide = max(half, LEAST)
                    sprites[i, 10] *= half / wide
                    sprites[i, side] = wide
            reach = abs(sprites[i, 3] * sprites[i, 6]) + abs(sprites[i, 4] * sprites[i, 5])
            top, bottom = sprites[i, 1] - reach, sprites[i, 1] + reach
            spans[k, 0], spans[k, 1] = 0, -1
            if bottom >= ZERO and top < height:
                spans[k, 0] = int(max(top, ZERO)) // ROWS
                spans[k, 1] = int(min(bottom, height - ONE)) // ROWS


@inlined
def _span(u, du, v, dv):  # type: ignore[no-untyped-def]
    """Return between which ways from the middle both u + du * x and v + dv * x stay within -1 and 1."""
    left, right = -FAR, FAR
    if abs(du) > TINY:
        a, b = (-ONE - u) / du, (ONE - u) / du
        left, right = max(left, min(a, b)), min(right, max(a, b))
    elif abs(u) >= ONE:
        return FAR, -FAR
    if abs(dv) > TINY:
        a, b = (-ONE - v) / dv, (ONE - v) / dv
        left, right = max(left, min(a, b)), min(right, max(a, b))
    elif abs(v) >= ONE:
        return FAR, -FAR
    return left, right


@drawing_kernel
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
            reach_x = half_x if side == 1 else abs(half_x * cosine) + abs(half_y * sine)
            reach_y = half_y if side == 1 else abs(half_x * sine) + abs(half_y * cosine)
            x_low, x_high = int(max(cx - reach_x, ZERO)), int(min(cx + reach_x, np.float32(wide - 1)))
            y_low = max(int(max(cy - reach_y, ZERO)), y_first)
            y_high = min(int(min(cy + reach_y, np.float32(high - 1))), y_end - 1)
            if side == 1:
                # Hardly a pixel: one colour, and each pixel gets the share the square covers of it.
                for y in range(y_low, y_high + 1):
                    row = min(int((np.float32(y) + HALF) * step), tall - 1)
                    low = min(cy + half_y, np.float32(y + 1)) - max(cy - half_y, np.float32(y))
                    for x in range(x_low, x_high + 1):
                        solid = depth[row, np.uint64(min(int((np.float32(x) + HALF) * step), broad - 1))]
                        strength = (
                            opacity * low * (min(cx + half_x, np.float32(x + 1)) - max(cx - half_x, np.float32(x)))
                        )
                        if solid > ZERO:
                            strength *= min((ONE / solid - ONE / near) * soft, ONE)
                        if strength <= ZERO:
                            continue
                        through = ONE - texels[first, K3] * strength * blocks
                        out[y, x, K0] = texels[first, K0] * red * strength + out[y, x, K0] * through
                        out[y, x, K1] = texels[first, K1] * green * strength + out[y, x, K1] * through
                        out[y, x, K2] = texels[first, K2] * blue * strength + out[y, x, K2] * through
                        out[y, x, K3] *= through
                continue
            across_x, across_y = ONE / half_x, ONE / half_y
            own = ONE / near
            edge = np.float32(side - 1)
            half_side = np.float32(side) * HALF
            du, dv = cosine * across_x, -sine * across_y
            for y in range(y_low, y_high + 1):
                dy = np.float32(y) + HALF - cy
                row = min(int((np.float32(y) + HALF) * step), tall - 1)
                # Only the stretch of the row that lies within the turned square.
                left, right = _span(dy * sine * across_x, du, dy * cosine * across_y, dv)
                for x in range(
                    max(x_low, int(np.ceil(cx + left - HALF))),
                    min(x_high, int(np.floor(cx + right - HALF))) + 1,
                ):
                    solid = depth[row, np.uint64(min(int((np.float32(x) + HALF) * step), broad - 1))]
                    strength = opacity
                    if solid > ZERO:
                        gap = (ONE / solid - own) * soft
                        if gap <= ZERO:
                            continue
                        strength *= min(gap, ONE)
                    dx = np.float32(x) + HALF - cx
                    u, v = dx * du + dy * sine * across_x, dx * dv + dy * cosine * across_y
                    tx = min(max((u + ONE) * half_side - HALF, ZERO), edge)
                    ty = min(max((v + ONE) * half_side - HALF, ZERO), edge)
                    x0, y0 = int(tx), int(ty)
                    fx, fy = tx - np.float32(x0), ty - np.float32(y0)
                    x1, y1 = min(x0 + 1, side - 1), min(y0 + 1, side - 1)
                    # Unsigned places spare the compiler the question whether they count from the end.
                    a, b = np.uint64(first + y0 * side + x0), np.uint64(first + y0 * side + x1)
                    c, d = np.uint64(first + y1 * side + x0), np.uint64(first + y1 * side + x1)
                    wa, wb = (ONE - fx) * (ONE - fy) * strength, fx * (ONE - fy) * strength
                    wc, wd = (ONE - fx) * fy * strength, fx * fy * strength
                    alpha = wa * texels[a, K3] + wb * texels[b, K3] + wc * texels[c, K3] + wd * texels[d, K3]
                    through = ONE - alpha * blocks
                    r = wa * texels[a, K0] + wb * texels[b, K0] + wc * texels[c, K0] + wd * texels[d, K0]
                    g = wa * texels[a, K1] + wb * texels[b, K1] + wc * texels[c, K1] + wd * texels[d, K1]
                    bl = wa * texels[a, K2] + wb * texels[b, K2] + wc * texels[c, K2] + wd * texels[d, K2]
                    out[y, x, K0] = r * red + out[y, x, K0] * through
                    out[y, x, K1] = g * green + out[y, x, K1] * through
                    out[y, x, K2] = bl * blue + out[y, x, K2] * through
                    out[y, x, K3] *= through


@inlined
def _bare(counts, y):  # type: ignore[no-untyped-def]
    """Tell whether nothing was laid in the band that a row is in."""
    return counts[y // ROWS] == counts[y // ROWS + 1]


@drawing_kernel
def lay_over(layer, counts, step, columns, shares, picture):  # type: ignore[no-untyped-def]
    """Lay the transparent pass (h, w, 4), `step` times coarser, over the picture (H, W, 3), smoothly.

    Bands of which the `counts` (bands + 1,) say that they hold nothing are left out. `columns` (W,) and
    `shares` (W,) say between which two of its columns each pixel lies, and where.
    """
    high, wide = layer.shape[0], layer.shape[1]
    height, width = picture.shape[0], picture.shape[1]
    inverse = ONE / step
    for y in prange(height):
        if step == ONE:
            if _bare(counts, y):
                continue
            for x in range(width):
                for k in range(3):
                    picture[y, x, k] = picture[y, x, k] * layer[y, x, 3] + layer[y, x, k]
            continue
        fy = min(max((np.float32(y) + HALF) * inverse - HALF, ZERO), np.float32(high - 1))
        y0 = int(fy)
        y1 = min(y0 + 1, high - 1)
        if _bare(counts, y0) and _bare(counts, y1):
            continue
        sy = fy - np.float32(y0)
        row = np.empty((wide + 1, 4), np.float32)
        for x in range(wide):
            for k in range(4):
                row[x, k] = layer[y0, x, k] + sy * (layer[y1, x, k] - layer[y0, x, k])
        for k in range(4):
            row[wide, k] = row[wide - 1, k]
        for x in range(width):
            x0, sx = columns[x], shares[x]
            x1 = x0 + K1
            through = row[x0, K3] + sx * (row[x1, K3] - row[x0, K3])
            picture[y, x, K0] = picture[y, x, K0] * through + row[x0, K0] + sx * (row[x1, K0] - row[x0, K0])
            picture[y, x, K1] = picture[y, x, K1] * through + row[x0, K1] + sx * (row[x1, K1] - row[x0, K1])
            picture[y, x, K2] = picture[y, x, K2] * through + row[x0, K2] + sx * (row[x1, K2] - row[x0, K2])
