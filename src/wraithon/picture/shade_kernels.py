"""The kernel that colours what the opaque pass found."""

from __future__ import annotations

import numpy as np
from numba import prange

from wraithon.compiled import drawing_helper, drawing_inlined, drawing_kernel
from wraithon.picture.doubling import SPARE, mix_rows, put_doubled
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
from wraithon.vectors import (
    alike_whole,
    bits,
    chosen,
    fetch,
    floats,
    fused,
    greater,
    larger,
    lowered,
    numbered,
    read,
    root,
    shifted,
    smaller,
    spread8,
    whole,
    write,
    zipped_high,
    zipped_low,
)

__all__ = ["LEVEL", "MATERIAL", "shade_picture"]

ZERO, ONE, HALF, QUARTER = np.float32(0), np.float32(1), np.float32(0.5), np.float32(0.25)
TINY, SPECK = np.float32(1e-12), np.float32(1e-9)
BYTE_SQUARED = np.float32(1 / 255**2)
FIGURE = np.float32(0.55)
SQUARINGS = 7
"""The most that materials ask for."""
MATERIAL, LEVEL = np.uint64(9), np.int32(4)
"""Numbers of a material: colour, squarings, glow, texels a metre, whether it is seen from behind. And of a level: first
texel, width, height, and (of a material's first) how many levels there are."""
K0, K1, K2, K3, K4, K5 = (np.uint64(k) for k in range(6))
K8, K16, K24, K32, K40, K48, K56 = (np.uint64(8 * k) for k in range(1, 8))


@drawing_inlined
def _turned(table, at):  # type: ignore[no-untyped-def]
    """Return the columns of eight rows (8,) of a table, each as lanes."""
    one = spread8(ONE)
    a, b, c, d = (
        read(one, table, at),
        read(one, table, at + K8),
        read(one, table, at + K16),
        read(one, table, at + K24),
    )
    e, f, g, h = (
        read(one, table, at + K32),
        read(one, table, at + K40),
        read(one, table, at + K48),
        read(one, table, at + K56),
    )
    ae, bf, cg, dh = zipped_low(a, e), zipped_low(b, f), zipped_low(c, g), zipped_low(d, h)
    aceg, bdfh = zipped_low(ae, cg), zipped_low(bf, dh)
    first, second = zipped_low(aceg, bdfh), zipped_high(aceg, bdfh)
    aceg, bdfh = zipped_high(ae, cg), zipped_high(bf, dh)
    third, fourth = zipped_low(aceg, bdfh), zipped_high(aceg, bdfh)
    ae, bf, cg, dh = zipped_high(a, e), zipped_high(b, f), zipped_high(c, g), zipped_high(d, h)
    aceg, bdfh = zipped_low(ae, cg), zipped_low(bf, dh)
    fifth, sixth = zipped_low(aceg, bdfh), zipped_high(aceg, bdfh)
    aceg, bdfh = zipped_high(ae, cg), zipped_high(bf, dh)
    return first, second, third, fourth, fifth, sixth, zipped_low(aceg, bdfh), zipped_high(aceg, bdfh)


@drawing_inlined
def _turned4(table, at):  # type: ignore[no-untyped-def]
    """Return the columns of eight rows (4,) of a table, each as lanes."""
    one = spread8(ONE)
    # Each holds two rows.
    ab, cd, ef, gh = (
        read(one, table, at),
        read(one, table, at + K8),
        read(one, table, at + K16),
        read(one, table, at + K24),
    )
    ae, bf = zipped_low(ab, ef), zipped_high(ab, ef)
    cg, dh = zipped_low(cd, gh), zipped_high(cd, gh)
    aceg, bdfh = zipped_low(ae, cg), zipped_low(bf, dh)
    first, second = zipped_low(aceg, bdfh), zipped_high(aceg, bdfh)
    aceg, bdfh = zipped_high(ae, cg), zipped_high(bf, dh)
    return first, second, zipped_low(aceg, bdfh), zipped_high(aceg, bdfh)


@drawing_helper
def _mix_samples(  # type: ignore[no-untyped-def]
    count, samples, whose, screen, triangles, vertices, parts, materials, ramp, eaten, dissolving,
    mixed, coats, weights,
):  # fmt: skip
    """Write what the skin has at each sample into `mixed` (n, 8), and its material into `coats` (n, 8).

    `samples` (n, 4) are x, y, inverse distance (written here), and whether the skin may be seen from behind
    (written here); `whose` (n, 2) triangle and material (written here). `weights` (n, 2) receive the shares of
    the second and third corner, in perspective.
    """
    one = spread8(ONE)
    for i in range(np.uint64(count)):
        t = np.uint64(whose[i, K0])
        a, b, c = np.uint64(triangles[t, K0]), np.uint64(triangles[t, K1]), np.uint64(triangles[t, K2])
        ax, ay = screen[a, K0], screen[a, K1]
        bx, by = screen[b, K0] - ax, screen[b, K1] - ay
        qx, qy = screen[c, K0] - ax, screen[c, K1] - ay
        px, py = samples[i, K0] - ax, samples[i, K1] - ay
        scale = ONE / (bx * qy - qx * by)
        share_b = max(ZERO, min(ONE, (px * qy - py * qx) * scale))
        share_c = max(ZERO, min(ONE - share_b, (py * bx - px * by) * scale))
        wa = (ONE - share_b - share_c) * screen[a, K2]
        wb, wc = share_b * screen[b, K2], share_c * screen[c, K2]
        near = wa + wb + wc
        total = ONE / near
        wa, wb, wc = wa * total, wb * total, wc * total
        skin = spread8(wa) * read(one, vertices, a * K8)
        skin = fused(spread8(wb), read(one, vertices, b * K8), skin)
        write(mixed, i * K8, fused(spread8(wc), read(one, vertices, c * K8), skin))
        material = np.uint64(parts[t])
        write(coats, i * K8, read(one, materials, material * MATERIAL))
        both = materials[material, K8]
        if eaten and dissolving[t] > 0:
            both = ONE
        samples[i, K2], samples[i, K3], whose[i, K1] = near, both, material
        weights[i, K0], weights[i, K1] = wb, wc
        if len(ramp) > 0:
            # The first colour of the ramp is that of no figure at all.
            value = mixed[i, K5]
            step = np.uint64(0 if value < ZERO else 1 + int(min(value, ONE) * np.float32(len(ramp) - 2)))
            for channel in range(np.uint64(3)):
                coats[i, channel], coats[i, channel + K4] = ramp[step, channel] * FIGURE, ZERO


@drawing_inlined
def _byte(texel, place):  # type: ignore[no-untyped-def]
    return floats(shifted(texel, place) & alike_whole(texel, np.int32(255)))


@drawing_inlined
def _at_texels(one, two, three, four, wa, wb, wc, wd, place):  # type: ignore[no-untyped-def]
    """Return the linear light of a channel amid four texels, which hold square roots of it in bytes."""
    root_ = wa * _byte(one, place) + wb * _byte(two, place) + wc * _byte(three, place) + wd * _byte(four, place)
    return root_ * root_ * spread8(BYTE_SQUARED)


@drawing_helper
def _textured(at, u, v, spanned, whose, levels, texels, colours):  # type: ignore[no-untyped-def]
    """Write the linear RGB at (u, v), repeating, of the materials of eight samples into `colours` (3, 8).

    Texels are square roots of linear light in bytes: a quarter of the memory of floats, which is what sampling
    waits for, and finer in the dark than plain bytes. `spanned` texels a pixel decide the level (Williams 1983).
    """
    one, half, zero = spread8(ONE), spread8(HALF), alike_whole(u, np.int32(0))
    depth, next_ = alike_whole(u, np.int32(levels.shape[1])), alike_whole(u, np.int32(1))
    pairs = whole(numbered(u)) + whole(numbered(u)) + alike_whole(u, np.int32(at * K2))
    material = fetch(whose, pairs + next_)
    most = fetch(levels, material * alike_whole(u, np.int32(LEVEL)) * depth + alike_whole(u, np.int32(3)))
    # The exponent counts how often it is halved until a pixel spans no more than 1.4 texels.
    level = shifted(bits(larger(spanned * spread8(np.float32(1 / 1.4)), half)), np.int32(23)) - alike_whole(
        u, np.int32(126)
    )
    level = larger(smaller(level, most - next_), zero)
    row = (material * depth + level) * alike_whole(u, np.int32(LEVEL))
    first, wide, high = (
        fetch(levels, row),
        larger(fetch(levels, row + next_), next_),
        larger(fetch(levels, row + next_ + next_), next_),
    )
    x, y = (u - lowered(u)) * floats(wide) - half, (v - lowered(v)) * floats(high) - half
    fx, fy = lowered(x), lowered(y)
    sx, sy, x0, y0 = x - fx, y - fy, whole(fx), whole(fy)
    x1, y1 = x0 + next_, y0 + next_
    x0, y0 = chosen(greater(zero, x0), x0 + wide, x0), chosen(greater(zero, y0), y0 + high, y0)
    x1, y1 = chosen(greater(wide, x1), x1, x1 - wide), chosen(greater(high, y1), y1, y1 - high)
    upper, lower = first + y0 * wide, first + y1 * wide
    p, q, r, s = (
        fetch(texels, upper + x0),
        fetch(texels, upper + x1),
        fetch(texels, lower + x0),
        fetch(texels, lower + x1),
    )
    wa, wb, wc, wd = (one - sx) * (one - sy), sx * (one - sy), (one - sx) * sy, sx * sy
    plain = greater(next_, most)
    for channel in range(np.int32(3)):
        light = _at_texels(p, q, r, s, wa, wb, wc, wd, np.int32(8) * channel)
        write(colours, np.uint64(8 * channel), chosen(plain, one, light))


@drawing_helper
def _light_samples(  # type: ignore[no-untyped-def]
    count, samples, whose, mixed, coats, levels, texels, figures, lens, light, out
):
    """Write the light of samples into `out` (3, n), from what `_mix_samples` found of them.

    `lens` (10,) are what a ray's right, up and ahead are at x = 0, y = 0, and what they grow by with x and with
    y, then the pixels that a metre at one metre covers, turned over. `figures` are coloured evenly.
    """
    one, zero, half = spread8(ONE), spread8(ZERO), spread8(HALF)
    lx, ly, lz = spread8(light[0]), spread8(light[1]), spread8(light[2])
    colours, room = np.empty((3, 8), np.float32), np.uint64(out.shape[1])
    for i in range(np.uint64(0), np.uint64(count), K8):
        sx, sy, near, both = _turned4(samples, i * K4)
        rx = fused(sx, spread8(lens[3]), fused(sy, spread8(lens[6]), spread8(lens[0])))
        ry = fused(sx, spread8(lens[4]), fused(sy, spread8(lens[7]), spread8(lens[1])))
        rz = fused(sx, spread8(lens[5]), fused(sy, spread8(lens[8]), spread8(lens[2])))
        long = root(rx * rx + ry * ry + rz * rz)
        back = spread8(-ONE) / long
        vx, vy, vz = rx * back, ry * back, rz * back
        nx, ny, nz, u, v, _, _, _ = _turned(mixed, i * K8)
        inverse = one / root(larger(nx * nx + ny * ny + nz * nz, spread8(TINY)))
        nx, ny, nz = nx * inverse, ny * inverse, nz * inverse
        facing = nx * vx + ny * vy + nz * vz
        turn = chosen(greater(zero, facing), chosen(greater(both, zero), spread8(-ONE), one), one)
        nx, ny, nz, facing = nx * turn, ny * turn, nz * turn, larger(facing * turn, zero)
        red, green, blue, rough, glow_r, glow_g, glow_b, density = _turned(coats, i * K8)
        lit = nx * lx + ny * ly + nz * lz
        wrap = larger(zero, (lit + spread8(QUARTER)) * spread8(np.float32(0.8)))
        wrap = wrap * wrap * spread8(np.float32(0.35)) + larger(zero, lit) * spread8(np.float32(0.65))
        up, edge = fused(ny, half, half), one - facing
        edge, shine = edge * edge * edge, zero
        if figures:
            # Figures are read by their colour: an even light, and nothing that shines.
            wrap, up, edge = half * wrap + spread8(QUARTER), half, zero
        else:
            _textured(i, u, v, density * long / near * spread8(lens[9]), whose, levels, texels, colours)
            red = red * read(one, colours, K0)
            green = green * read(one, colours, K8)
            blue = blue * read(one, colours, K16)
            # Highlight: Blinn 1977; the exponent is two to the number of squarings the material asks for.
            hx, hy, hz = lx + vx, ly + vy, lz + vz
            inverse = one / root(larger(hx * hx + hy * hy + hz * hz, spread8(TINY)))
            shine, power = larger(zero, (nx * hx + ny * hy + nz * hz) * inverse), one
            for turn_ in range(SQUARINGS):
                more = greater(rough, spread8(np.float32(turn_)))
                # What is too small to be seen stays a plain number, with which the processor is quick.
                shine = chosen(more, larger(shine * shine, spread8(SPECK)), shine)
                power = chosen(more, power + power, power)
            shine = shine * (power + one + one) * spread8(np.float32(0.006)) * larger(zero, lit)
        behind, low = larger(zero, spread8(np.float32(0.35)) - nx * lx - nz * lz) * edge, one - up
        light_r = spread8(KEY_R) * wrap + spread8(SKY_R) * up + spread8(LOW_R) * low
        light_g = spread8(KEY_G) * wrap + spread8(SKY_G) * up + spread8(LOW_G) * low
        light_b = spread8(KEY_B) * wrap + spread8(SKY_B) * up + spread8(LOW_B) * low
        write(out, i, red * light_r + spread8(KEY_R) * shine + spread8(RIM_R) * behind + glow_r)
        write(out, i + room, green * light_g + spread8(KEY_G) * shine + spread8(RIM_G) * behind + glow_g)
        write(out, i + K2 * room, blue * light_b + spread8(KEY_B) * shine + spread8(RIM_B) * behind + glow_b)


@drawing_helper
def _add_glow(count, whose, weights, triangles, rest, dissolving, border, out):  # type: ignore[no-untyped-def]
    """Add the glow of the dissolve's border."""
    for i in range(count):
        t = whose[i, 0]
        if dissolving[t] > 0:
            a, b, c = np.uint64(triangles[t, 0]), np.uint64(triangles[t, 1]), np.uint64(triangles[t, 2])
            noise = dissolve_noise(rest, a, b, c, weights[i, 0], weights[i, 1], border[1])
            shine = max(ZERO, ONE - max((noise - border[0]) / max(border[2], TINY), ZERO))
            for channel in range(3):
                out[channel, i] += border[3 + channel] * shine * shine


@drawing_helper
def _copy_rows(around, y, skip, out):  # type: ignore[no-untyped-def]
    """Write a row of the picture (3, H, W) from surroundings (3, h, w) that are `skip` (1 or 2) times as coarse."""
    if skip == 1:
        for channel in range(3):
            out[channel, y] = around[channel, y]
        return
    mixed = np.empty((3, around.shape[2] + SPARE), np.float32)
    mix_rows(around, y, ONE, mixed)
    put_doubled(mixed, y, False, out)


@drawing_helper
def _list_samples(y, first, end, depth, ids, samples, whose, places, shares, out, out_depth):  # type: ignore[no-untyped-def]
    """List what has to be coloured of a row's pixels, `first` to before `end`; return how much.

    `out` keeps as much of each pixel as stays open; `out_depth` receives the inverse distance.
    """
    count = 0
    for x in range(first, end):
        left, top = np.uint64(2 * x), np.uint64(2 * y)
        d0, d1 = depth[top, left], depth[top, left + K1]
        d2, d3 = depth[top + K1, left], depth[top + K1, left + K1]
        near, least = max(max(d0, d1), max(d2, d3)), min(min(d0, d1), min(d2, d3))
        if near == ZERO:
            continue
        agree = least > ZERO and near - least < near * np.float32(0.01)
        opened = 0
        for k in range(np.uint64(1 if agree else 4)):
            t = ids[top + (k >> K1), left + (k & K1)]
            if t < 0:
                opened += 1
                continue
            samples[count, 0] = np.float32(left + (k & K1)) + HALF
            samples[count, 1] = np.float32(top + (k >> K1)) + HALF
            whose[count, 0], places[count], shares[count] = t, x, ONE if agree else QUARTER
            count += 1
        part = np.float32(opened) * QUARTER
        for channel in range(3):
            out[channel, y, x] *= part
        out_depth[y, x] = near
    return count


@drawing_kernel
def shade_picture(  # type: ignore[no-untyped-def]
    screen, triangles, vertices, parts, materials, levels, texels, ramp, rest, dissolving, border,
    around, skip, eye, basis, light, focal, depth, ids, extents, band, rows, out, out_depth,
):  # fmt: skip
    """Colour every pixel: linear RGB into `out` (3, H, W), inverse distance into `out_depth` (H, W).

    First what is `around` (3, h, w), `skip` (1 or 2) times as coarse, then the character where its samples
    are. `vertices` (V, 8) are normals, UVs and figures; `ramp` (R, 3) colours by figures, or is empty.
    `border` (6,) is the dissolve's: share gone, blotches a metre, width, and linear colour of its glow.
    """
    height, width = out_depth.shape
    pixel = ONE / focal
    for turn in prange(len(rows)):
        y = rows[turn]
        _, up = ray_up(np.float32(y), height, pixel, basis)
        _copy_rows(around, y, skip, out)
        ground = up / -eye[1] if up < HORIZON else ZERO
        for x in range(width):
            out_depth[y, x] = ground
        first, end = extents[2 * y // band, 0] // 2, (extents[2 * y // band, 1] + 2) // 2
        if first >= end:
            continue
        room = 4 * (end - first) + 8
        samples, whose = np.empty((room, 4), np.float32), np.empty((room, 2), np.int32)
        places, shares = np.empty(room, np.int32), np.empty(room, np.float32)
        count = _list_samples(y, first, end, depth, ids, samples, whose, places, shares, out, out_depth)
        if count == 0:
            continue
        # Eight at a time: the last are done again to fill up.
        full = (count + 7) & ~7
        for k in range(count, full):
            samples[k, 0], samples[k, 1], whose[k, 0] = samples[count - 1, 0], samples[count - 1, 1], whose[count - 1, 0]
        mixed, coats = np.empty((full, 8), np.float32), np.empty((full, 8), np.float32)
        weights, found = np.empty((full, 2), np.float32), np.empty((3, full), np.float32)
        _mix_samples(
            full, samples, whose, screen, triangles, vertices, parts, materials, ramp, border[0] > ZERO, dissolving,
            mixed, coats, weights,
        )  # fmt: skip
        lens = np.empty(10, np.float32)
        for axis in range(3):
            lens[3 + axis], lens[6 + axis] = basis[0, axis] * pixel * HALF, -basis[1, axis] * pixel * HALF
            corner = np.float32(height) * basis[1, axis] - np.float32(width) * basis[0, axis]
            lens[axis] = basis[2, axis] + corner * pixel * HALF
        lens[9] = pixel
        _light_samples(full, samples, whose, mixed, coats, levels, texels, len(ramp) > 0, lens, light, found)
        if border[0] > ZERO:
            _add_glow(count, whose, weights, triangles, rest, dissolving, border, found)
        for channel in range(3):
            for k in range(count):
                out[channel, y, places[k]] += found[channel, k] * shares[k]
