"""What a number of a particle may have besides a range and a course over its age: choices, speed, wobble, axes."""

import numpy as np
import pytest

from tests.pools import HOME, PLAIN, born, velocities
from wraithon.numeric import chance
from wraithon.particles import columns as k
from wraithon.particles.curves import TABLE, choice_table
from wraithon.particles.looks.batch import drawn_of
from wraithon.project.effect import Layer
from wraithon.project.emission import Emission
from wraithon.project.life import Attribute, Curve, LifeMode, Over, Range, WeightedChoice, Wobble
from wraithon.project.source import Aim, AimFrame, Heading, PointSource, SphereSource

MANY = 2000
ROWS = {"size": "sizes", "stretch": "stretches", "turn": "turns"}


def uniforms(pool, channel):
    """Return the chance (N,) that particles draw for a channel."""
    with np.errstate(over="ignore"):
        mixed = chance.mix.py_func(pool.columns.identity[: pool.count] + np.uint64(channel) * chance._CHANNEL)
    return (mixed >> np.uint64(40)).astype(np.float32) * np.float32(2.0**-24)


# ---- choices --------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("weights", "shares"),
    [((1, 1), (64, 64)), ((3, 1), (96, 32)), ((0, 5), (0, 128)), ((0, 0), (64, 64)), ((1e-9, 0), (128, 0))],
)
def test_values_come_as_often_as_they_weigh(weights, shares):
    table = choice_table([WeightedChoice(value=7, weight=weights[0]), WeightedChoice(value=9, weight=weights[1])])
    assert len(table) == TABLE
    assert ((table == 7).sum(), (table == 9).sum()) == shares


def test_no_choices_are_no_values():
    assert (choice_table(()) == 0).all()


@pytest.mark.parametrize("name", ["size", "stretch", "turn"])
def test_what_is_drawn_is_one_of_several_values(name):
    values = Attribute(choices=(WeightedChoice(value=0.5, weight=3), WeightedChoice(value=2.0)))
    pool, program = born(Layer(emission=Emission(limit=MANY), **PLAIN, **{name: values}), MANY)
    found = getattr(drawn_of(pool, program), ROWS[name])
    ones, often = np.unique(np.rad2deg(found).round(4) if name == "turn" else found, return_counts=True)
    np.testing.assert_allclose(ones, [0.5, 2.0], rtol=1e-4)
    assert often[0] / MANY == pytest.approx(0.75, abs=0.03)


def test_which_value_hangs_on_the_particle_alone():
    values = Attribute(choices=tuple(WeightedChoice(value=v) for v in (1, 2, 3, 4)))
    pool, program = born(Layer(emission=Emission(limit=MANY), **PLAIN, size=values), MANY)
    wanted = 1 + np.floor(uniforms(pool, chance.SIZE) * 4)
    np.testing.assert_array_equal(drawn_of(pool, program).sizes, wanted)


def test_lifetimes_and_speeds_are_chosen_too():
    layer = Layer(
        emission=Emission(limit=MANY), lifetime=Attribute(choices=(WeightedChoice(value=1), WeightedChoice(value=5))),
        speed=Attribute(choices=(WeightedChoice(value=2), WeightedChoice(value=0, weight=3))),
    )  # fmt: skip
    pool, _ = born(layer, MANY)
    lifetimes, often = np.unique(pool.columns.state[k.LIFETIME, :MANY], return_counts=True)
    assert lifetimes.tolist() == [1, 5]
    assert np.abs(often / MANY - 0.5).max() < 0.04
    speeds, often = np.unique(np.linalg.norm(velocities(pool), axis=1).round(4), return_counts=True)
    assert speeds.tolist() == [0, 2]
    assert often[0] / MANY == pytest.approx(0.75, abs=0.03)


def test_the_ends_are_those_of_what_can_be_drawn():
    assert Attribute.of(2, 5).ends == (2, 5)
    assert Attribute(
        birth=Range.of(2, 5), choices=(WeightedChoice(value=9), WeightedChoice(value=-1, weight=0))
    ).ends == (9, 9)
    assert Attribute(choices=(WeightedChoice(value=3, weight=0), WeightedChoice(value=1, weight=0))).ends == (1, 3)


# ---- over speed -----------------------------------------------------------------------------------


@pytest.mark.parametrize("mode", LifeMode)
def test_a_course_may_run_over_the_speed(mode):
    rising = Curve.through((0, 0), (1, 1))
    size = Attribute(birth=Range.of(2), life=rising, mode=mode, over=Over.SPEED, top=4.0)
    pool, program = born(Layer(emission=Emission(limit=100), **PLAIN, size=size), 5)
    pool.columns.state[k.VX, :5] = (0, 1, 2, 4, 40)
    pool.columns.state[k.AGE, :5] = 50  # of no account
    share = np.array([0, 0.25, 0.5, 1, 1])
    wanted = {LifeMode.SCALE: 2 * share, LifeMode.ADD: 2 + share, LifeMode.REPLACE: share}[mode]
    np.testing.assert_allclose(drawn_of(pool, program).sizes, wanted, atol=1e-5)


def test_only_what_runs_over_the_speed_does():
    falling = Curve.through((0, 1), (1, 0))
    layer = Layer(
        emission=Emission(limit=100), **(PLAIN | {"lifetime": Attribute.of(2)}),
        size=Attribute(birth=Range.of(1), life=falling, over=Over.SPEED, top=10.0),
        opacity=Attribute(birth=Range.of(1), life=falling),
    )  # fmt: skip
    pool, program = born(layer, 1)
    pool.columns.state[k.VY, 0], pool.columns.state[k.AGE, 0] = -2.5, 1.0
    found = drawn_of(pool, program)
    assert found.sizes[0] == pytest.approx(0.75)
    assert found.colours[0, 3] == pytest.approx(0.5)


# ---- wobble ---------------------------------------------------------------------------------------


def wobbling(name, size, pace, ages, **birth):
    attribute = Attribute(birth=Range.of(birth.get("value", 1.0)), wobble=Wobble(size=size, pace=pace))
    pool, program = born(Layer(emission=Emission(limit=MANY), **PLAIN, **{name: attribute}), len(ages))
    pool.columns.state[k.AGE, : len(ages)] = ages
    pool.columns.identity[: len(ages)] = pool.columns.identity[0]
    return pool, drawn_of(pool, program)


def wave(own, turns):
    golden = (1 + 5**0.5) / 2
    return 0.5 * (np.sin(2 * np.pi * (turns + own)) + np.sin(2 * np.pi * (golden * turns + 7 * own)))


@pytest.mark.parametrize(("name", "row"), [("size", 0), ("turn", 3), ("stretch", 5)])
def test_wobble_comes_and_goes_by_two_waves(name, row):
    ages = np.linspace(0, 5, 400).astype(np.float32)
    pool, found = wobbling(name, 0.25, 1.5, ages)
    own = uniforms(pool, chance.WOBBLE + row)[0]
    about = wave(own, 1.5 * ages.astype(float))
    got = getattr(found, ROWS[name])
    wanted = np.deg2rad(1 + 0.25 * about) if name == "turn" else 1 + 0.25 * about
    np.testing.assert_allclose(got, wanted, atol=2e-4)
    assert np.ptp(got) > 0.6 * (np.deg2rad(0.5) if name == "turn" else 0.5)


def test_each_particle_wobbles_in_its_own_time():
    size = Attribute(birth=Range.of(1), wobble=Wobble(size=0.5, pace=2))
    pool, program = born(Layer(emission=Emission(limit=MANY), **PLAIN, size=size), MANY)
    found = drawn_of(pool, program).sizes
    assert 0.5 <= found.min() < 0.8
    assert 1.3 < found.max() <= 1.5
    assert len(np.unique(found)) > 0.99 * MANY
    assert found.mean() == pytest.approx(1, abs=0.05)


def test_opacity_that_wobbles_stays_what_an_opacity_can_be():
    _, found = wobbling("opacity", 3.0, 5.0, np.linspace(0, 4, 300).astype(np.float32))
    assert found.colours[:, 3].min() == 0
    assert found.colours[:, 3].max() == 1


# ---- axis by axis ---------------------------------------------------------------------------------


def setting_out(frame, anchor=HOME, source=PointSource):
    aim = Aim(heading=Heading.AXES, low=(1, 2, -1), high=(2, 2, 3), frame=frame)
    layer = Layer(
        emission=Emission(limit=MANY), source=source(aim=aim), speed=Attribute.of(2), lifetime=Attribute.of(9)
    )
    pool, _ = born(layer, MANY, anchors=(anchor, anchor))
    return pool, velocities(pool)


def test_a_direction_is_drawn_axis_by_axis_and_is_a_factor_of_the_speed():
    pool, found = setting_out(AimFrame.WORLD)
    x, z = uniforms(pool, chance.AXIS_A), uniforms(pool, chance.AXIS_C)
    np.testing.assert_allclose(found, np.column_stack([1 + x, np.full(MANY, 2.0), -1 + 4 * z]) * 2, atol=1e-5)
    assert found[:, 0].min() == pytest.approx(2, abs=0.01)
    assert found[:, 2].max() == pytest.approx(6, abs=0.02)


def test_it_may_be_along_the_anchors_axes():
    turned = np.array([[0, 0, 1, 3], [0, 1, 0, 0], [-1, 0, 0, 0], [0, 0, 0, 1]], np.float32)
    _, world = setting_out(AimFrame.WORLD)
    _, found = setting_out(AimFrame.ANCHOR, turned)
    np.testing.assert_allclose(found, world @ turned[:3, :3].T, atol=1e-5)


def test_or_with_y_outward():
    pool, found = setting_out(AimFrame.OUTWARD, source=lambda aim: SphereSource(radius=1, shell=1, aim=aim))
    outward = pool.columns.state[k.NX : k.NZ + 1, :MANY].T
    np.testing.assert_allclose((found * outward).sum(axis=1), 4, atol=1e-4)  # 2 along y, twice as fast
    _, world = setting_out(AimFrame.WORLD)
    np.testing.assert_allclose(np.linalg.norm(found, axis=1), np.linalg.norm(world, axis=1), rtol=1e-4)


def test_other_headings_ignore_the_axes():
    aim = Aim(heading=Heading.UP, spread=0, low=(5, 5, 5), high=(9, 9, 9))
    pool, _ = born(Layer(source=PointSource(aim=aim), speed=Attribute.of(1), lifetime=Attribute.of(1)), 3)
    np.testing.assert_allclose(velocities(pool), [(0, 1, 0)] * 3, atol=1e-6)
