"""Clearing away the dead: who lives stays, in order, whoever died between."""

import numpy as np
import pytest

from tests.pools import DT, free
from wraithon.particles.columns import AGE, LIFETIME
from wraithon.particles.pool import living_by_firing
from wraithon.particles.rules import TickContext

NOWHERE = TickContext.empty()


def stepped(pool, program):
    pool.step(program, DT, 0.0, NOWHERE)
    return pool


@pytest.mark.parametrize("count", [1, 7, 8, 9, 300, 3001])
@pytest.mark.parametrize("share", [0.0, 0.01, 0.5, 1.0])
def test_those_that_live_stand_together_in_their_order(count, share):
    dead = np.random.default_rng(count).random(count) < share
    (all_live, program), (some, _) = free(count), free(count)
    all_live.columns.state[LIFETIME, :count][dead] = 5
    some.columns.state[LIFETIME, :count][dead] = 5
    some.columns.state[AGE, :count][dead] = 5  # as old as it may get
    wanted = stepped(all_live, program).columns.first(count)
    living = stepped(some, program).count
    assert living == (~dead).sum()
    for array, held in zip(some.columns.first(living), wanted, strict=True):
        np.testing.assert_array_equal(array, held[..., ~dead])


def test_what_has_no_age_is_cleared_away():
    pool, program = free(24)
    pool.columns.firing[:24] = np.arange(24)
    pool.columns.state[AGE, 11], pool.columns.state[LIFETIME, 23] = np.nan, np.nan
    living = stepped(pool, program).count
    assert pool.columns.firing[:living].tolist() == [k for k in range(24) if k not in (11, 23)]


def test_the_living_are_counted_by_firing():
    pool, _ = free(7)
    pool.columns.firing[:8] = [3, 3, 9, 3, 12, 9, 9, 12]  # there are but seven
    assert living_by_firing([pool], np.array([3, 9, 12], np.int32)).tolist() == [3, 3, 1]
