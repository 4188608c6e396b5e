"""The kernel that takes many small pools a step further in one call.

Handing arrays to a kernel takes longer than a step of a few particles. Pools are told by rows of numbers, their
arrays by where they are in memory.
"""

from __future__ import annotations

import numpy as np
from numba import carray  # type: ignore[attr-defined]

from wraithon.numeric.compiled import kernel
from wraithon.numeric.vector_memory import pointed
from wraithon.particles.clearing_kernels import sweep
from wraithon.particles.columns import COLUMNS, FORCE_WIDTH, PASS, Columns, FlightRules, ForceRows
from wraithon.particles.flight_kernels import step

STATE, TRIANGLE, FIRING, IDENTITY, SPEED_TABLE, CODES, NUMBERS, SEEDS, SPREADS, COURSES = range(10)
CAPACITY, TABLE, FORCES, KIND, UPRIGHT, TURNING, CONTACT, SPEED_MODE = range(8)
KEEP, LIFT, RADIUS, BOUNCE, GRIP = range(5)
ARRAYS, WHOLES, SHARES = 10, 8, 5
"""How many arrays, whole numbers and others tell of a pool, in the orders above."""

_step, _sweep = step.small, sweep.small
_FLOAT, _INT, _UNSIGNED, _LONG = np.float32, np.int32, np.uint32, np.uint64


@kernel
def step_few(  # type: ignore[no-untyped-def]
    arrays, wholes, shares, counts, dt, time, points, around, anchor_transforms, touches, runs
):
    """Advance many pools by `dt` seconds and clear away those that died, each as `step` and `sweep` do.

    `arrays` (P, ARRAYS) are where the pools' and their programs' arrays begin, `wholes` (P, WHOLES) and `shares`
    (P, SHARES) their numbers. `counts` (P,) are how many particles each has before, and receive how many live.
    `runs` is working memory for the largest; no force acts from `points` (0, 2, 3),
    and none rides on `anchor_transforms`.
    """
    for p in range(len(counts)):
        room, table, forces = wholes[p, CAPACITY], wholes[p, TABLE], wholes[p, FORCES]
        columns = Columns(
            carray(pointed(arrays[p, STATE]), (COLUMNS, room), _FLOAT),
            carray(pointed(arrays[p, TRIANGLE]), (room,), _INT),
            carray(pointed(arrays[p, FIRING]), (room,), _INT),
            carray(pointed(arrays[p, IDENTITY]), (room,), _LONG),
        )
        rules = FlightRules(
            wholes[p, KIND], shares[p, KEEP], shares[p, LIFT], shares[p, RADIUS], wholes[p, UPRIGHT] > 0,
            wholes[p, TURNING] > 0,
            wholes[p, CONTACT], shares[p, BOUNCE], shares[p, GRIP], wholes[p, SPEED_MODE],
            carray(pointed(arrays[p, SPEED_TABLE]), (table,), _FLOAT), PASS, _FLOAT(0), _FLOAT(0),
        )  # fmt: skip
        rows = ForceRows(
            carray(pointed(arrays[p, CODES]), (forces,), _INT),
            carray(pointed(arrays[p, NUMBERS]), (forces, FORCE_WIDTH), _FLOAT),
            carray(pointed(arrays[p, SEEDS]), (forces,), _UNSIGNED),
            carray(pointed(arrays[p, SPREADS]), (forces,), _FLOAT),
            carray(pointed(arrays[p, COURSES]), (forces, table), _FLOAT),
        )
        _step(columns, counts[p], dt, time, rules, rows, points, around, anchor_transforms, touches)
        counts[p] = _sweep(columns, counts[p], runs)
