"""The kernel that works out what is drawn of particles."""

from __future__ import annotations

import numpy as np
from numba import prange

from wraithon import chance
from wraithon.chance import uniform
from wraithon.compiled import BLOCK, SizedKernel, inlined
from wraithon.meeting import SCALE, met
from wraithon.particles.columns import AGE, LIFETIME, NX, PX, VX
from wraithon.particles.course_kernels import table_value

__all__ = ["CHANCE", "LIFE", "LIFE_FROM_CHANCE", "draw"]

ZERO, ONE = np.float32(0), np.float32(1)
TINY = np.float32(1e-12)

# The channels, as plain integers for the compiler.
C_SIZE, C_COLOUR, C_INTENSITY, C_OPACITY = chance.SIZE, chance.COLOUR, chance.INTENSITY, chance.OPACITY
C_ANGLE, C_SPIN, C_SHEET = chance.TURN, chance.SPIN, chance.SHEET

CHANCE, LIFE, LIFE_FROM_CHANCE = range(3)
"""Which frames of a sheet are shown: one by chance, or all through life, from the first or any."""

_met = inlined(met)


@inlined
def _drawn(birth, u, mode, table, age):  # type: ignore[no-untyped-def]
    """Return the value at birth met by its course through life."""
    return _met(birth[0] + (birth[1] - birth[0]) * u, table_value(table, age), mode)


@SizedKernel
def draw(columns, count, rules, out):  # type: ignore[no-untyped-def]
    """Write what is drawn of every particle into `out` (`looks.batch.Drawn`), by `rules` (`rules.DrawRules`).

    Everything here depends on a particle's identity and age alone, so that an edit shows on those that
    already live.
    """
    # What is written within the parallel loop must be arrays of their own: writes through a tuple get lost there.
    state, triangle, _, identity = columns
    positions, velocities, normals, sizes, turns, colours, frames = out
    upright = len(normals) > 0
    births, modes, tables, tints, tint_mode, tint_table, spin_table, sheet, play, pace, groups, factors = rules
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
            size = _drawn(births[0], uniform(who, C_SIZE), modes[0], tables[0], age)
            sizes[i] = size * factors[groups[triangle[i]]] if triangle[i] >= 0 else size
            strength = _drawn(births[1], uniform(who, C_INTENSITY), modes[1], tables[1], age)
            opacity = _drawn(births[2], uniform(who, C_OPACITY), modes[2], tables[2], age)
            turn = _drawn(births[3], uniform(who, C_ANGLE), modes[3], tables[3], age)
            spin = births[4, 0] + (births[4, 1] - births[4, 0]) * uniform(who, C_SPIN)
            turned = table_value(spin_table, age) * lifetime
            mode = modes[4]
            turns[i] = turn + _met(spin if mode == SCALE else spin * state[AGE, i], turned, mode)
            share = uniform(who, C_COLOUR)
            for k in range(3):
                tint = tints[0, k] + share * (tints[1, k] - tints[0, k])
                if tint_mode >= SCALE:
                    tint = _met(tint, table_value(tint_table[k], age), tint_mode)
                colours[i, k] = tint * max(strength, ZERO)
            colours[i, 3] = min(max(opacity, ZERO), ONE)
            frame = np.float32(min(int(uniform(who, C_SHEET) * np.float32(sheet)), sheet - 1))
            if play != CHANCE:
                frame = age * pace + (frame if play == LIFE_FROM_CHANCE else ZERO)
                frame -= np.float32(sheet) * np.floor(frame / np.float32(sheet))
            frames[i] = frame
