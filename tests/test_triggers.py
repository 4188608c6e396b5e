"""Triggers: which moments a step has, who hears them, what comes out, and why something did not."""

import math
from itertools import pairwise
from typing import get_args

import pytest

from tests.bodies import swaying_pole
from wraithon.project.character import Anchor, CharacterUse, ClipUse, Event, Mark
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Emission
from wraithon.project.life import Attribute
from wraithon.project.project import ClipRun, Project, Stage
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart, EveryMetres, EverySeconds, Never, OnEvent, When
from wraithon.project.trigger import Often, Only, Trigger
from wraithon.stage.player import Player
from wraithon.stage.triggering import triggers as viewport
from wraithon.stage.triggering.moment import Moment
from wraithon.stage.triggering.moments import KINDS, moments_within
from wraithon.stage.triggering.triggers import Triggers, TriggerState, listeners_of

STEP = Event(id="step", name="step", anchor="foot")
SPARK = Effect(id="spark", name="spark", layers=(Layer(id="l", emission=Emission(rate=30)),))


def trigger(key, when, *steps, **more):
    return Trigger(id=key, name=key, when=when, response=steps or (StartEffect(effect="spark"),), **more)


def heard(triggers, *moments):
    room_now = Triggers()
    return room_now.respond(listeners_of(triggers), moments), room_now


def test_each_waits_for_its_own_kind_and_for_which_of_it():
    on_step, on_jump = trigger("a", OnEvent(event="step")), trigger("b", OnEvent(event="jump"))
    again, at_start = trigger("c", OnEvent(event="step")), trigger("d", AtStart())
    listeners = listeners_of((on_step, on_jump, again, at_start, trigger("e", OnEvent())))
    assert listeners == {
        ("event", "step"): (on_step, again),
        ("event", "jump"): (on_jump,),
        ("start", ""): (at_start,),
    }


def test_every_kind_that_can_be_saved_has_its_moments():
    assert set(KINDS) == {model().kind for model in get_args(get_args(When)[0])}


def test_what_comes_out_is_due_after_its_delay_moment_after_moment():
    two = trigger("two", OnEvent(event="step"), StartEffect(effect="spark", after=0.5), StartEffect(effect="other"))
    one = trigger("one", OnEvent(event="step"))
    due, _ = heard((two, one), Moment(1.0, "event", "step", anchor="foot"), Moment(1.1, "event", "step"))
    assert [(w.due, w.trigger, w.action.effect, w.anchor) for w in due] == [
        (1.5, "two", "spark", "foot"), (1.0, "two", "other", "foot"), (1.0, "one", "spark", "foot"),
        (1.6, "two", "spark", None), (1.1, "two", "other", None), (1.1, "one", "spark", None),
    ]  # fmt: skip


@pytest.mark.parametrize(("own", "position"), [(None, "foot"), ("hand", "hand")])
def test_a_steps_own_anchor_goes_before_the_events(own, position):
    step = StartEffect(effect="spark", anchor=own)
    due, _ = heard((trigger("a", OnEvent(event="step"), step),), Moment(0, "event", "step", anchor="foot"))
    assert due[0].anchor == position


def test_a_trigger_remembers_how_often_and_when():
    _, now = heard((trigger("a", OnEvent(event="step")),), Moment(1, "event", "step"), Moment(2.5, "event", "step"))
    assert dict(now.states) == {"a": TriggerState(2, 2.5)}
    assert TriggerState() == TriggerState(0, -math.inf)


def test_one_that_does_not_listen_is_refused_with_its_reason_and_counts_nothing():
    due, now = heard((trigger("a", OnEvent(event="step"), enabled=False),), Moment(3, "event", "step"))
    assert due == []
    assert [(r.time, r.trigger, r.reason) for r in now.refusals] == [(3, "a", "it does not listen")]
    assert dict(now.states) == {}


def test_what_nobody_waits_for_is_no_refusal():
    due, now = heard((trigger("a", OnEvent(event="step")),), Moment(0, "event", "jump"), Moment(0, "start"))
    assert due == []
    assert list(now.refusals) == []


def test_a_condition_sees_what_the_trigger_remembers(monkeypatch):
    """As a cool-down would: within a second of the last time it says no, and is asked with the state of then."""

    def rested(_trigger, moment, state):
        return "it rests" if moment.time - state.last < 1.0 else ""

    monkeypatch.setattr(viewport, "CONDITIONS", (*viewport.CONDITIONS, rested))
    times = (0.0, 0.5, 1.0, 1.75, 2.0)
    due, now = heard((trigger("a", OnEvent(event="step")),), *(Moment(t, "event", "step") for t in times))
    assert [w.due for w in due] == [0.0, 1.0, 2.0]
    assert [(r.time, r.reason) for r in now.refusals] == [(0.5, "it rests"), (1.75, "it rests")]


def test_the_first_reason_is_the_one_that_is_told(monkeypatch):
    monkeypatch.setattr(viewport, "CONDITIONS", (*viewport.CONDITIONS, lambda *_: "never"))
    _, now = heard((trigger("a", AtStart(), enabled=False), trigger("b", AtStart())), Moment(0, "start"))
    assert [r.reason for r in now.refusals] == ["it does not listen", "never"]


def test_only_the_latest_refusals_are_kept():
    now = Triggers()
    for n in range(viewport.MAX_REFUSALS + 7):
        now.refuse(n, "a", "no")
    assert len(now.refusals) == viewport.MAX_REFUSALS
    assert now.refusals[0].time == 7
    assert now.refusals[-1].time == viewport.MAX_REFUSALS + 6


def test_a_copy_goes_its_own_way():
    listeners = listeners_of((trigger("a", AtStart()),))
    now = Triggers()
    now.respond(listeners, [Moment(0, "start")])
    held = now.copy()
    now.respond(listeners, [Moment(1, "start")])
    now.refuse(1, "a", "no")
    assert held.states["a"] == TriggerState(1, 0)
    assert list(held.refusals) == []
    assert now.states["a"] == TriggerState(2, 1)


# ---- in a show ------------------------------------------------------------------------------------


def playing(*triggers, marks=(0.5,)):
    use = CharacterUse(
        id="pole",
        file="pole.glb",
        clips=(ClipUse(name="sway", marks=tuple(Mark(event="step", time=t) for t in marks)),),
        events=(STEP,),
        anchors=(Anchor(id="foot", name="foot"),),
    )
    stage = Stage(order=(ClipRun(clip="sway"),))
    project = Project(characters=(use,), effects=(SPARK,), stage=stage, triggers=triggers)
    return Player(project, {"pole": swaying_pole()})


def test_the_start_is_heard_in_the_first_step_alone():
    player = playing(trigger("a", AtStart()))
    assert [m.kind for m in moments_within(player.show, 0.0, 1 / 60)] == ["start"]
    player.step()
    assert list(moments_within(player.show, 1 / 60, 2 / 60)) == []
    player.seek(1.0)
    assert player.show.triggers.states["a"] == TriggerState(1, 0.0)


def test_a_passing_is_a_moment_with_its_time_and_the_events_anchor():
    player = playing(trigger("a", OnEvent(event="step")))
    player.step()
    assert list(moments_within(player.show, 29 / 60, 31 / 60)) == [Moment(0.5, "event", "step", anchor="foot")]


def test_what_triggers_remember_is_copied_with_the_show():
    player = playing(trigger("a", OnEvent(event="step")))
    length = player.show.compiled.performance.period
    player.seek(length * 3)
    assert player.show.triggers.states["a"].fired == 3
    player.seek(length * 1.9)
    assert player.show.triggers.states["a"].fired == 2
    player.seek(0.1)
    assert "a" not in player.show.triggers.states
    player.seek(length * 3)
    assert player.show.triggers.states["a"] == TriggerState(3, pytest.approx(0.5 + 2 * length))


def test_a_response_to_an_effect_that_is_gone_is_refused_with_its_reason():
    gone = trigger("a", AtStart(), StartEffect(effect="spark"), StartEffect(effect="nowhere"), StartEffect())
    player = playing(gone)
    player.seek(0.2)
    reasons = [r.reason for r in player.show.triggers.refusals]
    assert reasons == ["its effect is gone", "it is not chosen what to start"]
    assert len(player.show.firings) == 1


def test_too_many_firings_are_refused_with_their_reason(monkeypatch):
    monkeypatch.setattr("wraithon.stage.show.MAX_FIRINGS", 2)
    player = playing(trigger("a", AtStart(), *[StartEffect(effect="spark")] * 5))
    player.seek(0.1)
    assert len(player.show.firings) == 2
    assert [r.reason for r in player.show.triggers.refusals] == ["too many firings are alive"] * 3


def test_a_delay_that_lies_in_a_later_step_is_waited_for():
    player = playing(trigger("a", AtStart(), StartEffect(effect="spark", after=0.25)))
    player.seek(0.2)
    assert not player.show.firings
    assert [w.due for w in player.show.waiting] == [0.25]
    player.seek(0.3)
    assert [f.start for f in player.show.firings.values()] == [0.25]
    assert not player.show.waiting


# ---- only if, and how often -----------------------------------------------------------------------


def responses(often=None, only=None, times=(), living=lambda _key: 0, seed=0, **moment):
    """Return when a trigger responds to moments at some times, and why not to the others."""
    one = trigger("a", OnEvent(event="step"), only=only or Only(), often=often or Often())
    now, listeners, found = Triggers(), listeners_of((one,)), []
    for time in times:
        found += now.respond(listeners, [Moment(time, "event", "step", **moment)], living=living, seed=seed)
    return [w.due for w in found], [r.reason for r in now.refusals]


def test_every_nth_is_the_first_and_each_so_manieth_after_it():
    due, why = responses(Often(every=3), times=range(7))
    assert due == [0, 3, 6]
    assert why == [f"it takes every 3rd: {n} more to come" for n in (2, 1, 2, 1)]


def test_a_cool_down_lasts_to_the_moment_it_is_over():
    due, why = responses(Often(cool_down=0.5), times=(0.0, 0.25, 0.499, 0.5, 0.75, 1.0))
    assert due == [0.0, 0.5, 1.0]
    assert why[0] == "it cools down for another 0.25 s"


def test_a_jitter_makes_cool_downs_longer_and_shorter_and_is_the_same_each_time():
    times = [k / 100 for k in range(4000)]
    due, _ = responses(Often(cool_down=1.0, jitter=0.5), times=times)
    gaps = [b - a for a, b in pairwise(due)]
    assert min(gaps) >= 0.5 - 1e-9
    assert max(gaps) <= 1.5 + 0.011
    assert max(gaps) - min(gaps) > 0.5
    assert responses(Often(cool_down=1.0, jitter=0.5), times=times)[0] == due
    assert responses(Often(cool_down=1.0, jitter=0.5), times=times, seed=1)[0] != due


def test_so_many_times_in_all_and_no_more():
    due, why = responses(Often(times=2), times=range(4))
    assert (due, why) == ([0, 1], ["it has responded 2 times, as often as it may"] * 2)


@pytest.mark.parametrize(("alive", "responds"), [(0, True), (1, True), (2, False), (3, False)])
def test_not_while_enough_of_its_own_live(alive, responds):
    due, why = responses(Often(alive=2), times=(0,), living=lambda _key: alive)
    assert bool(due) is responds
    assert why == ([] if responds else [f"{alive} firings of its own live already"])


def test_what_it_has_just_started_counts_as_living():
    one = trigger("a", OnEvent(event="step"), often=Often(alive=1))
    due = Triggers().respond(listeners_of((one,)), [Moment(t, "event", "step") for t in (0.0, 0.001)])
    assert [w.due for w in due] == [0.0]


@pytest.mark.parametrize(("chance", "share"), [(0.0, 0.0), (0.3, 0.3), (1.0, 1.0)])
def test_chance_is_as_likely_as_it_says_and_falls_the_same_each_time(chance, share):
    due, _ = responses(only=Only(chance=chance), times=range(2000))
    assert len(due) / 2000 == pytest.approx(share, abs=0.04)
    assert responses(only=Only(chance=chance), times=range(2000))[0] == due
    if 0 < chance < 1:
        assert responses(only=Only(chance=chance), times=range(2000), seed=5)[0] != due


@pytest.mark.parametrize(
    ("only", "moment", "why"),
    [
        (Only(clips=("walk", "run")), {"clip": "run"}, ""), (Only(clips=("walk",)), {"clip": "run"}, "run plays"),
        (Only(clips=("walk",)), {}, "no clip plays"), (Only(slowest=1.0), {"speed": 1.0}, ""),
        (Only(slowest=1.0), {"speed": 0.99}, "slower than 1"), (Only(fastest=2.0), {"speed": 2.0}, ""),
        (Only(fastest=2.0), {"speed": 2.01}, "faster than 2"), (Only(slowest=1, fastest=2), {"speed": 1.5}, ""),
    ],
)  # fmt: skip
def test_what_has_to_be_so(only, moment, why):
    due, reasons = responses(only=only, times=(0,), **moment)
    assert bool(due) is (not why)
    assert why in "".join(reasons)


def test_what_does_not_count_is_no_nth():
    one = trigger("a", OnEvent(event="step"), only=Only(clips=("walk",)), often=Often(every=2))
    now, clips = Triggers(), ("walk", "run", "walk", "run", "walk")
    moments = [Moment(float(k), "event", "step", clip=clip) for k, clip in enumerate(clips)]
    assert [w.due for w in now.respond(listeners_of((one,)), moments)] == [0.0, 4.0]


# ---- again and again ------------------------------------------------------------------------------


@pytest.mark.parametrize("rate", [10, 60, 144])
def test_every_so_many_seconds_each_once_whatever_the_step(rate):
    one = trigger("a", EverySeconds(seconds=0.3))
    player = Player(Project(effects=(SPARK,), triggers=(one,), step_rate=rate), {})
    player.seek(1.6)
    starts = sorted(record.start for record in player.show.history())
    assert starts == pytest.approx([0.3, 0.6, 0.9, 1.2, 1.5])


def test_every_so_many_metres_of_the_way(demo):
    stage = demo.project.stage.evolve(order=(ClipRun(clip="walk"),))
    one = trigger("a", EveryMetres(metres=0.9))
    project = demo.project.evolve(effects=(SPARK,), triggers=(one,), stage=stage)
    player = Player(project, demo.characters)
    player.seek(4.0)
    performance = player.compiled.performance
    ways = [performance.way_at(record.start) for record in player.show.history()]
    assert ways == pytest.approx([0.9 * k for k in range(1, len(ways) + 1)], abs=1e-3)
    assert len(ways) == int(performance.way_at(4.0) / 0.9)
    assert performance.way_at(4.0) == pytest.approx(4 * 1.35, rel=0.02)
    standing = project.evolve(stage=stage.evolve(order=(ClipRun(clip="idle"),)))
    still = Player(standing, demo.characters)
    still.seek(4.0)
    assert still.show.history() == []


def test_one_that_never_comes_by_itself_never_does():
    player = Player(Project(effects=(SPARK,), triggers=(trigger("a", Never()),)), {})
    player.seek(3.0)
    assert player.show.history() == []


def test_with_all_of_it_a_show_is_the_same_step_by_step_by_seeking_and_after_going_back(demo):
    only, often = Only(chance=0.6, clips=("walk", "run"), slowest=0.5), Often(every=2, cool_down=0.4, jitter=0.9)
    picky = [one.evolve(only=only, often=often) for one in demo.project.triggers]
    again = trigger("z", EverySeconds(seconds=0.7), StartEffect(effect="tread"))
    project = demo.project.evolve(triggers=(*picky, again))
    one, two = (Player(project, demo.characters) for _ in range(2))
    while one.show.step_number < 8 * 60:
        one.step()
    two.seek(9.0)
    two.seek(3.3)
    two.seek(8.0)
    assert one.digest() == two.digest()
    assert [r.start for r in one.show.history()] == [r.start for r in two.show.history()]
    assert len({r.trigger for r in one.show.history()}) > 1
    assert one.show.triggers.refusals == two.show.triggers.refusals


def test_two_hundred_triggers_that_ask_all_there_is_leave_nothing_behind():
    often, only = Often(cool_down=0.05, jitter=0.5, alive=3), Only(chance=0.5)
    flash = SPARK.evolve(length=0.02, layers=(SPARK.layers[0].evolve(lifetime=Attribute.of(0.05)),))
    many = tuple(trigger(f"t{k}", EverySeconds(seconds=0.1 + k / 1000), often=often, only=only) for k in range(200))
    player = Player(Project(effects=(flash,), triggers=many), {})
    player.seek(10.0)
    assert player.show.fired > 2000
    player.adopt(Project(effects=(flash,), triggers=()))
    for _ in range(30):
        player.step()
    assert (player.show.firings, player.show.alive, player.show.waiting) == ({}, 0, [])
