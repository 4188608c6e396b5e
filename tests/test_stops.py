"""Steps that stop effects, and triggers that are tried by hand."""

from __future__ import annotations

import pytest

from wraithon.project.character import Event
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.findings import check
from wraithon.project.life import Attribute
from wraithon.project.project import Project
from wraithon.project.staging.actions import StartEffect, StopEffect
from wraithon.project.staging.trigger_kinds import AtStart, EverySeconds, Never, OnEvent
from wraithon.project.trigger import Often, Only, Trigger
from wraithon.stage.player import Player
from wraithon.support.errors import ProjectError

STEADY = Effect(
    id="e", name="e", length=None,
    layers=(Layer(id="l", emission=Emission(rate=60), lifetime=Attribute.of(0.5)),),
)  # fmt: skip
START = Trigger(id="start", when=AtStart(), response=(StartEffect(effect="e"),))


def stopping(at, **changes):
    return Trigger(id="stop", when=AtStart(), response=(StopEffect(effect="e", after=at, **changes),))


def played(*triggers, until, effects=(STEADY,)):
    player = Player(Project(effects=effects, triggers=triggers), {})
    player.seek(until)
    return player


@pytest.mark.parametrize("at", [0.5, 1.0, 1.0083])
def test_it_bears_nothing_from_that_moment_on_and_what_lives_lives_out_its_time(at):
    assert played(START, stopping(at), until=at + 0.4).show.born == played(START, stopping(at), until=9).show.born
    born = played(START, stopping(at), until=9).show.born
    assert born == pytest.approx(60 * at, abs=1)
    assert played(START, stopping(at), until=at + 0.25).show.alive == pytest.approx(15, abs=1)
    over = played(START, stopping(at), until=at + 0.6).show
    assert (over.alive, over.firings) == (0, {})
    (record,) = over.history()
    assert record.end == pytest.approx(at + 0.5, abs=0.05)


def test_without_it_it_goes_on():
    assert played(START, until=5).show.alive == pytest.approx(30, abs=1)


def test_only_what_is_fired_at_its_anchor_stops(demo):
    tips = ("left-fan-tip", "right-fan-tip")
    both = Trigger(id="start", when=AtStart(), response=tuple(StartEffect(effect="e", anchor=tip) for tip in tips))
    project = demo.project.evolve(effects=(STEADY,), triggers=(both, stopping(1.0, anchor=tips[0])))
    player = Player(project, demo.characters)
    player.seek(2.0)
    assert [firing.anchor for firing in player.show.firings.values()] == [tips[1]]
    everything = project.evolve(triggers=(both, stopping(1.0)))
    player.adopt(everything)
    player.seek(2.0)
    assert player.show.firings == {}


def test_stopping_what_does_not_go_on_is_refused_with_its_reason():
    show = played(stopping(0.2), until=1.0).show
    assert [refusal.reason for refusal in show.triggers.refusals] == ["nothing of what it stops is going on"]
    twice = Trigger(id="again", when=AtStart(), response=(StopEffect(effect="e", after=0.3),))
    reasons = [refusal.reason for refusal in played(START, stopping(0.2), twice, until=1.0).show.triggers.refusals]
    assert reasons == ["nothing of what it stops is going on"]
    nothing = Trigger(id="n", when=AtStart(), response=(StopEffect(),))
    assert played(nothing, until=1.0).show.triggers.refusals[0].reason == "it is not chosen what to stop"


def test_a_burst_after_the_stop_never_comes_and_one_before_does():
    bursts = Layer(id="l", emission=Emission(bursts=(Burst(count=5), Burst(count=7, time=0.5))))
    effect = STEADY.evolve(layers=(bursts,))
    assert played(START, stopping(0.25), until=2, effects=(effect,)).show.born == 5
    assert played(START, stopping(0.75), until=2, effects=(effect,)).show.born == 12


def test_the_same_bytes_step_by_step_by_seeking_and_after_edits():
    again = Trigger(id="again", when=EverySeconds(seconds=0.7), response=(StartEffect(effect="e"),))
    ends = Trigger(id="ends", when=EverySeconds(seconds=1.1), response=(StopEffect(effect="e", after=0.05),))
    project = Project(effects=(STEADY,), triggers=(again, ends))
    one, two = Player(project, {}), Player(project, {})
    while one.show.step_number < 300:
        one.step()
    two.seek(6.0)
    two.seek(2.2)
    two.seek(5.0)
    assert one.digest() == two.digest()
    quicker = STEADY.evolve(layers=(STEADY.layers[0].evolve(speed=Attribute.of(3.0)),))
    two.adopt(project.evolve(effects=(quicker,)))
    assert not two.mend()  # what was stopped cannot be told from ages alone
    two.seek(5.0)
    fresh = Player(project.evolve(effects=(quicker,)), {})
    fresh.seek(5.0)
    assert two.digest() == fresh.digest()


def test_an_effect_that_is_stopped_somewhere_is_not_told_to_have_no_end():
    event = Trigger(id="on", when=OnEvent(event="x"), response=(StartEffect(effect="e"),))

    def told(*triggers):
        return [f.message for f in check(Project(effects=(STEADY,), triggers=triggers), {}) if f.about == "e"]

    assert any("it has no end" in message for message in told(event))
    assert told(event, stopping(1.0)) == []


@pytest.mark.parametrize(
    ("step", "text"),
    [
        (StopEffect(), "stops no effect"), (StopEffect(effect="gone"), "stops no effect"),
        (StopEffect(effect="e"), "that no trigger starts"), (StopEffect(effect="e", anchor="gone"), "anchor is gone"),
    ],
)  # fmt: skip
def test_a_stop_that_stops_nothing_is_told(step, text):
    trigger = Trigger(id="t", when=AtStart(), response=(step,))
    found = [f.message for f in check(Project(effects=(STEADY,), triggers=(trigger,)), {}) if f.about == "t"]
    assert any(text in message for message in found)


# ---- tried by hand --------------------------------------------------------------------------------


def test_one_that_is_tried_responds_whatever_it_waits_for_and_asks():
    picky = Trigger(
        id="t", when=Never(), enabled=False, only=Only(chance=0, slowest=9), often=Often(times=1),
        response=(StartEffect(effect="e"), StopEffect(effect="e", after=0.5)),
    )  # fmt: skip
    player = Player(Project(effects=(STEADY,), triggers=(picky,)), {})
    player.seek(1.0)
    player.respond("t")
    with pytest.raises(ProjectError, match=r'^there is no trigger "nothing"; it is one of "t" [(]trigger[)]$'):
        player.respond("nothing")
    player.seek(1.4)
    assert player.show.alive == pytest.approx(24, abs=1)
    assert [(r.trigger, r.start) for r in player.show.history()] == [("t", 1.0)]
    digest = player.digest()
    player.seek(2.5)
    assert player.show.alive == 0
    player.seek(1.2)
    player.seek(1.4)
    assert player.digest() == digest  # it is kept as an input of this run
    player.seek(0.5)
    player.seek(1.4)
    assert player.show.alive == 0  # going back to before it forgets it


def test_it_is_tried_where_its_event_belongs(demo):
    use = demo.project.character.evolve(events=(Event(id="x", anchor="left-fan-tip"),))
    trigger = Trigger(id="t", when=OnEvent(event="x"), response=(StartEffect(effect="e"),))
    project = demo.project.evolve(characters=(use,), effects=(STEADY,), triggers=(trigger,))
    player = Player(project, demo.characters)
    player.respond("t")
    player.seek(0.1)
    assert [firing.anchor for firing in player.show.firings.values()] == ["left-fan-tip"]
