"""Riding on anchors: going along and turning with them, let go at their own moment with their velocity."""

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.pools import DT, HOME, born, positions, velocities
from wraithon.particles import columns as k
from wraithon.particles.columns import AnchorTransforms
from wraithon.particles.few import is_small
from wraithon.particles.rules import AnchorPlaces, TickContext
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Emission
from wraithon.project.life import Attribute
from wraithon.project.look import Facing, SpriteLook
from wraithon.project.source import BoxSource, ConeSource, LineSource, PointSource, Riding, RingSource, SphereSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.player import Player

AIR = TickContext.empty()
KINDS = {
    "point": PointSource(),
    "ball": SphereSource(radius=0.5),
    "ring": RingSource(radius=0.4, thickness=0.1),
    "box": BoxSource(size=(1, 0.5, 0.2)),
    "cone": ConeSource(length=0.6, angle=30),
}


def frame(degrees=0.0, position=(0, 0, 0)):
    matrix = np.eye(4, dtype=np.float32)
    matrix[:3, :3] = Rotation.from_euler("xyz", (degrees, 2 * degrees, -degrees), degrees=True).as_matrix()
    matrix[:3, 3] = position
    return matrix


def anchor_transforms(before, now, ends=None):
    positions = AnchorPlaces.of(before, now, ends)
    return AnchorTransforms(np.zeros(1, np.int32), positions.before[None], positions.now[None])


def riders(source, *, share=1.0, keep=1.0, turning=True, many=200, at=None, look=None, ends=None):
    """Return a pool of particles born at once at the beginning of a step, riding, and their program."""
    source = source.evolve(riding=Riding(share=share, keep=keep, turning=turning))
    layer = Layer(source=source, speed=Attribute.of(0), lifetime=Attribute.of(2), look=look or SpriteLook())
    at = frame(20, (1, 0.5, 0)) if at is None else at
    return born(layer, many, emission_offsets=np.zeros(many, np.float32), anchors=(at, at, ends))


def step(pool, program, before, now, ends=None, number=0):
    pool.step(program, DT, number * DT, AIR, anchor_transforms=anchor_transforms(before, now, ends))


@pytest.mark.parametrize("kind", KINDS)
def test_what_turns_with_its_anchor_keeps_its_place_in_the_anchors_own_frame(kind):
    pool, program = riders(KINDS[kind])
    first, then = frame(20, (1, 0.5, 0)), frame(75, (-2, 1, 3))
    own = (positions(pool) - first[:3, 3]) @ first[:3, :3]
    step(pool, program, first, then)
    np.testing.assert_allclose((positions(pool) - then[:3, 3]) @ then[:3, :3], own, atol=2e-5)
    assert (velocities(pool) == 0).all()


@pytest.mark.parametrize("kind", KINDS)
def test_what_does_not_turn_is_only_carried_along(kind):
    pool, program = riders(KINDS[kind], turning=False)
    first, then = frame(20, (1, 0.5, 0)), frame(75, (-2, 1, 3))
    before = positions(pool).copy()
    step(pool, program, first, then)
    np.testing.assert_allclose(positions(pool) - before, np.tile([-3, 0.5, 3], (200, 1)), atol=2e-5)


@pytest.mark.parametrize("keep", [0.0, 1.0, -0.5])
def test_let_go_at_its_moment_it_takes_along_its_share_of_the_velocity(keep):
    first, then = frame(0, (0, 0, 0)), frame(0, (0.6, 0, 0))
    pool, program = riders(KINDS["box"], share=0.25 * DT / 2, keep=keep, at=first)  # a quarter of a step, of 2 s
    before = positions(pool).copy()
    step(pool, program, first, then)
    speed = 0.6 / DT
    np.testing.assert_allclose(velocities(pool), np.tile([keep * speed, 0, 0], (200, 1)), rtol=1e-4)
    gone = 0.6 * 0.25 + keep * speed * 0.75 * DT
    np.testing.assert_allclose(positions(pool)[:, 0] - before[:, 0], gone, atol=2e-4)
    assert (pool.columns.state[k.RIDE_END, : pool.count] == -1).all()
    after = positions(pool).copy()
    step(pool, program, then, frame(90, (5, 5, 5)), number=1)
    np.testing.assert_allclose(positions(pool)[:, 0] - after[:, 0], keep * speed * DT, atol=2e-4)


def test_on_a_line_each_keeps_its_share_of_the_way_between_two_anchors():
    one, two = frame(0, (0, 1, 0)), frame(30, (0, 2, 0))
    first = (np.array([2, 1, 0], np.float32),) * 2
    then = (first[0], np.array([0, 2, 4], np.float32))
    pool, program = riders(LineSource(thickness=0.1, to="other"), at=one, ends=first)
    share = positions(pool)[:, 0] / 2
    off = np.hypot(positions(pool)[:, 1] - 1, positions(pool)[:, 2])
    assert off.max() <= 0.1 + 1e-5
    step(pool, program, one, two, then)
    now = positions(pool)
    np.testing.assert_allclose(now[:, 2] / 4, share, atol=2e-5)
    np.testing.assert_allclose(np.hypot(now[:, 0], now[:, 1] - 2), off, atol=2e-5)


def test_each_rides_on_the_anchor_of_its_own_firing():
    pool, program = riders(PointSource(), many=6)
    pool.columns.firing[:6] = [4, 4, 9, 9, 30, 30]
    points = [AnchorPlaces.of(HOME, frame(0, (x, 0, 0))) for x in (4, 9, 30)]
    table = AnchorTransforms(
        np.array([4, 9, 30], np.int32), np.stack([p.before for p in points]), np.stack([p.now for p in points])
    )
    pool.step(program, DT, 0.0, AIR, anchor_transforms=table)
    assert positions(pool)[:, 0].tolist() == [4, 4, 9, 9, 30, 30]


def test_what_has_lost_its_anchor_goes_on_alone():
    pool, program = riders(PointSource(), many=3)
    pool.columns.state[k.VX, :3] = 6
    pool.step(program, DT, 0.0, AIR)
    np.testing.assert_allclose(positions(pool), np.tile([1 + 6 * DT, 0.5, 0], (3, 1)), rtol=1e-5)
    assert (pool.columns.state[k.RIDE_END, :3] == -1).all()


def test_a_normal_turns_with_the_anchor():
    pool, program = riders(SphereSource(radius=0.5, shell=1), look=SpriteLook(facing=Facing.NORMAL))
    then = frame(75, (-2, 1, 3))
    step(pool, program, frame(20, (1, 0.5, 0)), then)
    normals = pool.columns.state[k.NX : k.NZ + 1, : pool.count].T
    np.testing.assert_allclose(normals * 0.5, positions(pool) - then[:3, 3], atol=1e-4)


def test_riders_on_anchors_are_not_stepped_among_small_pools():
    pool, program = riders(PointSource(), many=3)
    assert not is_small(program, pool)
    assert is_small(*reversed(riders(PointSource(), many=3, share=0.0)))


# ---- in a show ------------------------------------------------------------------------------------


def carried_show(demo, source):
    """Return a player of a project in which one layer rides on her right fan's tip, from the start on."""
    layer = Layer(
        id="halo", source=source, emission=Emission(rate=60), lifetime=Attribute.of(2.0), speed=Attribute.of(0)
    )
    start = Trigger(when=AtStart(), response=(StartEffect(effect="halo", anchor="right-fan-tip"),))
    effect = Effect(id="halo", layers=(layer,), length=None)
    return Player(demo.project.evolve(effects=(effect,), triggers=(start,)), demo.characters)


def tip(show, name="right-fan-tip"):
    return show.anchor_at(name, show.step_number)[:3, 3]


RIDING = Riding(share=1, keep=0)


@pytest.mark.parametrize("turning", [True, False])
def test_in_a_show_riders_stay_at_their_anchor_and_seeking_gives_the_same(demo, turning):
    source = SphereSource(radius=0.1, riding=RIDING.evolve(turning=turning))
    player, steps = carried_show(demo, source), carried_show(demo, source)
    for moment in (2.9, 0.5, 1.7):
        player.seek(moment)
        away = np.linalg.norm(positions(player.show.pools["halo"]) - tip(player.show), axis=1)
        assert len(away) == min(120, round(moment * 60))
        assert away.max() <= 0.1 + 1e-4
    for _ in range(102):
        steps.step()
    assert steps.digest() == player.digest()


def test_in_a_show_riders_on_a_line_lie_between_both_anchors_at_any_moment(demo):
    player = carried_show(demo, LineSource(to="left-fan-tip", riding=RIDING))
    for moment in (0.4, 2.9):
        player.seek(moment)
        one, two = tip(player.show), tip(player.show, "left-fan-tip")
        way = (two - one) / np.linalg.norm(two - one)
        from_one = positions(player.show.pools["halo"]) - one
        np.testing.assert_allclose(from_one - np.outer(from_one @ way, way), 0, atol=1e-4)
        assert (from_one @ way >= -1e-4).all()
        assert (from_one @ way <= np.linalg.norm(two - one) + 1e-4).all()
