"""What a step tells of its particles: births, contacts with the ground and deaths, when and where."""

import numpy as np
import pytest

from tests.pools import DT, HOME, PLAIN, born, lift
from wraithon.particles import columns as k
from wraithon.particles.particle_moments import NOTHING, Happening, together
from wraithon.particles.pool import Line, Pool
from wraithon.particles.program import compile_layer
from wraithon.particles.rules import AnchorPlaces, TickContext
from wraithon.project.effect import Layer
from wraithon.project.emission import Emission
from wraithon.project.life import Attribute
from wraithon.project.motion import Collision, Gravity, GroundCollision, Motion
from wraithon.project.source import Aim, Heading, PointSource

AIR = TickContext.empty()


def kinds(happened):
    return happened.kinds.tolist()


def test_every_birth_is_told_once_at_its_moment_and_place():
    layer = Layer(**PLAIN, motion=Motion())
    leads = np.array([0.0, 0.004, 0.012], np.float32)
    pool, program = born(layer, 3, anchors=(lift(HOME, 1), lift(HOME, 1)), emission_offsets=leads)
    happened = pool.step(program, DT, 2.0, AIR)
    assert kinds(happened) == [Happening.BIRTH] * 3
    np.testing.assert_allclose(happened.moments, 2.0 + leads, atol=1e-9)
    np.testing.assert_array_equal(happened.positions, [[0, 1, 0]] * 3)
    np.testing.assert_array_equal(happened.identities, pool.columns.identity[:3])
    assert kinds(pool.step(program, DT, 2.0 + DT, AIR)) == []


def test_births_of_a_later_step_are_told_then():
    layer = Layer(**PLAIN, motion=Motion())
    pool, program = born(layer, 2)
    pool.step(program, DT, 0.0, AIR)
    pool.emit(program, Line(np.uint64(7), 2, 0), np.zeros(1, np.float32), DT, AIR, AnchorPlaces.of(HOME, HOME))
    happened = pool.step(program, DT, DT, AIR)
    assert kinds(happened) == [Happening.BIRTH]
    assert happened.identities[0] == pool.columns.identity[2]


def test_a_copy_does_not_bear_its_particles_again():
    pool, program = born(Layer(**PLAIN, motion=Motion()), 4)
    pool.step(program, DT, 0.0, AIR)
    other = Pool()
    other.restore(pool.copy())
    assert kinds(other.step(program, DT, DT, AIR)) == []


def falling(contact, height=0.05, speed=6.0, lifetime=100.0):
    """Return a pool with one particle that falls steadily from a height."""
    layer = Layer(
        source=PointSource(aim=Aim(heading=Heading.UP, spread=0)),
        emission=Emission(limit=10),
        lifetime=Attribute.of(lifetime),
        speed=Attribute.of(0),
        motion=Motion(ground=GroundCollision(contact=contact, bounce=0.5, grip=0.25)),
    )
    pool, program = born(layer, 1, emission_offsets=np.zeros(1, np.float32))
    pool.columns.state[:6, 0] = [0, height, 0, 2, -speed, 0]
    pool._settled = 1  # its birth is not what is looked at
    return pool, program


def test_a_contact_is_told_where_and_when_it_came_and_how_fast():
    pool, program = falling(Collision.BOUNCE)
    happened = pool.step(program, DT, 3.0, AIR)
    assert kinds(happened) == [Happening.CONTACT]
    came = 0.05 / 6.0
    assert happened.moments[0] == pytest.approx(3.0 + came, abs=1e-6)
    np.testing.assert_allclose(happened.positions[0], [2 * came, 0, 0], atol=1e-6)
    np.testing.assert_allclose(happened.velocities[0], [2, -6, 0], atol=1e-6)
    # The ground has acted by now: half as fast up, a quarter slower along.
    np.testing.assert_allclose(pool.columns.state[3:6, 0], [1.5, 3, 0], atol=1e-6)


def test_coming_to_an_end_on_the_ground_is_a_contact_and_a_death_at_one_moment():
    pool, program = falling(Collision.DIE)
    happened = pool.step(program, DT, 3.0, AIR)
    assert kinds(happened) == [Happening.CONTACT, Happening.DEATH]
    assert happened.moments[0] == happened.moments[1] == pytest.approx(3.0 + 0.05 / 6.0, abs=1e-6)
    assert pool.count == 0


@pytest.mark.parametrize("contact", [Collision.SLIDE, Collision.STICK])
def test_lying_on_the_ground_is_one_contact_not_one_a_step(contact):
    pool, program = falling(contact)
    told = [kind for n in range(20) for kind in kinds(pool.step(program, DT, n * DT, AIR))]
    assert told == [Happening.CONTACT]


def test_sliding_under_gravity_is_one_contact_too():
    pool, _ = falling(Collision.SLIDE)
    ground = GroundCollision(contact=Collision.SLIDE, grip=0.2)
    layer = Layer(**PLAIN, motion=Motion(forces=(Gravity(),), ground=ground))
    program = compile_layer(layer, "effect", 1, None)
    told = [kind for n in range(30) for kind in kinds(pool.step(program, DT, n * DT, AIR))]
    assert told == [Happening.CONTACT]
    assert pool.columns.state[k.PY, 0] == 0


def test_no_ground_no_contact():
    pool, program = falling(Collision.PASS)
    assert [kind for n in range(20) for kind in kinds(pool.step(program, DT, n * DT, AIR))] == []


def test_a_death_is_told_at_the_end_of_the_lifetime_within_the_step():
    pool, program = falling(Collision.PASS, lifetime=0.03)
    assert kinds(pool.step(program, DT, 0.0, AIR)) == []
    happened = pool.step(program, DT, DT, AIR)
    assert kinds(happened) == [Happening.DEATH]
    assert happened.moments[0] == pytest.approx(0.03, abs=1e-6)
    assert pool.count == 0
    assert pool.step(program, DT, 2 * DT, AIR) is NOTHING


def test_born_and_gone_in_one_step_is_both():
    layer = Layer(emission=Emission(limit=5), lifetime=Attribute.of(0.001), speed=Attribute.of(0), motion=Motion())
    pool, program = born(layer, 1, emission_offsets=np.full(1, 0.005, np.float32))
    happened = pool.step(program, DT, 1.0, AIR)
    assert kinds(happened) == [Happening.BIRTH, Happening.DEATH]
    np.testing.assert_allclose(happened.moments, [1.005, 1.006], atol=1e-6)


def test_nobody_asking_changes_nothing_but_the_telling():
    asked, program = falling(Collision.BOUNCE)
    unasked, _ = falling(Collision.BOUNCE)
    for n in range(30):
        asked.step(program, DT, n * DT, AIR)
        assert unasked.step(program, DT, n * DT, AIR, wants_moments=False) is NOTHING
    np.testing.assert_array_equal(asked.columns.state[:, :1], unasked.columns.state[:, :1])


def test_several_are_joined_in_the_order_given():
    one, _ = born(Layer(**PLAIN, motion=Motion()), 2)
    two, program = born(Layer(**PLAIN, motion=Motion()), 3, key=8)
    both = together([one.step(program, DT, 0, AIR), NOTHING, two.step(program, DT, 0, AIR)])
    assert len(both.kinds) == 5
    np.testing.assert_array_equal(both.identities[2:], two.columns.identity[:3])
    assert together([]) is NOTHING
    assert together([NOTHING]) is NOTHING
    assert (len(NOTHING.kinds), len(NOTHING.moments), NOTHING.positions.shape) == (0, 0, (0, 3))
