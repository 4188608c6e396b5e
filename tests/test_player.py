"""The player at exact steps: carrying, seeking from copies, inputs, the trace, and what is said of empty sources."""

import numpy as np
import pytest

from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute
from wraithon.project.project import Project
from wraithon.project.source import SkinSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage import player as module
from wraithon.stage.player import Player
from wraithon.support.errors import ProjectError

LAYER = Layer(id="l", name="l", emission=Emission(rate=30, limit=1000), lifetime=Attribute.of(0.5))
EFFECT = Effect(id="e", name="e", length=None, layers=(LAYER,))
POP = Effect(
    id="pop", name="pop", length=0.0, layers=(LAYER.evolve(id="p", emission=Emission(bursts=(Burst(count=7),))),)
)


def player_of(rate=60, effects=(EFFECT, POP)):
    trigger = Trigger(id="t", when=AtStart(), response=(StartEffect(effect="e"),))
    return Player(Project(seed=3, step_rate=rate, effects=effects, triggers=(trigger,)), {})


def counted(player):
    """Have a player note each step it takes."""
    taken = []
    step = player.step
    player.step = lambda: (taken.append(player.show.step_number), step())[1]
    return taken


@pytest.mark.parametrize(("seconds", "steps"), [(0.0, 0), (1 / 60, 1), (0.9 / 60, 0), (2.5 / 60, 2), (1.0, 60)])
def test_whole_steps_are_taken(seconds, steps):
    player = player_of()
    assert player.advance(seconds) == steps
    assert player.show.step_number == steps


def test_what_is_left_over_is_carried():
    player = player_of()
    assert [player.advance(0.4 / 60) for _ in range(5)] == [0, 0, 1, 0, 1]
    assert player.advance(-1.0) == 0
    assert player.advance(0.99 / 60) == 0


@pytest.mark.parametrize(
    ("time", "step"), [(-1, 0), (0, 0), (0.49 / 60, 0), (0.51 / 60, 1), (2.0, 120), (1e9, 86400 * 60)]
)
def test_a_moment_is_the_nearest_step_within_a_day(time, step):
    assert player_of().step_of(time) == step
    assert module.LONGEST == 86400


def test_copies_are_kept_every_half_second():
    player = player_of()
    player.seek(1.6)
    assert list(player._copies) == [0, 30, 60, 90]
    assert player._copied == sum(copy.size for copy in player._copies.values())


def test_seeking_back_starts_from_the_copy_before_and_ahead_from_here():
    player = player_of()
    player.seek(2.0)
    taken = counted(player)
    player.seek(1.1)
    assert taken == list(range(60, 66))
    taken.clear()
    player.seek(1.2)
    assert taken == list(range(66, 72))
    taken.clear()
    player.seek(2.0)
    assert taken == []
    player.seek(1.0)
    assert player.show.step_number == 60


def test_a_long_way_ahead_uses_a_copy_that_lies_between():
    player = player_of()
    player.seek(3.0)
    player.seek(0.2)
    taken = counted(player)
    player.seek(2.75)
    assert taken == list(range(150, 165))


def test_seeking_goes_in_slices():
    player = player_of()
    assert not player.seek_some(50, 20)
    assert player.show.step_number == 20
    assert not player.seek_some(50, 20)
    assert player.seek_some(50, 20)
    assert player.show.step_number == 50
    assert player.seek_some(50, 20)


def test_copies_are_thinned_out_in_the_middle_within_their_memory(monkeypatch):
    size = player_of()._copies[0].size
    monkeypatch.setattr(Player, "copy_bytes", size * 4)
    player = player_of(effects=())
    player.seek(5.0)
    assert player._copied <= size * 4
    assert min(player._copies) == 0
    assert max(player._copies) == 300
    assert len(player._copies) == 4
    assert player._copied == sum(copy.size for copy in player._copies.values())


def test_two_copies_stay_however_large(monkeypatch):
    monkeypatch.setattr(Player, "copy_bytes", 1)
    player = player_of()
    player.seek(2.0)
    assert len(player._copies) == 2
    assert min(player._copies) == 0


def test_inputs_are_played_again_ahead_and_forgotten_behind():
    player = player_of()
    player.seek(0.5)
    player.fire(POP, None)
    player.step()
    assert len(player.show.history()) == 2
    assert player.show.pools["p"].count == 7
    player.seek(0.8)
    player.seek(0.6)
    assert sum(r.effect == "pop" for r in player.show.history()) == 1
    player.seek(0.5)
    player.seek(0.6)
    assert sum(r.effect == "pop" for r in player.show.history()) == 0


def test_an_input_forgets_the_copies_and_counts_after_it():
    player = player_of()
    player.seek(2.0)
    player.seek(0.75)
    player.fire(POP, None)
    assert list(player._copies) == [0, 30]
    assert player._copied == sum(copy.size for copy in player._copies.values())
    times, _ = player.trace()
    assert times.max() == pytest.approx(0.75)


def test_the_trace_holds_each_step_once_and_thins_out_beyond_what_is_wanted():
    player = player_of()
    player.seek(1.0)
    times, alive = player.trace()
    np.testing.assert_allclose(times, np.arange(61) / 60)
    assert alive[0] == 0
    assert alive[-1] == player.show.alive
    times, _ = player.trace(maximum=20)
    assert len(times) == 16  # every fourth
    assert len(player.trace(maximum=61)[0]) == 61


def test_the_trace_grows_with_the_show():
    player = player_of(rate=480)
    player.seek(3.0)
    assert len(player.trace(maximum=10_000)[0]) == 1441


def test_an_edit_at_the_very_beginning_is_pure():
    player = player_of()
    player.adopt(player.project.evolve(effects=(EFFECT.evolve(length=1.0), POP)))
    assert player.pure
    assert list(player._copies) == [0]


def test_an_edit_later_forgets_what_was_kept_until_it_is_sought():
    player = player_of()
    player.seek(1.0)
    player.adopt(player.project.evolve(seed=4))
    assert (player.pure, list(player._copies), player._copied) == (False, [], 0)
    player.advance(0.6)
    assert list(player._copies) == []  # what is not exact is not kept
    player.seek(1.0)
    assert player.pure
    assert list(player._copies) == [0, 30, 60]


def test_rewinding_goes_to_the_very_beginning():
    player = player_of()
    player.seek(1.0)
    player.rewind()
    assert (player.time, player.show.alive) == (0.0, 0)


def test_sources_that_filters_leave_nothing_of_are_told(demo):
    found = demo.project.effects[0]
    bare = found.layers[0].evolve(source=SkinSource(parts=("mask",), joints={"names": ("left foot",)}))
    player = Player(demo.project.evolve(effects=(found.evolve(layers=(bare,)),)), demo.characters)
    (said,) = player.problems()
    assert said == "plume drift, feathers: its filters leave nothing of the character to emit from; loosen them"
    assert Player(demo.project, demo.characters).problems() == []


def test_anchors_are_those_of_the_character_on_stage(demo):
    player = Player(demo.project, demo.characters)
    assert player.anchors().keys() == {anchor.id for anchor in demo.project.character.anchors}
    assert player_of().anchors() == {}


def test_an_edit_of_the_course_forgets_the_whole_trace_but_its_beginning():
    player = player_of()
    player.seek(0.5)
    player.adopt(player.project.evolve(seed=4))
    times, alive = player.trace()
    assert times.tolist() == [0.0]
    assert alive.tolist() == [0]


@pytest.mark.parametrize("allowed", [0, 1])
def test_copies_are_thinned_out_to_the_beginning_and_the_latest(monkeypatch, allowed):
    monkeypatch.setattr(Player, "copy_bytes", allowed)
    player = player_of()
    for seconds in (0.5, 1.0, 3.0):
        player.seek(seconds)
    assert list(player._copies) == [0, 180]
    assert player._copied == sum(copy.size for copy in player._copies.values())


def test_a_copy_of_the_very_step_something_is_fired_in_stays():
    """It holds what was before the firing, which is played again on the way on, and forgotten on going back to it."""
    player = player_of()
    player.seek(0.5)
    player.fire(POP, None)
    assert 30 in player._copies
    player.seek(0.6)
    assert player.show.alive == 21
    player.seek(0.55)
    player.seek(0.6)
    assert player.show.alive == 21
    player.seek(0.5)
    player.seek(0.6)
    assert player.show.alive == 14


# ---- calls that name what is not there --------------------------------------------------------------


@pytest.mark.parametrize(
    ("call", "text"),
    [
        (
            lambda p: p.fire("rain-veli", None),
            'there is no effect "rain-veli"; did you mean "rain-veil" (rain veil)?',
        ),
        (
            lambda p: p.fire("thunder stamp", None),
            'there is no effect "thunder stamp"; did you mean "thunder-stamp" (thunder stamp)?',
        ),
        (lambda p: p.respond("on-strikes"), 'there is no trigger "on-strikes"; did you mean'),
        (lambda p: p.act("leep"), 'there is no act "leep"; did you mean "leap"?'),
        (lambda p: p.act("qqq"), 'there is no act "qqq"; it is one of "fall", "leap", "rise", "strike"'),
        (lambda p: p.key("F1"), '"F1" is no key that triggers wait for: give one letter or digit'),
        (lambda p: p.key(""), '"" is no key that triggers wait for: give one letter or digit'),
        (
            lambda p: p.hit("rain skrit", (0, 1, 0)),
            'there is no part "rain skrit"; did you mean "rain skirt" or "mask"?',
        ),
        (lambda p: p.signal("helth", 0.5), 'there is no signal that can be set "helth"; did you mean "health"?'),
        (lambda p: p.advance(float("nan")), "advance takes a finite number of seconds, not nan"),
        (lambda p: p.advance(float("inf")), "advance takes a finite number of seconds, not inf"),
        (lambda p: p.seek(float("nan")), "seek takes a finite number of seconds, not nan"),
    ],
)
def test_a_call_that_names_what_is_not_there_says_so_and_changes_nothing(demo, call, text):
    player = Player(demo.project, demo.characters)
    with pytest.raises(ProjectError) as raised:
        call(player)
    assert str(raised.value).startswith(text)
    assert (player._inputs, player.show.step_number) == ({}, 0)


def test_without_anything_of_a_kind_that_is_said():
    with pytest.raises(ProjectError, match=r'^there is no effect "x"; there is none at all$'):
        Player(Project(), {}).fire("x", None)


def test_a_player_without_the_projects_character_says_what_to_pass(demo):
    name = demo.project.character.name
    with pytest.raises(ProjectError) as raised:
        Player(demo.project, {})
    assert str(raised.value) == (
        f'the project\'s character "{name}" was not given: pass what wraithon.stage.loading.load read, or'
        " partial=True to play without it"
    )
    alone = Player(demo.project, {}, partial=True)
    alone.seek(0.5)
    assert alone.frame().body is None
