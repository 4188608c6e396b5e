"""Where sources and riders are within a step, and tables of curves: what several kernels work out alike."""

from __future__ import annotations

import math

import numpy as np

from wraithon.numeric.compiled import called, inlined
from wraithon.particles.columns import LINE

ZERO, ONE, TWO = np.float32(0), np.float32(1), np.float32(2)
THREE, FOUR, EIGHT = np.float32(3), np.float32(4), np.float32(8)
TINY = np.float32(1e-12)
ALL_BUT = np.float32(1 - 2**-24)
"""The largest share below 1."""


@inlined
def moments(f, curved):  # type: ignore[no-untyped-def]
    """Return how places before, amid and after a step weigh at the share `f` of it, and how in the velocity.

    The way is straight, or, when `curved`, the parabola through all three: what turns fast goes on an arc.
    """
    if curved:
        return (
            (ONE - f) * (ONE - TWO * f), FOUR * f * (ONE - f), f * (TWO * f - ONE),
            FOUR * f - THREE, FOUR - EIGHT * f, FOUR * f - ONE,
        )  # fmt: skip
    return ONE - f, ZERO, f, -ONE, ZERO, ONE


@inlined
def corner_mix(points, ta, tb, tc, a, b, c):  # type: ignore[no-untyped-def]
    """Return the mix (three numbers) of three rows of points (V, 3)."""
    return (
        a * points[ta, 0] + b * points[tb, 0] + c * points[tc, 0],
        a * points[ta, 1] + b * points[tb, 1] + c * points[tc, 1],
        a * points[ta, 2] + b * points[tb, 2] + c * points[tc, 2],
    )


@inlined
def around_bone(frames, row, along, angle):  # type: ignore[no-untyped-def]
    """Return a place on a bone and the unit direction away from it, from the bones' frames (B, 3, 3)."""
    x, y, z = frames[row, 0, 0], frames[row, 0, 1], frames[row, 0, 2]
    ax, ay, az = frames[row, 1, 0] - x, frames[row, 1, 1] - y, frames[row, 1, 2] - z
    length = ONE / math.sqrt(max(ax * ax + ay * ay + az * az, TINY))
    sx, sy, sz = frames[row, 2, 0], frames[row, 2, 1], frames[row, 2, 2]
    cx = (ay * sz - az * sy) * length
    cy = (az * sx - ax * sz) * length
    cz = (ax * sy - ay * sx) * length
    u, v = math.cos(angle), math.sin(angle)
    return x + along * ax, y + along * ay, z + along * az, u * sx + v * cx, u * sy + v * cy, u * sz + v * cz


@inlined
def by_distance(far, nearness, u):  # type: ignore[no-untyped-def]
    """Return the share of a range that is drawn: by chance, `u`; or by distance, where `nearness` is not 0."""
    return min(far * nearness, ALL_BUT) if nearness > ZERO else u


@called
def around_line(ax, ay, az, bx, by, bz, along, off, angle):  # type: ignore[no-untyped-def]
    """Return a place beside the line from a to b, `off` from it, and the unit direction away from the line there."""
    dx, dy, dz = bx - ax, by - ay, bz - az
    length = math.sqrt(dx * dx + dy * dy + dz * dz)
    nx, ny, nz = ZERO, ONE, ZERO
    if length > TINY:
        nx, ny, nz = dx / length, dy / length, dz / length
    # A basis around the line (Duff et al. 2017).
    sign = ONE if nz >= ZERO else -ONE
    g = -ONE / (sign + nz)
    h = nx * ny * g
    u, v = math.cos(angle), math.sin(angle)
    ux = u * (ONE + sign * nx * nx * g) + v * h
    uy = u * sign * h + v * (sign + ny * ny * g)
    uz = -u * sign * nx - v * ny
    return ax + along * dx + off * ux, ay + along * dy + off * uy, az + along * dz + off * uz, ux, uy, uz


@called
def carried_by(frames, row, kind, turning, b, c, d):  # type: ignore[no-untyped-def]
    """Return where what rides on an anchor is, from the anchors' frames (N, 5, 3) (see `columns.AnchorTransforms`).

    b, c, d are where along a line and how far and which way off it, or the way from the anchor, along its own axes
    when it is `turning`.
    """
    x, y, z = frames[row, 0, 0], frames[row, 0, 1], frames[row, 0, 2]
    if kind == LINE:
        x, y, z, _, _, _ = around_line(x, y, z, frames[row, 4, 0], frames[row, 4, 1], frames[row, 4, 2], b, c, d)
        return x, y, z
    if not turning:
        return x + b, y + c, z + d
    return (
        x + b * frames[row, 1, 0] + c * frames[row, 2, 0] + d * frames[row, 3, 0],
        y + b * frames[row, 1, 1] + c * frames[row, 2, 1] + d * frames[row, 3, 1],
        z + b * frames[row, 1, 2] + c * frames[row, 2, 2] + d * frames[row, 3, 2],
    )


@inlined
def table_value(table, age):  # type: ignore[no-untyped-def]
    """Return a table's value at a normalised age, between its entries."""
    position = min(max(age, ZERO), ONE) * np.float32(len(table) - 1)
    k = min(int(position), len(table) - 2)
    return table[k] + (position - np.float32(k)) * (table[k + 1] - table[k])
