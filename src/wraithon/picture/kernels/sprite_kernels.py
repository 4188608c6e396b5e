"""Kernels that place sprites on the picture, and fold what laying them needs into one record each."""

from __future__ import annotations

import math

import numpy as np

from wraithon.numeric.compiled import BLOCK, SizedKernel, prange
from wraithon.numeric.vector_memory import prefetch
from wraithon.picture.light import SHADE

ZERO, ONE, HALF, TWO = np.float32(0), np.float32(1), np.float32(0.5), np.float32(2)
NEAR = np.float32(0.05)
TINIEST = np.float32(1.1)
"""Half width in pixels below which a sprite is drawn as an upright square of one colour."""
MINIMUM = np.float32(0.75)
"""Smallest half width in pixels; thinner sprites are drawn this wide and as much fainter."""
COLUMNS = 12
"""x, y, inverse distance, half width, half height, cosine, sine, red, green, blue, opacity, 1 / soft."""
PICKS = 3
"""First texel, side in texels, and whether the texture is grey."""
RECORD = 16
"""Numbers of a record, which is one line of the processor's memory.

0 to 3: x, y, distance, 1 / soft. 4 to 7: what u and v grow by for each pixel right and down (of a speck: its half
width and height). 8 to 11: red, green, blue, and what is kept from behind, each times the opacity. As whole
numbers, 12 and 13: first texel; four times its side and how it is laid. 14, 15: how far it reaches across and down.
"""
SPECK, NARROW, GREY, TINTED, MULTIPLIED, FACET, VEIL = range(7)
"""How a record is laid: a sprite as a square of one colour, four or eight pixels at a time, in one channel or in
three, multiplied with what is behind it; a facet; a veil."""
HALF_WIDTH, HALF_HEIGHT = 3, 4
"""Columns of a placed sprite."""
BOX = 6
"""Numbers of what is no sprite: left, right, top, bottom, inverse distance of its nearest point and on average."""
ON_AVERAGE = 5
"""Column of a box."""
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
    """Write placed sprites into `out` (N, COLUMNS) and their texels' start and side into `picks` (N, PICKS).

    A sprite that cannot be seen gets an inverse distance of 0. `along` turns its upright along its row
    of `uprights` (N, 3) as seen, lengthened by `stretch` times that, to at most `longest` times its size; without
    that it is `stretches` (N,) times as high as wide. `lit` dims what does not shine by itself.
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
            picks[i, 0] = levels[level, 0] + (frames[i] % frame_count) * side * side
            picks[i, 1] = side
            picks[i, 2] = grey
            out[i, 0], out[i, 1], out[i, 2] = sx, sy, inverse
            out[i, 3], out[i, 4], out[i, 5], out[i, 6] = half_x, half_y, cosine, sine
            shade = SHADE if lit else ONE
            out[i, 7] = colours[i, 0] * shade
            out[i, 8] = colours[i, 1] * shade
            out[i, 9] = colours[i, 2] * shade
            out[i, 10] = opacity
            out[i, 11] = ONE / max(soft, np.float32(1e-4))


@SizedKernel
def prepare_sprites(  # type: ignore[no-untyped-def]
    sprites, picks, blends, boxes, triangles, order, planes, step, rows, height, width, records, marks, spans
):
    """Write a record of each sprite of `order` (N,), in that order, and the bands of rows it touches.

    After the sprites come as many `triangles` as there are, and veils; of both `boxes` (M, BOX) say where they are.

    `records` (N, RECORD) and `marks` are the same memory, as floats and as whole numbers. `spans` (N, 2)
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
                left, right, top, bottom = boxes[n, 0], boxes[n, 1], boxes[n, 2], boxes[n, 3]
                x, y = (left + right) * HALF / step, (top + bottom) * HALF / step
                reach_x, reach_y = (right - left) * HALF / step, (bottom - top) * HALF / step
                records[k, 0], records[k, 1], records[k, 2], records[k, 3] = x, y, ONE / boxes[n, 4], ONE
                marks[k, 12], marks[k, 13] = (n, FACET) if n < triangles else (n - triangles, VEIL)
                records[k, 14], records[k, 15] = reach_x, reach_y
                spans[k, 0], spans[k, 1] = 0, -1
                if x + reach_x >= ZERO and x - reach_x < width and y + reach_y >= ZERO and y - reach_y < height:
                    spans[k, 0] = int(max(y - reach_y, ZERO)) // rows
                    spans[k, 1] = int(min(y + reach_y, height - ONE)) // rows
                continue
            # What lies behind each other in the order lies all over memory: waiting for it takes longest.
            prefetch(sprites, later * np.uint64(COLUMNS))
            prefetch(sprites, later * np.uint64(COLUMNS) + np.uint64(COLUMNS - 1))
            prefetch(picks, later * np.uint64(PICKS))
            x, y = sprites[i, 0] / step, sprites[i, 1] / step
            half_x, half_y, opacity = sprites[i, 3] / step, sprites[i, 4] / step, sprites[i, 10]
            if half_x < MINIMUM:
                opacity *= half_x / MINIMUM
                half_x = MINIMUM
            if half_y < MINIMUM:
                opacity *= half_y / MINIMUM
                half_y = MINIMUM
            cosine, sine, first, side = sprites[i, 5], sprites[i, 6], picks[i, 0], picks[i, 1]
            reach_x, reach_y = half_x, half_y
            unit = opacity * TEXEL
            if side == 1:
                records[k, 4], records[k, 5] = half_x, half_y
                way = SPECK
            else:
                reach_x, reach_y = (
                    abs(half_x * cosine) + abs(half_y * sine),
                    abs(half_x * sine) + abs(half_y * cosine),
                )
                records[k, 4], records[k, 5] = cosine / half_x, sine / half_x
                records[k, 6], records[k, 7] = -sine / half_y, cosine / half_y
                way = TINTED if picks[i, 2] == 0 else NARROW if reach_x < NARROWEST else GREY
                way = MULTIPLIED if blends[i] == TIMES else way
            records[k, 0], records[k, 1] = x, y
            records[k, 2], records[k, 3] = ONE / sprites[i, 2], sprites[i, 11]
            for channel in range(3):
                texel = np.float32(planes[channel * texels + first] & 0xFFFF) if side == 1 else ONE
                records[k, 8 + channel] = sprites[i, 7 + channel] * unit * texel
            texel = np.float32(planes[3 * texels + first] & 0xFFFF) if side == 1 else ONE
            records[k, 11] = ZERO if blends[i] == ADDED else unit * texel
            if blends[i] == TIMES and side == 1:
                # Of a speck it is enough how much it takes away.
                light = (records[k, 8] + records[k, 9] + records[k, 10]) / np.float32(3)
                records[k, 8], records[k, 9], records[k, 10] = ZERO, ZERO, ZERO
                records[k, 11] = max(records[k, 11] - light, ZERO)
            marks[k, 12], marks[k, 13] = first, (side << 3) | way
            records[k, 14], records[k, 15] = reach_x, reach_y
            spans[k, 0], spans[k, 1] = 0, -1
            if x + reach_x >= ZERO and x - reach_x < width and y + reach_y >= ZERO and y - reach_y < height:
                spans[k, 0] = int(max(y - reach_y, ZERO)) // rows
                spans[k, 1] = int(min(y + reach_y, height - ONE)) // rows
