"""The character as capsules: made from its skin, bounced off from outside, and drawn to."""

import numpy as np
import pytest

from tests import twins
from tests.bodies import body
from tests.pools import DT, PLAIN, born, positions, velocities
from wraithon.character.bones import MAXIMUM, capsules_in, capsules_of
from wraithon.character.pose import rest_pose, rest_skin
from wraithon.particles import columns as k
from wraithon.particles.few import is_small
from wraithon.particles.rules import TickContext
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute
from wraithon.project.motion import Attraction, BodyCollision, Collision, Curl, Motion, Swirl, Towards
from wraithon.project.source import Occasion, OffspringSource, SphereSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.player import Player

POST = np.array([[0, 0, 0, 0, 2, 0, 0.5]], np.float32)
"""A capsule that stands: from the ground 2 m up, half a metre wide to either side."""


def tube(length=2.0, radius=0.3, around=12, rings=9):
    """Return a character that is a tube along its only bone."""
    angle, up = np.meshgrid(np.linspace(0, 2 * np.pi, around, endpoint=False), np.linspace(0, length, rings))
    points = np.stack([radius * np.cos(angle), up, radius * np.sin(angle)], -1).reshape(-1, 3)
    at = np.arange(len(points)).reshape(rings, around)
    a, b, c, d = at[:-1], np.roll(at, -1, 1)[:-1], np.roll(at, -1, 1)[1:], at[1:]
    triangles = np.stack([a, b, c, a, c, d], -1).reshape(-1, 3)
    return body(points, triangles, parents=(-1, 0), offsets=[(0, 0, 0), (0, length, 0)])


def around(before=POST, now=POST):
    return TickContext.empty()._replace(capsules_before=before, capsules_now=now)


def thrown(at, velocity, contact=Collision.BOUNCE, *, bounce=0.5, grip=0.2, capsules=(POST, POST), forces=(), dt=DT):
    """Return place and velocity of a particle after one step beside capsules."""
    motion = Motion(forces=forces, body=BodyCollision(contact=contact, bounce=bounce, grip=grip))
    pool, program = born(Layer(id="one", **PLAIN, motion=motion), 1, emission_offsets=np.zeros(1, np.float32))
    pool.columns.state[:3, 0], pool.columns.state[3:6, 0] = at, velocity
    pool.step(program, dt, 0.0, around(*capsules))
    return (positions(pool)[0], velocities(pool)[0]) if pool.count else None


# ---- making them ----------------------------------------------------------------------------------


def test_a_tube_is_one_capsule_as_wide_and_nearly_as_long():
    character = tube()
    held = capsules_in(character, rest_pose(character))
    assert held.shape == (1, 7)
    np.testing.assert_allclose(held[0, [0, 2, 3, 5]], 0, atol=1e-6)
    assert held[0, 6] == pytest.approx(0.3, abs=1e-3)
    assert 0 <= held[0, 1] - held[0, 6] < 0.15
    assert 1.85 < held[0, 4] + held[0, 6] <= 2.0


def test_they_go_along_with_the_pose_and_grow_with_the_character():
    character = tube()
    pose = rest_pose(character)
    matrices = pose.matrices.copy()
    matrices[:, :3] *= 2
    matrices[:, 0, 3] += 5
    grown = type(pose)(matrices, pose.weights)
    small, large = capsules_in(character, pose), capsules_in(character, grown)
    np.testing.assert_allclose(large[0, 6], 2 * small[0, 6], rtol=1e-5)
    np.testing.assert_allclose(large[0, :3], 2 * small[0, :3] + (5, 0, 0), atol=1e-5)


def test_the_dancers_skin_lies_close_to_hers(halcyon):
    held = capsules_in(halcyon, rest_pose(halcyon))
    assert 20 < len(held) <= MAXIMUM
    points = rest_skin(halcyon).positions
    off = np.full(len(points), np.inf)
    for capsule in held:
        way = capsule[3:6] - capsule[:3]
        along = np.clip((points - capsule[:3]) @ way / max(float(way @ way), 1e-12), 0, 1)
        off = np.minimum(off, np.linalg.norm(points - capsule[:3] - along[:, None] * way, axis=1) - capsule[6])
    assert np.percentile(np.abs(off), 90) < 0.06


def test_nobody_and_loose_points_have_none():
    assert len(capsules_of(body(np.zeros((3, 3)), [[0, 1, 2]])).bones) == 0


# ---- contact --------------------------------------------------------------------------------------


def test_what_comes_from_outside_bounces_where_it_is_met():
    """Along x onto the post: half of the speed back, a fifth of what goes along the skin taken."""
    position, velocity = thrown((0.51, 1, 0), (-3, 1, 0))
    np.testing.assert_allclose(velocity, [1.5, 0.8, 0], atol=1e-5)
    np.testing.assert_allclose(position, [0.5, 1 + DT, 0], atol=1e-5)


def test_sliding_keeps_what_goes_along_the_skin():
    _, velocity = thrown((0.51, 1, 0), (-3, 1, 0), Collision.SLIDE, grip=0.0)
    np.testing.assert_allclose(velocity, [0, 1, 0], atol=1e-5)


def test_it_may_end_there_and_nothing_ends_that_passes_by():
    assert thrown((0.51, 1, 0), (-3, 1, 0), Collision.DIE) is None
    assert thrown((0.51, 1, 0), (3, 1, 0), Collision.DIE) is not None
    assert thrown((0.51, 3.1, 0), (-3, 0, 0), Collision.DIE) is not None


@pytest.mark.parametrize("contact", [Collision.BOUNCE, Collision.SLIDE, Collision.DIE])
def test_what_is_within_already_leaves_freely(contact):
    position, velocity = thrown((0.3, 1, 0), (2, 0, 0), contact)
    np.testing.assert_allclose(velocity, [2, 0, 0], atol=1e-6)
    np.testing.assert_allclose(position, [0.3 + 2 * DT, 1, 0], atol=1e-6)


def test_a_limb_that_comes_takes_it_along():
    """The post moves by 10 cm a step along x: what stood still beside it is pushed out, and then as quick as it."""
    moved = POST + np.array([0.1, 0, 0, 0.1, 0, 0, 0], np.float32)
    position, velocity = thrown((0.52, 1, 0), (0, 0, 0), Collision.SLIDE, grip=0.0, capsules=(POST, moved))
    np.testing.assert_allclose(position, [0.6, 1, 0], atol=1e-5)
    np.testing.assert_allclose(velocity, [0.1 / DT, 0, 0], rtol=1e-4)


def test_passing_changes_nothing_and_small_pools_are_stepped_with_others_again():
    plain, _ = thrown((0.51, 1, 0), (-3, 1, 0), Collision.PASS)
    np.testing.assert_allclose(plain, [0.51 - 3 * DT, 1 + DT, 0], atol=1e-6)
    for contact, small in ((Collision.PASS, True), (Collision.BOUNCE, False)):
        pool, program = born(Layer(**PLAIN, motion=Motion(body=BodyCollision(contact=contact))), 5)
        assert is_small(program, pool) is small


def test_a_layer_is_born_where_another_meets_the_character(demo):
    rain = Layer(
        id="rain", source=SphereSource(radius=2.0, shell=1.0), emission=Emission(rate=400, limit=4000),
        speed=Attribute.of(0), lifetime=Attribute.of(3),
        motion=Motion(
            forces=(Attraction(towards=Towards.SKIN, strength=8, reach=1.0),),
            body=BodyCollision(contact=Collision.DIE)
        ),
    )  # fmt: skip
    splash = Layer(
        id="splash", source=OffspringSource(layer="rain", occasion=Occasion.CONTACT, count=1),
        speed=Attribute.of(0), lifetime=Attribute.of(5), emission=Emission(limit=4000),
    )  # fmt: skip
    effect = Effect(id="wet", layers=(rain, splash))
    trigger = Trigger(when=AtStart(), response=(StartEffect(effect="wet"),))
    player = Player(demo.project.evolve(effects=(effect,), triggers=(trigger,)), demo.characters)
    player.seek(1.5)
    pool = player.show.pools["splash"]
    assert pool.count > 20
    where = pool.columns.state[:3, : pool.count].T - player.show.position(player.show.step_number)
    assert np.percentile(np.linalg.norm(where[:, [0, 2]], axis=1), 90) < 1.2


# ---- being drawn to it ----------------------------------------------------------------------------


def test_the_pull_to_the_skin_is_that_of_an_anchor_on_its_nearest_place():
    """At the reach the acceleration is the strength; nearer by as much as the formula says, on either side."""
    force = Attraction(towards=Towards.SKIN, strength=6, reach=0.4)
    for off in (0.4, 0.1, -0.2):
        _, velocity = thrown((0.5 + off, 1, 0), (0, 0, 0), Collision.PASS, forces=(force,))
        r = abs(off) / 0.4
        wanted = -np.sign(off) * 6 * r * (1.5 / (1 + r * r / 2)) ** 1.5
        np.testing.assert_allclose(velocity, [wanted * DT, 0, 0], atol=1e-5)


def test_without_a_character_nothing_draws():
    nothing = np.zeros((0, 7), np.float32)
    force = Attraction(towards=Towards.SKIN, strength=6)
    _, velocity = thrown((1, 1, 0), (0, 0, 0), Collision.PASS, forces=(force,), capsules=(nothing, nothing))
    assert (velocity == 0).all()


# ---- eddies that carry ----------------------------------------------------------------------------


def test_eddies_carry_to_their_own_speed_as_drag_would():
    force = Curl(swirl=Swirl.CARRY, speed=0.8, grip=5, scale=0.5, change=0)
    at = np.array([0.13, 1.2, -0.4])
    _, velocity = thrown(at, (1, 0, 0), Collision.PASS, forces=(force,))
    _, program = born(Layer(id="one", **PLAIN, motion=Motion(forces=(force,))), 1)
    stream = 0.8 * twins.curl_exact(at[None] / 0.5, program.forces.rows.seeds[0])[0]
    share = 1 - np.exp(-5 * DT)
    np.testing.assert_allclose(velocity, np.array([1, 0, 0]) + share * (stream - (1, 0, 0)), atol=1e-4)


def test_however_hard_they_grip_nothing_goes_beyond_the_stream():
    force = Curl(swirl=Swirl.CARRY, speed=0.5, grip=1e6, change=0, spread=1.0)
    layer = Layer(id="one", **PLAIN, emission=Emission(limit=300), motion=Motion(forces=(force,)))
    pool, program = born(layer, 300, emission_offsets=np.zeros(300, np.float32))
    rng = np.random.default_rng(0)
    pool.columns.state[:3, :300], pool.columns.state[3:6, :300] = rng.normal(size=(2, 3, 300))
    for step in range(30):
        stream = 0.5 * twins.curl_exact(positions(pool) / force.scale, program.forces.rows.seeds[0])
        before = np.linalg.norm(velocities(pool), axis=1)
        pool.step(program, DT, step * DT, TickContext.empty())
        after = np.linalg.norm(velocities(pool), axis=1)
        assert (after <= np.maximum(before, np.linalg.norm(stream, axis=1)) + 1e-3).all()


def test_the_same_at_any_pool_size_and_kept_by_copies():
    """A hundred together are as each alone."""
    motion = Motion(forces=(Attraction(towards=Towards.SKIN),), body=BodyCollision(contact=Collision.BOUNCE))
    layer = Layer(**PLAIN, emission=Emission(limit=6000, bursts=(Burst(count=1),)), motion=motion)
    pool, program = born(layer, 6000)
    rng = np.random.default_rng(1)
    pool.columns.state[:3, :6000], pool.columns.state[3:6, :6000] = rng.normal(size=(2, 3, 6000))
    few, _ = born(layer, 50)
    few.columns.state[:6, :50] = pool.columns.state[:6, :50]
    few.columns.state[k.LEAD, :50] = pool.columns.state[k.LEAD, :50]
    for each in (pool, few):
        for step in range(20):
            each.step(program, DT, step * DT, around())
    np.testing.assert_array_equal(pool.columns.state[:6, :50], few.columns.state[:6, :50])
