"""Lives as long as the firing, fades in seconds, and what becomes of living particles when it ends."""

from __future__ import annotations

import numpy as np
import pytest

from wraithon.particles.columns import AGE, HELD, LEAVING, LIFETIME, PX, RIDE_END, VX
from wraithon.particles.looks.batch import drawn_of
from wraithon.project.checks.finding import mended as remedied
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission, Full
from wraithon.project.ending import AtEnd, Ending
from wraithon.project.findings import check
from wraithon.project.life import Attribute, Curve, LifeMode
from wraithon.project.project import Project
from wraithon.project.source import PointSource, Riding
from wraithon.project.staging.actions import StartEffect, StopEffect
from wraithon.project.staging.trigger_kinds import AtStart, EverySeconds
from wraithon.project.trigger import Trigger
from wraithon.stage.player import Player

STEP = 1 / 60
WITHIN_STEP = 1.001 * STEP
ONCE = Emission(bursts=(Burst(count=3),))
HELD_LAYER = Layer(id="l", emission=ONCE, lifetime=Attribute.of(1.0), speed=Attribute.of(0.0), hold=0.5)
START = Trigger(id="start", when=AtStart(), response=(StartEffect(effect="e"),))


def playing(layer, *, length=None, stop=None, ending=None, seek=0.0, demo=None, anchor=None):
    effect = Effect(id="e", name="e", length=length, layers=(layer,))
    response = (StartEffect(effect="e", anchor=anchor),)
    triggers = [Trigger(id="start", when=AtStart(), response=response)]
    if stop is not None:
        stopping = (StopEffect(effect="e", after=stop, ending=ending),)
        triggers.append(Trigger(id="stop", when=AtStart(), response=stopping))
    project = (demo.project if demo else Project()).evolve(effects=(effect,), triggers=tuple(triggers))
    player = Player(project, demo.characters if demo else {})
    player.seek(seek)
    return player


def state(player, column):
    pool = player.show.pools["l"]
    return pool.columns.state[column, : pool.count]


def opacity(player):
    return drawn_of(player.show.pools["l"], player.show.compiled.programs["l"]).colours[:, 3]


def death(player, after=0.0):
    """Return the moment at which nothing lives any more."""
    player.seek(after + STEP)
    while player.show.alive and player.time < 60:
        player.step()
    return player.time


# ---- as long as the firing ----------------------------------------------------------------------


@pytest.mark.parametrize("seconds", [0.25, 0.5, 1.0, 30.0])
def test_it_ages_to_the_share_it_waits_at_and_no_further(seconds):
    player = playing(HELD_LAYER, seek=seconds)
    assert player.show.alive == 3
    np.testing.assert_allclose(state(player, AGE), min(seconds, 0.5), atol=1e-5)
    np.testing.assert_allclose(state(player, HELD), max(seconds - 0.5, 0.0), atol=1e-3)


@pytest.mark.parametrize("stop", [2.0, 2.004, 7.1])
def test_after_the_stop_it_lives_the_rest_of_its_life(stop):
    player = playing(HELD_LAYER, stop=stop)
    assert death(player, stop) == pytest.approx(stop + 0.5, abs=WITHIN_STEP)
    player.seek(stop + 0.25)
    np.testing.assert_allclose(state(player, AGE), 0.5 + player.time - stop, atol=1e-4)


def test_a_stop_before_it_waits_leaves_it_its_own_life():
    assert death(playing(HELD_LAYER, stop=0.2), 0.2) == pytest.approx(1.0, abs=WITHIN_STEP)


def test_the_end_of_a_duration_is_the_end_of_the_firing():
    assert death(playing(HELD_LAYER, length=3.0), 3.0) == pytest.approx(3.5, abs=WITHIN_STEP)


@pytest.mark.parametrize("hold", [0.0, 1.0])
def test_it_may_wait_at_birth_and_at_its_very_end(hold):
    player = playing(HELD_LAYER.evolve(hold=hold), stop=4.0, seek=3.9)
    np.testing.assert_allclose(state(player, AGE), hold, atol=1e-6)
    assert death(player, 4.0) == pytest.approx(4.0 + (1 - hold), abs=2 * STEP)


def test_without_it_it_lives_its_time():
    assert death(playing(HELD_LAYER.evolve(hold=None))) == pytest.approx(1.0, abs=WITHIN_STEP)


def test_births_of_different_moments_each_wait():
    layer = HELD_LAYER.evolve(emission=Emission(rate=10.0, length=1.0), lifetime=Attribute.of(0.6, 1.4))
    player = playing(layer, stop=5.0, seek=4.0)
    assert player.show.alive == 10
    np.testing.assert_allclose(state(player, AGE), 0.5 * state(player, LIFETIME), rtol=1e-6)
    player.seek(5.5)
    assert 0 < player.show.alive < 10


def test_seeking_stepping_and_editing_give_the_same_bytes():
    player, other = playing(HELD_LAYER, stop=2.0), playing(HELD_LAYER, stop=2.0, seek=5.0)
    for moment in (0.3, 1.7, 2.2):
        player.seek(moment)
        other.seek(moment)
        assert player.digest() == other.digest()
        fresh = playing(HELD_LAYER, stop=2.0, seek=moment)
        assert player.digest() == fresh.digest()
    player = playing(HELD_LAYER, seek=8.0)
    later = HELD_LAYER.evolve(hold=0.75)
    effect = Effect(id="e", name="e", length=None, layers=(later,))
    player.adopt(player.project.evolve(effects=(effect,)))
    assert player.mend()
    assert player.digest() == playing(later, seek=8.0).digest()


def test_a_warm_up_waits_too():
    layer = HELD_LAYER.evolve(emission=Emission(bursts=(Burst(count=3),), warm_up=4.0))
    player = playing(layer, seek=STEP)
    assert player.show.alive == 3
    np.testing.assert_allclose(state(player, AGE), 0.5, atol=1e-5)


def test_what_the_limit_ends_is_ended_though_it_waits():
    layer = HELD_LAYER.evolve(emission=Emission(rate=10.0, limit=5, full=Full.END_OLDEST))
    player = playing(layer, seek=3.0)
    assert player.show.alive == 5


def test_wobble_spin_and_frames_go_on_while_it_waits():
    layer = HELD_LAYER.evolve(turn=Attribute.of(0.0), spin=Attribute.of(90.0))
    player = playing(layer, seek=4.0)
    turns = drawn_of(player.show.pools["l"], player.show.compiled.programs["l"]).turns
    np.testing.assert_allclose(turns, np.radians(360.0), rtol=1e-4)
    halved = layer.evolve(spin=Attribute(birth={"low": 90.0, "high": 90.0}, life=Curve.through((0, 1), (1, 1))))
    player = playing(halved, seek=4.0)
    turns = drawn_of(player.show.pools["l"], player.show.compiled.programs["l"]).turns
    np.testing.assert_allclose(turns, np.radians(360.0), rtol=1e-3)


def test_the_curves_of_life_stand_still():
    fading = Attribute(birth={"low": 1.0, "high": 1.0}, life=Curve.through((0, 0), (1, 1)), mode=LifeMode.SCALE)
    layer = HELD_LAYER.evolve(opacity=fading)
    np.testing.assert_allclose(opacity(playing(layer, seek=20.0)), 0.5, atol=0.01)


# ---- what becomes of it at the end ---------------------------------------------------------------


FLYING = HELD_LAYER.evolve(hold=None, lifetime=Attribute.of(10.0))


def test_it_is_killed_in_the_step_of_the_stop():
    layer = FLYING.evolve(ending=Ending(what=AtEnd.KILL))
    assert playing(layer, stop=2.0, seek=2.0).show.alive == 3
    assert playing(layer, stop=2.0, seek=2.0 + STEP).show.alive == 0
    assert playing(layer, length=2.0, seek=2.0 + STEP).show.alive == 0


@pytest.mark.parametrize("hold", [None, 0.05])
def test_it_fades_out_in_the_seconds_given(hold):
    layer = FLYING.evolve(ending=Ending(what=AtEnd.FADE, seconds=0.8), hold=hold)
    player = playing(layer, stop=2.0, seek=2.4)
    np.testing.assert_allclose(state(player, LEAVING), 0.5, atol=1e-3)
    np.testing.assert_allclose(opacity(player), 0.5, atol=1e-3)
    assert death(player, 2.4) == pytest.approx(2.8, abs=WITHIN_STEP)
    if hold is not None:
        player.seek(2.4)
        np.testing.assert_allclose(state(player, AGE), 0.5, atol=1e-5)  # what fades waits on


def test_fading_in_no_time_is_death():
    layer = FLYING.evolve(ending=Ending(what=AtEnd.FADE, seconds=0.0))
    assert playing(layer, stop=2.0, seek=2.0 + STEP).show.alive == 0


def test_a_stop_may_say_otherwise_than_the_layer():
    layer = FLYING.evolve(ending=Ending(what=AtEnd.KILL))
    fading = playing(layer, stop=1.0, ending=Ending(what=AtEnd.FADE, seconds=2.0), seek=2.0)
    np.testing.assert_allclose(opacity(fading), 0.5, atol=1e-3)
    assert playing(layer, stop=1.0, ending=Ending(), seek=9.9).show.alive == 3
    killed = playing(FLYING, stop=1.0, ending=Ending(what=AtEnd.KILL), seek=1.0 + STEP)
    assert killed.show.alive == 0


def test_riders_are_released_where_their_firing_ends(demo):
    riding = PointSource(riding=Riding(share=1.0, keep=1.0))
    layer = FLYING.evolve(source=riding, ending=Ending(what=AtEnd.RELEASE))
    anchor = demo.project.character.anchors[0].id
    before = playing(layer, stop=1.0, seek=1.0, demo=demo, anchor=anchor)
    assert (state(before, RIDE_END) > 0).all()
    after = playing(layer, stop=1.0, seek=1.5, demo=demo, anchor=anchor)
    assert (state(after, RIDE_END) < 0).all()
    free = state(after, PX).copy()
    later = playing(layer, stop=1.0, seek=1.75, demo=demo, anchor=anchor)
    np.testing.assert_allclose(state(later, PX), free + 0.25 * state(after, VX), atol=1e-3)
    bound = playing(layer.evolve(ending=Ending()), stop=1.0, seek=1.75, demo=demo, anchor=anchor)
    assert (state(bound, RIDE_END) > 0).all()


def test_many_small_layers_with_and_without_endings_play_like_each_alone():
    layers = [
        FLYING.evolve(id=f"l{k}", ending=Ending(what=what, seconds=0.5), hold=0.02 * k or None)
        for k, what in enumerate([*AtEnd, *AtEnd])
    ]
    stop = Trigger(id="stop", when=AtStart(), response=(StopEffect(effect="e", after=1.0),))

    def living(chosen):
        effect = Effect(id="e", name="e", length=None, layers=tuple(chosen))
        player = Player(Project(effects=(effect,), triggers=(START, stop)), {})
        player.seek(1.3)
        return {key: (pool.count, pool.columns.state[:, : pool.count]) for key, pool in player.show.pools.items()}

    together = living(layers)
    for layer in layers:
        count, columns = living([layer])[layer.id]
        assert together[layer.id][0] == count
        np.testing.assert_array_equal(together[layer.id][1], columns)


# ---- fades in seconds ----------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("moment", "wanted"), [(0.1, 0.5), (0.2, 1.0), (1.0, 1.0), (1.5, 1.0), (1.75, 0.5), (1.9, 0.2)]
)
def test_it_appears_and_goes_within_seconds(moment, wanted):
    layer = FLYING.evolve(lifetime=Attribute.of(2.0), fade_in=0.2, fade_out=0.5)
    np.testing.assert_allclose(opacity(playing(layer, seek=moment)), wanted, atol=1e-3)


def test_fades_hold_whatever_the_lifetime():
    layer = FLYING.evolve(lifetime=Attribute.of(600.0), fade_in=0.2)
    np.testing.assert_allclose(opacity(playing(layer, seek=1.0)), 1.0)


def test_what_waits_goes_in_its_last_seconds():
    layer = HELD_LAYER.evolve(fade_in=0.25, fade_out=0.5)
    player = playing(layer, stop=5.0, seek=4.0)
    np.testing.assert_allclose(opacity(player), 1.0)
    player.seek(5.25)
    np.testing.assert_allclose(opacity(player), 0.5, atol=1e-3)


def test_firings_one_after_the_other_end_each_by_itself():
    again = Trigger(id="again", when=EverySeconds(seconds=1.0), response=(StartEffect(effect="e"),))
    effect = Effect(id="e", name="e", length=2.5, layers=(HELD_LAYER,))
    player = Player(Project(effects=(effect,), triggers=(again,)), {})
    player.seek(6.0)
    ages = [firing.start for firing in player.show.firings.values()]
    assert all(player.time - start <= 3.0 + STEP for start in ages)
    assert player.show.alive == 3 * len(ages)


# ---- what is told --------------------------------------------------------------------------------


def told(layer, *, length=None):
    effect = Effect(id="e", name="e", length=length, layers=(layer,))
    found = check(Project(effects=(effect,)), {})
    return {f.message: f.remedy for f in found if f.about in {"l", "e"}}


def mended(layer, message, **named):
    """Return the layer after the button of a finding was pressed."""
    effect = Effect(id="e", name="e", length=named.get("length"), layers=(layer,))
    remedy = told(layer, **named)[message]
    return remedied(Project(effects=(effect,)), remedy).effects[0].layers[0]


@pytest.mark.parametrize(("lifetime", "wanted"), [(10.2, 0), (10.21, 1), (600.0, 1)])
def test_a_curve_that_takes_long_to_be_seen_is_told_from_half_a_second_on(lifetime, wanted):
    rising = Attribute.of(1.0, 1.0, Curve.through((0, 0), (0.98, 1), (1, 1)))
    layer = FLYING.evolve(opacity=rising, lifetime=Attribute.of(lifetime))
    assert sum("for the first" in message for message in told(layer)) == wanted


def test_what_is_told_of_a_slow_curve_is_mended_by_a_fade_in_seconds():
    rising = Attribute.of(1.0, 1.0, Curve.through((0, 0), (0.2, 1), (1, 0.8)))
    layer = FLYING.evolve(opacity=rising, lifetime=Attribute.of(600.0))
    message = "its opacity is below 5% for the first 6 s of 600 s of life"
    better = mended(layer, message)
    assert better.fade_in == 0.2
    assert better.opacity.life == Curve.through((0, 1), (0.2, 1), (1, 0.8))
    assert not any("below" in each for each in told(better))
    np.testing.assert_allclose(opacity(playing(better, seek=1.0)), 1.0, atol=0.01)


def test_a_long_unseen_end_is_told():
    falling = Attribute.of(1.0, 1.0, Curve.through((0, 1), (0.5, 0), (1, 0)))
    layer = FLYING.evolve(size=falling, lifetime=Attribute.of(4.0))
    (message,) = (message for message in told(layer) if "for the last" in message)
    assert message == (
        "its size is below 5% for the last 2.1 s of 4 s of life: it lives on unseen; shorten its lifetime, or let the"
        " curve end later"
    )
    assert not any("below" in message for message in told(layer.evolve(lifetime=Attribute.of(0.9))))


def test_what_is_unseen_where_it_is_held_is_told_and_held_elsewhere():
    fading = Attribute.of(1.0, 1.0, Curve.through((0, 1), (0.5, 0), (1, 0)))
    layer = HELD_LAYER.evolve(opacity=fading, lifetime=Attribute.of(0.9))
    message = "it is unseen while it waits: its opacity at 50% of life is below 5%"
    assert mended(layer, message, length=2.0).hold == 0.0


def test_what_piles_up_until_the_effect_ends_is_told():
    layer = HELD_LAYER.evolve(emission=Emission(rate=20.0, limit=100))
    message = (
        "its particles live until the effect ends, and 20 more are emitted a second: the limit of 100 is reached"
        " after 5.0 s"
    )
    better = mended(layer, message)
    assert better.emission.length == 1.0
    assert message not in told(better)
    assert message not in told(layer, length=1.0)
    assert message not in told(layer.evolve(hold=None))


def test_fades_that_are_longer_than_life_are_told_and_shortened():
    layer = FLYING.evolve(lifetime=Attribute.of(0.5, 2.0), fade_in=0.4, fade_out=0.6)
    message = "it is never fully seen: it appears for 0.4 s and fades for 0.6 s, but lives for 0.5 s"
    better = mended(layer, message)
    assert (better.fade_in, better.fade_out) == (0.1, 0.15)
    assert not any("never fully" in each for each in told(better))
    assert not any("never fully" in each for each in told(layer.evolve(hold=0.5), length=1.0))


def test_an_endless_effect_that_is_held_has_no_end():
    again = Trigger(id="again", name="again", when=EverySeconds(seconds=1.0), response=(StartEffect(effect="e"),))

    def endless(layer):
        project = Project(effects=(Effect(id="e", name="e", length=None, layers=(layer,)),), triggers=(again,))
        return any("it has no end" in f.message for f in check(project, {}))

    assert endless(HELD_LAYER)
    assert not endless(HELD_LAYER.evolve(hold=None))
