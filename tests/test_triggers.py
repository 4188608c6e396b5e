"""Triggers: which moments a step has, who hears them, what comes out, and why something did not."""

import math

import pytest

from tests.bodies import swaying_pole
from wraithon.project.character import Anchor, CharacterUse, ClipUse, Event, Mark
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Emission
from wraithon.project.project import Cue, Project, Stage
from wraithon.project.trigger import AtStart, OnEvent, StartEffect, Trigger
from wraithon.stage import triggers as room
from wraithon.stage.moment import Moment
from wraithon.stage.moments import KINDS, moments_within
from wraithon.stage.player import Player
from wraithon.stage.triggers import Triggers, TriggerState, listeners_of

STEP = Event(id="step", name="step", anchor="foot")
SPARK = Effect(id="spark", name="spark", layers=(Layer(id="l", emission=Emission(rate=30)),))


def trigger(key, when, *steps, **more):
    return Trigger(id=key, name=key, when=when, response=steps or (StartEffect(effect="spark"),), **more)


def heard(triggers, *moments):
    room_now = Triggers()
    return room_now.hear(listeners_of(triggers), moments), room_now


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
    assert set(KINDS) == {AtStart().kind, OnEvent().kind}


def test_what_comes_out_is_due_after_its_delay_moment_after_moment():
    two = trigger("two", OnEvent(event="step"), StartEffect(effect="spark", after=0.5), StartEffect(effect="other"))
    one = trigger("one", OnEvent(event="step"))
    due, _ = heard((two, one), Moment(1.0, "event", "step", anchor="foot"), Moment(1.1, "event", "step"))
    assert [(w.due, w.trigger, w.step.effect, w.anchor) for w in due] == [
        (1.5, "two", "spark", "foot"), (1.0, "two", "other", "foot"), (1.0, "one", "spark", "foot"),
        (1.6, "two", "spark", None), (1.1, "two", "other", None), (1.1, "one", "spark", None),
    ]  # fmt: skip


@pytest.mark.parametrize(("own", "place"), [(None, "foot"), ("hand", "hand")])
def test_a_steps_own_anchor_goes_before_the_events(own, place):
    step = StartEffect(effect="spark", anchor=own)
    due, _ = heard((trigger("a", OnEvent(event="step"), step),), Moment(0, "event", "step", anchor="foot"))
    assert due[0].anchor == place


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

    monkeypatch.setattr(room, "CONDITIONS", (*room.CONDITIONS, rested))
    times = (0.0, 0.5, 1.0, 1.75, 2.0)
    due, now = heard((trigger("a", OnEvent(event="step")),), *(Moment(t, "event", "step") for t in times))
    assert [w.due for w in due] == [0.0, 1.0, 2.0]
    assert [(r.time, r.reason) for r in now.refusals] == [(0.5, "it rests"), (1.75, "it rests")]


def test_the_first_reason_is_the_one_that_is_told(monkeypatch):
    monkeypatch.setattr(room, "CONDITIONS", (*room.CONDITIONS, lambda *_: "never"))
    _, now = heard((trigger("a", AtStart(), enabled=False), trigger("b", AtStart())), Moment(0, "start"))
    assert [r.reason for r in now.refusals] == ["it does not listen", "never"]


def test_only_the_latest_refusals_are_kept():
    now = Triggers()
    for n in range(room.MOST_REFUSALS + 7):
        now.refuse(n, "a", "no")
    assert len(now.refusals) == room.MOST_REFUSALS
    assert now.refusals[0].time == 7
    assert now.refusals[-1].time == room.MOST_REFUSALS + 6


def test_a_copy_goes_its_own_way():
    listeners = listeners_of((trigger("a", AtStart()),))
    now = Triggers()
    now.hear(listeners, [Moment(0, "start")])
    held = now.copy()
    now.hear(listeners, [Moment(1, "start")])
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
    stage = Stage(order=(Cue(clip="sway"),))
    project = Project(characters=(use,), effects=(SPARK,), stage=stage, triggers=triggers)
    return Player(project, {"pole": swaying_pole()})


def test_the_start_is_heard_in_the_first_step_alone():
    player = playing(trigger("a", AtStart()))
    cast = player.show.cast
    assert [m.kind for m in moments_within(cast, 0, 0.0, 1 / 60)] == ["start"]
    assert list(moments_within(cast, 1, 1 / 60, 2 / 60)) == []
    player.seek(1.0)
    assert player.show.triggers.states["a"] == TriggerState(1, 0.0)


def test_a_passing_is_a_moment_with_its_time_and_the_events_anchor():
    cast = playing(trigger("a", OnEvent(event="step"))).show.cast
    assert list(moments_within(cast, 29, 29 / 60, 31 / 60)) == [Moment(0.5, "event", "step", 1.0, "foot")]


def test_what_triggers_remember_is_copied_with_the_show():
    player = playing(trigger("a", OnEvent(event="step")))
    length = player.show.cast.performance.period
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
    assert [r.reason for r in player.show.triggers.refusals] == ["its effect is gone"] * 2
    assert len(player.show.firings) == 1


def test_too_many_firings_are_refused_with_their_reason(monkeypatch):
    monkeypatch.setattr("wraithon.stage.show.MOST_FIRINGS", 2)
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
