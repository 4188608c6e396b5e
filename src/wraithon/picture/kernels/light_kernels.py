"""The light of samples of the skin, worked out for eight of them at a time."""

from __future__ import annotations

from typing import Any

import numpy as np

from wraithon.numeric.compiled import drawing_helper
from wraithon.numeric.vector_memory import read, write
from wraithon.numeric.vectors import chosen, fused, greater, larger, root, smaller, spread8
from wraithon.picture.kernels.bump_kernels import bent, lit_around
from wraithon.picture.kernels.texel_kernels import (
    columns_of_eight,
    columns_of_four,
    detailed_samples,
    texture_samples,
)
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

ZERO, ONE, HALF, QUARTER = np.float32(0), np.float32(1), np.float32(0.5), np.float32(0.25)
TWO, FOUR, FIVE, FIFTH = np.float32(2), np.float32(4), np.float32(5), np.float32(0.2)
SHARP = np.float32(7)
"""Squarings of a mirror's highlight."""
TINY, SPECK = np.float32(1e-12), np.float32(1e-9)
SQUARINGS = 7
"""The most that any material asks for."""
K0, K2, K4 = np.uint64(0), np.uint64(2), np.uint64(4)
K8, K16, K24, K32, K40, K48, K56 = (np.uint64(8 * k) for k in range(1, 8))


def _lighting(*, detailed: bool) -> Any:
    """Return the helper that lights samples, of bodies with pictures of their surface (`detailed`) or without."""

    @drawing_helper
    def light_samples(  # type: ignore[no-untyped-def]
        count, samples, marks, mixed, tables, slopes, levels, texels, details, figures, maximum, lens, light, out
    ):
        """Write the light of samples into `out` (3, n), from what was mixed for them.

        `lens` (10,) are what a ray's right, up and ahead are at x = 0, y = 0, and what they grow by with x and with
        y, then the pixels that a metre at one metre covers,
        turned over. `maximum` squarings of the highlight are asked
        for by any material. `figures` are coloured evenly.
        """
        one, zero, half = spread8(ONE), spread8(ZERO), spread8(HALF)
        lx, ly, lz = spread8(light[0]), spread8(light[1]), spread8(light[2])
        found, viewport = np.empty((8, 8), np.float32), np.uint64(out.shape[1])
        for i in range(np.uint64(0), np.uint64(count), K8):
            sx, sy, near, both = columns_of_four(samples, i * K4)
            rx = fused(sx, spread8(lens[3]), fused(sy, spread8(lens[6]), spread8(lens[0])))
            ry = fused(sx, spread8(lens[4]), fused(sy, spread8(lens[7]), spread8(lens[1])))
            rz = fused(sx, spread8(lens[5]), fused(sy, spread8(lens[8]), spread8(lens[2])))
            long = root(rx * rx + ry * ry + rz * rz)
            back = spread8(-ONE) / long
            vx, vy, vz = rx * back, ry * back, rz * back
            nx, ny, nz, u, v, _, _, _ = columns_of_eight(mixed, i * K8)
            inverse = one / root(larger(nx * nx + ny * ny + nz * nz, spread8(TINY)))
            nx, ny, nz = nx * inverse, ny * inverse, nz * inverse
            facing = nx * vx + ny * vy + nz * vz
            turn = chosen(greater(zero, facing), chosen(greater(both, zero), spread8(-ONE), one), one)
            red, green, blue, squarings, glow_r, glow_g, glow_b, density = columns_of_eight(tables, i * K8)
            shines = greater(squarings, half)  # stone of the stage does not, and has no rim
            metal = zero
            if not figures:
                spanned = density * long / near * spread8(lens[9])
                rough = (spread8(SHARP) - squarings) * spread8(FIFTH)
                if detailed:
                    detailed_samples(i, u, v, spanned, marks, levels, texels, details, rough, found)
                else:
                    texture_samples(i, u, v, spanned, marks, levels, texels, details, rough, found)
                red, green = red * read(one, found, K0), green * read(one, found, K8)
                blue = blue * read(one, found, K16)
            if detailed:
                tx, ty, tz, hand = columns_of_four(slopes, i * K4)
                nx, ny, nz = bent(nx, ny, nz, tx, ty, tz, hand, read(one, found, K32), read(one, found, K40))
                facing, rough, metal = nx * vx + ny * vy + nz * vz, read(one, found, K48), read(one, found, K56)
                squarings = spread8(SHARP) - spread8(FIVE) * rough
            nx, ny, nz, facing = nx * turn, ny * turn, nz * turn, larger(facing * turn, zero)
            lit = nx * lx + ny * ly + nz * lz
            wrap = larger(zero, (lit + spread8(QUARTER)) * spread8(np.float32(0.8)))
            wrap = wrap * wrap * spread8(np.float32(0.35)) + larger(zero, lit) * spread8(np.float32(0.65))
            up, edge = fused(ny, half, half), one - facing
            edge, shine = chosen(shines, edge * edge * edge, zero), zero
            if figures:
                # Figures are read by their colour: an even light, and nothing that shines.
                wrap, up, edge = half * wrap + spread8(QUARTER), half, zero
            else:
                # Highlight: Blinn 1977; the exponent is two to the number of squarings the material asks for.
                hx, hy, hz = lx + vx, ly + vy, lz + vz
                inverse = one / root(larger(hx * hx + hy * hy + hz * hz, spread8(TINY)))
                shine, power = larger(zero, (nx * hx + ny * hy + nz * hz) * inverse), one
                for turn_ in range(maximum):
                    # What is too small to be seen stays a plain number, with which the processor is quick.
                    squared, ahead = larger(shine * shine, spread8(SPECK)), squarings - spread8(np.float32(turn_))
                    if detailed:  # roughness goes by any steps
                        more = smaller(larger(ahead, zero), one)
                        shine, power = fused(more, squared - shine, shine), fused(more, power, power)
                    else:
                        more = greater(ahead, zero)
                        shine, power = chosen(more, squared, shine), chosen(more, power + power, power)
                shine = shine * (power + one + one) * spread8(np.float32(0.006)) * larger(zero, lit)
            behind, low = larger(zero, spread8(np.float32(0.35)) - nx * lx - nz * lz) * edge, one - up
            shine_r, shine_g, shine_b = spread8(KEY_R) * shine, spread8(KEY_G) * shine, spread8(KEY_B) * shine
            if detailed:
                left = read(one, found, K24)
                up, low = up * left, low * left
                # Metal has the colour of its highlight, and mirrors what is around; the rougher, the more evenly.
                above = fused(facing, ny, half - half * vy)
                mirror = metal * left * (spread8(TWO) - rough)
                tint, diffuse = spread8(FOUR) * metal, one - metal * (one - half * rough)
                mirror_r = mirror * red * lit_around(LOW_R, SKY_R, above)
                mirror_g = mirror * green * lit_around(LOW_G, SKY_G, above)
                mirror_b = mirror * blue * lit_around(LOW_B, SKY_B, above)
                shine_r = fused(shine_r, tint * red - metal, shine_r) + mirror_r
                shine_g = fused(shine_g, tint * green - metal, shine_g) + mirror_g
                shine_b = fused(shine_b, tint * blue - metal, shine_b) + mirror_b
                red, green, blue = red * diffuse, green * diffuse, blue * diffuse
            light_r = spread8(KEY_R) * wrap + spread8(SKY_R) * up + spread8(LOW_R) * low
            light_g = spread8(KEY_G) * wrap + spread8(SKY_G) * up + spread8(LOW_G) * low
            light_b = spread8(KEY_B) * wrap + spread8(SKY_B) * up + spread8(LOW_B) * low
            write(out, i, red * light_r + shine_r + spread8(RIM_R) * behind + glow_r)
            write(out, i + viewport, green * light_g + shine_g + spread8(RIM_G) * behind + glow_g)
            write(out, i + K2 * viewport, blue * light_b + shine_b + spread8(RIM_B) * behind + glow_b)

    return light_samples


light_plain, light_detailed = _lighting(detailed=False), _lighting(detailed=True)
