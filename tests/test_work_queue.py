"""Turns: each piece of work is done once, whoever is there to do it."""

import numba
import numpy as np
import pytest

from wraithon.numeric.compiled import parallel_kernel, prange
from wraithon.numeric.work_queue import HANDS, fresh_turns, next_turn


@parallel_kernel
def shared_out(pieces, done):
    turns = fresh_turns()
    for _hand in prange(HANDS):
        piece = next_turn(turns)
        while piece < pieces:
            done[piece] += 1
            piece = next_turn(turns)
    return turns[0]


@pytest.mark.parametrize("threads", [1, numba.config.NUMBA_NUM_THREADS])
@pytest.mark.parametrize("pieces", [0, 1, HANDS - 1, HANDS, 10_000])
def test_each_piece_is_done_once(pieces, threads):
    done = np.zeros(pieces, np.int64)
    numba.set_num_threads(threads)
    try:
        taken = shared_out(pieces, done)
    finally:
        numba.set_num_threads(numba.config.NUMBA_NUM_THREADS)
    assert (done == 1).all()
    # Everybody who may take a turn finds out once that none is left.
    assert taken == pieces + HANDS
