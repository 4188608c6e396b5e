"""What responses do beside starting effects, and what triggers hear of a driven character."""

import numpy as np
import pytest

from wraithon.project.binding import Masters
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, Curve
from wraithon.project.staging.actions import (
    ColourShift,
    Dissolving,
    Hide,
    HoldStill,
    LogLine,
    OnGroundKind,
    PlayClip,
    PlaySound,
    Scaling,
    SetSignal,
    Shake,
    SlowMotion,
    StartEffect,
    StopEffect,
    WaitFor,
)
from wraithon.project.staging.driving import Signal
from wraithon.project.staging.ground import Block
from wraithon.project.staging.trigger_kinds import AtStart, Never, OnEnd, OnHit, OnKey, OnSignal, OnState
from wraithon.project.trigger import Often, Only, Strength, Trigger
from wraithon.stage.player import Player
from wraithon.stage.triggering.screen_effects import ScreenEffects
from wraithon.stage.triggering.strengths import LEVELS, at_level

PUFF = Effect(
    id="puff", name="puff", length=0.1,
    layers=(Layer(id="p", emission=Emission(bursts=(Burst(count=8),)), lifetime=Attribute.of(0.4)),),
)  # fmt: skip
TWICE = Scaling(what="amount", curve=Curve.through((0, 0), (1, 2)))
LEDGE = Block(id="ledge", place=(0.0, 0.0), size=(3.0, 3.0), height=1.5)


@pytest.fixture
def played(demo):
    """Play her with some triggers, driven by hand or not."""

    def play(*triggers, driven=True, pieces=(), signals=(), effects=(PUFF,)):
        stage = demo.project.stage.evolve(pieces=pieces)
        project = demo.project.evolve(effects=effects, triggers=triggers, stage=stage, signals=signals)
        return Player(project, demo.characters, driven=driven)

    return play


def on(when, *steps, **more):
    return Trigger(id="t", name="t", when=when, response=steps, **more)


def fired(player):
    state = player.show.triggers.states.get("t")
    return state.fired if state else 0


# ---- what is heard --------------------------------------------------------------------------------


def test_a_key_is_heard_once_for_each_press(played):
    player = played(on(OnKey(key="3"), StartEffect(effect="puff")))
    for _ in range(3):
        player.key("3")
        player.advance(0.5)
    player.key("4")
    player.advance(0.5)
    assert fired(player) == 3


@pytest.mark.parametrize(("falls", "times"), [(False, 2), (True, 2)])
def test_a_signal_is_heard_as_it_comes_over_or_under_a_value_and_not_while_it_stays_there(played, falls, times):
    player = played(on(OnSignal(signal="speed", value=1.0, falls=falls), LogLine(text="now")))
    for _ in range(2):
        player.steer(0, 1)
        player.advance(1.5)
        player.steer(0, 0)
        player.advance(1.0)
    assert fired(player) == times
    (time, _), *_ = player.show.log
    assert time == pytest.approx(1.5 + (1.35 - 1) / (7 * 1.6) if falls else 1 / 7, abs=1 / 60)


def test_signals_of_ones_own_and_health_are_given_from_outside_and_set_by_steps(played):
    rage = Signal(id="rage", name="rage", high=10.0, value=2.0)
    player = played(on(OnSignal(signal="rage", value=5.0), SetSignal(signal="health", value=0.25)), signals=(rage,))
    assert player.show.signals(0)["rage"] == 2.0
    player.signal("rage", 7.5)
    player.advance(0.1)
    number = player.show.step_number
    assert (player.show.signals(number)["rage"], player.show.signals(number)["health"]) == (7.5, 0.25)
    assert fired(player) == 1
    player.seek(0.05)
    player.seek(0.1)
    assert player.show.signals(player.show.step_number)["health"] == 0.25


def test_states_are_heard_as_they_begin_and_end(played):
    player = played(on(OnState(state="running"), LogLine(text="runs")))
    player.steer(0, 1, fast=True)
    player.advance(1.5)
    player.steer(0, 0)
    player.advance(1.0)
    assert fired(player) == 1
    leaves = played(on(OnState(state="standing", leaves=True), LogLine(text="goes")))
    leaves.advance(0.5)
    assert fired(leaves) == 0
    leaves.steer(0, 1)
    leaves.advance(0.5)
    assert fired(leaves) == 1


def test_the_end_of_an_effect_is_heard_where_it_was(played):
    last = Trigger(id="t", name="t", when=OnEnd(effect="puff"), response=(LogLine(text="over"),))
    first = Trigger(id="first", when=AtStart(), response=(StartEffect(effect="puff", anchor="heart"),))
    player = played(first, last)
    player.advance(1.0)
    assert fired(player) == 1
    ((time, label),) = player.show.log
    assert label == "over"
    assert 0.4 <= time <= 0.45
    assert player.show.triggers.responses[-1].anchor == "heart"


# ---- only if, and how strongly -----------------------------------------------------------------------


def test_only_on_a_kind_of_ground_on_the_ground_and_within_a_signals_range(played):
    moss = Block(kind="moss", place=(0.0, 2.0), size=(4.0, 1.0))
    steps = Trigger(
        id="t", name="t", when=OnKey(key="1"), only=Only(grounds=("moss",)), response=(LogLine(text="moss"),)
    )  # fmt: skip
    player = played(steps, pieces=(moss,))
    player.key("1")
    player.advance(0.1)
    assert player.show.triggers.refusals[-1].reason == "the ground there is wet slate, which is none of its kinds"
    player.steer(0, 1)
    player.advance(1.5)
    player.key("1")
    player.advance(0.1)
    assert fired(player) == 1
    air = played(on(OnKey(key="1"), LogLine(text="up"), only=Only(where="in the air")))
    air.key("1")
    air.advance(0.1)
    assert air.show.triggers.refusals[-1].reason == "the character is on the ground"
    air.act("leap")
    air.advance(0.7)
    air.key("1")
    air.advance(0.1)
    assert fired(air) == 1
    weak = played(on(OnKey(key="1"), LogLine(text="weak"), only=Only(signal="health", least=0.0, most=0.3)))
    weak.key("1")
    weak.advance(0.1)
    assert weak.show.triggers.refusals[-1].reason == "its signal is 1.00, not 0 to 0.3"
    weak.signal("health", 0.3)
    weak.key("1")
    weak.advance(0.1)
    assert fired(weak) == 1


def landed(played, height):
    """Have her run off a ledge; return how her hard landing was responded to."""
    ring = Trigger(
        id="t", name="t", when=OnState(state="landing"), strength=Strength(low=2.0, high=8.0),
        only=Only(signal="falling speed", least=3.5, most=100.0),
        response=(StartEffect(effect="puff", scalings=(TWICE,)),),
    )  # fmt: skip
    player = played(ring, pieces=(LEDGE.evolve(height=height),))
    player.steer(0, 1, fast=True)
    player.advance(2.0)
    return player.show.born, fired(player)


def test_a_landing_counts_only_above_a_falling_speed_and_the_more_the_higher(played):
    (none, never), (some, once), (more, again) = (landed(played, height) for height in (0.45, 1.0, 2.5))
    assert (none, never) == (0, 0)
    assert (once, again) == (1, 1)
    assert 0 < some < more


def test_strength_goes_through_its_curve_at_exact_levels():
    step = StartEffect(effect="e", scalings=(
        Scaling(what="size", curve=Curve.through((0, 0.5), (1, 2.0))), Scaling(what="opacity"),
        Scaling(what="brightness", curve=Curve.through((0, 1), (1, 3))),
    ))  # fmt: skip
    assert at_level(step, Masters(), 0) == Masters(size=0.5, opacity=0.3)
    full = at_level(step, Masters(size=2.0), LEVELS)
    assert (full.size, full.opacity, full.tint) == (4.0, 1.0, (3.0, 3.0, 3.0))
    assert Strength(low=2, high=8).share(5.0) == 0.5
    assert Strength(low=2, high=2).share(2.0) == 1.0
    assert Strength(low=2, high=8).share(-9) == 0.0


def test_another_effect_or_tint_is_started_on_another_ground(played):
    splash = PUFF.evolve(id="splash", layers=(PUFF.layers[0].evolve(id="s"),))
    grounds = (OnGroundKind(ground="puddle", effect="splash"), OnGroundKind(ground="moss", tint=(0, 1, 0)))
    step = StartEffect(effect="puff", grounds=grounds)
    player = played(on(OnKey(key="1"), step), effects=(PUFF, splash))
    shown = []
    for ground in ("slate", "puddle", "moss"):
        player.respond("t", 1.0, ground)
        player.advance(0.2)
        shown.append(player.show.history()[-1])
    assert [record.shown for record in shown] == ["puff", "splash", "puff"]
    assert shown[2].effect != "puff"


# ---- what is done ------------------------------------------------------------------------------------


def test_a_fall_dissolves_and_removes_her_and_nothing_that_follows_her_goes_on(played):
    endless = PUFF.evolve(
        id="cloak", length=None, layers=(PUFF.layers[0].evolve(id="c", emission=Emission(rate=60)),)
    )
    fall = on(
        OnKey(key="1"), PlayClip(clip="fall"), Dissolving(to=1.0, seconds=1.0, after=0.5), WaitFor(), Hide(after=0.2),
        LogLine(text="gone", after=0.2),
    )  # fmt: skip
    start = Trigger(id="s", when=AtStart(), response=(StartEffect(effect="cloak"),))
    player = played(fall, start, effects=(PUFF, endless))
    player.advance(0.5)
    player.key("1")
    player.advance(1.0)
    assert player.show.actor.clip_at(player.time) == "fall"
    assert player.show.actor.dissolved_at(player.time) == pytest.approx(0.5, abs=0.35)
    assert player.frame().body is not None
    player.advance(1.5)
    assert player.frame().body is None
    assert [label for _, label in player.show.log] == ["gone"]
    assert player.show.log[0][0] == pytest.approx(0.5 + 2.0 + 0.2, abs=2 / 60)
    player.advance(1.0)
    assert player.show.firings == {}
    assert player.show.alive == 0
    player.act("rise")
    player.advance(1.0)
    assert player.frame().body is not None


def test_a_clip_is_played_in_the_running_order_too_which_then_goes_on(played, demo):
    player = played(on(OnKey(key="1"), PlayClip(clip="strike")), driven=False)
    player.advance(0.5)
    order = player.show.actor.position_at(0.5)
    player.key("1")
    player.advance(1.0)
    assert player.show.actor.clip_at(1.5) == "strike"
    player.advance(1.5)
    assert player.show.actor.clip_at(3.0) == "walk"
    assert player.show.actor.position_at(3.0)[2] > order[2]
    digest = player.digest()
    again = played(on(OnKey(key="1"), PlayClip(clip="strike")), driven=False)
    again.advance(0.5)
    again.key("1")
    again.advance(0.5)
    again.advance(2.0)
    assert again.digest() == digest


def test_taken_away_in_the_running_order_she_is_there_again_with_the_next_clip(played):
    player = played(on(OnKey(key="1"), Hide()), driven=False)
    player.advance(0.5)
    player.key("1")
    player.advance(0.4)
    assert player.frame().body is None
    player.advance(0.3)  # the walk's second pass has begun
    assert player.frame().body is not None
    assert player.show.actor.clip_at(player.time) == "walk"


def test_she_is_held_still_and_what_cannot_be_played_is_said(played):
    player = played(on(OnKey(key="1"), HoldStill(seconds=0.5), PlayClip(clip="nothing")))
    player.steer(0, 1)
    player.advance(1.0)
    player.key("1")
    player.advance(2 / 60)
    z = player.show.actor.position_at(player.time)[2]
    player.advance(0.4)
    assert player.show.actor.position_at(player.time)[2] == z
    player.advance(0.5)
    assert player.show.actor.position_at(player.time)[2] > z + 0.1
    assert player.show.triggers.refusals[-1].reason == "the character has no clip nothing"


def test_shaking_tinting_and_slowing_wear_off_exactly():
    screen = ScreenEffects().with_("shakes", 1.0, 0.5, (2.0,)).with_("tints", 1.0, 0.5, (3.0, 1.0, 0.0))
    screen = screen.with_("slows", 1.0, 0.25, (0.5,))
    assert np.hypot(*screen.shake_at(1.0)) == pytest.approx(2.0)
    assert screen.tint_at(1.25) == pytest.approx((2.0, 1.0, 0.5))
    assert (screen.tempo_at(1.2), screen.tempo_at(1.25)) == (0.5, 1.0)
    assert (screen.shake_at(1.5), screen.tint_at(1.5)) == ((0.0, 0.0), (1.0, 1.0, 1.0))
    assert ScreenEffects().with_("shakes", 0.0, 0.0, (2.0,)) == ScreenEffects()
    many = ScreenEffects()
    for k in range(100):
        many = many.with_("shakes", k / 100, 9.0, (1.0,))
    assert len(many.shakes) == 16


def test_a_wait_for_a_signal_lasts_until_it_comes(played):
    player = played(on(OnKey(key="1"), WaitFor(signal="speed", value=1.0), LogLine(text="fast")))
    player.key("1")
    player.advance(1.0)
    assert player.show.log == []
    held = player.show.copy()
    player.steer(0, 1)
    player.advance(0.5)
    assert [label for _, label in player.show.log] == ["fast"]
    player.show.restore(held)
    assert player.show.log == []


def test_a_response_by_hand_has_the_strength_it_is_tried_with(played):
    step = StartEffect(effect="puff", scalings=(TWICE,))
    born = []
    for strength in (0.0, 0.5, 1.0):
        player = played(on(Never(), step, Shake(degrees=1.0)))
        player.respond("t", strength)
        player.advance(0.2)
        born.append(player.show.born)
    assert born == [0, 8, 16]


def test_a_picture_is_shaken_and_tinted(played):
    player = played(on(OnKey(key="1"), Shake(degrees=2.0, seconds=1.0), ColourShift(colour=(2, 1, 0.5), seconds=1.0),
                       SlowMotion(tempo=0.25, seconds=1.0)))  # fmt: skip
    player.key("1")
    player.advance(0.1)
    frame = player.frame()
    assert np.hypot(*frame.shake) > 0.5
    assert frame.tint[0] > 1.5
    assert player.tempo == 0.25


def test_a_thousand_firings_in_a_minute_leave_nothing_behind(played):
    steps, often = (
        (StartEffect(effect="puff"), StopEffect(effect="puff", after=0.2)),
        Often(cool_down=0.1, jitter=0.5),
    )
    jittered = on(OnSignal(signal="speed", value=0.5), *steps, often=often)
    keys = Trigger(id="k", when=OnKey(key="1"), response=(StartEffect(effect="puff", anchor="heart"),))
    player = played(jittered, keys)
    for k in range(1000):
        player.key("1")
        if k % 20 == 0:
            player.steer(0, float(k % 40 == 0))
        player.advance(0.06)
    assert player.show.fired >= 1000
    player.advance(1.0)
    show = player.show
    assert (show.firings, show.waiting, show.alive) == ({}, [], 0)
    assert len(show.triggers.responses) <= 100
    assert len(show.actor.stands) <= 1201


# ---- hits -----------------------------------------------------------------------------------------


def test_a_hit_is_heard_on_its_part_and_anywhere_at_the_nearest_anchor_and_costs_health(played):
    mask = Trigger(id="m", name="m", when=OnHit(part="mask"), response=(StartEffect(effect="puff"),))
    skirt = Trigger(id="s", name="s", when=OnHit(part="rain skirt"), response=(LogLine(text="skirt"),))
    player = played(mask, skirt, on(OnHit(), LogLine(text="hit")))
    player.advance(0.2)
    position = player.anchors()["left-fan-tip"][:3, 3]
    player.hit("mask", (position + 0.01).tolist(), 0.5)
    player.advance(0.1)
    assert fired(player) == 1
    assert [label for _, label in player.show.log] == ["hit"]
    (response, *_) = [each for each in player.show.triggers.responses if each.trigger == "m"]
    assert response.anchor == "left-fan-tip"
    assert player.show.signals(player.show.step_number)["health"] == pytest.approx(0.95)
    digest, time = player.digest(), player.time
    player.seek(0.1)
    player.seek(time)
    assert player.digest() == digest
    for _ in range(12):
        player.hit("body", (0, 1, 0))
        player.step()
    assert player.show.signals(player.show.step_number)["health"] == 0.0
    before = fired(player)
    player.hit("body", (float("nan"), 0, 0))
    player.step()
    assert fired(player) == before


def test_how_hard_a_hit_is_is_its_strength(played):
    step = StartEffect(effect="puff", scalings=(Scaling(what="size", curve=Curve.through((0, 1), (1, 3))),))
    sound = PlaySound(sound="thud.wav")
    player = played(on(OnHit(), step, sound))
    player.hit("body", (0, 1, 0), 1.0)
    player.step()
    player.hit("body", (0, 1, 0), 0.0)
    player.step()
    hard, soft = player.show.firings.values()
    assert hard.effect.startswith("puff~")
    assert soft.effect == "puff"
    assert [heard.volume for heard in player.show.sounds] == [1.0, 0.0]
