"""Kernels that place sprites on the picture, and fold what laying them needs into one record each."""

from __future__ import annotations

import math

import numpy as np

from wraithon.numeric.compiled import BLOCK, SizedKernel, prange
from wraithon.numeric.vector_memory import prefetch
from wraithon.picture.kernels.columns import (
    ALPHA,
    B_BOTTOM,
    B_LEFT,
    B_NEAREST,
    B_RIGHT,
    B_TOP,
    BLUE,
    CENTRE_X,
    CENTRE_Y,
    COSINE,
    FIRST_TEXEL,
    GREEN,
    HALF_HEIGHT,
    HALF_WIDTH,
    IS_GREY,
    NEARNESS,
    OPACITY,
    PICK_COLUMNS,
    R_BLUE,
    R_COVER,
    R_DISTANCE,
    R_FIRST,
    R_GREEN,
    R_HALF_HEIGHT,
    R_HALF_WIDTH,
    R_REACH_X,
    R_REACH_Y,
    R_RED,
    R_SHARPNESS,
    R_U_DOWN,
    R_U_RIGHT,
    R_V_DOWN,
    R_V_RIGHT,
    R_WAY,
    R_X,
    R_Y,
    RED,
    SHARPNESS,
    SINE,
    SPRITE_COLUMNS,
    TEXEL_SIDE,
)
from wraithon.picture.light import SHADE

ZERO, ONE, HALF, TWO = np.float32(0), np.float32(1), np.float32(0.5), np.float32(2)
NEAR = np.float32(0.05)
TINIEST = np.float32(1.1)
"""Half width in pixels below which a sprite is drawn as an upright square of one colour."""
MINIMUM = np.float32(0.75)
"""Smallest half width in pixels; thinner sprites are drawn this wide and as much fainter."""
SPECK, NARROW, GREY, TINTED, MULTIPLIED, FACET, VEIL = range(7)
"""How a record is laid: a sprite as a square of one colour, four or eight pixels at a time, in one channel or in
three, multiplied with what is behind it; a facet; a veil."""
ADDED, TIMES = 1, 2
"""Ways to meet what is behind that do not cover it."""
NARROWEST = np.float32(2)
"""Half width in pixels below which rows are laid four pixels at a time."""
AHEAD = 16
"""Sprites ahead of which their memory is asked for."""
TEXEL = np.float32(1 / 65535)
"""What texels count by."""


@SizedKernel
def place_sprites(  # type: ignore[no-untyped-def]
    positions, uprights, sizes, stretches, turns, colours, frames, eye, basis, focal, width, height,
    along, stretch, longest, soft, lit, levels, frame_count, grey, out, picks,
):  # fmt: skip
    """Write placed sprites into `out` (N, SPRITE_COLUMNS) and what they show into `picks` (N, PICK_COLUMNS).

    A sprite that cannot be seen gets an inverse distance of 0. `along` turns its upright along its row
    of `uprights` (N, 3) as seen, lengthened by `stretch` times that, to at most `longest` times its size; without
    that it is `stretches` (N,) times as high as wide. `lit` dims what does not shine by itself.
    """
    count = len(positions)
    for block in prange((count + BLOCK - 1) // BLOCK):
        for i in range(block * BLOCK, min(count, (block + 1) * BLOCK)):
            out[i, NEARNESS], out[i, HALF_WIDTH], out[i, HALF_HEIGHT] = ZERO, ZERO, ZERO
            x, y, z = positions[i, 0] - eye[0], positions[i, 1] - eye[1], positions[i, 2] - eye[2]
            depth = x * basis[2, 0] + y * basis[2, 1] + z * basis[2, 2]
            opacity = colours[i, ALPHA]
            # Comparisons are turned so that a NaN is left out, too.
            if not depth >= NEAR or not sizes[i] > ZERO or not opacity > ZERO:
                continue
            inverse = ONE / depth
            scale = inverse * focal
            sx = np.float32(width) * HALF + (x * basis[0, 0] + y * basis[0, 1] + z * basis[0, 2]) * scale
            sy = np.float32(height) * HALF - (x * basis[1, 0] + y * basis[1, 1] + z * basis[1, 2]) * scale
            half_x = sizes[i] * HALF * scale
            half_y = half_x * stretches[i]
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
                half_y = max(half_y, min(half_y + speed * stretch * HALF * scale, half_x * longest))
            faint = ONE
            if half_x < MINIMUM:
                faint = max(half_x, ZERO) / MINIMUM
                half_x = MINIMUM
            if half_y < MINIMUM:
                faint *= max(half_y, ZERO) / MINIMUM
                half_y = MINIMUM
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
            picks[i, FIRST_TEXEL] = levels[level, 0] + (frames[i] % frame_count) * side * side
            picks[i, TEXEL_SIDE] = side
            picks[i, IS_GREY] = grey
            out[i, CENTRE_X], out[i, CENTRE_Y], out[i, NEARNESS] = sx, sy, inverse
            out[i, HALF_WIDTH], out[i, HALF_HEIGHT], out[i, COSINE], out[i, SINE] = half_x, half_y, cosine, sine
            shade = SHADE if lit else ONE
            out[i, RED] = colours[i, 0] * shade
            out[i, GREEN] = colours[i, 1] * shade
            out[i, BLUE] = colours[i, 2] * shade
            out[i, OPACITY] = opacity
            out[i, SHARPNESS] = ONE / max(soft, np.float32(1e-4))


@SizedKernel
def prepare_sprites(  # type: ignore[no-untyped-def]
    sprites, picks, blends, boxes, triangles, order, planes, step, rows, height, width, records, marks, spans
):
    """Write a record of each sprite of `order` (N,), in that order, and the bands of rows it touches.

    After the sprites come as many `triangles` as there are, and shells; `boxes` (M, BOX_COLUMNS) say where both are.

    `records` (N, RECORD_COLUMNS) and `marks` are the same memory, as floats and as whole numbers. `spans` (N, 2)
    receives the first and last band, of `rows` rows each; a sprite that touches none has its last before
    its first. The picture, `height` by `width`, is `step` times coarser than sprites were placed for: those
    thinner than its pixels become wider, and fainter for it. `planes` (4 M,) are all texels.
    """
    count, texels, many = len(order), len(planes) // 4, len(sprites)
    for block in prange((count + BLOCK - 1) // BLOCK):
        for k in range(block * BLOCK, min(count, (block + 1) * BLOCK)):
            i, later = order[k], np.uint64(min(order[min(k + AHEAD, count - 1)], max(many - 1, 0)))
            if i >= many:
                n = i - many
                left, right, top, bottom = boxes[n, B_LEFT], boxes[n, B_RIGHT], boxes[n, B_TOP], boxes[n, B_BOTTOM]
                x, y = (left + right) * HALF / step, (top + bottom) * HALF / step
                reach_x, reach_y = (right - left) * HALF / step, (bottom - top) * HALF / step
                records[k, R_X], records[k, R_Y], records[k, R_DISTANCE], records[k, R_SHARPNESS] = (
                    x,
                    y,
                    ONE / boxes[n, B_NEAREST],
                    ONE,
                )
                marks[k, R_FIRST], marks[k, R_WAY] = (n, FACET) if n < triangles else (n - triangles, VEIL)
                records[k, R_REACH_X], records[k, R_REACH_Y] = reach_x, reach_y
                spans[k, 0], spans[k, 1] = 0, -1
                if x + reach_x >= ZERO and x - reach_x < width and y + reach_y >= ZERO and y - reach_y < height:
                    spans[k, 0] = int(max(y - reach_y, ZERO)) // rows
                    spans[k, 1] = int(min(y + reach_y, height - ONE)) // rows
                continue
            # What lies behind each other in the order lies all over memory: waiting for it takes longest.
            prefetch(sprites, later * np.uint64(SPRITE_COLUMNS))
            prefetch(sprites, later * np.uint64(SPRITE_COLUMNS) + np.uint64(SPRITE_COLUMNS - 1))
            prefetch(picks, later * np.uint64(PICK_COLUMNS))
            x, y = sprites[i, CENTRE_X] / step, sprites[i, CENTRE_Y] / step
            half_x, half_y, opacity = (
                sprites[i, HALF_WIDTH] / step,
                sprites[i, HALF_HEIGHT] / step,
                sprites[i, OPACITY],
            )
            if half_x < MINIMUM:
                opacity *= half_x / MINIMUM
                half_x = MINIMUM
            if half_y < MINIMUM:
                opacity *= half_y / MINIMUM
                half_y = MINIMUM
            cosine, sine, first, side = (
                sprites[i, COSINE],
                sprites[i, SINE],
                picks[i, FIRST_TEXEL],
                picks[i, TEXEL_SIDE],
            )
            reach_x, reach_y = half_x, half_y
            unit = opacity * TEXEL
            if side == 1:
                records[k, R_HALF_WIDTH], records[k, R_HALF_HEIGHT] = half_x, half_y
                way = SPECK
            else:
                reach_x, reach_y = (
                    abs(half_x * cosine) + abs(half_y * sine),
                    abs(half_x * sine) + abs(half_y * cosine),
                )
                records[k, R_U_RIGHT], records[k, R_U_DOWN] = cosine / half_x, sine / half_x
                records[k, R_V_RIGHT], records[k, R_V_DOWN] = -sine / half_y, cosine / half_y
                way = TINTED if picks[i, IS_GREY] == 0 else NARROW if reach_x < NARROWEST else GREY
                way = MULTIPLIED if blends[i] == TIMES else way
            records[k, R_X], records[k, R_Y] = x, y
            records[k, R_DISTANCE], records[k, R_SHARPNESS] = ONE / sprites[i, NEARNESS], sprites[i, SHARPNESS]
            for channel in range(3):
                texel = np.float32(planes[channel * texels + first] & 0xFFFF) if side == 1 else ONE
                records[k, R_RED + np.uint64(channel)] = sprites[i, RED + channel] * unit * texel
            texel = np.float32(planes[3 * texels + first] & 0xFFFF) if side == 1 else ONE
            records[k, R_COVER] = ZERO if blends[i] == ADDED else unit * texel
            if blends[i] == TIMES and side == 1:
                # Of a speck it is enough how much it takes away.
                light = (records[k, R_RED] + records[k, R_GREEN] + records[k, R_BLUE]) / np.float32(3)
                records[k, R_RED], records[k, R_GREEN], records[k, R_BLUE] = ZERO, ZERO, ZERO
                records[k, R_COVER] = max(records[k, R_COVER] - light, ZERO)
            marks[k, R_FIRST], marks[k, R_WAY] = first, (side << 3) | way
            records[k, R_REACH_X], records[k, R_REACH_Y] = reach_x, reach_y
            spans[k, 0], spans[k, 1] = 0, -1
            if x + reach_x >= ZERO and x - reach_x < width and y + reach_y >= ZERO and y - reach_y < height:
                spans[k, 0] = int(max(y - reach_y, ZERO)) // rows
                spans[k, 1] = int(min(y + reach_y, height - ONE)) // rows
