"""Forces: how they are packed as rows, and what each does to a particle, with its exact numbers."""

import numpy as np
import pytest

from tests.pools import DT, HOME, PLAIN, born, free, velocities
from wraithon.particles import columns as k
from wraithon.particles import force_kernels
from wraithon.particles.forces import force_rows
from wraithon.particles.rules import Surroundings
from wraithon.project.effect import Layer
from wraithon.project.motion import Curl, Drag, Gravity, Motion, Vortex, Wind


def test_pushes_and_drags_each_become_one_row_and_add_up():
    rows, anchors = force_rows(
        (Wind(push=(1, 2, 3)), Drag(rate=0.25), Gravity(pull=4), Drag(rate=0.5), Wind(push=(0, 0, 1))), 0
    )
    assert rows.codes.tolist() == [force_kernels.PUSH, force_kernels.DRAG]
    np.testing.assert_array_equal(rows.numbers[0], np.array([1, -2, 4, 0, 0, 0], np.float32))
    np.testing.assert_array_equal(rows.numbers[1], np.array([0.75, 0, 0, 0, 0, 0], np.float32))
    assert anchors == (None, None)


def test_sums_are_made_before_they_are_rounded():
    """Two pushes that nearly cancel leave what is left of them in full."""
    rows, _ = force_rows((Wind(push=(1e6, 0, 0)), Wind(push=(-1e6 + 1e-3, 0, 0))), 0)
    assert rows.numbers[0, 0] == pytest.approx(1e-3, abs=1e-9)


def test_no_force_is_no_row():
    rows, anchors = force_rows((), 5)
    assert rows.codes.shape == (0,)
    assert rows.numbers.shape == (0, 6)
    assert rows.seeds.shape == (0,)
    assert anchors == ()


def test_what_has_a_place_or_chance_keeps_a_row_of_its_own():
    forces = (Curl(strength=1, scale=2, change=3), Vortex(strength=4, inward=5, reach=0.5, anchor="a"), Curl())
    rows, anchors = force_rows((*forces, Vortex()), 1 << 20)
    c, v = force_kernels.CURL, force_kernels.VORTEX
    assert rows.codes.tolist() == [c, v, c, v]
    np.testing.assert_array_equal(rows.numbers[0, :3], [1, 0.5, 3])
    np.testing.assert_array_equal(rows.numbers[1, :3], [4, 5, 2])
    assert anchors == (None, "a", None, "")


def test_two_rows_of_chance_take_seeds_of_their_own():
    key = 0xABCDEF0123456789
    seeds = force_rows((Curl(), Curl(), Curl()), key)[0].seeds
    base = (key >> 16) & 0xFFFFFFFF
    assert seeds.tolist() == [(base + 977 * n) & 0xFFFFFFFF for n in range(3)]


def test_a_new_push_does_not_change_the_chance_of_a_curl():
    """Adding wind leaves the swirls where they are: a seed counts rows of its own code alone."""
    one = force_rows((Curl(),), 1 << 30)[0].seeds[-1]
    two = force_rows((Gravity(), Drag(), Curl()), 1 << 30)[0].seeds[-1]
    assert one == two


def moved(*forces, at=(0, 0, 0), points=None, velocity=(0, 0, 0)):
    """Return the velocity of a particle after one step under some forces."""
    pool, program = born(Layer(id="one", **PLAIN, motion=Motion(forces=forces)), 1, leads=np.zeros(1, np.float32))
    pool.columns.state[:3, 0], pool.columns.state[3:6, 0] = at, velocity
    count = len(program.forces.rows.codes)
    places = np.zeros((count, 2, 3), np.float32)
    if points is not None:
        places[:] = points
    pool.step(program, DT, 0.0, Surroundings.empty(), places)
    return velocities(pool)[0]


def test_gravity_and_wind_add_their_push_for_the_length_of_the_step():
    np.testing.assert_allclose(moved(Gravity(pull=6), Wind(push=(3, 0, -1))), np.array([3, -6, -1]) * DT, rtol=1e-6)


def test_drag_takes_the_exact_share():
    np.testing.assert_allclose(moved(Drag(rate=30), velocity=(8, 0, 0)), [8 * np.exp(-30 * DT), 0, 0], rtol=1e-6)


@pytest.mark.parametrize("reach", [0.25, 1.0, 3.0])
def test_a_vortex_is_strongest_at_its_reach_and_turns_about_the_upright(reach):
    vortex = Vortex(strength=6, inward=2, reach=reach)
    at_reach = moved(vortex, at=(reach, 5, 0))
    # To the side by its strength, inward by its pull, and nothing up or down, however high.
    np.testing.assert_allclose(at_reach, np.array([-2, 0, -6]) * DT, rtol=1e-5, atol=1e-7)
    for share in (0.5, 2.0):
        side = abs(moved(vortex, at=(reach * share, 0, 0))[2])
        assert side == pytest.approx(6 * DT * share * np.exp((1 - share**2) / 2), rel=1e-4)
        assert side < abs(at_reach[2])
    np.testing.assert_allclose(moved(vortex, at=(0, 1, 0)), 0, atol=1e-6)


def test_a_vortex_turns_all_the_same_way_round():
    for angle in np.linspace(0, 6, 7):
        x, z = np.cos(angle), np.sin(angle)
        vx, _, vz = moved(Vortex(strength=6, inward=0, reach=1), at=(x, 0, z))
        assert z * vx - x * vz == pytest.approx(6 * DT, rel=1e-4)
        assert x * vx + z * vz == pytest.approx(0, abs=1e-6)


def test_a_vortex_acts_from_where_its_point_is_when_the_particle_begins_to_fly():
    """A newborn one flies for the rest of the step alone, and the point has moved by then."""
    layer = Layer(**PLAIN, motion=Motion(forces=(Vortex(strength=6, inward=0, reach=1),)))
    points = np.array([[[0, 0, 0], [4, 0, 0]]], np.float32)
    whole, program = born(layer, 1, leads=np.zeros(1, np.float32), anchors=(HOME, HOME))
    whole.columns.state[:3, 0] = (1, 0, 0)
    whole.step(program, DT, 0.0, Surroundings.empty(), points)
    assert velocities(whole)[0, 2] == pytest.approx(-6 * DT, rel=1e-4)
    half, program = born(layer, 1, leads=np.full(1, DT / 2, np.float32), anchors=(HOME, HOME))
    half.columns.state[:3, 0] = (1, 0, 0)
    half.step(program, DT, 0.0, Surroundings.empty(), points)
    # The point stands at 2 by then: one reach on the other side, and half the step is left.
    assert velocities(half)[0, 2] == pytest.approx(6 * DT / 2, rel=1e-4)


def test_forces_add_up_in_any_order():
    forces = (Gravity(), Wind(push=(1, 0, 0)), Curl(), Vortex(), Drag(rate=2))
    one = moved(*forces, at=(0.3, 1, 0.2), velocity=(1, 2, 3))
    np.testing.assert_allclose(moved(*reversed(forces), at=(0.3, 1, 0.2), velocity=(1, 2, 3)), one, rtol=1e-6)


def test_a_curl_changes_with_time_unless_it_is_told_not_to():
    for change, same in ((0.0, True), (2.0, False)):
        pool, program = free(50, Layer(motion=Motion(forces=(Curl(change=change),))))
        before = pool.columns.state.copy()
        pool.step(program, DT, 0.0, Surroundings.empty())
        early = velocities(pool)
        pool.columns.state[:] = before
        pool.step(program, DT, 7.0, Surroundings.empty())
        assert np.allclose(velocities(pool), early) is same
    assert pool.columns.state[k.LIFETIME, 0] == 1e6
