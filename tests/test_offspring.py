"""Births of another layer's particles, births a metre that an anchor moves, and limits that end the oldest."""

import numpy as np
import pytest

from tests.pools import DT, HOME, PLAIN, born
from wraithon.interchange.clippings import fresh_effect
from wraithon.particles import columns as k
from wraithon.particles.emission import Moved, births_between, emission_end, moved_within
from wraithon.particles.looks.batch import drawn_of
from wraithon.particles.pool import Line
from wraithon.particles.program import MAX_OFFSPRING
from wraithon.particles.rules import AnchorPlaces, TickContext
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission, Full
from wraithon.project.findings import check
from wraithon.project.life import Attribute, Tint
from wraithon.project.look import RibbonLook, Through
from wraithon.project.motion import Collision, Gravity, GroundCollision, Motion
from wraithon.project.project import Project
from wraithon.project.source import Aim, Heading, Occasion, OffspringSource, PointSource, Riding, SphereSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.player import Player

AIR = TickContext.empty()
SPARK = Layer(
    id="spark", name="spark", emission=Emission(bursts=(Burst(count=6),), limit=50),
    source=SphereSource(radius=0.3, aim=Aim(spread=40)), speed=Attribute.of(1, 2), lifetime=Attribute.of(0.4, 0.6),
    size=Attribute.of(0.1, 0.2), colour=Tint(first=(1, 0.5, 0), second=(1, 0.5, 0)),
    motion=Motion(forces=(Gravity(),), ground=GroundCollision(contact=Collision.BOUNCE, bounce=0.5)),
)  # fmt: skip


def smoke(**source):
    given = {"layer": "spark", "count": 3, "occasion": Occasion.DEATH} | source
    return Layer(
        id="smoke", name="smoke", source=OffspringSource(**given), speed=Attribute.of(0), lifetime=Attribute.of(9),
        size=Attribute.of(0.5), emission=Emission(limit=500),
    )  # fmt: skip


def show_of(*layers, length=0.1, **more):
    start = Trigger(when=AtStart(), response=(StartEffect(effect="e"),))
    project = Project(effects=(Effect(id="e", length=length, layers=layers, **more),), triggers=(start,))
    return Player(project, {})


def played(player, steps):
    for _ in range(steps):
        player.show.advance()
    return player.show


# ---- offspring ------------------------------------------------------------------------------------


def test_each_death_bears_as_many_where_it_happened():
    player = show_of(SPARK, smoke())
    seen, died = {}, []
    for _ in range(60):
        player.show.advance()
        pool = player.show.pools["spark"]
        positions = pool.columns.state[k.PX : k.PZ + 1, : pool.count].T.copy()
        now = dict(zip(pool.columns.identity[: pool.count].tolist(), positions, strict=True))
        died += [seen[who] for who in set(seen) - set(now)]
        seen = now
    found = player.show.pools["smoke"]
    assert len(died) == 6
    assert found.count == found.born == 18
    positions = found.columns.state[k.PX : k.PZ + 1, :18].T.reshape(6, 3, 3)
    assert np.ptp(positions, axis=1).max() == 0  # all three at one place
    for at in died:  # no farther from where it was last seen than it flies in a step
        assert np.linalg.norm(positions[:, 0] - at, axis=1).min() < 0.1


def test_births_and_contacts_bear_too():
    at_birth = played(show_of(SPARK, smoke(occasion=Occasion.BIRTH, count=2)), 3).pools["smoke"]
    assert at_birth.count == 12
    sticks = Motion(forces=(Gravity(),), ground=GroundCollision(contact=Collision.STICK))
    thrown = PointSource(aim=Aim(heading=Heading.UP, spread=30))
    resting = SPARK.evolve(motion=sticks, lifetime=Attribute.of(3), source=thrown)
    at_contact = played(show_of(resting, smoke(occasion=Occasion.CONTACT, count=2)), 120).pools["smoke"]
    assert at_contact.count == 12
    assert np.abs(at_contact.columns.state[k.PY, :12]).max() < 1e-4


def test_the_count_may_differ_and_not_each_time_be_born():
    many = SPARK.evolve(emission=Emission(bursts=(Burst(count=1000),), limit=1000))
    source = {"count": 1, "most": 3, "chance": 0.5, "occasion": Occasion.BIRTH}
    layer = smoke(**source).evolve(emission=Emission(limit=5000))
    found = played(show_of(many, layer), 3).pools["smoke"].count
    assert found == pytest.approx(1000 * 0.5 * 2, rel=0.1)
    assert played(show_of(many, smoke(count=0, occasion=Occasion.BIRTH)), 3).pools.get("smoke") is None
    assert played(show_of(many, smoke(chance=0.0, occasion=Occasion.BIRTH)), 3).pools.get("smoke") is None


ROCKET = SPARK.evolve(
    source=PointSource(aim=Aim(heading=Heading.UP, spread=0)), motion=Motion(), speed=Attribute.of(2),
    lifetime=Attribute.of(0.9925), emission=Emission(bursts=(Burst(count=1),), limit=50),
)  # fmt: skip


def heights(pool):
    return np.sort(pool.columns.state[k.PY, : pool.count])


@pytest.mark.parametrize(("every", "births"), [(0.1, 19), (0.37, 5), (0.01, 198), (2.0, 0)])
def test_births_along_the_way_stand_at_every_so_many_metres(every, births):
    pool = played(show_of(ROCKET, smoke(occasion=Occasion.PASSING, every=every, count=2)), 90).pools.get("smoke")
    assert (pool.count if pool else 0) == 2 * births
    if pool:
        # The rocket has come 1.985 m when it ends.
        wanted = np.repeat(every * np.arange(1, births + 1), 2)
        np.testing.assert_allclose(heights(pool), wanted, atol=2e-4)
        ages = np.sort(pool.columns.state[k.AGE, : pool.count])
        assert (np.diff(ages) >= 0).all()


def test_layers_born_along_one_way_keep_their_own_distances():
    near = smoke(occasion=Occasion.PASSING, every=0.1, count=1)
    far = smoke(occasion=Occasion.PASSING, every=0.5, count=1).evolve(id="far")
    dead = smoke(occasion=Occasion.DEATH, count=1).evolve(id="dead")
    pools = played(show_of(ROCKET, near, far, dead), 90).pools
    assert [pools[name].count for name in ("smoke", "far", "dead")] == [19, 3, 1]
    np.testing.assert_allclose(heights(pools["far"]), [0.5, 1.0, 1.5], atol=2e-4)


def test_a_rocket_pushed_by_the_ground_leaves_what_it_has_come_not_how_far_it_is():
    hops = ROCKET.evolve(
        motion=Motion(forces=(Gravity(),), ground=GroundCollision(contact=Collision.BOUNCE, bounce=0.5)),
        lifetime=Attribute.of(2.0), speed=Attribute.of(3),
    )  # fmt: skip
    show = played(show_of(hops, smoke(occasion=Occasion.PASSING, every=0.05, count=1)), 100)
    travelled = float(show.pools["spark"].columns.state[k.TRAVELLED, 0])
    assert 1.0 < travelled < 1.6  # up and down 0.46 m, then 0.11 m, ...
    assert show.pools["smoke"].count == int(travelled / 0.05)


def test_chance_is_thrown_anew_at_each_mark():
    some = smoke(occasion=Occasion.PASSING, every=0.002, count=1, chance=0.5).evolve(emission=Emission(limit=5000))
    pool = played(show_of(ROCKET, some), 90).pools["smoke"]
    assert pool.count == pytest.approx(992 / 2, abs=60)
    gaps = np.diff(np.round(heights(pool) / 0.002).astype(int))
    assert {1, 2, 3} <= set(gaps.tolist())


def test_however_many_marks_a_step_bears_no_more_than_may_live():
    flood = SPARK.evolve(
        emission=Emission(bursts=(Burst(count=5000),), limit=5000), speed=Attribute.of(900), motion=Motion()
    )
    layer = smoke(occasion=Occasion.PASSING, every=0.001, count=1000).evolve(emission=Emission(limit=None))
    show = played(show_of(flood, layer), 4)
    assert show.pools["smoke"].count == MAX_OFFSPRING
    assert show.pools["smoke"].refused > 0


def test_going_back_and_again_bears_the_same_along_the_way():
    player = show_of(ROCKET, smoke(occasion=Occasion.PASSING, every=0.03, chance=0.7))
    player.seek(0.8)
    once = player.digest()
    player.seek(0.31)
    player.seek(0.8)
    assert player.digest() == once
    fresh = show_of(ROCKET, smoke(occasion=Occasion.PASSING, every=0.03, chance=0.7))
    fresh.seek(0.8)
    assert fresh.digest() == once


def test_a_share_of_the_velocity_is_taken_along():
    still = SPARK.evolve(
        source=PointSource(aim=Aim(heading=Heading.UP, spread=0)), motion=Motion(), speed=Attribute.of(2)
    )
    for keep in (0.0, 0.5):
        layer = smoke(occasion=Occasion.BIRTH, riding=Riding(keep=keep))
        pool = played(show_of(still, layer), 2).pools["smoke"]
        np.testing.assert_allclose(pool.columns.state[k.VY, : pool.count], 2 * keep, atol=1e-5)


def test_colour_and_size_are_taken_along():
    player = show_of(SPARK, smoke(occasion=Occasion.BIRTH, tint=0.5, grown=True, count=1))
    show = played(player, 1)
    parents = drawn_of(show.pools["spark"], show.compiled.programs["spark"])
    drawn = drawn_of(show.pools["smoke"], show.compiled.programs["smoke"])
    np.testing.assert_allclose(drawn.colours[:, :3], np.tile([1, 0.75, 0.5], (6, 1)), atol=1e-5)
    np.testing.assert_allclose(np.sort(drawn.sizes), np.sort(parents.sizes) / 0.2 * 0.5, atol=1e-5)
    plain = played(show_of(SPARK, smoke(occasion=Occasion.BIRTH)), 1)
    drawn = drawn_of(plain.pools["smoke"], plain.compiled.programs["smoke"])
    np.testing.assert_allclose(drawn.colours[:, :3], 1)
    np.testing.assert_allclose(drawn.sizes, 0.5)


def test_offspring_may_have_offspring_and_the_firing_lives_until_all_is_over():
    third = Layer(
        id="ash",
        source=OffspringSource(layer="smoke", count=2),
        lifetime=Attribute.of(0.2),
        emission=Emission(limit=99),
    )
    layer = smoke(count=1).evolve(lifetime=Attribute.of(0.3))
    player = show_of(SPARK, layer, third)
    show = played(player, 50)
    assert show.firings
    show = played(player, 40)
    assert show.pools["ash"].born == 12
    assert not show.firings
    assert show.alive == 0


def test_offspring_is_the_same_after_a_seek_a_copy_and_step_by_step():
    layers = SPARK.evolve(emission=Emission(rate=40, limit=99)), smoke(tint=1, grown=True)
    player = show_of(*layers, length=2.0)
    player.seek(1.5)
    digest = player.show.digest()
    player.seek(0.3)
    player.seek(1.5)
    assert player.show.digest() == digest
    assert played(show_of(*layers, length=2.0), 90).digest() == digest


def test_an_edit_while_paused_shows_what_a_fresh_run_would():
    player = show_of(SPARK.evolve(emission=Emission(rate=40, limit=99)), smoke(), length=2.0)
    player.seek(1.5)
    (effect,) = player.show.compiled.project.effects
    spark, _ = effect.layers
    for layers in (
        (spark.evolve(speed=Attribute.of(3)), smoke()),
        (spark, smoke(count=5)),
        (spark, smoke(layer=None)),
        (spark, smoke()),
    ):
        edited = player.show.compiled.project.evolve(effects=(effect.evolve(layers=layers),))
        player.adopt(edited, {})
        if not player.mend():
            player.seek(1.5)
        fresh = Player(edited, {})
        fresh.seek(1.5)
        assert player.show.digest() == fresh.show.digest()


def test_births_beyond_the_limit_are_refused_and_counted():
    layer = smoke(occasion=Occasion.BIRTH, count=10).evolve(emission=Emission(limit=25))
    pool = played(show_of(SPARK, layer), 2).pools["smoke"]
    assert (pool.count, pool.refused) == (25, 35)


def test_a_copy_of_the_effect_is_born_by_its_own_layer():
    effect = Effect(id="e", layers=(SPARK, smoke()))
    twin = fresh_effect(Project(effects=(effect,)), effect)
    assert twin.layers[1].source.layer == twin.layers[0].id != "spark"


@pytest.mark.parametrize(
    ("layers", "text"),
    [
        ((SPARK, smoke(layer=None)), "pick the layer whose particles emit it"),
        ((SPARK, smoke(layer="gone")), "is not in this effect"),
        ((SPARK, smoke(layer="smoke")), "is not in this effect"),
        ((SPARK.evolve(disabled=True), smoke()), 'while "spark" is disabled'),
        ((SPARK.evolve(motion=Motion()), smoke(occasion=Occasion.CONTACT)), "collides with nothing"),
        ((SPARK, smoke(count=0)), "its count is 0"),
        ((SPARK, smoke().evolve(emission=Emission(rate=3))), "its own rate and bursts do nothing"),
        ((smoke().evolve(id="spark", source=OffspringSource(layer="smoke")), smoke()), "by itself in the end"),
    ],
)
def test_what_keeps_offspring_from_being_born_is_told(layers, text):
    project = Project(effects=(Effect(id="e", layers=layers),))
    assert any(text in finding.message for finding in check(project, {}))
    played(Player(project, {}), 3)


def test_what_is_born_is_not_told_off():
    start = Trigger(when=AtStart(), response=(StartEffect(effect="e"),))
    project = Project(effects=(Effect(id="e", layers=(SPARK, smoke())),), triggers=(start,))
    assert [f.message for f in check(project, {}) if "smoke" in f.location] == []


# ---- a metre --------------------------------------------------------------------------------------


def metred(way, rate=10.0, **emission):
    """Return the moments of all births along a way, given as metres of each step of 0.1 s."""
    emission, found, so_far = Emission(per_metre=rate, **emission), [], 0.0
    for n, metres in enumerate(way):
        ages = n / 10, (n + 1) / 10
        found += births_between(emission, None, *ages, moved=Moved(so_far, metres))[0].tolist()
        so_far += moved_within(emission, None, *ages, metres)
    return np.array(found)


def test_births_of_a_way_come_amid_their_share_of_it():
    np.testing.assert_allclose(metred([0.1, 0.2, 0.0, 0.3]), [0.05, 0.125, 0.175, 0.3 + 1 / 60, 0.35, 0.4 - 1 / 60])
    assert len(metred([0.0] * 9)) == 0
    assert len(metred([0.01] * 100)) == 10
    assert len(metred([0.049])) == 0
    np.testing.assert_allclose(metred([0.051]), [0.1 * 0.05 / 0.051])


def test_only_what_is_moved_within_the_window_counts():
    inside = metred([1.0] * 4, start=0.15, length=0.1)
    assert len(inside) == 10
    assert 0.15 < inside.min() < inside.max() < 0.25
    assert emission_end(Emission(per_metre=1, start=0.5, length=1.0), None) == 1.5
    assert emission_end(Emission(), None) == 0


def test_they_join_those_of_a_rate_in_order():
    both, total = births_between(Emission(rate=20, per_metre=30), None, 0.0, 0.1, moved=Moved(0.0, 0.1))
    np.testing.assert_allclose(both, [0, 0.1 / 6, 0.05, 0.05, 0.5 / 6], atol=1e-9)
    assert total == 5


def test_a_moving_anchor_bears_evenly_along_its_way(demo):
    layer = Layer(
        id="l", emission=Emission(per_metre=40, limit=5000), source=PointSource(), speed=Attribute.of(0),
        lifetime=Attribute.of(100),
    )  # fmt: skip
    project = demo.project.evolve(effects=(Effect(id="e", length=None, layers=(layer,)),), triggers=())
    player = Player(project, demo.characters)
    player.show.start(player.show.compiled.effects["e"], "left-fan-tip", 0.0)
    path = [player.show.anchor_at("left-fan-tip", 0)[:3, 3].copy()]
    for _ in range(120):
        player.show.advance()
        path.append(player.show.anchor_at("left-fan-tip", player.show.step_number)[:3, 3].copy())
    steps = np.linalg.norm(np.diff(path, axis=0), axis=1)
    pool = player.show.pools["l"]
    assert pool.count == int(steps.sum() * 40 + 0.5)
    order = np.argsort(-pool.columns.state[k.AGE, : pool.count])
    positions = pool.columns.state[k.PX : k.PZ + 1, : pool.count].T[order]
    gaps = np.linalg.norm(np.diff(positions, axis=0), axis=1)
    assert np.median(gaps) == pytest.approx(1 / 40, rel=0.02)
    assert gaps.max() < 1 / 40 + 1e-4  # a chord is no longer than its way
    copy = player.show.copy()
    digest = played(player, 30).digest()
    player.show.restore(copy)
    assert played(player, 30).digest() == digest


# ---- ending the oldest ----------------------------------------------------------------------------


def test_beyond_the_limit_the_oldest_end():
    layer = Layer(emission=Emission(limit=5, full=Full.END_OLDEST), **PLAIN)
    pool, program = born(layer, 3)
    held = pool.columns.identity[:3].tolist()
    pool.step(program, DT, 0.0, AIR)
    leads = np.zeros(4, np.float32)
    positions = AnchorPlaces.of(HOME, HOME)
    assert pool.emit(program, Line(np.uint64(7), 3, 0), leads, DT, AIR, positions) == 2  # four more, two fewer
    assert pool.count == 5
    assert pool.columns.identity[0] == held[2]
    assert pool.refused == 0
    pool.emit(program, Line(np.uint64(7), 7, 0), np.zeros(9, np.float32), DT, AIR, positions)
    assert (pool.count, pool.refused) == (5, 4)
    one, _ = born(layer.evolve(emission=Emission(limit=50)), 5, serial=11)
    np.testing.assert_array_equal(pool.columns.identity[:5], one.columns.identity[:5])  # the last five


def test_those_that_refuse_are_as_before():
    pool, _ = born(Layer(emission=Emission(limit=5), **PLAIN), 9)
    assert (pool.count, pool.refused) == (5, 4)


def test_a_trail_loses_its_oldest_with_their_past():
    layer = Layer(
        emission=Emission(limit=3, full=Full.END_OLDEST), speed=Attribute.of(1), lifetime=Attribute.of(50),
        look=RibbonLook(through=Through.PAST, past=0.1),
    )  # fmt: skip
    pool, program = born(layer, 3)
    for n in range(8):
        pool.step(program, DT, n * DT, AIR)
    last = pool.past.positions[2].copy()
    pool.emit(program, Line(np.uint64(7), 3, 0), np.zeros(2, np.float32), DT, AIR, AnchorPlaces.of(HOME, HOME))
    assert pool.past.positions.shape[0] == 3
    np.testing.assert_array_equal(pool.past.positions[0], last)
    assert (pool.past.positions[1:] == 0).all()


# ---- beginning anew, and limits that are worked out -----------------------------------------------


def test_an_emission_that_begins_anew_bears_the_same_again():
    once = Emission(rate=10, length=0.3, start=0.1, bursts=(Burst(time=0.2, count=2),))
    anew = once.evolve(loop=0.5)
    first, _ = births_between(once, None, 0.0, 0.5)
    found, total = births_between(anew, None, 0.0, 2.0)
    np.testing.assert_allclose(found, np.concatenate([first + 0.5 * n for n in range(4)]))
    assert total == len(found) == 4 * len(first)
    pieces = [births_between(anew, None, n / 60, (n + 1) / 60)[0] for n in range(120)]
    np.testing.assert_allclose(np.concatenate(pieces), found)
    assert len(births_between(anew, 0.75, 0.0, 9.0)[0]) == len(first) + 4
    assert emission_end(anew, None) == np.inf
    assert emission_end(anew, 3.0) == 3.0
    assert emission_end(Emission(loop=1.0), None) == 0


def test_chance_is_drawn_anew_in_each_turn():
    anew = Emission(bursts=(Burst(count=0, most=100),), loop=0.1)
    counts = [births_between(anew, None, n / 10, (n + 1) / 10, key=5)[1] for n in range(50)]
    assert len(set(counts)) > 25
    assert counts == [births_between(anew, None, n / 10, (n + 1) / 10, key=5)[1] for n in range(50)]


@pytest.mark.parametrize(
    ("emission", "lifetime", "length", "maximum"),
    [
        (Emission(rate=100), 2.0, None, 200),
        (Emission(rate=100), 2.0, 0.5, 50),
        (Emission(rate=100, length=0.1), 2.0, None, 10),
        (Emission(bursts=(Burst(count=30, repeats=5, interval=0.5),)), 1.2, None, 90),
        (Emission(bursts=(Burst(count=30, most=40),)), 9.0, 1.0, 40),
        (Emission(bursts=(Burst(count=30),), loop=1.0), 2.5, None, 120),
        (Emission(per_metre=10), 1.0, None, 100),
        (Emission(rate=1e6), 1e6, None, 400_000),
        (Emission(), 5.0, None, 0),
    ],
)
def test_how_many_may_live_is_worked_out(emission, lifetime, length, maximum):
    assert emission.max_alive(lifetime, length) == maximum
    assert emission.evolve(limit=None).bound(lifetime, length) == min(400_000, max(1, -(-3 * maximum // 2)))
    assert emission.evolve(limit=7).bound(lifetime, length) == 7


def test_a_worked_out_limit_refuses_nothing_and_follows_an_edit():
    layer = SPARK.evolve(emission=Emission(rate=90, limit=None, bursts=(Burst(count=40, repeats=3, interval=0.1),)))
    player = show_of(layer, length=2.0)
    show = played(player, 100)
    assert show.refused == 0
    assert show.pools["spark"].born > 200
    before = show.compiled.programs["spark"].limit
    longer = player.project.evolve(
        effects=(player.project.effects[0].evolve(layers=(layer.evolve(lifetime=Attribute.of(5)),)),)
    )
    player.adopt(longer)
    assert player.show.compiled.programs["spark"].limit > before
    assert [f.message for f in check(longer, {}) if "limit" in f.message] == []
