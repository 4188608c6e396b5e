"""Kernels of facets: flat triangles of ribbons and lying sprites, seen in perspective.

A place on a facet is given by the shares of its second and third corner. On the picture shares over distance are
straight lines, so that a row of pixels takes one division each (Heckbert and Moreton 1991, "Interpolation for polygon
texture mapping and shading").
"""

from __future__ import annotations

import numpy as np

from wraithon.numeric.compiled import BLOCK, drawing_helper, drawing_kernel, prange
from wraithon.numeric.vector_memory import read, write
from wraithon.numeric.vectors import (
    alike_whole,
    any_of,
    at_least,
    chosen,
    fused,
    greater,
    larger,
    lowered,
    numbered,
    smaller,
    spread8,
    whole,
)
from wraithon.picture.kernels.columns import (
    ALPHA,
    B_BOTTOM,
    B_LEFT,
    B_MEAN,
    B_NEAREST,
    B_RIGHT,
    B_TOP,
    T_B_DOWN,
    T_B_RIGHT,
    T_BOTTOM,
    T_C_DOWN,
    T_C_RIGHT,
    T_LEFT,
    T_NEAR_A,
    T_NEAR_B,
    T_NEAR_C,
    T_OPACITY,
    T_OPACITY_B,
    T_OPACITY_C,
    T_RED,
    T_RED_B,
    T_RED_C,
    T_RIGHT,
    T_SHARPNESS,
    T_TOP,
    T_U,
    T_U_B,
    T_U_C,
    T_V,
    T_V_B,
    T_V_C,
    T_X,
    T_Y,
)
from wraithon.picture.kernels.texel_kernels import midpoint

ZERO, ONE, HALF = np.float32(0), np.float32(1), np.float32(0.5)
ADDING, FILTERING, TILED = 1, 2, 4
"""Bits of how a facet is laid: it adds light, or filters what is behind it; its texture repeats along v."""
NEAR = np.float32(0.05)
TEXEL = np.float32(1 / 65535)
MINIMUM = np.float32(1e-4)
ASIDE, LOWER = np.float32(0.0013), np.float32(0.0029)
"""How far from a pixel's middle it is looked at: no edge of what is drawn at round numbers goes through there."""
FAR = np.float32(1e6)
DENSE = np.float32(1.7)
"""Texels a pixel above which a smaller level is taken."""
U0, U1, U2, U3, U4 = (np.uint64(k) for k in range(5))


@drawing_kernel
def place_triangles(  # type: ignore[no-untyped-def]
    corners, points, tints, uvs, eye, basis, focal, width, height, soft, levels, flags, triangles, skins, boxes
):
    """Write triangles (F, TRIANGLE_COLUMNS), their skins (F, SKIN_COLUMNS) and boxes (F, BOX_COLUMNS).

    `corners` (F, 3) are rows of `points` (V, 3) in the world, `tints` (V, 4) linear and not premultiplied, and `uvs`
    (V, 2). `levels` (L, 2) are first texel and side of the texture's levels that can be looked up between texels,
    the finest first. What cannot be seen gets an average inverse distance of 0; so does what comes too near.
    """
    count = len(corners)
    for block in prange((count + BLOCK - 1) // BLOCK):
        seen = np.empty((3, 3), np.float32)
        # Counted without signs, so that no row is looked for from behind.
        for index in range(block * BLOCK, min(count, (block + 1) * BLOCK)):
            f = np.uint64(index)
            boxes[f, B_MEAN] = ZERO
            hidden, dark = False, True
            for k in range(3):
                at = np.uint64(corners[f, k])
                x, y, z = points[at, 0] - eye[0], points[at, 1] - eye[1], points[at, 2] - eye[2]
                ahead = x * basis[2, 0] + y * basis[2, 1] + z * basis[2, 2]
                # Turned so that what is no number is left out, too.
                if not (ahead >= NEAR and ahead <= FAR):
                    hidden = True
                    break
                inverse = ONE / ahead
                right = (x * basis[0, 0] + y * basis[0, 1] + z * basis[0, 2]) * inverse * focal
                up = (x * basis[1, 0] + y * basis[1, 1] + z * basis[1, 2]) * inverse * focal
                hidden = hidden or not (abs(right) < FAR and abs(up) < FAR)
                dark = dark and not tints[at, ALPHA] > MINIMUM
                seen[k, 0], seen[k, 1] = np.float32(width) * HALF + right, np.float32(height) * HALF - up
                seen[k, 2] = inverse
            if hidden or dark:
                continue
            ax, ay = seen[0, 0], seen[0, 1]
            bx, by, qx, qy = seen[1, 0] - ax, seen[1, 1] - ay, seen[2, 0] - ax, seen[2, 1] - ay
            area = bx * qy - qx * by
            left, right = ax + min(bx, qx, ZERO), ax + max(bx, qx, ZERO)
            top, bottom = ay + min(by, qy, ZERO), ay + max(by, qy, ZERO)
            if not abs(area) > MINIMUM or right < ZERO or left > width or bottom < ZERO or top > height:
                continue
            scale = ONE / area
            triangles[f, T_LEFT], triangles[f, T_RIGHT], triangles[f, T_TOP], triangles[f, T_BOTTOM] = (
                left,
                right,
                top,
                bottom,
            )
            triangles[f, T_X], triangles[f, T_Y] = ax, ay
            triangles[f, T_B_RIGHT], triangles[f, T_B_DOWN], triangles[f, T_C_RIGHT], triangles[f, T_C_DOWN] = (
                qy * scale,
                -qx * scale,
                -by * scale,
                bx * scale,
            )
            for k in range(3):
                triangles[f, T_NEAR_A + np.uint64(k)] = seen[k, 2]
            a, b, c = np.uint64(corners[f, 0]), np.uint64(corners[f, 1]), np.uint64(corners[f, 2])
            for k in range(2):
                triangles[f, T_U + np.uint64(3 * k)] = uvs[a, k]
                triangles[f, T_U_B + np.uint64(3 * k)], triangles[f, T_U_C + np.uint64(3 * k)] = (
                    uvs[b, k] - uvs[a, k],
                    uvs[c, k] - uvs[a, k],
                )
            for k in range(4):
                one, two, three = tints[a, ALPHA], tints[b, ALPHA], tints[c, ALPHA]
                if k < 3:
                    one, two, three = one * tints[a, k], two * tints[b, k], three * tints[c, k]
                elif flags & ADDING:
                    one, two, three = ZERO, ZERO, ZERO
                triangles[f, T_RED + np.uint64(3 * k)] = one * TEXEL
                triangles[f, T_RED_B + np.uint64(3 * k)], triangles[f, T_RED_C + np.uint64(3 * k)] = (
                    (two - one) * TEXEL,
                    (three - one) * TEXEL,
                )
            triangles[f, T_SHARPNESS] = ONE / max(soft, MINIMUM)
            side = np.float32(levels[0, 1])
            dense = (
                abs(triangles[f, T_U_B] * triangles[f, T_V_C] - triangles[f, T_U_C] * triangles[f, T_V_B])
                * side
                * side
                / abs(area)
            )
            level = 0
            while level + 1 < len(levels) and dense > DENSE * DENSE:
                level, dense = level + 1, dense * np.float32(0.25)
            skins[f, 0], skins[f, 1], skins[f, 2] = levels[level, 0], levels[level, 1], flags
            boxes[f, B_LEFT], boxes[f, B_RIGHT], boxes[f, B_TOP], boxes[f, B_BOTTOM] = left, right, top, bottom
            boxes[f, B_NEAREST] = max(seen[0, 2], seen[1, 2], seen[2, 2])
            boxes[f, B_MEAN] = (seen[0, 2] + seen[1, 2] + seen[2, 2]) / np.float32(3)


@drawing_helper
def _narrowed(low, high, start, step):  # type: ignore[no-untyped-def]
    """Return the part of [low, high] where what is `start` at 0 and grows by `step` is not below 0."""
    if abs(step) < np.float32(1e-12):
        return (low, high) if start >= ZERO else (ONE, ZERO)
    edge = -start / step
    return (max(low, edge - HALF), high) if step > ZERO else (low, min(high, edge + HALF))


@drawing_helper
def composite_triangle(planes, band, line, guard, rows, high, width, top, step, triangles, skins, f):  # type: ignore[no-untyped-def]
    """Lay a facet's rows of a band (see `laying_kernels`) that begins at row `top` of a picture `step` times coarser.

    `guard` is how many columns a line has before the picture's first.
    """
    lanes, plane, size = spread8(ZERO), np.uint64(rows * line), np.int32(len(planes) // 4)
    zero, one = lanes, spread8(ONE)
    ax, ay = triangles[f, T_X], triangles[f, T_Y]
    bx, by, qx, qy = triangles[f, T_B_RIGHT], triangles[f, T_B_DOWN], triangles[f, T_C_RIGHT], triangles[f, T_C_DOWN]
    near_a, near_b, near_c = (
        spread8(triangles[f, T_NEAR_A]),
        spread8(triangles[f, T_NEAR_B]),
        spread8(triangles[f, T_NEAR_C]),
    )
    soft = spread8(triangles[f, T_SHARPNESS])
    side, flags = skins[f, U1], skins[f, U2]
    tall, edge, last = spread8(np.float32(side)), spread8(np.float32(side - 1)), spread8(np.float32(side - 2))
    pitch, start = alike_whole(one, np.int32(side)), alike_whole(one, np.int32(skins[f, U0]))
    first = int(max(np.floor(triangles[f, T_TOP] / step - top), ZERO))
    final = int(min(triangles[f, T_BOTTOM] / step - top, np.float32(high - 1)))
    lean_b, lean_c = spread8(bx * step), spread8(qx * step)
    for y in range(first, final + 1):
        down = (np.float32(y) + top + HALF) * step - ay + LOWER
        low, maximum = triangles[f, T_LEFT] - ax, triangles[f, T_RIGHT] - ax
        low, maximum = _narrowed(low, maximum, down * by, bx)
        low, maximum = _narrowed(low, maximum, down * qy, qx)
        low, maximum = _narrowed(low, maximum, ONE - down * (by + qy), -bx - qx)
        x0 = int(min(max(np.floor((low + ax) / step - HALF), ZERO), np.float32(width)))
        x1 = int(max(min(np.ceil((maximum + ax) / step - HALF), np.float32(width - 1)), -ONE))
        begun = (np.float32(x0) + HALF) * step - ax + ASIDE
        share_b = fused(numbered(one), lean_b, spread8(begun * bx + down * by))
        share_c = fused(numbered(one), lean_c, spread8(begun * qx + down * qy))
        position, end = numbered(one) + spread8(np.float32(x0)), spread8(np.float32(x1) + HALF)
        more_b, more_c, eight = (
            spread8(np.float32(8) * bx * step),
            spread8(np.float32(8) * qx * step),
            spread8(np.float32(8)),
        )
        at = np.uint64(y * line + guard + x0)
        for _ in range((x1 - x0 + 8) // 8):
            share_a = one - share_b - share_c
            inside = smaller(share_a, smaller(share_b, share_c))
            shown = at_least(inside, zero) & greater(end, position)
            if any_of(shown):
                w = fused(share_a, near_a, fused(share_b, near_b, share_c * near_c))
                far = one / chosen(shown, w, one)
                b, c = share_b * near_b * far, share_c * near_c * far
                gap = smaller(larger((read(one, band, at + U4 * plane) - far) * soft, zero), one)
                gap = chosen(shown, gap, zero)
                if any_of(greater(gap, zero)):
                    u = fused(
                        b,
                        spread8(triangles[f, T_U_B]),
                        fused(c, spread8(triangles[f, T_U_C]), spread8(triangles[f, T_U])),
                    )
                    v = fused(
                        b,
                        spread8(triangles[f, T_V_B]),
                        fused(c, spread8(triangles[f, T_V_C]), spread8(triangles[f, T_V])),
                    )
                    across = smaller(larger(fused(u, tall, spread8(-HALF)), zero), edge)
                    column = smaller(lowered(across), last)
                    across = across - column
                    if flags & TILED:
                        along = fused(v - lowered(v), tall, spread8(-HALF))
                        row = lowered(along)
                        along = along - row
                        row = chosen(greater(zero, row), row + tall, row)
                        below = chosen(at_least(row + one, tall), zero, row + one)
                    else:
                        along = smaller(larger(fused(v, tall, spread8(-HALF)), zero), edge)
                        row = smaller(lowered(along), last)
                        along, below = along - row, row + one
                    spot = whole(row) * pitch + whole(column) + start
                    under = whole(below) * pitch + whole(column) + start
                    beyond = alike_whole(one, size * np.int32(3))
                    cover = midpoint(planes, spot + beyond, under + beyond, across, along) * gap
                    transparency = fused(
                        b,
                        spread8(triangles[f, T_OPACITY_B]),
                        fused(c, spread8(triangles[f, T_OPACITY_C]), spread8(triangles[f, T_OPACITY])),
                    )
                    through, p = one - cover * transparency, at
                    for channel in range(3):
                        k = T_RED + np.uint64(3 * channel)
                        tint = fused(
                            b,
                            spread8(triangles[f, k + U1]),
                            fused(c, spread8(triangles[f, k + U2]), spread8(triangles[f, k])),
                        )
                        beyond = alike_whole(one, size * np.int32(channel))
                        light = midpoint(planes, spot + beyond, under + beyond, across, along) * gap * tint
                        before = read(one, band, p)
                        if flags & FILTERING:
                            write(band, p, before * (through + light))
                        else:
                            write(band, p, fused(before, through, light))
                        p += plane
                    write(band, p, read(one, band, p) * through)
            at += np.uint64(8)
            share_b, share_c, position = share_b + more_b, share_c + more_c, position + eight
