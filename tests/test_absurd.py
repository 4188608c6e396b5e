"""Absurd but allowed projects: bounded, told with the number, and a step keeps its time and memory."""

import json
import time
import tracemalloc

import numpy as np
import pytest

from tests.pools import births_of
from wraithon.particles.emission import births_between
from wraithon.project.character import CharacterUse, ClipUse, Event, Mark
from wraithon.project.checks.layers import max_at_once
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import MAX_LIVING, Burst, Emission
from wraithon.project.files import from_text, to_text
from wraithon.project.findings import check
from wraithon.project.life import Attribute
from wraithon.project.project import ClipRun, Project, Stage
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart, OnEvent
from wraithon.project.trigger import MAX_WAITING, Trigger
from wraithon.stage import births
from wraithon.stage.player import Player
from wraithon.stage.triggering.moments import moments_within
from wraithon.stage.triggering.triggers import MAX_HEARD

FLOOD = Emission(bursts=(Burst(count=MAX_LIVING, repeats=10_000, interval=0.001),) * 64, limit=MAX_LIVING)


def at_start(*effects):
    steps = tuple(StartEffect(effect=effect.id) for effect in effects)
    return Trigger(name="start", when=AtStart(), response=steps)


def flooding(layers=1):
    return Effect(id="flood", length=None, layers=tuple(Layer(id=f"l{n}", emission=FLOOD) for n in range(layers)))


# ---- births ---------------------------------------------------------------------------------------


def test_births_are_counted_all_and_handed_out_up_to_what_there_is_room_for():
    emission = Emission(rate=10, bursts=(Burst(time=0.05, count=3), Burst(time=0.15, count=2)))
    every = births_of(emission, None, 0.0, 0.2)
    np.testing.assert_allclose(every, [0, 0.05, 0.05, 0.05, 0.1, 0.15, 0.15])
    for maximum in range(9):
        ages, total = births_between(emission, None, 0.0, 0.2, maximum)
        assert total == 7
        np.testing.assert_array_equal(ages, every[:maximum])


def test_a_flood_of_births_takes_neither_time_nor_memory():
    tracemalloc.start()
    began = time.process_time()
    ages, total = births_between(FLOOD, None, 0.0, 1 / 10, MAX_LIVING)
    assert time.process_time() - began < 2
    assert tracemalloc.get_traced_memory()[1] < 100 * 2**20
    tracemalloc.stop()
    assert len(ages) == MAX_LIVING
    assert total == 64 * 100 * MAX_LIVING
    assert (ages == 0).all()


def test_a_step_of_a_flood_is_borne_and_the_refused_are_counted():
    player = Player(Project(effects=(flooding(),), triggers=(at_start(flooding()),)), {})
    began = time.process_time()
    player.step()
    assert time.process_time() - began < 10
    assert player.show.alive == MAX_LIVING
    assert player.show.refused == 64 * 17 * MAX_LIVING - MAX_LIVING  # moments 0 to 16 ms


def test_all_layers_together_keep_to_what_may_live(monkeypatch):
    monkeypatch.setattr(births, "MAX_ALIVE", 1000)
    layers = tuple(Layer(id=f"l{n}", emission=Emission(bursts=(Burst(count=400),), limit=400)) for n in range(4))
    effect = Effect(id="four", layers=layers)
    player = Player(Project(effects=(effect,), triggers=(at_start(effect),)), {})
    player.step()
    assert [player.show.pools[f"l{n}"].count for n in range(4)] == [400, 400, 200, 0]
    assert player.show.refused == 600


@pytest.mark.parametrize(("interval", "births"), [(0.1, 1), (1 / 60, 1), (0.01, 2), (0.001, 17)])
def test_how_many_may_fall_into_a_step(interval, births):
    emission = Emission(rate=90, bursts=(Burst(count=5, repeats=100, interval=interval),))
    assert max_at_once(emission, 60) == 5 * births + 2
    starts = np.linspace(0, 0.2, 100)
    seen = max(len(births_of(emission, None, s, s + 1 / 60)) for s in starts)
    assert seen <= max_at_once(emission, 60)


def messages(project):
    return [finding.message for finding in check(project, {})]


def test_what_is_refused_is_told_with_its_number():
    said = messages(Project(effects=(flooding(4),)))
    assert "435,200,000 may be emitted at once but the limit is 400,000: births will be refused" in said
    assert any("may emit 1,600,000 within one step, but at most 1,500,000 live at once" in text for text in said)
    modest = Effect(layers=(Layer(emission=Emission(bursts=(Burst(count=20),), limit=20)),))
    assert not any("at once" in text for text in messages(Project(effects=(modest,))))


# ---- triggers -------------------------------------------------------------------------------------


def crowded(triggers, steps, marks, after=0.0):
    """Return a character whose clip passes many marks at nearly one moment, and triggers for all of them."""
    event = Event(id="e", name="e")
    clip = ClipUse(name="walk", marks=tuple(Mark(event="e", time=0.001 + k * 1e-6) for k in range(marks)))
    use = CharacterUse(id="halcyon", file="halcyon.glb", events=(event,), clips=(clip,))
    effect = Effect(id="dust", layers=(Layer(id="l", lifetime=Attribute.of(0.1)),))
    response = tuple(StartEffect(effect="dust", after=after) for _ in range(steps))
    heard = tuple(Trigger(id=f"t{k}", when=OnEvent(event="e"), response=response) for k in range(triggers))
    stage = Stage(order=(ClipRun(clip="walk"),))
    return Project(characters=(use,), effects=(effect,), triggers=heard, stage=stage)


def test_a_thousand_triggers_on_four_thousand_marks_keep_a_step_short(demo):
    player = Player(crowded(1000, 64, 4096, after=5.0), demo.characters)
    began = time.process_time()
    player.step()
    assert time.process_time() - began < 5
    assert 0 < len(player.show.waiting) <= MAX_WAITING
    assert player.show.triggers.refusals[-1].reason == "more than 10,000 actions wait already"


def test_no_more_triggers_respond_in_a_step_than_can_be_heard(demo):
    player = Player(crowded(1, 1, 4096), demo.characters)
    heard = player.show.triggers.respond(player.compiled.listeners, moments_within(player.show, 0.0, 1 / 60))
    assert len(heard) == MAX_HEARD
    assert player.show.triggers.refusals[-1].reason == "more than 1,200 moments come in one step of the show"
    player = Player(crowded(1, 1, 4096), demo.characters)
    player.step()
    (state,) = player.show.triggers.states.values()
    assert state.fired == MAX_HEARD
    reasons = [refusal.reason for refusal in player.show.triggers.refusals]
    assert reasons.pop(0) == "more than 1,200 moments come in one step of the show"
    assert set(reasons) == {"too many firings are alive"}  # the latest 500, of those that came through
    assert player.show.refused_firings == MAX_HEARD - 512


def test_what_may_not_wait_is_told_with_its_number():
    said = messages(crowded(10, 64, 100))
    assert "its 100 marks start 64,000 actions, but at most 10,000 may wait" in said
    assert not any("may wait" in text for text in messages(crowded(10, 10, 100)))


def test_two_thousand_triggers_are_kept():
    project = Project(triggers=tuple(Trigger(id=f"t{k}") for k in range(2000)))
    opened = from_text(to_text(project))
    assert len(opened.project.triggers) == 2000
    assert opened.findings == ()


def test_firings_are_numbered_as_they_begin_and_full_is_told_at_once(demo):
    effect = Effect(id="dust", length=None, layers=(Layer(id="l", emission=Emission(rate=1)),))
    player = Player(Project(effects=(effect,)), demo.characters)
    show = player.show
    for _ in range(512):
        show.start(effect, None, 0.0)
    assert show.start(effect, None, 0.0) is None
    assert show.refused_firings == 1
    del show.firings[7], show.firings[3]
    show.start(effect, None, 0.0)
    assert list(show.firings)[-1] == 512
    assert show.fired == 513


# ---- one id twice ---------------------------------------------------------------------------------


def twice(path, data):
    """Put the last entry of a list into it once more."""
    for key in path[:-1]:
        data = data[key]
    data[path[-1]].append(json.loads(json.dumps(data[path[-1]][-1])))


SOUND = Project(
    effects=(
        Effect(id="one", name="one", layers=(Layer(id="l", name="first"),)),
        Effect(id="two", name="two", layers=(Layer(id="m", name="second"),)),
    ),
    triggers=(Trigger(id="t", response=(StartEffect(effect="one"),)),),
    characters=(CharacterUse(id="c", file="c.glb", events=(Event(id="e", name="e"),)),),
)


@pytest.mark.parametrize(
    ("path", "kind"),
    [
        (("effects",), "effect"),
        (("effects", 0, "layers"), "layer"),
        (("triggers",), "trigger"),
        (("characters", 0, "events"), "events"),
    ],
)
def test_things_with_one_id_are_told_and_mended(path, kind):
    data = json.loads(to_text(SOUND))
    twice(path, data)
    opened = from_text(json.dumps(data))
    assert any(kind in f.location and "another has the id" in f.message for f in opened.findings)
    again = from_text(to_text(opened.project))
    assert again.findings == ()
    assert again.project == opened.project


def test_layers_of_two_effects_with_one_id_both_live(demo):
    data = json.loads(to_text(SOUND))
    data["effects"][1]["layers"][0]["id"] = "l"
    opened = from_text(json.dumps(data))
    assert [layer.id for effect in opened.project.effects for layer in effect.layers] == ["l", "l-2"]
    assert opened.findings[0].about == "l-2"


# ---- speed ----------------------------------------------------------------------------------------


def test_a_running_order_of_a_quarter_million_passes_is_as_quick_as_a_short_one(demo):
    order = tuple(ClipRun(clip=name, times=1000) for name in ("walk", "run") * 128)
    began = time.process_time()
    player = Player(demo.project.evolve(stage=demo.project.stage.evolve(order=order)), demo.characters)
    performance = player.show.compiled.performance
    assert time.process_time() - began < 3
    assert len(performance) == 256_000
    began = time.process_time()
    for moment in np.linspace(0, performance.period * 2.5, 400):
        performance.passings(moment, moment + 1 / 60)
        performance.position_at(moment)
    assert time.process_time() - began < 2
    last = performance.segment(len(performance) - 1)
    assert last.start + last.length == performance.period


def test_nothing_that_happens_costs_next_to_nothing(demo):
    """Under a millisecond on an idle machine, whatever waits to happen."""
    project = crowded(1000, 2, 4096).evolve(stage=Stage(order=(ClipRun(clip="run"),)))
    effects = tuple(Effect(id=f"x{n}", layers=(Layer(id=f"l{n}"),)) for n in range(500))
    player = Player(project.evolve(effects=effects), demo.characters)
    player.step()
    began = time.process_time()
    for _ in range(50):
        player.show.advance()
    assert (time.process_time() - began) / 50 < 0.01
