"""What each force adds to the acceleration of a block of particles."""

from __future__ import annotations

import math

import numpy as np

from wraithon.compiled import inlined
from wraithon.noise import curl_noise
from wraithon.particles.columns import PX, PY, PZ

__all__ = ["add_forces", "drag_of"]

PUSH, DRAG, CURL, VORTEX = range(4)

ZERO, ONE, HALF = np.float32(0), np.float32(1), np.float32(0.5)
TINY = np.float32(1e-6)


@inlined
def drag_of(forces):  # type: ignore[no-untyped-def]
    """Return how quickly all drag together slows, a second."""
    drag = ZERO
    for k in range(len(forces.codes)):
        if forces.codes[k] == DRAG:
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


@inlined
def add_forces(state, first, end, forces, points, time, inverse_dt, left, ax, ay, az):  # type: ignore[no-untyped-def]
    """Write the acceleration of the particles from `first` to `end` into `ax`, `ay`, `az` (BLOCK,).

    `points` (F, 2, 3) are the places that forces act from, before and after the step; `left` (BLOCK,) the
    seconds of free flight in it.
    """
    for i in range(first, end):
        ax[i - first], ay[i - first], az[i - first] = ZERO, ZERO, ZERO
    for k in range(len(forces.codes)):
        code = forces.codes[k]
        if code == PUSH:
            x, y, z = forces.numbers[k, 0], forces.numbers[k, 1], forces.numbers[k, 2]
            for i in range(first, end):
                ax[i - first] += x
                ay[i - first] += y
                az[i - first] += z
        elif code == CURL:
            strength, scale, seed = forces.numbers[k, 0], forces.numbers[k, 1], forces.seeds[k]
            drift = forces.numbers[k, 2] * time
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
        elif code == VORTEX:
            for i in range(first, end):
                x, z = _vortex(state, i, forces, k, points, max(ZERO, ONE - left[i - first] * inverse_dt))
                ax[i - first] += x
                az[i - first] += z
