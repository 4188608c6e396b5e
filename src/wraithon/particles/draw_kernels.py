"""The kernel that works out what is drawn of particles."""

from __future__ import annotations

import math

import numpy as np

from wraithon.numeric import chance
from wraithon.numeric.chance import uniform
from wraithon.numeric.compiled import BLOCK, SizedKernel, called, inlined, prange
from wraithon.numeric.meeting import ADD, REPLACE, SCALE, met
from wraithon.particles.columns import (
    AGE,
    ALPHA,
    FAR,
    GROWN,
    HELD,
    HIGH,
    LEAVING,
    LIFETIME,
    LOW,
    NX,
    PX,
    RED,
    VX,
    WOBBLE_RATE,
    WOBBLE_SIZE,
)
from wraithon.particles.curve_kernels import by_distance, table_value

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
def _born(births, choosing, choices, nearness, k, channel, identity, far, first, end, out):  # type: ignore[no-untyped-def]
    """Write into `out` (BLOCK,) what is drawn at birth of particles `first` to `end`: attribute `k`, by a channel."""
    low, more = births[k, LOW], births[k, HIGH] - births[k, LOW]
    if choosing[k]:
        for i in range(first, end):
            u = by_distance(far[i], nearness[k], uniform(identity[i], channel))
            out[i - first] = choices[k, int(u * np.float32(choices.shape[1]))]
    elif nearness[k] > ZERO:
        for i in range(first, end):
            out[i - first] = low + more * by_distance(far[i], nearness[k], ZERO)
    elif more == ZERO:
        out[: end - first] = low
    else:
        for i in range(first, end):
            out[i - first] = low + more * uniform(identity[i], channel)


@inlined
def _meet(values, many, table, along, mode):  # type: ignore[no-untyped-def]
    """Apply a curve to values, each at its own place `along` it (BLOCK,): one loop for each mode, as vector code."""
    if mode == SCALE:
        for n in range(many):
            values[n] = _met(values[n], table_value(table, along[n]), SCALE)
    elif mode == ADD:
        for n in range(many):
            values[n] = _met(values[n], table_value(table, along[n]), ADD)
    elif mode == REPLACE:
        for n in range(many):
            values[n] = table_value(table, along[n])


@called
def _wave(who, k, pace, seconds):  # type: ignore[no-untyped-def]
    """Return a figure from -1 to 1 that comes and goes: two waves that never meet in the same way twice."""
    own, turns = uniform(who, C_WOBBLE + k), pace * seconds
    return np.float32(0.5) * (np.sin(TAU * (turns + own)) + np.sin(TAU * (GOLDEN * turns + np.float32(7) * own)))


@called
def _live(k, state, identity, first, end, ages, along, modes, tables, paces, wobbles, values):  # type: ignore[no-untyped-def]
    """Apply the curve over age or speed to values at birth (BLOCK,), and the oscillation of wobble."""
    many = end - first
    if paces[k] <= ZERO:
        _meet(values, many, tables[k], ages, modes[k])
    elif modes[k] >= SCALE:
        for i in range(first, end):
            fast = np.sqrt(state[VX, i] ** 2 + state[VX + 1, i] ** 2 + state[VX + 2, i] ** 2)
            along[i - first] = min(fast * paces[k], ONE)
        _meet(values, many, tables[k], along, modes[k])
    if wobbles[k, WOBBLE_SIZE] > ZERO:
        for i in range(first, end):
            wave, value = (
                wobbles[k, WOBBLE_SIZE]
                * _wave(identity[i], k, wobbles[k, WOBBLE_RATE], state[AGE, i] + state[HELD, i]),
                values[i - first],
            )
            values[i - first] = value + wave if k == ANGLE else value * (ONE + wave)


@called
def _place(state, first, end, positions, velocities, normals):  # type: ignore[no-untyped-def]
    """Write where particles are, and how they go and face."""
    for i in range(np.uint64(first), np.uint64(end)):
        for k in range(3):
            positions[i, k], velocities[i, k] = state[PX + k, i], state[VX + k, i]
    if len(normals) > 0:
        for i in range(np.uint64(first), np.uint64(end)):
            for k in range(3):
                normals[i, k] = state[NX + k, i]


@called
def _colour(state, identity, first, end, ages, strengths, tints, mode, table, shares, values, colours):  # type: ignore[no-untyped-def]
    """Write particles' light, each as strong as `strengths` (BLOCK,) say."""
    many = end - first
    for i in range(first, end):
        shares[i - first] = uniform(identity[i], C_COLOUR)
    for k in range(3):
        for n in range(many):
            values[n] = tints[0, k] + shares[n] * (tints[1, k] - tints[0, k])
        _meet(values, many, table[k], ages, mode)
        for i in range(first, end):
            colours[i, k] = values[i - first] * max(strengths[i - first], ZERO) * state[RED + k, i]


@called
def _fade(state, first, end, fades, colours):  # type: ignore[no-untyped-def]
    """Let particles appear within `fades[0]` seconds of their birth, and go within `fades[1]` before their death."""
    for i in range(first, end):
        share = ONE
        if fades[0] > ZERO:
            share = min(share, (state[AGE, i] + state[HELD, i]) / fades[0])
        if fades[1] > ZERO:
            share = min(share, (state[LIFETIME, i] - state[AGE, i]) / fades[1])
        colours[i, ALPHA] *= max(share, ZERO)


@called
def _frame(identity, first, end, ages, sheet, play, pace, frames):  # type: ignore[no-untyped-def]
    """Write which frame of a sheet particles show."""
    for i in range(first, end):
        frame = ZERO
        if sheet > 1 and play != LIFE:
            frame = np.float32(min(int(uniform(identity[i], C_SHEET) * np.float32(sheet)), sheet - 1))
        if play != CHANCE:
            frame = ages[i - first] * pace + frame
            frame -= np.float32(sheet) * np.floor(frame / np.float32(sheet))
        frames[i] = frame


@SizedKernel
def draw(columns, count, rules, out):  # type: ignore[no-untyped-def]
    """Write what is drawn of every particle into `out` (`looks.batch.Drawn`), by `rules` (`rules.DrawRules`).

    Everything here depends on a particle's identity and age alone, so that an edit shows on those that
    already live. A block goes attribute by attribute, in plain loops that become vector code.
    """
    # What is written within the parallel loop must be arrays of their own: writes through a tuple get lost there.
    state, triangle, _, identity = columns
    positions, velocities, normals, sizes, stretches, turns, colours, frames = out
    births, choosing, choices, nearness, modes, tables, paces, wobbles = rules[:8]
    tints, tint_mode, tint_table, spin_table, sheet, play, pace, groups, factors, fades = rules[8:]
    for block in prange((count + BLOCK - 1) // BLOCK):
        first, end = block * BLOCK, min(count, (block + 1) * BLOCK)
        many = end - first
        ages, along = np.empty(many, np.float32), np.empty(many, np.float32)
        values, more = np.empty(many, np.float32), np.empty(many, np.float32)
        far = state[FAR]
        for i in range(first, end):
            ages[i - first] = state[AGE, i] / max(state[LIFETIME, i], TINY)
        _place(state, first, end, positions, velocities, normals)
        _born(births, choosing, choices, nearness, SIZE, C_SIZE, identity, far, first, end, values)
        _live(SIZE, state, identity, first, end, ages, along, modes, tables, paces, wobbles, values)
        for i in range(first, end):
            size = values[i - first] * state[GROWN, i]
            sizes[i] = size * factors[groups[triangle[i]]] if triangle[i] >= 0 else size
        _born(births, choosing, choices, nearness, STRETCH, C_STRETCH, identity, far, first, end, values)
        _live(STRETCH, state, identity, first, end, ages, along, modes, tables, paces, wobbles, values)
        for i in range(first, end):
            stretches[i] = max(values[i - first], ZERO)
        _born(births, choosing, choices, nearness, ANGLE, C_ANGLE, identity, far, first, end, values)
        _live(ANGLE, state, identity, first, end, ages, along, modes, tables, paces, wobbles, values)
        _born(births, choosing, choices, nearness, SPIN, C_SPIN, identity, far, first, end, more)
        if modes[SPIN] != SCALE:
            for i in range(first, end):
                more[i - first] *= state[AGE, i] + state[HELD, i]
        for i in range(first, end):
            age = ages[i - first]
            spun = table_value(spin_table, age) * state[LIFETIME, i] + table_value(tables[SPIN], age) * state[HELD, i]
            turns[i] = values[i - first] + _met(more[i - first], spun, modes[SPIN])
        _born(births, choosing, choices, nearness, STRENGTH, C_INTENSITY, identity, far, first, end, more)
        _live(STRENGTH, state, identity, first, end, ages, along, modes, tables, paces, wobbles, more)
        _colour(state, identity, first, end, ages, more, tints, tint_mode, tint_table, along, values, colours)
        _born(births, choosing, choices, nearness, OPACITY, C_OPACITY, identity, far, first, end, values)
        _live(OPACITY, state, identity, first, end, ages, along, modes, tables, paces, wobbles, values)
        for i in range(first, end):
            colours[i, ALPHA] = min(max(values[i - first], ZERO), ONE) * (ONE - state[LEAVING, i])
        if fades[0] > ZERO or fades[1] > ZERO:
            _fade(state, first, end, fades, colours)
        for i in range(first, end):
            ages[i - first] = (state[AGE, i] + state[HELD, i]) / max(state[LIFETIME, i], TINY)
        _frame(identity, first, end, ages, sheet, play, pace, frames)
