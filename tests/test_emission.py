"""Births against the formula: the k-th at start + k / rate, to the end of the window; bursts to their very last."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.pools import births_of
from wraithon.particles.emission import emission_end
from wraithon.project.emission import MAX_LIVING, Burst, Emission
from wraithon.project.life import Curve


def plain(emission, length, until):
    """Return all births before `until`, written down one by one."""
    firing = math.inf if length is None else length
    window = math.inf if emission.length is None else emission.start + emission.length
    end, k, found = min(firing, window, until), 0, []
    while emission.rate and emission.start + k / emission.rate < end - 1e-9:
        found.append(emission.start + k / emission.rate)
        k += 1
    for burst in emission.bursts:
        for n in range(burst.repeats):
            moment = burst.time + n * burst.interval
            if moment < until - 1e-9 and (moment <= firing or moment == 0):
                found += [moment] * burst.count
    return np.sort(found)


def born(emission, length=None, until=10.0):
    return births_of(emission, length, 0.0, until)


@given(
    st.floats(0.5, 200),
    st.floats(0, 1),
    st.one_of(st.none(), st.floats(0.01, 2)),
    st.one_of(st.none(), st.floats(0.01, 3)),
    st.lists(st.tuples(st.floats(0, 2), st.integers(0, 5), st.integers(1, 6), st.floats(0.01, 0.7)), max_size=3),
)
def test_births_are_those_of_the_formula_written_out(rate, start, window, length, bursts):
    pins = tuple(Burst(time=t, count=c, repeats=r, interval=i) for t, c, r, i in bursts)
    emission = Emission(rate=rate, start=start, length=window, bursts=pins)
    wanted = plain(emission, length, 2.5)
    found = births_of(emission, length, 0.0, 2.5)
    # At the very end of a window a birth may fall to either side by rounding alone.
    assert abs(len(found) - len(wanted)) <= 1 + len(pins)
    both = min(len(found), len(wanted))
    np.testing.assert_allclose(found[:both], wanted[:both], atol=1e-7)


def test_the_kth_birth_is_at_start_plus_k_over_rate():
    np.testing.assert_allclose(born(Emission(rate=4, start=0.5), 2.0), [0.5, 0.75, 1.0, 1.25, 1.5, 1.75])


def test_a_window_holds_its_beginning_and_not_its_end():
    np.testing.assert_allclose(born(Emission(rate=10, start=0.2, length=0.3)), [0.2, 0.3, 0.4])
    assert len(born(Emission(rate=10, start=0.2, length=0.301))) == 4


def test_the_effects_own_end_cuts_the_window():
    assert len(born(Emission(rate=10, length=5.0), 0.5)) == 5
    assert len(born(Emission(rate=10, length=0.3), 0.5)) == 3
    assert len(born(Emission(rate=10), None, 0.7)) == 7
    assert born(Emission(rate=10, start=0.6), 0.5).size == 0
    assert born(Emission(rate=10, start=0.5), 0.5).size == 0


def test_a_span_bears_what_falls_into_it_its_beginning_included():
    emission = Emission(rate=10)
    np.testing.assert_allclose(births_of(emission, None, 0.1, 0.3), [0.1, 0.2])
    np.testing.assert_allclose(births_of(emission, None, 0.10001, 0.3), [0.2])
    assert births_of(emission, None, 0.3, 0.3).size == 0
    assert births_of(emission, 0.2, 0.3, 0.4).size == 0


def test_nothing_is_born_without_rate_or_bursts():
    assert born(Emission()).size == 0
    assert born(Emission(bursts=(Burst(count=0),))).size == 0


@pytest.mark.parametrize(("length", "count"), [(0.0, 5), (0.2, 5), (0.4, 10), (0.39, 5), (1.0, 15)])
def test_a_burst_at_the_very_end_happens_and_one_after_it_does_not(length, count):
    emission = Emission(bursts=(Burst(count=5, time=0.0, repeats=3, interval=0.4),))
    assert len(born(emission, length)) == count


def test_repeats_come_at_their_intervals_and_no_more():
    emission = Emission(bursts=(Burst(time=0.1, count=2, repeats=3, interval=0.25),))
    np.testing.assert_allclose(born(emission), [0.1, 0.1, 0.35, 0.35, 0.6, 0.6])
    np.testing.assert_allclose(births_of(emission, None, 0.35, 0.6), [0.35, 0.35])
    assert births_of(emission, None, 0.61, 9.0).size == 0
    assert births_of(emission, None, 0.0, 0.1).size == 0


def test_births_of_rate_and_bursts_come_in_order_of_time():
    emission = Emission(rate=3, bursts=(Burst(time=0.5, count=1), Burst(time=0.2, count=1)))
    ages = born(emission, 1.0)
    assert all(a <= b for a, b in pairwise(ages))
    np.testing.assert_allclose(ages, [0, 0.2, 1 / 3, 0.5, 2 / 3])


@pytest.mark.parametrize(
    ("emission", "length", "end"),
    [
        (Emission(), None, 0.0),
        (Emission(rate=1), None, math.inf),
        (Emission(rate=1), 2.0, 2.0),
        (Emission(rate=1, start=1, length=2), None, 3.0),
        (Emission(rate=1, start=1, length=2), 2.5, 2.5),
        (Emission(bursts=(Burst(time=0.5, repeats=4, interval=0.25),)), None, 1.25),
        (Emission(bursts=(Burst(time=0.5, repeats=4, interval=0.25),)), 1.0, 1.0),
        (Emission(rate=1, length=0.2, bursts=(Burst(time=0.5),)), None, 0.5),
        (Emission(rate=1, length=0.7, bursts=(Burst(time=0.5),)), None, 0.7),
    ],
)
def test_the_end_is_that_of_the_last_birth(emission, length, end):
    assert emission_end(emission, length) == end
    if math.isfinite(end):
        assert births_of(emission, length, end + 1e-6, end + 100).size == 0


# ---- a rate with a course ---------------------------------------------------------------------------


RAMP = Curve.through((0, 0), (1, 1))


@pytest.mark.parametrize("step", [1 / 10, 1 / 60, 1 / 240, 5.0])
def test_a_course_bears_when_its_integral_comes_amid_each_births_share(step):
    """A rate that rises evenly to 40 a second in 2 s bears 40, the k-th at 2 sqrt((k + 1/2) / 40)."""
    emission = Emission(rate=40, length=2.0, curve=RAMP)
    edges = np.arange(0, 2.5 + step, step)
    ages = np.concatenate([births_of(emission, None, a, b) for a, b in pairwise(edges)])
    np.testing.assert_allclose(ages, 2 * np.sqrt((np.arange(40) + 0.5) / 40), atol=2e-3)


def test_a_course_goes_over_the_window_and_the_effects_end_cuts_it():
    shifted = births_of(Emission(rate=40, start=0.5, length=2.0, curve=RAMP), None, 0, 9)
    plain = births_of(Emission(rate=40, length=2.0, curve=RAMP), None, 0, 9)
    np.testing.assert_allclose(shifted, plain + 0.5, atol=1e-9)
    cut = births_of(Emission(rate=40, length=9.0, curve=RAMP), 2.0, 0, 9)
    np.testing.assert_allclose(cut, plain, atol=1e-9)


def test_where_the_course_is_zero_nothing_is_born():
    gap = Curve.through((0, 1), (0.3, 1), (0.301, 0), (0.7, 0), (0.701, 1), (1, 1))
    ages = births_of(Emission(rate=100, length=1.0, curve=gap), None, 0, 2)
    assert len(ages) == pytest.approx(60, abs=1)
    assert not ((ages > 0.303) & (ages < 0.699)).any()
    none = Curve.through((0, 0), (1, 0))
    assert births_of(Emission(rate=100, length=1.0, curve=none), None, 0, 2).size == 0


def test_below_zero_a_course_bears_nothing_and_takes_nothing_back():
    dip = Curve.through((0, 1), (0.5, -3), (1, 1))
    ages = births_of(Emission(rate=100, length=1.0, curve=dip), None, 0, 2)
    assert (np.diff(ages) >= 0).all()
    assert 0 < len(ages) < 60
    assert not ((ages > 0.25) & (ages < 0.75)).any()


def test_without_an_end_a_course_does_nothing():
    with_course = births_of(Emission(rate=7, curve=RAMP), None, 0, 3)
    np.testing.assert_array_equal(with_course, births_of(Emission(rate=7), None, 0, 3))


def test_the_peak_is_the_rate_at_its_highest():
    assert Emission(rate=10).peak == 10
    assert Emission(rate=10, curve=Curve.through((0, 0.2), (0.5, 3), (1, 0))).peak == 30
    assert Emission(rate=10, curve=Curve.through((0, -1), (1, -2))).peak == 0


# ---- bursts by chance -------------------------------------------------------------------------------


def counts_of(key, **changes):
    """Return how many are born at each of a burst's repeats, a second apart."""
    emission = Emission(bursts=(Burst(repeats=500, interval=1.0, **changes),))
    ages = births_of(emission, None, 0.0, 600.0, MAX_LIVING, key)
    return np.bincount(np.round(ages).astype(int), minlength=500)


def test_a_count_between_two_bounds_takes_all_between_alike_often():
    found = counts_of(5, count=3, most=7)
    assert set(found.tolist()) == {3, 4, 5, 6, 7}
    assert np.bincount(found)[3:].min() > 70
    np.testing.assert_array_equal(counts_of(5, count=3, most=7), found)
    assert (counts_of(6, count=3, most=7) != found).any()


def test_a_most_below_the_count_changes_nothing():
    assert set(counts_of(5, count=9, most=2).tolist()) == {9}


@pytest.mark.parametrize(("chance", "low", "high"), [(0.0, 0, 0), (0.25, 90, 160), (1.0, 500, 500)])
def test_a_burst_happens_as_often_as_its_chance_says(chance, low, high):
    found = counts_of(11, count=4, chance=chance)
    assert set(found.tolist()) <= {0, 4}
    assert low <= (found > 0).sum() <= high


@pytest.mark.parametrize("step", [1 / 60, 0.37, 5.0])
def test_chance_does_not_hang_on_the_length_of_steps(step):
    emission = Emission(
        bursts=(Burst(time=0.1, count=0, most=6, chance=0.7, repeats=40, interval=0.21), Burst(count=2))
    )
    whole = births_of(emission, None, 0, 20, MAX_LIVING, 77)
    edges = np.arange(0, 20 + step, step)
    parts = [births_of(emission, None, a, b, MAX_LIVING, 77) for a, b in pairwise(edges)]
    np.testing.assert_allclose(np.concatenate(parts), whole, atol=1e-9)
    assert 0 < len(whole) < 242


def test_two_bursts_and_two_firings_draw_for_themselves():
    twins = Emission(bursts=(Burst(count=0, most=90, repeats=50), Burst(count=0, most=90, repeats=50)))
    one, two = (Emission(bursts=(burst,)) for burst in twins.bursts)
    both = len(births_of(twins, None, 0, 99, MAX_LIVING, 3))
    assert both != 2 * len(births_of(one, None, 0, 99, MAX_LIVING, 3))
    assert len(births_of(two, None, 0, 99, MAX_LIVING, 3)) != len(births_of(two, None, 0, 99, MAX_LIVING, 4))


def test_the_highest_is_what_limits_are_measured_by():
    assert Burst(count=3, most=9).highest == 9
    assert Burst(count=3).highest == 3
    assert Burst(count=3, most=9, chance=0).highest == 0
