"""The kernels that clear away the dead, and count who lives."""

from __future__ import annotations

import numpy as np

from wraithon.numeric.compiled import SizedKernel, inlined, kernel, prange
from wraithon.numeric.vector_memory import read, write
from wraithon.numeric.vectors import any_of, at_least, greater, spread8
from wraithon.particles.columns import AGE, COLUMNS, LIFETIME

ZERO = np.float32(0)


@inlined
def _list_living(state, count, runs):  # type: ignore[no-untyped-def]
    """Return how many live, the first that does not, and how many runs of those that live stand after it.

    `runs` (count, 2) receives each run's start and length.
    """
    lanes, living, first, many, within = spread8(ZERO), 0, count, 0, False
    ages, ends, done = AGE * state.shape[1], LIFETIME * state.shape[1], 0
    every = at_least(lanes, lanes)
    while done < count:
        alive = greater(read(lanes, state, np.uint64(ends + done)), read(lanes, state, np.uint64(ages + done)))
        # Mostly there are eight more that live. What is no number does not.
        step = 1
        if done + 8 <= count and not any_of(alive ^ every):
            lives, step = True, 8
        else:
            lives = state[AGE, done] < state[LIFETIME, done]
        if not lives:
            first, within = min(first, done), False
        else:
            living += step
            if first < count:
                if not within:
                    runs[many, 0], runs[many, 1], within = done, 0, True
                    many += 1
                runs[many - 1, 1] += step
        done += step
    return living, first, many


@inlined
def _close_up(array, row, capacity, runs, first, many):  # type: ignore[no-untyped-def]
    """Move `runs` (`many`, 2) of a row of an array, each a start and a length, to place `first` and on, close up.

    Each goes down, so what is read eight at a time has not been written over.
    """
    lanes, to = spread8(ZERO), row * capacity + first
    for run in range(many):
        start, count = row * capacity + runs[run, 0], runs[run, 1]
        whole = count & ~7
        for k in range(0, whole, 8):
            write(array, np.uint64(to + k), read(lanes, array, np.uint64(start + k)))
        flat = array.reshape(array.size)
        for k in range(whole, count):
            flat[np.uint64(to + k)] = flat[np.uint64(start + k)]
        to += count


@SizedKernel
def sweep(columns, count, runs):  # type: ignore[no-untyped-def]
    """Clear away particles past their lifetime; return how many live.

    Those that live stay in the order of their birth, so that nothing hangs on which died before. `runs`
    (count, 2) is working memory: where those that live stand together.
    """
    # Arrays of their own: writes through a tuple get lost in a parallel loop.
    state, triangle, firing, identity = columns
    capacity = len(triangle)
    living, first, many = _list_living(state, count, runs)
    if living == count:
        return living
    for column in prange(COLUMNS + 1):
        if column < COLUMNS:
            _close_up(state, column, capacity, runs, first, many)
            continue
        to = first
        for run in range(many):
            for i in range(runs[run, 0], runs[run, 0] + runs[run, 1]):
                triangle[to], firing[to], identity[to] = triangle[i], firing[i], identity[i]
                to += 1
    return living


@kernel
def count_living(firing, count, positions, alive):  # type: ignore[no-untyped-def]
    """Add to `alive` (N,) how many of the first `count` particles are of each firing of `positions` (N,), rising."""
    row, last = 0, len(positions) - 1
    if last < 0:
        return
    for i in range(np.uint64(count)):
        # Neighbours were mostly born by the same one.
        if positions[row] != firing[i]:
            row = min(np.searchsorted(positions, firing[i]), last)
        if positions[row] == firing[i]:
            alive[row] += 1
