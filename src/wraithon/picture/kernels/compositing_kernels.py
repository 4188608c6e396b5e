"""Kernels that lay sprites over each other.

A band of rows is worked on in planes (red, green, blue, what is let through, metres to what is solid), eight
pixels at a time. Its lines carry guard columns on both sides, which hold nothing that can be seen, so that
hardly anything has to be clipped. Blending is `over` with premultiplied alpha (Porter and Duff 1984).
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba.np.ufunc.parallel import get_thread_id

from wraithon.numeric.compiled import drawing_helper, drawing_kernel, prange
from wraithon.numeric.vector_memory import prefetch, read, write
from wraithon.numeric.vectors import (
    alike,
    alike_whole,
    any_of,
    chosen,
    counted,
    floats,
    fused,
    greater,
    larger,
    largest,
    numbered,
    smaller,
    smallest,
    spread4,
    spread8,
    whole,
)
from wraithon.numeric.work_queue import HANDS, fresh_turns, next_turn
from wraithon.picture.kernels.columns import (
    P_FIRST,
    P_HEIGHT,
    P_LEFT,
    P_PITCH,
    P_TOP,
    P_WIDTH,
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
    RECORD_COLUMNS,
)
from wraithon.picture.kernels.sprite_kernels import FACET, GREY, MULTIPLIED, NARROW, SPECK, VEIL
from wraithon.picture.kernels.texel_kernels import midpoint
from wraithon.picture.kernels.triangle_kernels import composite_triangle

ZERO, ONE, HALF = np.float32(0), np.float32(1), np.float32(0.5)
THROUGH, DISTANCE, U8 = np.uint64(3), np.uint64(4), np.uint64(8)
"""Planes of a band after its three colours; and how many pixels are worked on at a time."""
# Unsigned places spare the compiler the question whether they count from the end.
LEFT, RIGHT = 8, 16
"""Guard columns."""
SKY = np.float32(1e9)
"""Metres to where nothing is solid."""
FLAT, STEEP = np.float32(1e-6), np.float32(1e6)
WAYS = 7
"""The bits that say how something is laid."""
AHEAD = 8
"""Sprites ahead of which their records are asked for."""


def _way(*, tested: bool, covering: bool, grey: bool, filtering: bool = False) -> Any:
    """Return what lays one sprite's rows of a band, compiled for one way of doing it.

    `tested` against what is solid; `covering` what is behind as far as it is opaque, or `filtering` its light by
    the sprite's colours; `grey` textures are looked up once for all colours.
    """

    def composite_rows(lanes, planes, band, line, rows, height, width, top, records, marks, k):  # type: ignore[no-untyped-def]
        cx, cy, own, soft = records[k, R_X], records[k, R_Y] - top, records[k, R_DISTANCE], records[k, R_SHARPNESS]
        ux, uy, vx, vy = records[k, R_U_RIGHT], records[k, R_U_DOWN], records[k, R_V_RIGHT], records[k, R_V_DOWN]
        first, side, reach = marks[k, R_FIRST], marks[k, R_WAY] >> 3, records[k, R_REACH_Y]
        count = counted(lanes)
        half, many = np.float32(side) * HALF, np.float32(count)
        size, plane = np.int32(len(planes) // 4), np.uint64(rows * line)
        zero, one, edge = alike(lanes, ZERO), alike(lanes, ONE), alike(lanes, np.float32(side - 1))
        last, pitch = alike_whole(lanes, np.int32(side - 2)), alike_whole(lanes, np.int32(side))
        start, second = alike_whole(lanes, np.int32(first)), alike_whole(lanes, size)
        third, fourth = alike_whole(lanes, size * np.int32(2)), alike_whole(lanes, size * np.int32(3))
        red, green, blue, transparency = (
            alike(lanes, records[k, R_RED]),
            alike(lanes, records[k, R_GREEN]),
            alike(lanes, records[k, R_BLUE]),
            alike(lanes, records[k, R_COVER]),
        )
        far, softly = alike(lanes, own), alike(lanes, soft)
        step_u, step_v = alike(lanes, ux * half), alike(lanes, vx * half)
        block_u, block_v, block = alike(lanes, ux * half * many), alike(lanes, vx * half * many), alike(lanes, many)
        # Along a row |u| and |v| are within 1 as far to either side of a middle as these are wide.
        wide_u = ONE / ux if abs(ux) > FLAT else STEEP
        wide_v = ONE / vx if abs(vx) > FLAT else STEEP
        for y in range(int(max(cy - reach, ZERO)), int(min(cy + reach, np.float32(height - 1))) + 1):
            down = np.float32(y) + HALF - cy
            u, v = down * uy, down * vy
            left = max(-u * wide_u - abs(wide_u), -v * wide_v - abs(wide_v))
            right = min(-u * wide_u + abs(wide_u), -v * wide_v + abs(wide_v))
            x0 = int(min(max(np.ceil(cx + left - HALF), ZERO), np.float32(width)))
            x1 = int(max(min(np.floor(cx + right - HALF), np.float32(width - 1)), -ONE))
            right = np.float32(x0) + HALF - cx
            tu = fused(numbered(lanes), step_u, alike(lanes, (u + right * ux + ONE) * half - HALF))
            tv = fused(numbered(lanes), step_v, alike(lanes, (v + right * vx + ONE) * half - HALF))
            position, end = numbered(lanes) + alike(lanes, np.float32(x0)), alike(lanes, np.float32(x1) + HALF)
            at = np.uint64(y * line + LEFT + x0)
            for _ in range((x1 - x0 + count) // count):
                gap, seen = one, True
                if tested:
                    gap = smaller(larger((read(lanes, band, at + DISTANCE * plane) - far) * softly, zero), one)
                    seen = any_of(greater(gap, zero))
                if seen:
                    gap = chosen(greater(end, position), gap, zero)
                    across, along = smaller(larger(tu, zero), edge), smaller(larger(tv, zero), edge)
                    column, row = smaller(whole(across), last), smaller(whole(along), last)
                    across, along = across - floats(column), along - floats(row)
                    spot = row * pitch + column + start
                    below = spot + pitch
                    light = midpoint(planes, spot, below, across, along) * gap
                    more_r, more_g, more_b = light * red, light * green, light * blue
                    if not grey:
                        more_g = midpoint(planes, spot + second, below + second, across, along) * gap * green
                        more_b = midpoint(planes, spot + third, below + third, across, along) * gap * blue
                    if filtering:
                        cover = midpoint(planes, spot + fourth, below + fourth, across, along) * gap
                        through = one - cover * transparency
                        write(band, at, read(lanes, band, at) * (through + more_r))
                        p = at + plane
                        write(band, p, read(lanes, band, p) * (through + more_g))
                        p += plane
                        write(band, p, read(lanes, band, p) * (through + more_b))
                        p += plane
                        write(band, p, read(lanes, band, p) * (through + more_g))
                    elif covering:
                        cover = midpoint(planes, spot + fourth, below + fourth, across, along) * gap
                        through = one - cover * transparency
                        write(band, at, fused(read(lanes, band, at), through, more_r))
                        p = at + plane
                        write(band, p, fused(read(lanes, band, p), through, more_g))
                        p += plane
                        write(band, p, fused(read(lanes, band, p), through, more_b))
                        p += plane
                        write(band, p, read(lanes, band, p) * through)
                    else:
                        write(band, at, read(lanes, band, at) + more_r)
                        p = at + plane
                        write(band, p, read(lanes, band, p) + more_g)
                        p += plane
                        write(band, p, read(lanes, band, p) + more_b)
                at += np.uint64(count)
                tu, tv, position = tu + block_u, tv + block_v, position + block

    composite_rows.__qualname__ = (
        f"lay_rows_{tested:d}{covering:d}{grey:d}{filtering:d}"  # by which the cache tells them apart
    )
    return drawing_helper(composite_rows)


_grey_over_tested = _way(tested=True, covering=True, grey=True)
_grey_over = _way(tested=False, covering=True, grey=True)
_grey_tested = _way(tested=True, covering=False, grey=True)
_grey = _way(tested=False, covering=False, grey=True)
_over_tested = _way(tested=True, covering=True, grey=False)
_tested = _way(tested=True, covering=False, grey=False)
_filtering = _way(tested=True, covering=True, grey=False, filtering=True)


@drawing_helper
def _composite_speck(band, line, rows, high, top, records, k):  # type: ignore[no-untyped-def]
    """Lay a square of hardly a pixel: each pixel gets the share of it that the square covers."""
    cx, cy, own, soft = records[k, R_X], records[k, R_Y] - top, records[k, R_DISTANCE], records[k, R_SHARPNESS]
    half_x, half_y, transparency = records[k, R_HALF_WIDTH], records[k, R_HALF_HEIGHT], records[k, R_COVER]
    x0, plane = int(np.floor(cx - half_x)), np.uint64(rows * line)
    one, zero = spread4(ONE), spread4(ZERO)
    red, green, blue = spread4(records[k, R_RED]), spread4(records[k, R_GREEN]), spread4(records[k, R_BLUE])
    pixel = numbered(one) + spread4(np.float32(x0))
    cover = smaller(spread4(cx + half_x), pixel + one) - larger(spread4(cx - half_x), pixel)
    cover = larger(cover, zero)
    for y in range(int(max(np.floor(cy - half_y), ZERO)), min(int(cy + half_y), high - 1) + 1):
        at = np.uint64(y * line + LEFT + x0)
        share = min(cy + half_y, np.float32(y + 1)) - max(cy - half_y, np.float32(y))
        gap = (read(one, band, at + DISTANCE * plane) - spread4(own)) * spread4(soft)
        strength = smaller(larger(gap, zero), one) * cover * spread4(share)
        p = at
        if transparency > ZERO:
            through = one - strength * spread4(transparency)
            write(band, p, fused(read(one, band, p), through, strength * red))
            p += plane
            write(band, p, fused(read(one, band, p), through, strength * green))
            p += plane
            write(band, p, fused(read(one, band, p), through, strength * blue))
            p += plane
            write(band, p, read(one, band, p) * through)
        else:
            write(band, p, fused(strength, red, read(one, band, p)))
            p += plane
            write(band, p, fused(strength, green, read(one, band, p)))
            p += plane
            write(band, p, fused(strength, blue, read(one, band, p)))


@drawing_helper
def _composite_shell(band, line, rows, high, top, boxes, v, patches):  # type: ignore[no-untyped-def]
    """Lay a veil's rows of a band: its light and what it covers, drawn before.

    Row `v` of `boxes` (N, PATCH_COLUMNS) says where in `patches` (M,) it begins, its first column and row, how many
    of each there are, and how many floats from row to row.
    """
    first, left, upper, columns, many, pitch = (
        boxes[v, P_FIRST], boxes[v, P_LEFT], boxes[v, P_TOP],
        boxes[v, P_WIDTH], boxes[v, P_HEIGHT], boxes[v, P_PITCH],
    )  # fmt: skip
    lanes, size, plane = spread8(ZERO), np.uint64(many * pitch), np.uint64(rows * line)
    for y in range(max(0, upper - top), min(high, upper + many - top)):
        at, spot = np.uint64(y * line + LEFT + left), np.uint64(first + (y + top - upper) * pitch)
        for _ in range((columns + 7) // 8):
            through, p, q = spread8(ONE) - read(lanes, patches, spot + THROUGH * size), at, spot
            for _channel in range(3):
                write(band, p, fused(read(lanes, band, p), through, read(lanes, patches, q)))
                p, q = p + plane, q + size
            write(band, p, read(lanes, band, p) * through)
            at, spot = at + U8, spot + U8


@drawing_helper
def _composite_band(  # type: ignore[no-untyped-def]
    planes, band, line, rows, height, width, top, step, records, marks, triangles, skins, boxes, patches, lists,
    start, end,
    nearest, farthest,
):  # fmt: skip
    """Lay what a band's part of `lists` holds. What is solid lies between `nearest` and `farthest` metres."""
    for entry in range(start, end):
        prefetch(records, np.uint64(lists[np.uint64(min(entry + AHEAD, end - 1))]) * np.uint64(RECORD_COLUMNS))
        k = np.uint64(lists[np.uint64(entry)])
        own, transparency, way = records[k, R_DISTANCE], records[k, R_COVER], marks[k, R_WAY] & WAYS
        if own >= farthest:
            continue
        tested = own + ONE / records[k, R_SHARPNESS] > nearest
        if way == SPECK:
            _composite_speck(band, line, rows, height, top, records, k)
        elif way == FACET:
            composite_triangle(
                planes,
                band,
                line,
                LEFT,
                rows,
                height,
                width,
                top,
                step,
                triangles,
                skins,
                np.uint64(marks[k, R_FIRST]),
            )
        elif way == VEIL:
            _composite_shell(band, line, rows, height, int(top), boxes, np.uint64(marks[k, R_FIRST]), patches)
        elif way == MULTIPLIED:
            _filtering(spread8(ZERO), planes, band, line, rows, height, width, top, records, marks, k)
        elif way == NARROW:
            lanes = spread4(ZERO)
            if transparency > ZERO:
                _grey_over_tested(lanes, planes, band, line, rows, height, width, top, records, marks, k)
            else:
                _grey_tested(lanes, planes, band, line, rows, height, width, top, records, marks, k)
        else:
            lanes = spread8(ZERO)
            if way == GREY:
                if tested and transparency > ZERO:
                    _grey_over_tested(lanes, planes, band, line, rows, height, width, top, records, marks, k)
                elif tested:
                    _grey_tested(lanes, planes, band, line, rows, height, width, top, records, marks, k)
                elif transparency > ZERO:
                    _grey_over(lanes, planes, band, line, rows, height, width, top, records, marks, k)
                else:
                    _grey(lanes, planes, band, line, rows, height, width, top, records, marks, k)
            elif transparency > ZERO:
                _over_tested(lanes, planes, band, line, rows, height, width, top, records, marks, k)
            else:
                _tested(lanes, planes, band, line, rows, height, width, top, records, marks, k)


@drawing_helper
def _columns_of(records, lists, start, end, width):  # type: ignore[no-untyped-def]
    """Return the first column that the sprites of a band's part of `lists` touch, and the one after the last."""
    left, right = np.float32(width), ZERO
    for entry in range(start, end):
        prefetch(records, np.uint64(lists[np.uint64(min(entry + AHEAD, end - 1))]) * np.uint64(RECORD_COLUMNS))
        k = np.uint64(lists[np.uint64(entry)])
        left = min(left, records[k, R_X] - records[k, R_REACH_X])
        right = max(right, records[k, R_X] + records[k, R_REACH_X])
    return int(max(left, ZERO)), int(min(right + ONE, np.float32(width)))


@drawing_helper
def _begin_band(depth, step, band, line, rows, high, left, right, top, picture, whole_picture):  # type: ignore[no-untyped-def]
    """Clear a band between two columns, write how far what is solid is; return the nearest and farthest of it.

    With `whole_picture` a band begins with what the picture (3, H, W) shows there, to be laid over.
    """
    tall, broad = depth.shape
    plane, zero, one, sky = rows * line, spread8(ZERO), spread8(ONE), spread8(SKY)
    nearest, farthest = sky, zero
    for y in range(high):
        first, end = y * line + left, y * line + LEFT + right + RIGHT - 8
        for x in range(first, end, 8):
            write(band, np.uint64(x), zero)
            write(band, np.uint64(x + plane), zero)
            write(band, np.uint64(x + 2 * plane), zero)
            write(band, np.uint64(x + 3 * plane), one)
        write(band, np.uint64(4 * plane + first), zero)
        if whole_picture:
            for channel in range(3):
                to, start = channel * plane + y * line + LEFT, (channel * tall + top + y) * broad
                many = left + ((right - left) & ~7)
                for x in range(left, many, 8):
                    write(band, np.uint64(to + x), read(zero, picture, np.uint64(start + x)))
                for x in range(many, right):
                    band[np.uint64(to + x)] = picture[channel, top + y, x]
        row, position = min(int((np.float32(top + y) + HALF) * step), tall - 1) * broad, 4 * plane + y * line + LEFT
        done = left
        if step == ONE:
            done = left + ((right - left) & ~7)
            for x in range(left, done, 8):
                seen = read(zero, depth, np.uint64(row + x))
                far = chosen(greater(seen, zero), one / seen, sky)
                write(band, np.uint64(position + x), far)
                nearest, farthest = smaller(nearest, far), larger(farthest, far)
        for x in range(done, right):
            seen_one = depth[np.uint64(0), np.uint64(row + min(int((np.float32(x) + HALF) * step), broad - 1))]
            far_one = ONE / seen_one if seen_one > ZERO else SKY
            band[np.uint64(position + x)] = far_one
            nearest, farthest = smaller(nearest, spread8(far_one)), larger(farthest, spread8(far_one))
        for x in range(position + right, y * line + 4 * plane + LEFT + right + RIGHT):
            band[np.uint64(x)] = ZERO
    return smallest(nearest), largest(farthest)


@drawing_helper
def _end_band(band, line, rows, height, left, right, top, picture, layer):  # type: ignore[no-untyped-def]
    """Write a band's columns into the picture (3, H, W), or into a `layer` (4, h, w) that is not empty."""
    plane, one = rows * line, spread8(ONE)
    width = picture.shape[2] if layer.size == 0 else layer.shape[2]
    size = picture.shape[1] * width if layer.size == 0 else layer.shape[1] * width
    vectors = left + ((right - left) & ~7) if layer.size == 0 else left
    for y in range(height):
        first, out = y * line + LEFT, (top + y) * width
        for x in range(left, vectors, 8):
            at, to = np.uint64(first + x), np.uint64(out + x)
            for _ in range(3):
                write(picture, to, read(one, band, at))
                at, to = at + np.uint64(plane), to + np.uint64(size)
        for x in range(vectors, right):
            for channel in range(3):
                light = band[np.uint64(first + x + channel * plane)]
                if layer.size == 0:
                    picture[channel, top + y, x] = light
                else:
                    layer[channel, top + y, x] = light
            if layer.size > 0:
                layer[3, top + y, x] = band[np.uint64(first + x + 3 * plane)]


@drawing_kernel
def composite_sprites(  # type: ignore[no-untyped-def]
    records,
    marks,
    triangles,
    skins,
    boxes,
    patches,
    counts,
    lists,
    order,
    rows,
    planes,
    depth,
    step,
    bands,
    layer,
    picture,
):
    """Lay sprites over the picture (3, H, W), or into a `layer` (4, h, w), `step` times coarser, that is not empty.

    Records may also stand for `triangles` (F, FACET) and their `skins`, and for veils (see `_composite_shell`).

    A layer receives premultiplied light, and what is let through. `depth` (H, W) is the inverse distance of what
    is solid. `counts` (bands + 1,) and `lists` say which of `records` (N, RECORD_COLUMNS), also as whole numbers
    `marks`, lie in each band of `rows` rows; bands are taken in `order`. `bands` (threads, 5 * rows * line) is
    working memory for lines of LEFT + width + RIGHT.
    """
    height, width = (layer.shape[1], layer.shape[2]) if layer.size > 0 else (picture.shape[1], picture.shape[2])
    line = LEFT + width + RIGHT
    turns = fresh_turns()
    for _hand in prange(HANDS):
        turn = next_turn(turns)
        while turn < len(order):
            band = order[turn]
            start, end = counts[band], counts[band + 1]
            if start < end or layer.size > 0:
                top = band * rows
                many, mine = min(rows, height - top), bands[get_thread_id()]
                left, right = 0, width
                if layer.size == 0:
                    left, right = _columns_of(records, lists, start, end, width)
                nearest, farthest = _begin_band(
                    depth, step, mine, line, rows, many, left, right, top, picture, layer.size == 0
                )  # fmt: skip
                _composite_band(
                    planes, mine, line, rows, many, width, np.float32(top), step, records, marks, triangles, skins,
                    boxes,
                    patches, lists, start, end, nearest, farthest,
                )  # fmt: skip
                _end_band(mine, line, rows, many, left, right, top, picture, layer)
            turn = next_turn(turns)
