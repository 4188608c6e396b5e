"""What each force adds to the acceleration of a block of particles."""

from __future__ import annotations

import math

import numpy as np

from wraithon import chance
from wraithon.chance import uniform
from wraithon.compiled import called, inlined
from wraithon.noise import curl_noise, value_at
from wraithon.particles.columns import AGE, LIFETIME, NX, NY, NZ, PX, PY, PZ
from wraithon.particles.course_kernels import table_value

__all__ = ["add_forces", "drag_of"]

PUSH, DRAG, CURL, VORTEX, WIND, ATTRACT, LIFT, HOLD = range(8)

ZERO, ONE, TWO = np.float32(0), np.float32(1), np.float32(2)
HALF, QUARTER, TAU = np.float32(0.5), np.float32(0.25), np.float32(2 * math.pi)
PEAK = np.float32(1.5**1.5)
BLOTCHES = np.float32(0.3)
"""Blotches of gusts a metre."""
SHIFTS = np.uint32(1023)
C_FELT, C_WAFT_A, C_WAFT_B = chance.FELT, chance.WAFT_A, chance.WAFT_B
TINY = np.float32(1e-6)


@inlined
def drag_of(forces):  # type: ignore[no-untyped-def]
    """Return how quickly all drag that is felt alike slows, a second."""
    drag = ZERO
    for k in range(len(forces.codes)):
        if forces.codes[k] == DRAG and forces.spreads[k] < ZERO:
            drag += forces.numbers[k, 0]
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
    r = away * forces.numbers[k, 2]
    share = r * math.exp((ONE - r * r) * HALF) / max(away, TINY)
    around, inward = forces.numbers[k, 0] * share, forces.numbers[k, 1] * share
    return around * z - inward * x, -around * x - inward * z


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
    spread, seed, course = forces.spreads[k], np.uint64(forces.seeds[k]), forces.courses[k]
    for i in range(first, end):
        felt[i - first] = ONE
        if spread >= ZERO:
            share = table_value(course, state[AGE, i] / max(state[LIFETIME, i], TINY))
            felt[i - first] = share * (ONE + spread * (TWO * uniform(identity[i] + seed, C_FELT) - ONE))


@called
def add_forces(  # type: ignore[no-untyped-def]
    state, identity, first, end, forces, points, time, inverse_dt, left, felt, ax, ay, az, thick
):
    """Write the acceleration of the particles from `first` to `end` into `ax`, `ay`, `az` (BLOCK,).

    `points` (F, 2, 3) are the places that forces act from, before and after the step; `left` (BLOCK,) the
    seconds of free flight in it; `felt` (BLOCK,) is working memory. `thick` (BLOCK,) receives drag beyond what all
    feel alike.
    """
    for i in range(first, end):
        ax[i - first], ay[i - first], az[i - first], thick[i - first] = ZERO, ZERO, ZERO, ZERO
    for k in range(len(forces.codes)):
        code, alike = forces.codes[k], forces.spreads[k] < ZERO
        if code == PUSH and alike:
            x, y, z = forces.numbers[k, 0], forces.numbers[k, 1], forces.numbers[k, 2]
            for i in range(first, end):
                ax[i - first] += x
                ay[i - first] += y
                az[i - first] += z
            continue
        if code == DRAG and alike:
            continue
        _feel(state, identity, forces, k, first, end, felt)
        if code == CURL:
            strength, scale, seed = forces.numbers[k, 0], forces.numbers[k, 1], forces.seeds[k]
            drift = forces.numbers[k, 2] * time
            for i in range(first, end):
                cx, cy, cz = curl_noise(
                    state[PX, i] * scale + drift,
                    state[PY, i] * scale - drift,
                    state[PZ, i] * scale + drift,
                    seed,
                )
                much = strength * felt[i - first]
                ax[i - first] += much * cx
                ay[i - first] += much * cy
                az[i - first] += much * cz
        elif code == VORTEX:
            for i in range(first, end):
                x, z = _vortex(state, i, forces, k, points, max(ZERO, ONE - left[i - first] * inverse_dt))
                ax[i - first] += felt[i - first] * x
                az[i - first] += felt[i - first] * z
        elif code in (ATTRACT, HOLD):  # a set is nothing to the compiler
            strength, measure = forces.numbers[k, 0], forces.numbers[k, 1]
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
            gust, shift = forces.numbers[k, 3], forces.numbers[k, 4] * time + np.float32(forces.seeds[k] & SHIFTS)
            for i in range(first, end):
                much = felt[i - first]
                x, y, z = _waft(identity[i] + np.uint64(forces.seeds[k]), forces.numbers[k, 5])
                gale = _gale(state[PX, i], state[PY, i], state[PZ, i], shift, gust)
                ax[i - first] += much * (gale * forces.numbers[k, 0] + x)
                ay[i - first] += much * (gale * forces.numbers[k, 1] + y)
                az[i - first] += much * (gale * forces.numbers[k, 2] + z)
        elif code == DRAG:
            for i in range(first, end):
                thick[i - first] += felt[i - first] * forces.numbers[k, 0]
        elif code == PUSH:
            for i in range(first, end):
                ax[i - first] += felt[i - first] * forces.numbers[k, 0]
                ay[i - first] += felt[i - first] * forces.numbers[k, 1]
                az[i - first] += felt[i - first] * forces.numbers[k, 2]
        else:
            for i in range(first, end):
                much = felt[i - first] * forces.numbers[k, 0]
                ax[i - first] += much * state[NX, i]
                ay[i - first] += much * state[NY, i]
                az[i - first] += much * state[NZ, i]
