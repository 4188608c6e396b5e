"""Ribbons through each particle's own past: what is kept of it, through death, copies, edits and seeks."""

import numpy as np
import pytest

from tests.pools import DT, HOME, born, positions
from wraithon.particles import columns as k
from wraithon.particles.looks import batch_of
from wraithon.particles.past import MAX_POINTS, reach_of
from wraithon.particles.pool import Line, Pool
from wraithon.particles.rules import AnchorPlaces, TickContext
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute
from wraithon.project.look import RibbonLook, Through
from wraithon.project.motion import Gravity, Motion
from wraithon.project.project import Project
from wraithon.project.source import Aim, Heading, PointSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.frame import frame_of
from wraithon.stage.player import Player

AIR = TickContext.empty()
TRAIL = Layer(
    id="trail",
    source=PointSource(aim=Aim(heading=Heading.UP, spread=0)),
    emission=Emission(limit=100),
    speed=Attribute.of(2),
    lifetime=Attribute.of(100),
    look=RibbonLook(through=Through.PAST, past=0.2),
)


def stepped(pool, program, first, steps):
    for n in range(first, first + steps):
        pool.step(program, DT, n * DT, AIR)


@pytest.mark.parametrize(
    ("seconds", "points", "stride"),
    [(0.0, 0, 1), (0.02, 3, 1), (0.2, 13, 1), (1.05, 64, 1), (2.0, 61, 2), (10.0, 61, 10)],
)
def test_a_past_has_a_place_for_every_step_as_long_as_there_is_room(seconds, points, stride):
    assert reach_of(seconds, DT) == (points, stride)
    assert points <= MAX_POINTS


def test_a_particle_that_flies_straight_has_been_where_it_came_through():
    pool, program = born(TRAIL, 1, emission_offsets=np.zeros(1, np.float32))
    stepped(pool, program, 0, 30)
    ribbon = batch_of(pool, program)
    assert ribbon.starts.tolist() == [0, 13]
    np.testing.assert_allclose(ribbon.positions[:, 1], 1 - np.arange(13) * 2 * DT, atol=1e-5)
    assert (ribbon.positions[:, [0, 2]] == 0).all()


def test_before_its_birth_a_particle_was_where_it_was_born():
    pool, program = born(TRAIL, 1, emission_offsets=np.zeros(1, np.float32))
    stepped(pool, program, 0, 3)
    heights = batch_of(pool, program).positions[:, 1]
    np.testing.assert_allclose(heights, [3 * 2 * DT, 2 * 2 * DT, 2 * DT] + [0] * 10, atol=1e-6)


@pytest.mark.parametrize("seconds", [0.2, 2.0])
def test_between_places_that_are_written_down_the_head_is_where_the_particle_is(seconds):
    layer = TRAIL.evolve(look=RibbonLook(through=Through.PAST, past=seconds))
    pool, program = born(layer, 3)
    for n in range(25):
        pool.step(program, DT, n * DT, AIR)
        ribbon = batch_of(pool, program)
        np.testing.assert_array_equal(ribbon.positions[ribbon.starts[:-1]], positions(pool))


def test_those_that_die_take_their_own_past_along_and_no_others():
    pool, program = born(TRAIL.evolve(motion=Motion(forces=(Gravity(),))), 40)
    stepped(pool, program, 0, 20)
    held = dict(zip(pool.columns.identity[:40].tolist(), pool.past.positions.copy(), strict=True))
    pool.columns.state[k.LIFETIME, 3:40:4] = 0.0
    pool.step(program, DT, 20 * DT, AIR)
    assert pool.count == len(pool.past.positions) == 30
    for who, line in zip(pool.columns.identity[:30].tolist(), pool.past.positions, strict=True):
        np.testing.assert_array_equal(line[1:], held[who][:-1])


def test_births_join_those_that_have_a_past():
    pool, program = born(TRAIL, 2)
    stepped(pool, program, 0, 5)
    pool.emit(program, Line(np.uint64(7), 2, 0), np.zeros(3, np.float32), DT, AIR, AnchorPlaces.of(HOME, HOME))
    assert pool.past.positions.shape == (5, 13, 3)
    assert (pool.past.positions[2:] == 0).all()
    stepped(pool, program, 5, 1)
    np.testing.assert_allclose(batch_of(pool, program).positions.reshape(5, 13, 3)[2:, 0, 1], 2 * DT, atol=1e-6)


def test_a_copy_is_put_back_with_its_past():
    pool, program = born(TRAIL, 5)
    stepped(pool, program, 0, 8)
    held = pool.copy()
    assert held.size > held.past.size > 0
    before = batch_of(pool, program).positions.copy()
    stepped(pool, program, 8, 5)
    after = batch_of(pool, program).positions.copy()
    other = Pool()
    other.restore(held)
    np.testing.assert_array_equal(batch_of(other, program).positions, before)
    stepped(other, program, 8, 5)
    np.testing.assert_array_equal(batch_of(other, program).positions, after)


def test_a_layer_that_becomes_a_trail_begins_its_past_now():
    pool, plain = born(TRAIL.evolve(look=RibbonLook()), 4)
    stepped(pool, plain, 0, 10)
    _, program = born(TRAIL, 0, emission_offsets=np.zeros(0, np.float32))
    assert batch_of(pool, program).starts.tolist() == [0, 1, 2, 3, 4]  # nothing is known yet
    stepped(pool, program, 10, 1)
    past = batch_of(pool, program).positions.reshape(4, 13, 3)
    np.testing.assert_allclose(past[:, 0], positions(pool), atol=1e-6)
    assert np.ptp(past[:, 1:], axis=1).max() == 0
    stepped(pool, plain, 11, 1)
    assert pool.past is None


def test_trails_are_the_same_after_a_seek_and_step_by_step():
    layer = TRAIL.evolve(
        emission=Emission(rate=40, bursts=(Burst(count=4),)), lifetime=Attribute.of(0.3, 0.6),
        source=PointSource(aim=Aim(spread=90)), motion=Motion(forces=(Gravity(),)),
    )  # fmt: skip
    project = Project(
        effects=(Effect(id="e", layers=(layer,)),),
        triggers=(Trigger(when=AtStart(), response=(StartEffect(effect="e"),)),),
    )
    player = Player(project, {})
    player.seek(1.5)
    held = frame_of(player.show).batches[0].positions.copy()
    digest = player.show.digest()
    player.seek(0.2)
    player.seek(1.5)
    assert player.show.digest() == digest
    np.testing.assert_array_equal(frame_of(player.show).batches[0].positions, held)
    fresh = Player(project, {})
    for _ in range(90):
        fresh.show.advance()
    assert fresh.show.digest() == digest
