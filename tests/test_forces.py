"""Forces: how they are packed as rows, and what each does to a particle, with its exact numbers."""

import numpy as np
import pytest

from tests.pools import DT, HOME, PLAIN, born, free, velocities
from wraithon.particles import columns as k
from wraithon.particles import force_kernels
from wraithon.particles.columns import FORCE_WIDTH
from wraithon.particles.forces import PACKING, force_rows
from wraithon.particles.rules import TickContext
from wraithon.project.effect import Layer
from wraithon.project.life import Attribute, Curve
from wraithon.project.motion import FORCES, Attraction, Curl, Drag, Gravity, Hold, Lift, Motion, Orbit, Vortex, Wind


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
    assert rows.curves.shape == (0, 128)
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
    pool, program = born(
        Layer(id="one", **PLAIN, motion=Motion(forces=forces)), 1, emission_offsets=np.zeros(1, np.float32)
    )
    pool.columns.state[:3, 0], pool.columns.state[3:6, 0] = at, velocity
    count = len(program.forces.rows.codes)
    positions = np.zeros((count, 2, 3), np.float32)
    if points is not None:
        positions[:] = points
    pool.step(program, DT, 0.0, TickContext.empty(), positions)
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
    whole, program = born(layer, 1, emission_offsets=np.zeros(1, np.float32), anchors=(HOME, HOME))
    whole.columns.state[:3, 0] = (1, 0, 0)
    whole.step(program, DT, 0.0, TickContext.empty(), points)
    assert velocities(whole)[0, 2] == pytest.approx(-6 * DT, rel=1e-4)
    half, program = born(layer, 1, emission_offsets=np.full(1, DT / 2, np.float32), anchors=(HOME, HOME))
    half.columns.state[:3, 0] = (1, 0, 0)
    half.step(program, DT, 0.0, TickContext.empty(), points)
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
        pool.step(program, DT, 0.0, TickContext.empty())
        early = velocities(pool)
        pool.columns.state[:] = before
        pool.step(program, DT, 7.0, TickContext.empty())
        assert np.allclose(velocities(pool), early) is same
    assert pool.columns.state[k.LIFETIME, 0] == 1e6


# ---- attraction, lift, keeping inside --------------------------------------------------------------


@pytest.mark.parametrize("reach", [0.25, 1.0, 3.0])
@pytest.mark.parametrize("strength", [6.0, -6.0])
def test_an_attraction_is_strongest_at_its_reach_and_points_to_its_place(reach, strength):
    way, point = np.array([2.0, -1, 2]) / 3, np.array([1.0, 2, -1])
    pull = Attraction(strength=strength, reach=reach)
    at_reach = moved(pull, at=point - reach * way, points=[point, point])
    np.testing.assert_allclose(at_reach, strength * DT * way, rtol=1e-4)
    for share in (0.3, 0.8, 1.25, 5.0):
        found = moved(pull, at=point - share * reach * way, points=[point, point])
        wanted = 1.5**1.5 * share / (1 + share**2 / 2) ** 1.5
        assert wanted < 1
        np.testing.assert_allclose(found, wanted * strength * DT * way, rtol=1e-3)
    np.testing.assert_allclose(moved(pull, at=point, points=[point, point]), 0, atol=1e-6)


def test_what_circles_a_point_comes_to_rest_there_when_it_is_slowed():
    layer = Layer(**PLAIN, motion=Motion(forces=(Attraction(strength=8, reach=0.3), Drag(rate=2))))
    pool, program = born(layer, 1, emission_offsets=np.zeros(1, np.float32))
    pool.columns.state[:3, 0], pool.columns.state[3:6, 0] = (1, 0, 0), (0, 0, 3)
    for n in range(900):
        pool.step(program, DT, n * DT, TickContext.empty(), np.zeros((2, 2, 3), np.float32))
    assert np.linalg.norm(pool.columns.state[:3, 0]) < 0.01


@pytest.mark.parametrize(("away", "share"), [(0.5, 0), (2.0, 0), (2.25, 0.5), (2.5, 1), (9.0, 1)])
def test_a_hold_pulls_back_what_has_left_its_ball(away, share):
    found = moved(Hold(radius=2, strength=12), at=(0, 0, -away))
    np.testing.assert_allclose(found, [0, 0, 12 * share * DT], rtol=1e-5, atol=1e-7)


def test_a_lift_goes_along_the_normal_of_the_birth():
    pool, program = born(
        Layer(**PLAIN, motion=Motion(forces=(Lift(strength=3),))), 1, emission_offsets=np.zeros(1, np.float32)
    )
    pool.columns.state[k.NX : k.NZ + 1, 0] = (0.6, 0, -0.8)
    pool.step(program, DT, 0.0, TickContext.empty(), np.zeros((1, 2, 3), np.float32))
    np.testing.assert_allclose(velocities(pool)[0], np.array([1.8, 0, -2.4]) * DT, rtol=1e-5)


# ---- gusts, spread and courses ----------------------------------------------------------------------


def pushes(count, *forces, time=0.0, age=0.0):
    """Return the accelerations of many particles under some forces, in one place at an age."""
    layer = Layer(id="one", speed=Attribute.of(0), lifetime=Attribute.of(2), motion=Motion(forces=forces))
    pool, program = born(layer, count, emission_offsets=np.zeros(count, np.float32))
    pool.columns.state[:6] = 0
    pool.columns.state[k.AGE] = age - DT
    pool.step(program, DT, time, TickContext.empty(), np.zeros((len(program.forces.rows.codes), 2, 3), np.float32))
    return velocities(pool) / DT


def test_a_wind_without_gusts_is_a_push_and_with_them_another_row():
    (plain,) = force_rows((Wind(push=(1, 2, 3), pace=9),), 0)[0].codes
    (gusty,) = force_rows((Wind(push=(1, 2, 3), gust=0.1),), 0)[0].codes
    assert (plain, gusty) == (force_kernels.PUSH, force_kernels.WIND)


def test_gusts_stay_within_their_share_and_come_and_go():
    gales = np.array([pushes(1, Wind(push=(4, 0, 0), gust=0.5, pace=1), time=t)[0] for t in np.arange(0, 60, 0.5)])
    assert (gales[:, 1:] == 0).all()
    assert (gales[:, 0] >= 2 - 1e-4).all()
    assert (gales[:, 0] <= 6 + 1e-4).all()
    assert np.ptp(gales[:, 0]) > 1.5
    assert gales[:, 0].mean() == pytest.approx(4, abs=0.4)


def test_a_scattering_wind_gives_each_its_own_push_of_one_strength_in_all_directions():
    found = pushes(4000, Wind(scatter=3))
    np.testing.assert_allclose(np.linalg.norm(found, axis=1), 3, rtol=1e-4)
    np.testing.assert_allclose(found.mean(axis=0), 0, atol=0.12)
    np.testing.assert_allclose((found**2).mean(axis=0), 3, atol=0.2)
    np.testing.assert_array_equal(pushes(4000, Wind(scatter=3)), found)


@pytest.mark.parametrize("spread", [0.0, 0.25, 1.0])
def test_a_spread_keeps_the_mean_and_reaches_its_bounds(spread):
    felt = pushes(4000, Gravity(pull=-8, spread=spread))[:, 1] / 8
    assert felt.mean() == pytest.approx(1, abs=0.03)
    assert felt.min() == pytest.approx(1 - spread, abs=0.02)
    assert felt.max() == pytest.approx(1 + spread, abs=0.02)


@pytest.mark.parametrize(("age", "share"), [(0.0, 0.0), (0.5, 0.0), (1.0, 1.0), (1.9, 1.0)])
def test_a_course_lets_a_force_set_in_late(age, share):
    late = Curve.through((0, 0), (0.25, 0), (0.5, 1), (1, 1))
    (found,) = pushes(1, Gravity(pull=-8, curve=late), age=age)
    assert found[1] == pytest.approx(8 * share, abs=0.02)


def test_drag_that_is_not_felt_alike_slows_by_what_each_feels():
    layer = Layer(**PLAIN, motion=Motion(forces=(Drag(rate=5), Drag(rate=20, spread=1))))
    pool, program = born(layer, 500, emission_offsets=np.zeros(500, np.float32))
    pool.columns.state[3:6] = [[1], [0], [0]]
    pool.step(program, DT, 0.0, TickContext.empty(), np.zeros((2, 2, 3), np.float32))
    rates = -np.log(velocities(pool)[:, 0]) / DT
    assert (rates >= 5 - 1e-2).all()
    assert (rates <= 45 + 1e-2).all()
    assert rates.mean() == pytest.approx(25, abs=1.5)
    assert np.ptp(rates) > 38


MOVING = {"wind": Wind(push=(1, 0, 0)), "hold": Hold(radius=0.5)}
"""Forces that do nothing to begin with, or where the particle of the test is."""


@pytest.mark.parametrize("kind", FORCES)
def test_every_kind_of_force_is_whole(kind):
    """It is packed with a code of its own, says what it does and how strong it is, and moves a particle."""
    force = MOVING.get(kind().kind, kind())
    code, numbers = PACKING[kind](force)
    assert 0 < len(numbers) <= FORCE_WIDTH
    assert code in range(force_kernels.CODES)
    assert kind.does
    assert any(force.strengths)
    start = {"at": (0.8, 1.0, 0.1), "velocity": (0.5, 0.2, -0.4)}
    assert np.abs(moved(force, **start) - moved(**start)).max() > 1e-4
    (row,) = force_rows((force,), 1 << 20).anchors
    assert (row is not None) == ("anchor" in kind.model_fields)


def test_a_kind_that_is_not_packed_is_an_error():
    class Strange(Gravity):
        pass

    with pytest.raises(KeyError):
        force_rows((Strange(),), 1 << 20)


@pytest.mark.parametrize("speed", [2.0, -2.0])
@pytest.mark.parametrize("start", [(0.1, 1.0, 0.0), (2.0, 1.0, 1.0)])
def test_an_orbit_takes_a_particle_to_its_circle_and_keeps_it_there(start, speed):
    pool, program = born(
        Layer(id="one", **PLAIN, motion=Motion(forces=(Orbit(speed=speed, radius=0.6, follow=6),))),
        1,
        emission_offsets=np.zeros(1, np.float32),
    )
    pool.columns.state[:3, 0] = start
    pool.columns.state[3:6, 0] = 0
    points = np.zeros((1, 2, 3), np.float32)
    for _ in range(600):
        pool.step(program, DT, 0.0, TickContext.empty(), points)
    x, y, z, vx, vy, vz = pool.columns.state[:6, 0].astype(float)
    assert np.hypot(x, z) == pytest.approx(0.6, rel=0.005)
    assert (z * vx - x * vz) / np.hypot(x, z) == pytest.approx(speed, rel=0.02)
    assert (y, vy) == (1.0, 0.0)
