"""What each force adds to the acceleration of a block of particles."""

from __future__ import annotations

import math

import numpy as np

from wraithon.numeric import chance
from wraithon.numeric.chance import uniform
from wraithon.numeric.compiled import called, inlined
from wraithon.numeric.noise import curl_noise, value_at
from wraithon.numeric.vector_memory import read_exact, write
from wraithon.numeric.vectors import exact8
from wraithon.particles.columns import (
    AGE,
    AX,
    AY,
    AZ,
    BX,
    BY,
    BZ,
    F_AROUND,
    F_CHANGE,
    F_FOLLOW,
    F_GRIP,
    F_GUST,
    F_INWARD,
    F_MEASURE,
    F_PACE,
    F_PER_REACH,
    F_RADIUS,
    F_SCATTER,
    F_SPEED,
    F_STRENGTH,
    F_X,
    F_Y,
    F_Z,
    LIFETIME,
    NX,
    NY,
    NZ,
    PX,
    PY,
    PZ,
    RADIUS,
    VX,
    VY,
    VZ,
)
from wraithon.particles.curve_kernels import table_value

PUSH, DRAG, CURL, VORTEX, WIND, ATTRACT, LIFT, HOLD, CARRY, NEAR, ORBIT = range(11)
CODES = 11
"""How many there are; `add_forces` has a branch for each."""

ZERO, ONE, TWO = np.float32(0), np.float32(1), np.float32(2)
HALF, QUARTER, TAU = np.float32(0.5), np.float32(0.25), np.float32(2 * math.pi)
PEAK = np.float32(1.5**1.5)
BLOTCHES = np.float32(0.3)
"""Blotches of gusts a metre."""
SHIFTS = np.uint32(1023)
C_FELT, C_WAFT_A, C_WAFT_B = chance.FELT, chance.WAFT_A, chance.WAFT_B
TINY, FAR_OFF = np.float32(1e-6), np.float32(1e9)


@inlined
def drag_of(forces):  # type: ignore[no-untyped-def]
    """Return how quickly all drag that is felt alike slows, a second."""
    drag = ZERO
    for k in range(len(forces.codes)):
        if forces.codes[k] == DRAG and forces.spreads[k] < ZERO:
            drag += forces.numbers[k, F_STRENGTH]
    return drag


@inlined
def _vortex(state, i, forces, k, points, f):  # type: ignore[no-untyped-def]
    """Return the acceleration along x and z around the upright line through a point, which moves in the step.

    Sideways and inward it is strongest at the reach and fades beyond, as in Taylor's vortex (Taylor 1918):
    r exp((1 - r²) / 2) for a distance of r reaches.
    """
    x = state[PX, i] - (points[k, 0, 0] + f * (points[k, 1, 0] - points[k, 0, 0]))
    z = state[PZ, i] - (points[k, 0, 2] + f * (points[k, 1, 2] - points[k, 0, 2]))
    away = math.sqrt(x * x + z * z)
    r = away * forces.numbers[k, F_PER_REACH]
    share = r * math.exp((ONE - r * r) * HALF) / max(away, TINY)
    around, inward = forces.numbers[k, F_AROUND] * share, forces.numbers[k, F_INWARD] * share
    return around * z - inward * x, -around * x - inward * z


@inlined
def _orbit(state, i, forces, k, points, f, quick, inverse_dt):  # type: ignore[no-untyped-def]
    """Return the acceleration along x and z that takes a particle to its circle, and keeps it there.

    It follows the velocity of a point on the circle, with one inwards or outwards that brings it there, at the rate
    `quick`; what it needs to go round is the centripetal acceleration of its distance.
    """
    x = state[PX, i] - (points[k, 0, 0] + f * (points[k, 1, 0] - points[k, 0, 0]))
    z = state[PZ, i] - (points[k, 0, 2] + f * (points[k, 1, 2] - points[k, 0, 2]))
    speed, radius = forces.numbers[k, F_SPEED], forces.numbers[k, F_RADIUS]
    away = max(math.sqrt(x * x + z * z), TINY)
    turning = speed * speed / max(away, QUARTER * radius)
    # A step's velocity is that of its middle, so at its end it points outwards by half a step's turning.
    outward = HALF * (forces.numbers[k, F_FOLLOW] * (radius - away) + turning / inverse_dt)
    inward = turning / away
    vx, vz = (speed * z + outward * x) / away, (outward * z - speed * x) / away
    return quick * (vx - state[VX, i]) - inward * x, quick * (vz - state[VZ, i]) - inward * z


@called
def _pull(away, per_reach):  # type: ignore[no-untyped-def]
    """Return an attraction `away` metres off, for each metre; that at the reach, where it is strongest, is 1.

    That of a Plummer sphere (Plummer 1911): r (1 + r²/2)^(-3/2) for a distance of r reaches, times what makes it 1
    there.
    """
    r = away * per_reach
    soft = ONE + HALF * r * r
    return PEAK * r / (soft * math.sqrt(soft) * max(away, TINY))


@called
def _back(away, radius):  # type: ignore[no-untyped-def]
    """Return the pull back into a ball, `away` metres from its middle, for each metre; 1 from a quarter beyond on."""
    return min(max((away - radius) / (QUARTER * radius), ZERO), ONE) / max(away, TINY)


@called
def _gale(x, y, z, shift, gust):  # type: ignore[no-untyped-def]
    """Return by how many times a wind is stronger at a place, with gusts that have gone by for `shift` blotches."""
    return ONE + gust * (TWO * value_at(x * BLOTCHES + shift, y * BLOTCHES, z * BLOTCHES + shift) - ONE)


@called
def _waft(who, strength):  # type: ignore[no-untyped-def]
    """Return a push (three numbers) in a direction that is one particle's own."""
    up = TWO * uniform(who, C_WAFT_A) - ONE
    side, angle = strength * math.sqrt(max(ZERO, ONE - up * up)), TAU * uniform(who, C_WAFT_B)
    return side * math.cos(angle), strength * up, side * math.sin(angle)


@called
def _feel(state, identity, forces, k, first, end, felt):  # type: ignore[no-untyped-def]
    """Write into `felt` (BLOCK,) how much each particle feels of a force."""
    spread, seed, curve = forces.spreads[k], np.uint64(forces.seeds[k]), forces.curves[k]
    for i in range(first, end):
        felt[i - first] = ONE
        if spread >= ZERO:
            share = table_value(curve, state[AGE, i] / max(state[LIFETIME, i], TINY))
            felt[i - first] = share * (ONE + spread * (TWO * uniform(identity[i] + seed, C_FELT) - ONE))


@called
def capsule_off(capsules, k, x, y, z):  # type: ignore[no-untyped-def]
    """Return the way to the line within a capsule (C, 7) from a place, how long that is, and where along it."""
    wx, wy, wz = (
        capsules[k, BX] - capsules[k, AX],
        capsules[k, BY] - capsules[k, AY],
        capsules[k, BZ] - capsules[k, AZ],
    )
    x, y, z = capsules[k, AX] - x, capsules[k, AY] - y, capsules[k, AZ] - z
    long = wx * wx + wy * wy + wz * wz
    along = min(max(-(x * wx + y * wy + z * wz) / max(long, TINY * TINY), ZERO), ONE)
    x, y, z = x + along * wx, y + along * wy, z + along * wz
    return x, y, z, math.sqrt(x * x + y * y + z * z), along


@called
def _near(capsules, x, y, z, per_reach):  # type: ignore[no-untyped-def]
    """Return an attraction to the nearest of the skin that capsules (C, 7) stand for, as `_pull` has it."""
    best, px, py, pz = FAR_OFF, ZERO, ZERO, ZERO
    for k in range(len(capsules)):
        qx, qy, qz, away, _ = capsule_off(capsules, k, x, y, z)
        off = away - capsules[k, RADIUS]
        if off < best:
            best, share = off, off / max(away, TINY)
            px, py, pz = qx * share, qy * share, qz * share
    if len(capsules) == 0:
        return ZERO, ZERO, ZERO
    share = _pull(abs(best), per_reach)
    return px * share, py * share, pz * share


@called
def _swirl(state, first, end, strength, scale, drift, seed, felt, ax, ay, az):  # type: ignore[no-untyped-def]
    """Add curl noise, eight particles at a time; what stands after the last one is worked out, too, and not read."""
    much, finer, shift = exact8(strength), exact8(scale), exact8(drift)
    capacity = state.shape[1]
    for i in range(first, end, 8):
        x = read_exact(much, state, np.uint64(PX * capacity + i))
        y = read_exact(much, state, np.uint64(PY * capacity + i))
        z = read_exact(much, state, np.uint64(PZ * capacity + i))
        x, y, z = curl_noise(x * finer + shift, y * finer - shift, z * finer + shift, seed)
        at = np.uint64(i - first)
        share = much * read_exact(much, felt, at)
        write(ax, at, read_exact(much, ax, at) + share * x)
        write(ay, at, read_exact(much, ay, at) + share * y)
        write(az, at, read_exact(much, az, at) + share * z)


@called
def add_forces(  # type: ignore[no-untyped-def]
    state, identity, first, end, forces, points, capsules, time, inverse_dt, left, felt, ax, ay, az, thick
):
    """Write the acceleration of the particles from `first` to `end` into `ax`, `ay`, `az` (BLOCK,).

    `points` (F, 2, 3) are the places that forces act from, before and after the step, `capsules` (C, 7) the
    character; `left` (BLOCK,) the seconds of free flight in it; `felt` (BLOCK,) is working memory. `thick` (BLOCK,)
    receives drag beyond what all feel alike.
    """
    for i in range(first, end):
        ax[i - first], ay[i - first], az[i - first], thick[i - first] = ZERO, ZERO, ZERO, ZERO
    for k in range(len(forces.codes)):
        code, alike = forces.codes[k], forces.spreads[k] < ZERO
        if code == PUSH and alike:
            x, y, z = forces.numbers[k, F_X], forces.numbers[k, F_Y], forces.numbers[k, F_Z]
            for i in range(first, end):
                ax[i - first] += x
                ay[i - first] += y
                az[i - first] += z
            continue
        if code == DRAG and alike:
            continue
        _feel(state, identity, forces, k, first, end, felt)
        if code in (CURL, CARRY):  # a set is nothing to the compiler
            strength, scale, seed = forces.numbers[k, F_STRENGTH], forces.numbers[k, F_MEASURE], forces.seeds[k]
            drift = forces.numbers[k, F_CHANGE] * time
            if code == CARRY:
                # As much of the way to the stream's velocity as drag goes within a step, and never beyond it.
                quick = (ONE - math.exp(-forces.numbers[k, F_GRIP] / inverse_dt)) * inverse_dt
                for i in range(first, end):
                    much = felt[i - first] = min(felt[i - first] * quick, inverse_dt)
                    ax[i - first] -= much * state[VX, i]
                    ay[i - first] -= much * state[VY, i]
                    az[i - first] -= much * state[VZ, i]
            _swirl(state, first, end, strength, scale, drift, seed, felt, ax, ay, az)
        elif code == NEAR:
            for i in range(first, end):
                x, y, z = _near(capsules, state[PX, i], state[PY, i], state[PZ, i], forces.numbers[k, F_MEASURE])
                much = felt[i - first] * forces.numbers[k, F_STRENGTH]
                ax[i - first] += much * x
                ay[i - first] += much * y
                az[i - first] += much * z
        elif code == VORTEX:
            for i in range(first, end):
                x, z = _vortex(state, i, forces, k, points, max(ZERO, ONE - left[i - first] * inverse_dt))
                ax[i - first] += felt[i - first] * x
                az[i - first] += felt[i - first] * z
        elif code == ORBIT:
            # As much of the way as drag goes within a step, and never beyond it.
            quick = (ONE - math.exp(-forces.numbers[k, F_FOLLOW] / inverse_dt)) * inverse_dt
            for i in range(first, end):
                f = max(ZERO, ONE - left[i - first] * inverse_dt)
                x, z = _orbit(state, i, forces, k, points, f, quick, inverse_dt)
                ax[i - first] += min(felt[i - first], ONE) * x
                az[i - first] += min(felt[i - first], ONE) * z
        elif code in (ATTRACT, HOLD):
            strength, measure = forces.numbers[k, F_STRENGTH], forces.numbers[k, F_MEASURE]
            for i in range(first, end):
                f = max(ZERO, ONE - left[i - first] * inverse_dt)
                x = points[k, 0, 0] + f * (points[k, 1, 0] - points[k, 0, 0]) - state[PX, i]
                y = points[k, 0, 1] + f * (points[k, 1, 1] - points[k, 0, 1]) - state[PY, i]
                z = points[k, 0, 2] + f * (points[k, 1, 2] - points[k, 0, 2]) - state[PZ, i]
                away = math.sqrt(x * x + y * y + z * z)
                share = _pull(away, measure) if code == ATTRACT else _back(away, measure)
                much = felt[i - first] * strength * share
                ax[i - first] += much * x
                ay[i - first] += much * y
                az[i - first] += much * z
        elif code == WIND:
            gust, shift = (
                forces.numbers[k, F_GUST],
                forces.numbers[k, F_PACE] * time + np.float32(forces.seeds[k] & SHIFTS),
            )
            for i in range(first, end):
                much = felt[i - first]
                x, y, z = _waft(identity[i] + np.uint64(forces.seeds[k]), forces.numbers[k, F_SCATTER])
                gale = _gale(state[PX, i], state[PY, i], state[PZ, i], shift, gust)
                ax[i - first] += much * (gale * forces.numbers[k, F_X] + x)
                ay[i - first] += much * (gale * forces.numbers[k, F_Y] + y)
                az[i - first] += much * (gale * forces.numbers[k, F_Z] + z)
        elif code == DRAG:
            for i in range(first, end):
                thick[i - first] += felt[i - first] * forces.numbers[k, F_STRENGTH]
        elif code == PUSH:
            for i in range(first, end):
                ax[i - first] += felt[i - first] * forces.numbers[k, F_X]
                ay[i - first] += felt[i - first] * forces.numbers[k, F_Y]
                az[i - first] += felt[i - first] * forces.numbers[k, F_Z]
        elif code == LIFT:
            for i in range(first, end):
                much = felt[i - first] * forces.numbers[k, F_STRENGTH]
                ax[i - first] += much * state[NX, i]
                ay[i - first] += much * state[NY, i]
                az[i - first] += much * state[NZ, i]
