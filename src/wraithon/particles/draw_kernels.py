"""The kernel that works out what is drawn of particles."""

from __future__ import annotations

import math

import numpy as np
from numba import prange

from wraithon import chance
from wraithon.chance import uniform
from wraithon.compiled import BLOCK, SizedKernel, called, inlined
from wraithon.meeting import SCALE, met
from wraithon.particles.columns import AGE, FAR, GROWN, LIFETIME, NX, PX, RED, VX
from wraithon.particles.course_kernels import by_distance, table_value

__all__ = ["CHANCE", "LIFE", "LIFE_FROM_CHANCE", "draw"]

ZERO, ONE = np.float32(0), np.float32(1)
TINY = np.float32(1e-12)

# The channels, as plain integers for the compiler.
C_SIZE, C_COLOUR, C_INTENSITY, C_OPACITY = chance.SIZE, chance.COLOUR, chance.INTENSITY, chance.OPACITY
C_ANGLE, C_SPIN, C_SHEET, C_STRETCH = chance.TURN, chance.SPIN, chance.SHEET, chance.STRETCH
C_WOBBLE = chance.WOBBLE
TAU, GOLDEN = np.float32(2 * math.pi), np.float32((1 + 5**0.5) / 2)

SIZE, STRENGTH, OPACITY, ANGLE, SPIN, STRETCH = range(6)
"""Rows of what is drawn."""
CHANCE, LIFE, LIFE_FROM_CHANCE = range(3)
"""Which frames of a sheet are shown: one by chance, or all through life, from the first or any."""

_met = inlined(met)


@called
def _born(births, choosing, choices, nearness, k, far, u):  # type: ignore[no-untyped-def]
    """Return the value at birth of what is drawn, number `k`, for a chance `u`, or `far` from the anchor."""
    u = by_distance(far, nearness[k], u)
    if choosing[k]:
        return choices[k, int(u * np.float32(choices.shape[1]))]
    return births[k, 0] + (births[k, 1] - births[k, 0]) * u


@called
def _wave(who, k, pace, seconds):  # type: ignore[no-untyped-def]
    """Return a figure from -1 to 1 that comes and goes: two waves that never meet in the same way twice."""
    own, turns = uniform(who, C_WOBBLE + k), pace * seconds
    return np.float32(0.5) * (np.sin(TAU * (turns + own)) + np.sin(TAU * (GOLDEN * turns + np.float32(7) * own)))


@called
def _drawn(born, k, who, age, seconds, fast, modes, tables, paces, wobbles):  # type: ignore[no-untyped-def]
    """Return a value at birth met by its course through life, or over speed; and wobbling about that."""
    along = age if paces[k] <= ZERO else min(fast * paces[k], ONE)
    value = _met(born, table_value(tables[k], along), modes[k])
    if wobbles[k, 0] > ZERO:
        wave = wobbles[k, 0] * _wave(who, k, wobbles[k, 1], seconds)
        value = value + wave if k == ANGLE else value * (ONE + wave)
    return value


@SizedKernel
def draw(columns, count, rules, out):  # type: ignore[no-untyped-def]
    """Write what is drawn of every particle into `out` (`looks.batch.Drawn`), by `rules` (`rules.DrawRules`).

    Everything here depends on a particle's identity and age alone, so that an edit shows on those that
    already live.
    """
    # What is written within the parallel loop must be arrays of their own: writes through a tuple get lost there.
    state, triangle, _, identity = columns
    positions, velocities, normals, sizes, stretches, turns, colours, frames = out
    upright = len(normals) > 0
    births, choosing, choices, nearness, modes, tables, paces, wobbles = rules[:8]
    tints, tint_mode, tint_table, spin_table, sheet, play, pace, groups, factors = rules[8:]
    fast_matters = paces.max() > ZERO
    for block in prange((count + BLOCK - 1) // BLOCK):
        for i in range(block * BLOCK, min(count, (block + 1) * BLOCK)):
            who = identity[i]
            lifetime = state[LIFETIME, i]
            age = state[AGE, i] / max(lifetime, TINY)
            for k in range(3):
                positions[i, k] = state[PX + k, i]
                velocities[i, k] = state[VX + k, i]
            if upright:
                for k in range(3):
                    normals[i, k] = state[NX + k, i]
            old, fast, far = state[AGE, i], ZERO, state[FAR, i]
            if fast_matters:
                fast = np.sqrt(state[VX, i] ** 2 + state[VX + 1, i] ** 2 + state[VX + 2, i] ** 2)
            born = _born(births, choosing, choices, nearness, SIZE, far, uniform(who, C_SIZE))
            size = _drawn(born, SIZE, who, age, old, fast, modes, tables, paces, wobbles)
            size *= state[GROWN, i]
            sizes[i] = size * factors[groups[triangle[i]]] if triangle[i] >= 0 else size
            born = _born(births, choosing, choices, nearness, STRETCH, far, uniform(who, C_STRETCH))
            stretches[i] = max(_drawn(born, STRETCH, who, age, old, fast, modes, tables, paces, wobbles), ZERO)
            born = _born(births, choosing, choices, nearness, STRENGTH, far, uniform(who, C_INTENSITY))
            strength = _drawn(born, STRENGTH, who, age, old, fast, modes, tables, paces, wobbles)
            born = _born(births, choosing, choices, nearness, OPACITY, far, uniform(who, C_OPACITY))
            opacity = _drawn(born, OPACITY, who, age, old, fast, modes, tables, paces, wobbles)
            born = _born(births, choosing, choices, nearness, ANGLE, far, uniform(who, C_ANGLE))
            turn = _drawn(born, ANGLE, who, age, old, fast, modes, tables, paces, wobbles)
            spin = _born(births, choosing, choices, nearness, SPIN, far, uniform(who, C_SPIN))
            turned = table_value(spin_table, age) * lifetime
            mode = modes[SPIN]
            turns[i] = turn + _met(spin if mode == SCALE else spin * old, turned, mode)
            share = uniform(who, C_COLOUR)
            for k in range(3):
                tint = tints[0, k] + share * (tints[1, k] - tints[0, k])
                if tint_mode >= SCALE:
                    tint = _met(tint, table_value(tint_table[k], age), tint_mode)
                colours[i, k] = tint * max(strength, ZERO) * state[RED + k, i]
            colours[i, 3] = min(max(opacity, ZERO), ONE)
            frame = np.float32(min(int(uniform(who, C_SHEET) * np.float32(sheet)), sheet - 1))
            if play != CHANCE:
                frame = age * pace + (frame if play == LIFE_FROM_CHANCE else ZERO)
                frame -= np.float32(sheet) * np.floor(frame / np.float32(sheet))
            frames[i] = frame
