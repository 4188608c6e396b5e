"""The kernel of a step: riding, free flight, and the ground."""

from __future__ import annotations

import math

import numpy as np

from wraithon.numeric.compiled import BLOCK, SizedKernel, called, inlined, prange
from wraithon.numeric.meeting import SCALE, met
from wraithon.numeric.work_queue import HANDS, fresh_turns, next_turn
from wraithon.particles.columns import (
    AGE,
    BONE,
    BOUNCE,
    DIE,
    LEAD,
    LIFETIME,
    LINE,
    NX,
    NY,
    NZ,
    PASS,
    PX,
    PY,
    PZ,
    RADIUS,
    RESTING,
    RIDE_END,
    SHARE_B,
    SHARE_C,
    SHARE_D,
    SKIN,
    SLIDE,
    STICK,
    VX,
    VY,
    VZ,
)  # fmt: skip
from wraithon.particles.curve_kernels import around_bone, carried_by, corner_mix, moments, table_value
from wraithon.particles.force_kernels import add_forces, capsule_off, drag_of

ZERO, ONE = np.float32(0), np.float32(1)
TINY = np.float32(1e-12)
SLACK = np.float32(0.001)
"""Metres within a capsule that still count as outside."""
EDGE = np.float32(0.06)
"""Metres below the edge of what stands on the stage that still count as on top of it."""
SLIPPERY = np.float32(10)

_met = inlined(met)


@inlined
def _ride(  # type: ignore[no-untyped-def]
    state, row, i, dt, inverse_dt, rules, around
):
    """Take a rider along on the character, or let it go within the step; return its seconds of free flight."""
    b, c = state[SHARE_B, i], state[SHARE_C, i]
    late = state[AGE, i] - state[RIDE_END, i]
    off, upright, curved, triangles = rules.lift, rules.upright, around.curved, around.triangles
    if rules.kind == BONE:
        x, y, z, mx, my, mz = around_bone(around.bones_now, row, b, c)
        off += rules.radius * state[SHARE_D, i]
    else:
        a = ONE - b - c
        ta, tb, tc = np.uint64(triangles[row, 0]), np.uint64(triangles[row, 1]), np.uint64(triangles[row, 2])
        x, y, z = corner_mix(around.skin_now, ta, tb, tc, a, b, c)
        mx, my, mz = ZERO, ZERO, ZERO
        if upright:
            mx, my, mz = corner_mix(around.normal_now, ta, tb, tc, a, b, c)
            length = ONE / math.sqrt(max(mx * mx + my * my + mz * mz, TINY))
            mx, my, mz = mx * length, my * length, mz * length
    if upright:
        state[NX, i], state[NY, i], state[NZ, i] = mx, my, mz
    f = ONE
    if late > ZERO:
        f = min(max(ONE - late * inverse_dt, state[LEAD, i] * inverse_dt), ONE)
        w0, w1, w2, v0, v1, v2 = moments(f, curved)
        if rules.kind == BONE:
            bx, by, bz, _, _, _ = around_bone(around.bones_before, row, b, c)
            hx, hy, hz, _, _, _ = around_bone(around.bones_midpoint, row, b, c)
        else:
            bx, by, bz = corner_mix(around.skin_before, ta, tb, tc, a, b, c)
            hx, hy, hz = bx, by, bz
            if curved:
                hx, hy, hz = corner_mix(around.skin_midpoint, ta, tb, tc, a, b, c)
        state[RIDE_END, i] = -ONE
        state[VX, i] += rules.keep * (v0 * bx + v1 * hx + v2 * x) * inverse_dt
        state[VY, i] += rules.keep * (v0 * by + v1 * hy + v2 * y) * inverse_dt
        state[VZ, i] += rules.keep * (v0 * bz + v1 * hz + v2 * z) * inverse_dt
        x, y, z = w0 * bx + w1 * hx + w2 * x, w0 * by + w1 * hy + w2 * y, w0 * bz + w1 * hz + w2 * z
    state[PX, i], state[PY, i], state[PZ, i] = x + mx * off, y + my * off, z + mz * off
    return (ONE - f) * dt


@called
def _ride_on(state, i, dt, kind, keep, turning, upright, row, before, now):  # type: ignore[no-untyped-def]
    """Take a rider along on its firing's anchor, or let it go within the step; return its seconds of free flight.

    `before` and `now` (N, 5, 3) are the anchors (see `columns.AnchorTransforms`),
    `row` which of them is its own; below 0
    it is gone.
    """
    b, c, d, late = state[SHARE_B, i], state[SHARE_C, i], state[SHARE_D, i], state[AGE, i] - state[RIDE_END, i]
    if row < 0:
        state[RIDE_END, i] = -ONE
        return dt - state[LEAD, i]
    x, y, z = carried_by(now, row, kind, turning, b, c, d)
    f = ONE
    if late > ZERO:
        f = min(max(ONE - late / dt, state[LEAD, i] / dt), ONE)
        bx, by, bz = carried_by(before, row, kind, turning, b, c, d)
        state[RIDE_END, i] = -ONE
        state[VX, i] += keep * (x - bx) / dt
        state[VY, i] += keep * (y - by) / dt
        state[VZ, i] += keep * (z - bz) / dt
        x, y, z = bx + f * (x - bx), by + f * (y - by), bz + f * (z - bz)
    state[PX, i], state[PY, i], state[PZ, i] = x, y, z
    if upright and turning and kind != LINE:  # away from the anchor, as it turns
        x, y, z = x - now[row, 0, 0], y - now[row, 0, 1], z - now[row, 0, 2]
        away = math.sqrt(x * x + y * y + z * z)
        if late <= ZERO and away > TINY:
            state[NX, i], state[NY, i], state[NZ, i] = x / away, y / away, z / away
    return (ONE - f) * dt


@inlined
def _row_of(firings, firing):  # type: ignore[no-untyped-def]
    """Return where a firing stands among rising ones, or -1."""
    row = np.searchsorted(firings, firing)
    return row if row < len(firings) and firings[row] == firing else -1


@inlined
def _carry(state, triangle, skin_now, triangles, first, end):  # type: ignore[no-untyped-def]
    """Put those on the skin that ride to the step's end, and stay on it, where it is now: most riders, quickly."""
    for i in range(np.uint64(first), np.uint64(end)):
        if state[AGE, i] <= state[RIDE_END, i]:
            row = np.uint64(triangle[i])
            ta, tb, tc = np.uint64(triangles[row, 0]), np.uint64(triangles[row, 1]), np.uint64(triangles[row, 2])
            b, c = state[SHARE_B, i], state[SHARE_C, i]
            x, y, z = corner_mix(skin_now, ta, tb, tc, ONE - b - c, b, c)
            state[PX, i], state[PY, i], state[PZ, i] = x, y, z


@inlined
def _height_at(heights, cells, x, z):  # type: ignore[no-untyped-def]
    """Return how high the stage is at a place."""
    column, row = math.floor((x - cells[0]) * cells[2]), math.floor((z - cells[1]) * cells[2])
    if 0 <= row < heights.shape[0] and 0 <= column < heights.shape[1]:
        return heights[row, column]
    return ZERO


@inlined
def _against_wall(state, i, x, y, z, ground, contact, bounce, heights, cells):  # type: ignore[no-untyped-def]
    """Turn back a particle that came from (x, y, z) into the side of what is `ground` high there; return the height.

    That is how high it is where the particle is then.
    """
    if y >= ground - EDGE:
        return ground
    state[PX, i], state[PZ, i] = x, z
    left = -bounce if contact == BOUNCE else ZERO
    state[VX, i] *= left
    state[VZ, i] *= left
    return _height_at(heights, cells, x, z)


@inlined
def _note_touch(state, i, h, ground, touches):  # type: ignore[no-untyped-def]
    """Note a particle that came from above the ground in the last `h` seconds, before the ground acts on it."""
    vy, above = state[VY, i], state[PY, i] - ground
    if above - vy * h > ZERO:
        ago = min(above / vy, h)
        touches[0, i] = ago
        for k in range(3):
            touches[1 + k, i] = state[PX + k, i] - ago * state[VX + k, i]
            touches[4 + k, i] = state[VX + k, i]


@inlined
def _meet_ground(state, i, dt, ground, contact, bounce, grip):  # type: ignore[no-untyped-def]
    """Bounce, slide, stick or end a particle that came through the ground, which is so high there."""
    if contact == BOUNCE:
        state[PY, i] = ground + (ground - state[PY, i]) * bounce
        state[VY, i] = -state[VY, i] * bounce
        state[VX, i] *= ONE - grip
        state[VZ, i] *= ONE - grip
        return
    state[PY, i] = ground
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


@inlined
def _of_line(capsules, k, axis, along):  # type: ignore[no-untyped-def]
    """Return where a capsule's line is along an axis, at a share of it."""
    return capsules[k, axis] + along * (capsules[k, axis + 3] - capsules[k, axis])


@called
def _meet_body(state, i, x, y, z, dt, contact, bounce, grip, around, touches):  # type: ignore[no-untyped-def]
    """Bounce, slide or end a particle that came into the character from outside, having been at (x, y, z).

    What is within a capsule already, as what is born on skin is, meets it only once it has been outside.
    """
    before, now = around.capsules_before, around.capsules_now
    for k in range(len(now)):
        qx, qy, qz, away, along = capsule_off(now, k, state[PX, i], state[PY, i], state[PZ, i])
        if away >= now[k, RADIUS]:
            continue
        _, _, _, earlier, _ = capsule_off(before, k, x, y, z)
        if earlier < before[k, RADIUS] - SLACK:
            continue
        out = -ONE / max(away, TINY)
        nx, ny, nz = qx * out, qy * out, qz * out
        if away <= SLACK:
            nx, ny, nz = ZERO, ONE, ZERO
        # Velocities are those beside the capsule, which moves itself.
        ux = (_of_line(now, k, 0, along) - _of_line(before, k, 0, along)) / dt
        uy = (_of_line(now, k, 1, along) - _of_line(before, k, 1, along)) / dt
        uz = (_of_line(now, k, 2, along) - _of_line(before, k, 2, along)) / dt
        vx, vy, vz = state[VX, i] - ux, state[VY, i] - uy, state[VZ, i] - uz
        inward = min(vx * nx + vy * ny + vz * nz, ZERO)
        if touches.shape[1] > 0:
            touches[0, i] = ZERO
            for n in range(3):
                touches[1 + n, i], touches[4 + n, i] = state[PX + n, i], state[VX + n, i]
        if contact == DIE:
            state[AGE, i] = max(state[AGE, i], state[LIFETIME, i])
            return
        left = math.exp(-grip * SLIPPERY * dt) if contact == SLIDE else ONE - grip
        back = ZERO if contact == SLIDE else -bounce * inward
        vx, vy, vz = vx - inward * nx, vy - inward * ny, vz - inward * nz
        state[VX, i] = ux + left * vx + back * nx
        state[VY, i] = uy + left * vy + back * ny
        state[VZ, i] = uz + left * vz + back * nz
        push = now[k, RADIUS] - away
        state[PX, i] += push * nx
        state[PY, i] += push * ny
        state[PZ, i] += push * nz


@SizedKernel
def step(  # type: ignore[no-untyped-def]
    columns, count, dt, time, rules, forces, points, around, anchor_transforms, touches
):
    """Advance every particle by `dt` seconds (newborn ones by what is left of the step).

    `rules` are `rules.FlightRules`, `around` is `rules.TickContext`; `forces` (`forces.ForceRows`) add up,
    those with a place of their own act from `points` (F, 2, 3), before and after the step. Integration is
    semi-implicit; drag is exact. The ground is as high as `around.heights` has it.
    `anchor_transforms` (`columns.AnchorTransforms`) are the anchors that may be ridden on. `touches` (7,
    count) receives
    contacts with it and the character (see `happenings.contacts_of`); (7, 0) when nobody asks.
    """
    state, triangle, identity = columns.state, columns.triangle, columns.identity
    inverse_dt = ONE / dt
    drag = drag_of(forces)
    whole = math.exp(-drag * dt)
    wants_moments, uneven = touches.shape[1] > 0, around.heights.size > 0
    turns = fresh_turns()
    for _hand in prange(HANDS):
        block = next_turn(turns)
        while block < (count + BLOCK - 1) // BLOCK:
            first, end = block * BLOCK, min(count, (block + 1) * BLOCK)
            block = next_turn(turns)
            # Seconds of free flight in this step, and acceleration: plain loops that become vector code.
            left = np.empty(BLOCK, np.float32)
            ax, ay, az = np.empty(BLOCK, np.float32), np.empty(BLOCK, np.float32), np.empty(BLOCK, np.float32)
            felt, thick = np.empty(BLOCK, np.float32), np.empty(BLOCK, np.float32)
            for i in range(first, end):
                state[AGE, i] += dt - state[LEAD, i]
                left[i - first] = dt - state[LEAD, i]
            carried = rules.kind == SKIN and not rules.upright
            if carried:
                _carry(state, triangle, around.skin_now, around.triangles, first, end)
            free = 0
            # Unsigned places spare the compiler the question whether they count from the end.
            for i in range(np.uint64(first), np.uint64(end)):
                if carried and state[AGE, i] <= state[RIDE_END, i]:
                    left[i - first] = ZERO
                elif state[RIDE_END, i] >= ZERO and rules.kind < SKIN:
                    left[i - first] = _ride_on(
                        state, i, dt, rules.kind, rules.keep, rules.turning, rules.upright,
                        _row_of(anchor_transforms.firing, columns.firing[i]), anchor_transforms.before,
                        anchor_transforms.now,
                    )  # fmt: skip
                elif state[RIDE_END, i] >= ZERO:
                    left[i - first] = _ride(state, np.uint64(triangle[i]), i, dt, inverse_dt, rules, around)
                elif state[RESTING, i] > ZERO:
                    left[i - first] = ZERO
                if left[i - first] > ZERO:
                    free += 1
                state[LEAD, i] = ZERO
            if not free:
                continue
            add_forces(
                state, identity, first, end, forces, points, around.capsules_now, time, inverse_dt, left, felt, ax,
                ay, az, thick,
            )  # fmt: skip
            for i in range(first, end):
                h = left[i - first]
                if h <= ZERO:
                    continue
                slow = whole if h == dt and thick[i - first] == ZERO else math.exp(-(drag + thick[i - first]) * h)
                vx = (state[VX, i] + ax[i - first] * h) * slow
                vy = (state[VY, i] + ay[i - first] * h) * slow
                vz = (state[VZ, i] + az[i - first] * h) * slow
                if rules.speed_mode >= SCALE:
                    value = table_value(rules.speed_table, state[AGE, i] / max(state[LIFETIME, i], TINY))
                    factor = value
                    if rules.speed_mode != SCALE:
                        size = math.sqrt(vx * vx + vy * vy + vz * vz)
                        factor = _met(size, value, rules.speed_mode) / max(size, TINY)
                    h *= factor
                x, y, z = state[PX, i], state[PY, i], state[PZ, i]
                state[PX, i] += vx * h
                state[PY, i] += vy * h
                state[PZ, i] += vz * h
                state[VX, i], state[VY, i], state[VZ, i] = vx, vy, vz
                if rules.body != PASS:
                    _meet_body(state, i, x, y, z, dt, rules.body, rules.rebound, rules.rub, around, touches)
                if rules.contact == PASS:
                    continue
                ground = ZERO
                if uneven:
                    ground = _height_at(around.heights, around.cells, state[PX, i], state[PZ, i])
                    if state[PY, i] < ground:
                        ground = _against_wall(
                            state, i, x, y, z, ground, rules.contact, rules.bounce, around.heights,
                            around.cells,
                        )  # fmt: skip
                if state[PY, i] <= ground and vy < ZERO:
                    if wants_moments:
                        _note_touch(state, i, h, ground, touches)
                    _meet_ground(state, i, dt, ground, rules.contact, rules.bounce, rules.grip)
