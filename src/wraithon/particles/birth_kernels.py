"""The kernel of births."""

from __future__ import annotations

import math

import numpy as np

from wraithon.character.sampling_kernels import choose_place
from wraithon.numeric import chance
from wraithon.numeric.chance import identity_of, uniform
from wraithon.numeric.compiled import SizedKernel, called, prange
from wraithon.particles.columns import (
    AGE,
    ALONG_ANCHOR,
    ALONG_NORMAL,
    AXES,
    BOX,
    FAR,
    FORWARD,
    GIVEN,
    HELD,
    LEAD,
    LEAVING,
    LIFETIME,
    LINE,
    NX,
    NY,
    NZ,
    OFFSPRING,
    PICTURE,
    PX,
    PY,
    PZ,
    RED,
    RESTING,
    RIDE_END,
    RING,
    SHARE_B,
    SHARE_C,
    SHARE_D,
    SKIN,
    SPHERE,
    TRAVELLED,
    UP,
    VX,
    VY,
    VZ,
)  # fmt: skip
from wraithon.particles.curve_kernels import around_bone, around_line, by_distance, corner_mix, moments

BLOCK = 32
"""Births a thread takes at a time."""
WORTH = 16
"""Rows of other kernels that a birth is worth: so many times sooner all threads are quicker than one."""

ZERO, ONE, TWO, HALF = np.float32(0), np.float32(1), np.float32(2), np.float32(0.5)
TAU = np.float32(2 * math.pi)
TINY = np.float32(1e-12)

# The channels, as plain integers for the compiler.
C_LIFETIME, C_SPEED, C_TURN, C_STRAY = chance.LIFETIME, chance.SPEED, chance.AIM_TURN, chance.AIM_STRAY
C_X, C_Y, C_Z = chance.AXIS_A, chance.AXIS_B, chance.AXIS_C
C_A, C_B, C_C = chance.PLACE_A, chance.PLACE_B, chance.PLACE_C


@called
def _stray(mx, my, mz, spread, u, v):  # type: ignore[no-untyped-def]
    """Return a unit direction, uniform over the cap of half-angle `spread` (radians) around (mx, my, mz)."""
    cosine = ONE - u * (ONE - math.cos(spread))
    sine = math.sqrt(max(ZERO, ONE - cosine * cosine))
    # A basis around the middle (Duff et al. 2017).
    sign = ONE if mz >= ZERO else -ONE
    a = -ONE / (sign + mz)
    b = mx * my * a
    c, s = math.cos(TAU * v) * sine, math.sin(TAU * v) * sine
    x = c * (ONE + sign * mx * mx * a) + s * b + cosine * mx
    y = c * sign * b + s * (sign + my * my * a) + cosine * my
    z = -c * sign * mx - s * my + cosine * mz
    return x, y, z


@called
def _ball(u, v):  # type: ignore[no-untyped-def]
    """Return a uniform unit direction."""
    z = ONE - TWO * u
    r = math.sqrt(max(ZERO, ONE - z * z))
    return r * math.cos(TAU * v), z, r * math.sin(TAU * v)


@called
def _turned(before, now, f, inverse_dt, b, c, d):  # type: ignore[no-untyped-def]
    """Return a way along an anchor's axes, at the share `f` of a step, in the world, and how quickly it changes."""
    bx, nx = before[1, 0] * b + before[2, 0] * c + before[3, 0] * d, now[1, 0] * b + now[2, 0] * c + now[3, 0] * d
    by, ny = before[1, 1] * b + before[2, 1] * c + before[3, 1] * d, now[1, 1] * b + now[2, 1] * c + now[3, 1] * d
    bz, nz = before[1, 2] * b + before[2, 2] * c + before[3, 2] * d, now[1, 2] * b + now[2, 2] * c + now[3, 2] * d
    x, y, z = nx - bx, ny - by, nz - bz
    return bx + f * x, by + f * y, bz + f * z, x * inverse_dt, y * inverse_dt, z * inverse_dt


@called
def _along_axes(before, now, f, x, y, z):  # type: ignore[no-untyped-def]
    """Return a way in the world along an anchor's axes, at the share `f` of a step."""
    b = c = d = ZERO
    for axis in range(1, 4):
        ax = before[axis, 0] + f * (now[axis, 0] - before[axis, 0])
        ay = before[axis, 1] + f * (now[axis, 1] - before[axis, 1])
        az = before[axis, 2] + f * (now[axis, 2] - before[axis, 2])
        along = (x * ax + y * ay + z * az) / max(ax * ax + ay * ay + az * az, TINY)
        if axis == 1:
            b = along
        elif axis == 2:
            c = along
        else:
            d = along
    return b, c, d


@called
def _one_of(drawn, u):  # type: ignore[no-untyped-def]
    """Return what is drawn for a chance `u`: between two numbers, or one of more."""
    if len(drawn) == 2:
        return drawn[0] + (drawn[1] - drawn[0]) * u
    return drawn[int(u * np.float32(len(drawn)))]


@called
def _from_outward(mx, my, mz, x, y, z):  # type: ignore[no-untyped-def]
    """Return a way given with +Y along the unit direction (mx, my, mz) in the world (Duff et al. 2017)."""
    sign = ONE if mz >= ZERO else -ONE
    a = -ONE / (sign + mz)
    b = mx * my * a
    return (
        x * (ONE + sign * mx * mx * a) + y * mx + z * b,
        x * sign * b + y * my + z * (sign + my * my * a),
        -x * sign * mx + y * mz - z * my,
    )


@SizedKernel
def emit(  # type: ignore[no-untyped-def]
    columns,
    first,
    count,
    key,
    serial,
    position,
    emission_offsets,
    dt,
    rules,
    positions,
    around,
    sampler,
    band,
    birth_records,
):
    """Bear `count` particles into the pool's columns from place `first` on.

    `emission_offsets` (count,) float32 are the births' seconds after the step's beginning; the source is
    interpolated between its `positions` (`rules.AnchorPlaces`) and what is `around` (`rules.TickContext`) before and
    after the step. `rules` are `rules.BirthRules`, `sampler` and `band` as `sampling_kernels.choose_place`
    takes them. `birth_records` (count, BIRTH_RECORD) are where offspring is born: place, velocity,
    and how many times as red, green,
    blue and large it is; nobody else reads them.
    """
    # Arrays of their own: writes through a tuple get lost in a parallel loop.
    state, triangle, firing, identity = columns
    kind, curved, triangles = rules.kind, around.curved, around.triangles
    lifetime, speed, shape = rules.lifetime, rules.speed, rules.shape
    before, now = positions.before, positions.now
    inverse_dt = ONE / dt
    for block in prange((count + BLOCK - 1) // BLOCK):
        for k in range(block * BLOCK, min(count, (block + 1) * BLOCK)):
            i = first + k
            who = identity_of(key, serial + np.uint64(k))
            f = emission_offsets[k] * inverse_dt
            life = pace = ONE
            u, v, w = uniform(who, C_A), uniform(who, C_B), uniform(who, C_C)
            mx, my, mz = ZERO, ONE, ZERO
            triangle[i] = -1
            state[SHARE_B, i], state[SHARE_C, i], state[SHARE_D, i] = ZERO, ZERO, ZERO
            if kind >= SKIN:
                row, b, c, d = choose_place(sampler, band, who, serial + np.uint64(k))
                if row < 0:  # no place on the border: it is not born after all
                    row, life = np.int32(0), ZERO
                triangle[i] = row
                state[SHARE_B, i], state[SHARE_C, i], state[SHARE_D, i] = b, c, d
                pace = sampler.speeds[sampler.groups[row]]
                w0, w1, w2, v0, v1, v2 = moments(f, curved)
                if kind == SKIN:
                    a = ONE - b - c
                    ta, tb, tc = triangles[row, 0], triangles[row, 1], triangles[row, 2]
                    ox, oy, oz = corner_mix(around.normal_before, ta, tb, tc, a, b, c)
                    mx, my, mz = corner_mix(around.normal_now, ta, tb, tc, a, b, c)
                    mx, my, mz = ox + f * (mx - ox), oy + f * (my - oy), oz + f * (mz - oz)
                    bx, by, bz = corner_mix(around.skin_before, ta, tb, tc, a, b, c)
                    nx, ny, nz = corner_mix(around.skin_now, ta, tb, tc, a, b, c)
                    hx, hy, hz = bx, by, bz
                    if curved:
                        hx, hy, hz = corner_mix(around.skin_midpoint, ta, tb, tc, a, b, c)
                    off = rules.lift
                else:
                    bx, by, bz, ox, oy, oz = around_bone(around.bones_before, row, b, c)
                    nx, ny, nz, mx, my, mz = around_bone(around.bones_now, row, b, c)
                    mx, my, mz = ox + f * (mx - ox), oy + f * (my - oy), oz + f * (mz - oz)
                    hx, hy, hz = bx, by, bz
                    if curved:
                        hx, hy, hz, ox, oy, oz = around_bone(around.bones_midpoint, row, b, c)
                    off = d * rules.radius + rules.lift
                length = ONE / math.sqrt(max(mx * mx + my * my + mz * mz, TINY))
                mx, my, mz = mx * length, my * length, mz * length
                x, y, z = w0 * bx + w1 * hx + w2 * nx, w0 * by + w1 * hy + w2 * ny, w0 * bz + w1 * hz + w2 * nz
                x, y, z = x + mx * off, y + my * off, z + mz * off
                sx = (v0 * bx + v1 * hx + v2 * nx) * inverse_dt
                sy = (v0 * by + v1 * hy + v2 * ny) * inverse_dt
                sz = (v0 * bz + v1 * hz + v2 * nz) * inverse_dt
            elif kind == OFFSPRING:
                x, y, z = birth_records[k, PX], birth_records[k, PY], birth_records[k, PZ]
                sx, sy, sz = birth_records[k, VX], birth_records[k, VY], birth_records[k, VZ]
            else:
                x = before[0, 0] + f * (now[0, 0] - before[0, 0])
                y = before[0, 1] + f * (now[0, 1] - before[0, 1])
                z = before[0, 2] + f * (now[0, 2] - before[0, 2])
                sx = (now[0, 0] - before[0, 0]) * inverse_dt
                sy = (now[0, 1] - before[0, 1]) * inverse_dt
                sz = (now[0, 2] - before[0, 2]) * inverse_dt
                mx, my, mz = _ball(u, v)
                b, c, d = ZERO, ZERO, ZERO
                if kind == SPHERE:
                    inner = shape[1] * shape[1] * shape[1]
                    radius = shape[0] * math.exp(math.log(max(inner + (ONE - inner) * w, TINY)) / np.float32(3))
                    b, c, d = mx * radius, my * radius, mz * radius
                elif kind == RING:
                    angle, turn = TAU * u, TAU * v
                    thick = shape[1] * math.sqrt(w)
                    mx, my, mz = math.sin(angle), ZERO, math.cos(angle)
                    radius = shape[0] + thick * math.cos(turn)
                    b, c, d = mx * radius, thick * math.sin(turn), mz * radius
                if kind == LINE:
                    if rules.sweeping:
                        u, w = HALF, ZERO
                    b, c, d = u, shape[0] * math.sqrt(w), TAU * v
                    ex = before[4, 0] + f * (now[4, 0] - before[4, 0])
                    ey = before[4, 1] + f * (now[4, 1] - before[4, 1])
                    ez = before[4, 2] + f * (now[4, 2] - before[4, 2])
                    x, y, z, mx, my, mz = around_line(x, y, z, ex, ey, ez, b, c, d)
                    sx += u * ((now[4, 0] - before[4, 0]) * inverse_dt - sx)
                    sy += u * ((now[4, 1] - before[4, 1]) * inverse_dt - sy)
                    sz += u * ((now[4, 2] - before[4, 2]) * inverse_dt - sz)
                elif kind >= BOX:
                    if kind == BOX:
                        b, c, d = (u - HALF) * shape[0], (v - HALF) * shape[1], (w - HALF) * shape[2]
                        mx, my, mz = b, c, d
                    elif kind == PICTURE:
                        # The first cell up to which more than a share `u` of all lies.
                        cell = min(np.searchsorted(rules.cells, u, "right"), len(rules.cells) - 1)
                        row, column = cell // rules.width, cell % rules.width
                        b = ((np.float32(column) + v) / np.float32(rules.width) - HALF) * shape[0]
                        high = np.float32(len(rules.cells) // rules.width)
                        c, d = (HALF - (np.float32(row) + w) / high) * shape[1], ZERO
                        mx, my, mz = ZERO, ZERO, ONE
                    else:
                        along, off = shape[0] * math.exp(math.log(max(w, TINY)) / np.float32(3)), math.sqrt(u)
                        mx, my, mz = shape[1] * off * math.cos(TAU * v), shape[1] * off * math.sin(TAU * v), ONE
                        b, c, d = mx * along, my * along, along
                    qx, qy, qz, rx, ry, rz = _turned(before, now, f, inverse_dt, b, c, d)
                    x, y, z, sx, sy, sz = x + qx, y + qy, z + qz, sx + rx, sy + ry, sz + rz
                    mx, my, mz, _, _, _ = _turned(before, now, f, inverse_dt, mx, my, mz)
                    length = mx * mx + my * my + mz * mz
                    if length <= TINY:
                        mx, my, mz, length = ZERO, ONE, ZERO, ONE
                    length = ONE / math.sqrt(length)
                    mx, my, mz = mx * length, my * length, mz * length
                    if not rules.turning:
                        b, c, d = qx, qy, qz
                else:
                    x, y, z = x + b, y + c, z + d
                    if rules.turning:
                        b, c, d = _along_axes(before, now, f, b, c, d)
                if rules.ride > ZERO:
                    state[SHARE_B, i], state[SHARE_C, i], state[SHARE_D, i] = b, c, d
            far = ZERO
            if rules.measured:
                ex = x - before[0, 0] - f * (now[0, 0] - before[0, 0])
                ey = y - before[0, 1] - f * (now[0, 1] - before[0, 1])
                ez = z - before[0, 2] - f * (now[0, 2] - before[0, 2])
                far = math.sqrt(ex * ex + ey * ey + ez * ez)
            life *= _one_of(lifetime, by_distance(far, rules.nearness[0], uniform(who, C_LIFETIME)))
            pace *= _one_of(speed, by_distance(far, rules.nearness[1], uniform(who, C_SPEED)))
            state[FAR, i] = far
            state[NX, i], state[NY, i], state[NZ, i] = mx, my, mz
            if rules.sweeping:
                # Half of the line: it is amid.
                state[NX, i] = x - before[0, 0] - f * (now[0, 0] - before[0, 0])
                state[NY, i] = y - before[0, 1] - f * (now[0, 1] - before[0, 1])
                state[NZ, i] = z - before[0, 2] - f * (now[0, 2] - before[0, 2])
            if rules.heading == UP:
                mx, my, mz = ZERO, ONE, ZERO
            elif rules.heading == FORWARD:
                mx = before[3, 0] + f * (now[3, 0] - before[3, 0])
                my = before[3, 1] + f * (now[3, 1] - before[3, 1])
                mz = before[3, 2] + f * (now[3, 2] - before[3, 2])
                length = ONE / math.sqrt(max(mx * mx + my * my + mz * mz, TINY))
                mx, my, mz = mx * length, my * length, mz * length
            if rules.heading == AXES:
                axes = rules.axes
                dx = axes[0, 0] + (axes[1, 0] - axes[0, 0]) * uniform(who, C_X)
                dy = axes[0, 1] + (axes[1, 1] - axes[0, 1]) * uniform(who, C_Y)
                dz = axes[0, 2] + (axes[1, 2] - axes[0, 2]) * uniform(who, C_Z)
                if rules.frame == ALONG_ANCHOR:
                    dx, dy, dz, _, _, _ = _turned(before, now, f, inverse_dt, dx, dy, dz)
                elif rules.frame == ALONG_NORMAL:
                    dx, dy, dz = _from_outward(mx, my, mz, dx, dy, dz)
            else:
                dx, dy, dz = _stray(mx, my, mz, rules.spread, uniform(who, C_STRAY), uniform(who, C_TURN))
            rides = rules.ride > ZERO
            share = ZERO if rides else rules.keep
            state[PX, i], state[PY, i], state[PZ, i] = x, y, z
            state[VX, i] = dx * pace + share * sx
            state[VY, i] = dy * pace + share * sy
            state[VZ, i] = dz * pace + share * sz
            state[AGE, i], state[LIFETIME, i], state[LEAD, i] = ZERO, life, emission_offsets[k]
            state[RIDE_END, i] = rules.ride * life if rides else -ONE
            state[RESTING, i] = ZERO
            for n in range(4):
                state[RED + n, i] = birth_records[k, GIVEN + n] if kind == OFFSPRING else ONE
            state[TRAVELLED, i] = ZERO
            state[HELD, i] = state[LEAVING, i] = ZERO
            firing[i] = position
            identity[i] = who
