"""Kernels that look up, for eight samples at a time, what shading is done with."""

from __future__ import annotations

from typing import Any

import numpy as np

from wraithon.numeric.compiled import drawing_helper, drawing_inlined
from wraithon.numeric.vector_memory import fetch, read, read_whole, write
from wraithon.numeric.vectors import (
    alike_whole,
    bits,
    chosen,
    floats,
    fused,
    greater,
    high_half,
    larger,
    low_half,
    lowered,
    shifted,
    smaller,
    spread8,
    whole,
    zipped_high,
    zipped_low,
)

ONE, HALF = np.float32(1), np.float32(0.5)
BYTE, FLAT, STEEP = np.float32(1 / 255), np.float32(128), np.float32(1 / 127)
BYTE_SQUARED = np.float32(1 / 255**2)
LEVEL = np.int32(4)
"""Numbers of a level: first texel, width, height, and both in one, the height in the upper half."""
K2 = np.uint64(2)
K8, K16, K24, K32, K40, K48, K56 = (np.uint64(8 * k) for k in range(1, 8))


@drawing_inlined
def midpoint(plane, spot, below, across, down):  # type: ignore[no-untyped-def]
    """Return what lies amid four texels of a plane; each holds its right neighbour in its upper half."""
    upper, lower = fetch(plane, spot), fetch(plane, below)
    a, b = low_half(upper), low_half(lower)
    top = fused(across, high_half(upper) - a, a)
    low = fused(across, high_half(lower) - b, b)
    return fused(down, low - top, top)


@drawing_inlined
def _columns(ae, bf, cg, dh):  # type: ignore[no-untyped-def]
    """Return four columns of rows a to h as lanes, given by turns what each two rows have in them."""
    aceg, bdfh = zipped_low(ae, cg), zipped_low(bf, dh)
    first, second = zipped_low(aceg, bdfh), zipped_high(aceg, bdfh)
    aceg, bdfh = zipped_high(ae, cg), zipped_high(bf, dh)
    return first, second, zipped_low(aceg, bdfh), zipped_high(aceg, bdfh)


@drawing_inlined
def columns_of_eight(table, at):  # type: ignore[no-untyped-def]
    """Return the columns of eight rows (8,) of a table, each as lanes."""
    one = spread8(ONE)
    a, b = read(one, table, at), read(one, table, at + K8)
    c, d = read(one, table, at + K16), read(one, table, at + K24)
    e, f = read(one, table, at + K32), read(one, table, at + K40)
    g, h = read(one, table, at + K48), read(one, table, at + K56)
    lower = _columns(zipped_low(a, e), zipped_low(b, f), zipped_low(c, g), zipped_low(d, h))
    return lower + _columns(zipped_high(a, e), zipped_high(b, f), zipped_high(c, g), zipped_high(d, h))


@drawing_inlined
def columns_of_four(table, at):  # type: ignore[no-untyped-def]
    """Return the columns of eight rows (4,) of a table, each as lanes."""
    one = spread8(ONE)
    # Each holds two rows.
    ab, cd = read(one, table, at), read(one, table, at + K8)
    ef, gh = read(one, table, at + K16), read(one, table, at + K24)
    return _columns(zipped_low(ab, ef), zipped_high(ab, ef), zipped_low(cd, gh), zipped_high(cd, gh))


@drawing_inlined
def _byte(texel, position):  # type: ignore[no-untyped-def]
    return floats(shifted(texel, position) & alike_whole(texel, np.int32(255)))


@drawing_inlined
def _mixed(one, two, three, four, wa, wb, wc, wd, position):  # type: ignore[no-untyped-def]
    """Return a channel amid four texels."""
    return (
        wa * _byte(one, position)
        + wb * _byte(two, position)
        + wc * _byte(three, position)
        + wd * _byte(four, position)
    )


@drawing_inlined
def _at_texels(one, two, three, four, wa, wb, wc, wd, position):  # type: ignore[no-untyped-def]
    """Return the linear light of a channel amid four texels, which hold square roots of it in bytes."""
    root_ = _mixed(one, two, three, four, wa, wb, wc, wd, position)
    return root_ * root_ * spread8(BYTE_SQUARED)


def _looking_up(*, detailed: bool) -> Any:
    """Return the helper that looks up textures, with `details` or without."""

    @drawing_helper
    def look_up(at, u, v, spanned, marks, levels, texels, details, rough, found):  # type: ignore[no-untyped-def]
        """Write the linear RGB at (u, v), repeating, of the materials of eight samples into `found` (8, 8).

        Texels are square roots of linear light in bytes: a quarter of the memory of floats, which is what sampling
        waits for, and finer in the dark than plain bytes. `spanned` texels a pixel decide the level (Williams 1983).
        Where they are `detailed`, the other rows receive the share of light from around, the normal's parts along u
        and against v, and roughness and metal; where a material has no picture its roughness is `rough`.
        """
        one, half, zero = spread8(ONE), spread8(HALF), alike_whole(u, np.int32(0))
        next_, viewport = alike_whole(u, np.int32(1)), np.uint64(marks.shape[1])
        maximum = read_whole(u, marks, K2 * viewport + at)
        # The exponent counts how often it is halved until a pixel spans no more than 1.4 texels.
        level = shifted(bits(larger(spanned * spread8(np.float32(1 / 1.4)), half)), np.int32(23)) - alike_whole(
            u, np.int32(126)
        )
        level = larger(smaller(level, maximum - next_), zero)
        row = read_whole(u, marks, viewport + at) + level * alike_whole(u, np.int32(LEVEL))
        first, sides = fetch(levels, row), fetch(levels, row + alike_whole(u, np.int32(3)))
        width, height = (
            larger(sides & alike_whole(u, np.int32(0xFFFF)), next_),
            larger(shifted(sides, np.int32(16)), next_),
        )
        x, y = (u - lowered(u)) * floats(width) - half, (v - lowered(v)) * floats(height) - half
        fx, fy = lowered(x), lowered(y)
        sx, sy, x0, y0 = x - fx, y - fy, whole(fx), whole(fy)
        x1, y1 = x0 + next_, y0 + next_
        x0, y0 = chosen(greater(zero, x0), x0 + width, x0), chosen(greater(zero, y0), y0 + height, y0)
        x1, y1 = chosen(greater(width, x1), x1, x1 - width), chosen(greater(height, y1), y1, y1 - height)
        upper, lower = first + y0 * width, first + y1 * width
        p, q, r, s = (
            fetch(texels, upper + x0),
            fetch(texels, upper + x1),
            fetch(texels, lower + x0),
            fetch(texels, lower + x1),
        )
        wa, wb, wc, wd = (one - sx) * (one - sy), sx * (one - sy), (one - sx) * sy, sx * sy
        plain = greater(next_, maximum)
        for channel in range(np.int32(3)):
            light = _at_texels(p, q, r, s, wa, wb, wc, wd, np.int32(8) * channel)
            write(found, np.uint64(8 * channel), chosen(plain, one, light))
        if detailed:
            around = _mixed(p, q, r, s, wa, wb, wc, wd, np.int32(24)) * spread8(BYTE)
            write(found, K24, chosen(plain, one, around))
            p, q, r, s = (
                fetch(details, upper + x0),
                fetch(details, upper + x1),
                fetch(details, lower + x0),
                fetch(details, lower + x1),
            )
            none, flat, steep = one - one, spread8(FLAT), spread8(STEEP)
            along = _mixed(p, q, r, s, wa, wb, wc, wd, np.int32(0))
            against = _mixed(p, q, r, s, wa, wb, wc, wd, np.int32(8))
            write(found, K32, chosen(plain, none, (along - flat) * steep))
            write(found, K40, chosen(plain, none, (against - flat) * steep))
            write(found, K48, chosen(plain, rough, _mixed(p, q, r, s, wa, wb, wc, wd, np.int32(16)) * spread8(BYTE)))
            write(found, K56, chosen(plain, none, _mixed(p, q, r, s, wa, wb, wc, wd, np.int32(24)) * spread8(BYTE)))

    return look_up


texture_samples, detailed_samples = _looking_up(detailed=False), _looking_up(detailed=True)
