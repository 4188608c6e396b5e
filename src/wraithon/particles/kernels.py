"""Kernels of a particle pool: birth, one step, what is drawn, and clearing away the dead.

A pool's numbers stand in columns: `state` is (COLUMNS, capacity) float32, particles side by side.
"""

from __future__ import annotations

import math

import numpy as np
from numba import prange

from wraithon import chance
from wraithon.chance import identity_of, uniform
from wraithon.character.sampling_kernels import choose_place
from wraithon.compiled import BLOCK, SizedKernel, called, inlined, kernel
from wraithon.noise import curl_noise

__all__ = ["COLUMNS", "bear", "count_firings", "draw", "step", "sweep"]

PX, PY, PZ, VX, VY, VZ, AGE, LIFETIME, LEAD, SHARE_B, SHARE_C, SHARE_D, RIDE_END, RESTING, NX, NY, NZ = range(17)
COLUMNS = 17

POINT, SPHERE, RING, SKIN, BONE = range(5)
OUTWARD, UP, FORWARD = range(3)
PASS, BOUNCE, SLIDE, STICK, DIE = range(5)
SCALE, ADD, REPLACE = range(3)

ZERO, ONE, TWO, HALF = np.float32(0), np.float32(1), np.float32(2), np.float32(0.5)
THREE, FOUR, EIGHT = np.float32(3), np.float32(4), np.float32(8)
TAU = np.float32(2 * math.pi)
TINY = np.float32(1e-12)
SLIPPERY = np.float32(10)

# The channels, as plain integers for the compiler.
C_LIFETIME, C_SPEED, C_TURN, C_STRAY = chance.LIFETIME, chance.SPEED, chance.AIM_TURN, chance.AIM_STRAY
C_A, C_B, C_C = chance.PLACE_A, chance.PLACE_B, chance.PLACE_C
C_SIZE, C_COLOUR, C_INTENSITY, C_OPACITY = chance.SIZE, chance.COLOUR, chance.INTENSITY, chance.OPACITY
C_ANGLE, C_SPIN, C_SHEET = chance.TURN, chance.SPIN, chance.SHEET


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


@inlined
def _moments(f, curved):  # type: ignore[no-untyped-def]
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
def _corner_mix(points, ta, tb, tc, a, b, c):  # type: ignore[no-untyped-def]
    """Return the mix (three numbers) of three rows of points (V, 3)."""
    return (
        a * points[ta, 0] + b * points[tb, 0] + c * points[tc, 0],
        a * points[ta, 1] + b * points[tb, 1] + c * points[tc, 1],
        a * points[ta, 2] + b * points[tb, 2] + c * points[tc, 2],
    )


@inlined
def _around_bone(frames, row, along, angle):  # type: ignore[no-untyped-def]
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


@SizedKernel
def bear(  # type: ignore[no-untyped-def]
    state, triangle, firing, identity, first, count, key, serial, slot, leads, dt,
    kind, shape, heading, spread, keep, ride, lift,
    anchor_before, anchor_now, basis_before, basis_now,
    skin_before, skin_amid, skin_now, normal_before, normal_now, triangles,
    bones_before, bones_amid, bones_now, curved, radius,
    measured, rows, corners, cumulative, densities, image, uvs, even_rows, even_places, rest, band, groups, speeds,
    lifetime, speed,
):  # fmt: skip
    """Bear `count` particles into the pool from place `first` on.

    `leads` (count,) float32 are the births' seconds after the step's beginning; the source is
    interpolated between its places before and after the step. `shape` holds the source's two
    measures in metres. `ride` is the share of life on the character, `keep` the share of the source's
    velocity taken along. The arrays from `measured` to `even_places` are a sampler's (see
    `sampling_kernels.choose_place`); `groups` say which of `speeds` a row's births have.
    """
    inverse_dt = ONE / dt
    for block in prange((count + BLOCK - 1) // BLOCK):
        for k in range(block * BLOCK, min(count, (block + 1) * BLOCK)):
            i = first + k
            who = identity_of(key, serial + np.uint64(k))
            f = leads[k] * inverse_dt
            life = lifetime[0] + (lifetime[1] - lifetime[0]) * uniform(who, C_LIFETIME)
            pace = speed[0] + (speed[1] - speed[0]) * uniform(who, C_SPEED)
            u, v, w = uniform(who, C_A), uniform(who, C_B), uniform(who, C_C)
            mx, my, mz = ZERO, ONE, ZERO
            triangle[i] = -1
            state[SHARE_B, i], state[SHARE_C, i], state[SHARE_D, i] = ZERO, ZERO, ZERO
            if kind >= SKIN:
                row, b, c, d = choose_place(
                    measured, rows, corners, cumulative, densities, image, uvs, triangles,
                    even_rows, even_places, rest, band, who, serial + np.uint64(k),
                )  # fmt: skip
                if row < 0:  # no place on the border: it is not born after all
                    row, life = np.int32(0), ZERO
                triangle[i] = row
                state[SHARE_B, i], state[SHARE_C, i], state[SHARE_D, i] = b, c, d
                pace *= speeds[groups[row]]
                w0, w1, w2, v0, v1, v2 = _moments(f, curved)
                if kind == SKIN:
                    a = ONE - b - c
                    ta, tb, tc = triangles[row, 0], triangles[row, 1], triangles[row, 2]
                    ox, oy, oz = _corner_mix(normal_before, ta, tb, tc, a, b, c)
                    mx, my, mz = _corner_mix(normal_now, ta, tb, tc, a, b, c)
                    mx, my, mz = ox + f * (mx - ox), oy + f * (my - oy), oz + f * (mz - oz)
                    bx, by, bz = _corner_mix(skin_before, ta, tb, tc, a, b, c)
                    nx, ny, nz = _corner_mix(skin_now, ta, tb, tc, a, b, c)
                    hx, hy, hz = bx, by, bz
                    if curved:
                        hx, hy, hz = _corner_mix(skin_amid, ta, tb, tc, a, b, c)
                    off = lift
                else:
                    bx, by, bz, ox, oy, oz = _around_bone(bones_before, row, b, c)
                    nx, ny, nz, mx, my, mz = _around_bone(bones_now, row, b, c)
                    mx, my, mz = ox + f * (mx - ox), oy + f * (my - oy), oz + f * (mz - oz)
                    hx, hy, hz = bx, by, bz
                    if curved:
                        hx, hy, hz, ox, oy, oz = _around_bone(bones_amid, row, b, c)
                    off = d * radius + lift
                length = ONE / math.sqrt(max(mx * mx + my * my + mz * mz, TINY))
                mx, my, mz = mx * length, my * length, mz * length
                x, y, z = w0 * bx + w1 * hx + w2 * nx, w0 * by + w1 * hy + w2 * ny, w0 * bz + w1 * hz + w2 * nz
                x, y, z = x + mx * off, y + my * off, z + mz * off
                sx = (v0 * bx + v1 * hx + v2 * nx) * inverse_dt
                sy = (v0 * by + v1 * hy + v2 * ny) * inverse_dt
                sz = (v0 * bz + v1 * hz + v2 * nz) * inverse_dt
            else:
                x = anchor_before[0] + f * (anchor_now[0] - anchor_before[0])
                y = anchor_before[1] + f * (anchor_now[1] - anchor_before[1])
                z = anchor_before[2] + f * (anchor_now[2] - anchor_before[2])
                sx = (anchor_now[0] - anchor_before[0]) * inverse_dt
                sy = (anchor_now[1] - anchor_before[1]) * inverse_dt
                sz = (anchor_now[2] - anchor_before[2]) * inverse_dt
                mx, my, mz = _ball(u, v)
                if kind == SPHERE:
                    inner = shape[1] * shape[1] * shape[1]
                    radius = shape[0] * math.exp(math.log(max(inner + (ONE - inner) * w, TINY)) / np.float32(3))
                    x, y, z = x + mx * radius, y + my * radius, z + mz * radius
                elif kind == RING:
                    angle, turn = TAU * u, TAU * v
                    thick = shape[1] * math.sqrt(w)
                    mx, my, mz = math.sin(angle), ZERO, math.cos(angle)
                    radius = shape[0] + thick * math.cos(turn)
                    x, y, z = x + mx * radius, y + thick * math.sin(turn), z + mz * radius
            state[NX, i], state[NY, i], state[NZ, i] = mx, my, mz
            if heading == UP:
                mx, my, mz = ZERO, ONE, ZERO
            elif heading == FORWARD:
                mx = basis_before[0] + f * (basis_now[0] - basis_before[0])
                my = basis_before[1] + f * (basis_now[1] - basis_before[1])
                mz = basis_before[2] + f * (basis_now[2] - basis_before[2])
                length = ONE / math.sqrt(max(mx * mx + my * my + mz * mz, TINY))
                mx, my, mz = mx * length, my * length, mz * length
            dx, dy, dz = _stray(mx, my, mz, spread, uniform(who, C_STRAY), uniform(who, C_TURN))
            rides = kind >= SKIN and ride > ZERO
            share = ZERO if rides else keep
            state[PX, i], state[PY, i], state[PZ, i] = x, y, z
            state[VX, i] = dx * pace + share * sx
            state[VY, i] = dy * pace + share * sy
            state[VZ, i] = dz * pace + share * sz
            state[AGE, i], state[LIFETIME, i], state[LEAD, i] = ZERO, life, leads[k]
            state[RIDE_END, i] = ride * life if rides else -ONE
            state[RESTING, i] = ZERO
            firing[i] = slot
            identity[i] = who


@inlined
def _table(table, age):  # type: ignore[no-untyped-def]
    """Return a table's value at a normalised age, between its entries."""
    place = min(max(age, ZERO), ONE) * np.float32(len(table) - 1)
    k = min(int(place), len(table) - 2)
    return table[k] + (place - np.float32(k)) * (table[k + 1] - table[k])


@inlined
def _ride(  # type: ignore[no-untyped-def]
    state, row, i, dt, inverse_dt, kind, keep, lift, radius, upright,
    skin_before, skin_amid, skin_now, normal_now, triangles, bones_before, bones_amid, bones_now, curved,
):  # fmt: skip
    """Take a rider along on the character, or let it go within the step; return its seconds of free flight."""
    b, c = state[SHARE_B, i], state[SHARE_C, i]
    late = state[AGE, i] - state[RIDE_END, i]
    off = lift
    if kind == BONE:
        x, y, z, mx, my, mz = _around_bone(bones_now, row, b, c)
        off += radius * state[SHARE_D, i]
    else:
        a = ONE - b - c
        ta, tb, tc = np.uint64(triangles[row, 0]), np.uint64(triangles[row, 1]), np.uint64(triangles[row, 2])
        x, y, z = _corner_mix(skin_now, ta, tb, tc, a, b, c)
        mx, my, mz = ZERO, ZERO, ZERO
        if upright:
            mx, my, mz = _corner_mix(normal_now, ta, tb, tc, a, b, c)
            length = ONE / math.sqrt(max(mx * mx + my * my + mz * mz, TINY))
            mx, my, mz = mx * length, my * length, mz * length
    if upright:
        state[NX, i], state[NY, i], state[NZ, i] = mx, my, mz
    f = ONE
    if late > ZERO:
        f = min(max(ONE - late * inverse_dt, state[LEAD, i] * inverse_dt), ONE)
        w0, w1, w2, v0, v1, v2 = _moments(f, curved)
        if kind == BONE:
            bx, by, bz, _, _, _ = _around_bone(bones_before, row, b, c)
            hx, hy, hz, _, _, _ = _around_bone(bones_amid, row, b, c)
        else:
            bx, by, bz = _corner_mix(skin_before, ta, tb, tc, a, b, c)
            hx, hy, hz = bx, by, bz
            if curved:
                hx, hy, hz = _corner_mix(skin_amid, ta, tb, tc, a, b, c)
        state[RIDE_END, i] = -ONE
        state[VX, i] += keep * (v0 * bx + v1 * hx + v2 * x) * inverse_dt
        state[VY, i] += keep * (v0 * by + v1 * hy + v2 * y) * inverse_dt
        state[VZ, i] += keep * (v0 * bz + v1 * hz + v2 * z) * inverse_dt
        x, y, z = w0 * bx + w1 * hx + w2 * x, w0 * by + w1 * hy + w2 * y, w0 * bz + w1 * hz + w2 * z
    state[PX, i], state[PY, i], state[PZ, i] = x + mx * off, y + my * off, z + mz * off
    return (ONE - f) * dt


@inlined
def _carry(state, triangle, skin_now, triangles, first, end):  # type: ignore[no-untyped-def]
    """Put those on the skin that ride to the step's end, and stay on it, where it is now: most riders, quickly."""
    for i in range(np.uint64(first), np.uint64(end)):
        if state[AGE, i] <= state[RIDE_END, i]:
            row = np.uint64(triangle[i])
            ta, tb, tc = np.uint64(triangles[row, 0]), np.uint64(triangles[row, 1]), np.uint64(triangles[row, 2])
            b, c = state[SHARE_B, i], state[SHARE_C, i]
            x, y, z = _corner_mix(skin_now, ta, tb, tc, ONE - b - c, b, c)
            state[PX, i], state[PY, i], state[PZ, i] = x, y, z


@inlined
def _meet_ground(state, i, dt, contact, bounce, grip):  # type: ignore[no-untyped-def]
    """Bounce, slide, stick or end a particle that came through the ground."""
    if contact == BOUNCE:
        state[PY, i] = -state[PY, i] * bounce
        state[VY, i] = -state[VY, i] * bounce
        state[VX, i] *= ONE - grip
        state[VZ, i] *= ONE - grip
        return
    state[PY, i] = ZERO
    if contact == SLIDE:
        rub = math.exp(-grip * SLIPPERY * dt)
        state[VX, i] *= rub
        state[VY, i] = ZERO
        state[VZ, i] *= rub
    elif contact == STICK:
        state[VX, i], state[VY, i], state[VZ, i] = ZERO, ZERO, ZERO
        state[RESTING, i] = ONE
    else:
        state[AGE, i] = max(state[AGE, i], state[LIFETIME, i])


@SizedKernel
def step(  # type: ignore[no-untyped-def]
    state, triangle, count, dt, time, push, drag, curls, seeds, contact, bounce, grip,
    speed_mode, speed_table, kind, keep, lift, radius, upright,
    skin_before, skin_amid, skin_now, normal_now, triangles, bones_before, bones_amid, bones_now, curved,
):  # fmt: skip
    """Advance every particle by `dt` seconds (newborn ones by what is left of the step).

    Forces add up: `push` (3,) metres a second squared, `curls` (K, 3) of strength, 1 / scale and drift.
    Integration is semi-implicit; drag is exact. The ground is y = 0. `speed_mode` is -1 without a
    course of speed through life.
    """
    inverse_dt = ONE / dt
    whole = math.exp(-drag * dt)
    for block in prange((count + BLOCK - 1) // BLOCK):
        first, end = block * BLOCK, min(count, (block + 1) * BLOCK)
        # Seconds of free flight in this step, and acceleration: plain loops that become vector code.
        left = np.empty(BLOCK, np.float32)
        ax, ay, az = np.empty(BLOCK, np.float32), np.empty(BLOCK, np.float32), np.empty(BLOCK, np.float32)
        for i in range(first, end):
            state[AGE, i] += dt - state[LEAD, i]
            left[i - first] = dt - state[LEAD, i]
        carried = kind == SKIN and not upright
        if carried:
            _carry(state, triangle, skin_now, triangles, first, end)
        free = 0
        # Unsigned places spare the compiler the question whether they count from the end.
        for i in range(np.uint64(first), np.uint64(end)):
            if carried and state[AGE, i] <= state[RIDE_END, i]:
                left[i - first] = ZERO
            elif state[RIDE_END, i] >= ZERO:
                left[i - first] = _ride(
                    state, np.uint64(triangle[i]), i, dt, inverse_dt, kind, keep, lift, radius, upright,
                    skin_before, skin_amid, skin_now, normal_now, triangles,
                    bones_before, bones_amid, bones_now, curved,
                )  # fmt: skip
            elif state[RESTING, i] > ZERO:
                left[i - first] = ZERO
            if left[i - first] > ZERO:
                free += 1
            state[LEAD, i] = ZERO
        if not free:
            continue
        for i in range(first, end):
            ax[i - first], ay[i - first], az[i - first] = push[0], push[1], push[2]
        for k in range(len(curls)):
            strength, scale, drift, seed = curls[k, 0], curls[k, 1], curls[k, 2] * time, seeds[k]
            for i in range(first, end):
                cx, cy, cz = curl_noise(
                    state[PX, i] * scale + drift,
                    state[PY, i] * scale - drift,
                    state[PZ, i] * scale + drift,
                    seed,
                )
                ax[i - first] += strength * cx
                ay[i - first] += strength * cy
                az[i - first] += strength * cz
        for i in range(first, end):
            h = left[i - first]
            if h <= ZERO:
                continue
            slow = whole if h == dt else math.exp(-drag * h)
            vx = (state[VX, i] + ax[i - first] * h) * slow
            vy = (state[VY, i] + ay[i - first] * h) * slow
            vz = (state[VZ, i] + az[i - first] * h) * slow
            if speed_mode >= 0:
                value = _table(speed_table, state[AGE, i] / max(state[LIFETIME, i], TINY))
                factor = value
                if speed_mode != SCALE:
                    size = math.sqrt(vx * vx + vy * vy + vz * vz)
                    factor = (value + size if speed_mode == ADD else value) / max(size, TINY)
                h *= factor
            state[PX, i] += vx * h
            state[PY, i] += vy * h
            state[PZ, i] += vz * h
            state[VX, i], state[VY, i], state[VZ, i] = vx, vy, vz
            if contact != PASS and state[PY, i] <= ZERO and vy < ZERO:
                _meet_ground(state, i, dt, contact, bounce, grip)


@kernel
def sweep(state, triangle, firing, identity, count):  # type: ignore[no-untyped-def]
    """Clear away particles past their lifetime by moving the last one into the gap; return how many live."""
    i = 0
    while i < count:
        if state[AGE, i] < state[LIFETIME, i]:
            i += 1
            continue
        count -= 1
        for c in range(COLUMNS):
            state[c, i] = state[c, count]
        triangle[i], firing[i], identity[i] = triangle[count], firing[count], identity[count]
    return count


@kernel
def count_firings(firing, count, out):  # type: ignore[no-untyped-def]
    """Add up the living particles of each firing slot into `out`."""
    out[:] = 0
    for i in range(count):
        out[firing[i]] += 1


@inlined
def _drawn(birth, u, mode, table, age):  # type: ignore[no-untyped-def]
    """Return birth value met by its course through life; mode -1 has no course."""
    value = birth[0] + (birth[1] - birth[0]) * u
    if mode < 0:
        return value
    course = _table(table, age)
    if mode == SCALE:
        return value * course
    return value + course if mode == ADD else course


@SizedKernel
def draw(  # type: ignore[no-untyped-def]
    state, triangle, identity, count, births, modes, tables, tints, tint_mode, tint_table, spin_table, sheet_frames,
    groups, factors, by_normal, positions, velocities, sizes, turns, colours, frames,
):  # fmt: skip
    """Write what is drawn of every particle.

    `births` (5, 2) are the ranges of size, intensity, opacity, turn and spin (radians), `modes` (5,) and
    `tables` (5, TABLE) their courses; `tints` (2, 3) the colours at birth. Everything here depends on a
    particle's identity and age alone, so that an edit shows on those that already live. `groups` say
    which of `factors` the size of those born on a row has. With `by_normal` the normals stand where
    the velocities would.
    """
    for block in prange((count + BLOCK - 1) // BLOCK):
        for i in range(block * BLOCK, min(count, (block + 1) * BLOCK)):
            who = identity[i]
            lifetime = state[LIFETIME, i]
            age = state[AGE, i] / max(lifetime, TINY)
            for k in range(3):
                positions[i, k] = state[PX + k, i]
                velocities[i, k] = state[NX + k, i] if by_normal else state[VX + k, i]
            size = _drawn(births[0], uniform(who, C_SIZE), modes[0], tables[0], age)
            sizes[i] = size * factors[groups[triangle[i]]] if triangle[i] >= 0 else size
            strength = _drawn(births[1], uniform(who, C_INTENSITY), modes[1], tables[1], age)
            opacity = _drawn(births[2], uniform(who, C_OPACITY), modes[2], tables[2], age)
            turn = _drawn(births[3], uniform(who, C_ANGLE), modes[3], tables[3], age)
            spin = births[4, 0] + (births[4, 1] - births[4, 0]) * uniform(who, C_SPIN)
            turned = _table(spin_table, age) * lifetime
            if modes[4] == SCALE:
                turned *= spin
            elif modes[4] == ADD:
                turned += spin * state[AGE, i]
            elif modes[4] < 0:
                turned = spin * state[AGE, i]
            turns[i] = turn + turned
            share = uniform(who, C_COLOUR)
            for k in range(3):
                tint = tints[0, k] + share * (tints[1, k] - tints[0, k])
                if tint_mode >= 0:
                    course = _table(tint_table[k], age)
                    tint = tint * course if tint_mode == SCALE else course
                colours[i, k] = tint * max(strength, ZERO)
            colours[i, 3] = min(max(opacity, ZERO), ONE)
            frames[i] = min(int(uniform(who, C_SHEET) * np.float32(sheet_frames)), sheet_frames - 1)
