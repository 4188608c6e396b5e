"""The kernel that lays out ribbons: smooth bands of facets through their points."""

from __future__ import annotations

import math

import numpy as np

from wraithon.numeric.compiled import drawing_helper, drawing_kernel, prange
from wraithon.picture.kernels.columns import ALPHA

ZERO, ONE, TWO, HALF = np.float32(0), np.float32(1), np.float32(2), np.float32(0.5)
TINY, MINIMUM = np.float32(1e-9), np.float32(0.75)
X, Y, Z, DX, DY, DZ = range(6)
"""Columns of a path: where it is, and which way it goes."""
"""LEAST: half width in pixels below which a band is drawn this wide, and as much fainter."""


@drawing_helper
def _between(points, i, first, last, t):  # type: ignore[no-untyped-def]
    """Return a place between point `i` and the next, and which way the ribbon goes there.

    A cubic through all points (Catmull and Rom 1974), of which both ends go on as they came.
    """
    b, c = points[i], points[min(i + 1, last)]
    a, d = points[max(i - 1, first)], points[min(i + 2, last)]
    x, y, z, dx, dy, dz = ZERO, ZERO, ZERO, ZERO, ZERO, ZERO
    if (c[0] - b[0]) ** 2 + (c[1] - b[1]) ** 2 + (c[2] - b[2]) ** 2 < TINY:
        # Between two points that are one it stays there, and goes on as it came.
        return b[0], b[1], b[2], b[0] - a[0], b[1] - a[1], b[2] - a[2]
    for k in range(3):
        back = b[k] + b[k] - c[k] if i == first else a[k]
        on = c[k] + c[k] - b[k] if i + 1 >= last else d[k]
        p, q = HALF * (c[k] - back), HALF * (on - b[k])
        r, s = np.float32(3) * (c[k] - b[k]) - TWO * p - q, TWO * (b[k] - c[k]) + p + q
        at, way = b[k] + t * (p + t * (r + t * s)), p + t * (TWO * r + np.float32(3) * t * s)
        if k == 0:
            x, dx = at, way
        elif k == 1:
            y, dy = at, way
        else:
            z, dz = at, way
    return x, y, z, dx, dy, dz


@drawing_helper
def _taper(along, head, tail):  # type: ignore[no-untyped-def]
    """Return how wide a band is at a share of its length that tapers over a share of it at either end."""
    one = min(along / head, ONE) if head > ZERO else ONE
    two = min((ONE - along) / tail, ONE) if tail > ZERO else ONE
    return one * (TWO - one) * two * (TWO - two)


@drawing_kernel
def build_ribbons(  # type: ignore[no-untyped-def]
    starts, points, sides, widths, colours, widening, fading, tinting, eye, ahead, focal, fine, shape, triangles, out,
    tints, uvs,
):  # fmt: skip
    """Write the two edges of ribbons, point after point: places (V, 3), colours (V, 4) and uvs (V, 2).

    Ribbon r runs through the points (N, 3) from `starts[r]` to before `starts[r + 1]`, its head first; between two
    points there are `fine` stretches, so that it has 2 * ((n - 1) * fine + 1) corners, two each from left to right.
    `sides` (N, 3) are half of what spans it, or empty for one that faces the camera at `eye`, which looks `ahead`
    (3,). `widening` and `fading` (T,) and `tinting` (T, 3), where not empty, are looked up by the share of its length
    from its head. `shape` are the shares over which its head and tail taper, metres after which its texture repeats
    (0: never), and how far that has moved. u goes across, v along. `triangles` (F, 3) receive which corners the two
    facets of each stretch have.
    """
    head, tail, tile, moved = shape
    for r in prange(len(starts) - 1):
        first, last = starts[r], starts[r + 1] - 1
        rows = (last - first) * fine + 1
        corner = 2 * (first * fine - r * (fine - 1))
        # How far along each place is comes first: it says how wide the band is there.
        path, lengths = np.empty((rows, 6), np.float32), np.empty(rows, np.float32)
        length = ZERO
        for j in range(rows):
            i = min(first + j // fine, max(last - 1, first))
            t = np.float32(j - (i - first) * fine) / np.float32(fine)
            x, y, z, dx, dy, dz = _between(points, i, first, last, t)
            if j > 0:
                px, py, pz = x - path[j - 1, X], y - path[j - 1, Y], z - path[j - 1, Z]
                length += math.sqrt(px * px + py * py + pz * pz)
            path[j, X], path[j, Y], path[j, Z], path[j, DX], path[j, DY], path[j, DZ] = x, y, z, dx, dy, dz
            lengths[j] = length
        sx, sy, sz = ONE, ZERO, ZERO
        per = ONE / max(length, TINY)
        for j in range(rows):
            i = min(first + j // fine, max(last - 1, first))
            t, after = np.float32(j - (i - first) * fine) / np.float32(fine), min(i + 1, last)
            x, y, z = path[j, X], path[j, Y], path[j, Z]
            along = lengths[j] * per
            width = widths[i] + t * (widths[after] - widths[i])
            opacity = colours[i, ALPHA] + t * (colours[after, ALPHA] - colours[i, ALPHA])
            at = np.uint64(2 * (corner // 2 + j))
            if len(widening) > 0:
                width *= widening[int(along * np.float32(len(widening) - 1) + HALF)]
            if len(fading) > 0:
                opacity *= fading[int(along * np.float32(len(fading) - 1) + HALF)]
            width *= _taper(along, head, tail)
            vx, vy, vz = x - eye[0], y - eye[1], z - eye[2]
            if len(sides) > 0:
                hx = (sides[i, 0] + t * (sides[after, 0] - sides[i, 0])) * width
                hy = (sides[i, 1] + t * (sides[after, 1] - sides[i, 1])) * width
                hz = (sides[i, 2] + t * (sides[after, 2] - sides[i, 2])) * width
            else:
                cx, cy, cz = (
                    path[j, DY] * vz - path[j, DZ] * vy,
                    path[j, DZ] * vx - path[j, DX] * vz,
                    path[j, DX] * vy - path[j, DY] * vx,
                )
                across = math.sqrt(cx * cx + cy * cy + cz * cz)
                if across > TINY:
                    # Where a ribbon turns back its sides stay on their sides, or it would twist.
                    unit = (ONE if j == 0 or cx * sx + cy * sy + cz * sz >= ZERO else -ONE) / np.float32(across)
                    sx, sy, sz = cx * unit, cy * unit, cz * unit
                deep = max(vx * ahead[0] + vy * ahead[1] + vz * ahead[2], TINY)
                half, minimum = width * HALF, MINIMUM * deep / focal
                if half < minimum:
                    opacity *= half / minimum
                    half = minimum
                hx, hy, hz = sx * half, sy * half, sz * half
            if j < rows - 1:
                a, f = np.int32(at), at - np.uint64(2 * r)
                triangles[f, 0], triangles[f, 1], triangles[f, 2] = a, a + 1, a + 3
                triangles[f + 1, 0], triangles[f + 1, 1], triangles[f + 1, 2] = a, a + 3, a + 2
            v = (lengths[j] - moved) / tile if tile > ZERO else along
            for edge in range(np.uint64(2)):
                sign = ONE if edge == 1 else -ONE
                out[at + edge, 0], out[at + edge, 1], out[at + edge, 2] = x + sign * hx, y + sign * hy, z + sign * hz
                for k in range(3):
                    tint = colours[i, k] + t * (colours[after, k] - colours[i, k])
                    if len(tinting) > 0:
                        tint *= tinting[int(along * np.float32(len(tinting) - 1) + HALF), k]
                    tints[at + edge, k] = tint
                tints[at + edge, 3] = min(opacity, ONE)
                uvs[at + edge, 0], uvs[at + edge, 1] = np.float32(edge), v
