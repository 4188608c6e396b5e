"""Triggers to the letter: signals that add up, cool-downs from the last answer, what follows a refused step."""

from itertools import pairwise

import pytest

from wraithon.project.character import ClipUse
from wraithon.project.dissolve import Dissolve
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, Curve
from wraithon.project.project import ClipRun, Project
from wraithon.project.staging.actions import Dissolving, Hide, PlayClip, RampSignal, SetSignal, StartEffect
from wraithon.project.staging.trigger_kinds import AtStart, EachStep, OnHit, OnKey, OnSignal
from wraithon.project.trigger import Often, Only, Trigger
from wraithon.stage.player import Player
from wraithon.studio.sentence import sentence

BURST = Effect(
    id="e", length=0.1, layers=(Layer(emission=Emission(bursts=(Burst(count=450),)), lifetime=Attribute.of(9.0)),)
)


def fired(player, trigger):
    return [each.time for each in player.show.triggers.responses if each.trigger == trigger]


def test_ten_hits_leave_no_health_and_death_is_heard_once(demo):
    dies = Trigger(id="dies", when=OnSignal(signal="health", value=0.0, falls=True))
    player = Player(demo.project.evolve(triggers=(dies,)), demo.characters)
    left = []
    for _ in range(11):
        player.hit("mask", (0.0, 1.5, 0.0))
        player.step()
        player.step()
        left.append(player.show.signal_values["health"])
    assert left == [0.9, 0.8, 0.7, 0.6, 0.5, 0.4, 0.3, 0.2, 0.1, 0.0, 0.0]
    assert len(fired(player, "dies")) == 1
    assert sentence(player.project, dies).startswith("When health falls to 0 or less")


@pytest.mark.parametrize("to", [0.1, 0.3, 1 / 3, 1e6, -0.7])
def test_a_transition_ends_exactly_where_it_is_to(demo, to):
    ramp = RampSignal(signal="health", to=to, seconds=0.1, curve=Curve(points=((0.0, 0.0), (1.0, 1.0))))
    trigger = Trigger(when=AtStart(), response=(SetSignal(signal="health", value=0.7), ramp))
    player = Player(demo.project.evolve(triggers=(trigger,)), demo.characters)
    player.seek(0.2)
    assert player.show.signal_values["health"] == to


# ---- each step -----------------------------------------------------------------------------------


@pytest.mark.parametrize("rate", [30, 60, 144])
@pytest.mark.parametrize("cool_down", [0.013, 0.02, 0.05, 0.11])
def test_a_cool_down_is_kept_to_whatever_the_step(rate, cool_down):
    trigger = Trigger(id="t", when=EachStep(), often=Often(cool_down=cool_down))
    player = Player(Project(triggers=(trigger,), step_rate=rate), {})
    player.seek(0.6)
    times = fired(player, "t")
    assert times[0] == 0.0
    assert [b - a for a, b in pairwise(times)] == pytest.approx([cool_down] * (len(times) - 1))
    assert len(times) == pytest.approx(0.6 / cool_down, abs=1.01)


def test_without_a_cool_down_it_answers_once_a_step_while_what_it_asks_for_holds():
    only = Only(signal="health", least=0.0, most=0.5)
    trigger = Trigger(id="t", when=EachStep(), only=only)
    player = Player(Project(triggers=(trigger,)), {})
    player.seek(0.1)
    assert fired(player, "t") == []
    assert len(player.show.triggers.refusals) == 1  # the last: others keep their room
    player.signal("health", 0.4)
    for _ in range(5):
        player.step()
    assert len(fired(player, "t")) in {4, 5}
    player.signal("health", 1.0)
    before = len(fired(player, "t"))
    player.step()
    player.step()
    player.step()
    assert len(fired(player, "t")) <= before + 1
    assert sentence(player.project, trigger) == "At every step, with health from 0 to 0.5: nothing yet."


# ---- what follows a refused step -----------------------------------------------------------------


@pytest.mark.parametrize("needed", [True, False])
def test_what_follows_a_refused_step_is_left_out_where_it_needs_it(demo, needed):
    falls = Trigger(id="falls", when=OnKey(key="F"), response=(PlayClip(clip="fall"), Hide(after=0.05)))
    steps = (PlayClip(clip="strike", needed=needed), StartEffect(effect="e"), StartEffect(effect="e", after=0.2))
    hit = Trigger(id="hit", when=OnHit(), response=steps)
    player = Player(demo.project.evolve(effects=(BURST,), triggers=(falls, hit)), demo.characters)
    player.key("F")
    player.seek(0.5)
    player.hit("mask", (0.0, 1.5, 0.0))
    player.seek(1.0)
    assert player.show.born == (0 if needed else 900)
    text = [refusal.reason for refusal in player.show.triggers.refusals if refusal.trigger == "hit"]
    rest = "; what follows needs it, and is left out" if needed else ""
    assert text == [f"the character is in the air, or has fallen{rest}"]


def test_what_stands_above_a_refused_step_is_done(demo):
    steps = (StartEffect(effect="e"), PlayClip(clip="nowhere", needed=True), StartEffect(effect="e"))
    player = Player(
        demo.project.evolve(effects=(BURST,), triggers=(Trigger(when=AtStart(), response=steps),)), demo.characters
    )
    player.seek(0.1)
    assert player.show.born == 450


# ---- dissolves ------------------------------------------------------------------------------------


@pytest.fixture
def dissolving(demo):
    """Play a clip that dissolves by itself, with a response at a key."""
    use = demo.project.character.evolve(
        dissolve=Dissolve(amount=1.0, clip="strike", begin=0.0, end=0.5),
        clips=(ClipUse(name="strike", loop=False), ClipUse(name="walk")),
    )
    stage = demo.project.stage.evolve(order=(ClipRun(clip="strike"), ClipRun(clip="walk", times=3)), rest=0.0)

    def play(response):
        trigger = Trigger(id="t", when=OnKey(key="K"), response=(response,))
        project = demo.project.evolve(characters=(use,), stage=stage, triggers=(trigger,), effects=())
        return Player(project, {use.id: demo.characters[demo.project.character.id]})

    return play


def test_a_response_brings_back_what_its_clip_dissolves(dissolving):
    player = dissolving(Dissolving(to=0.0, seconds=0.0))
    player.seek(0.6)
    assert player.show.actor.dissolved_at(0.6) == 1.0
    player.key("K")
    player.seek(0.7)
    assert player.show.actor.dissolved_at(0.7) == 0.0
    # The clip begins anew: from then on that is told last.
    player.seek(player.show.actor._performance.period + 0.6)
    assert player.show.actor.dissolved_at(player.time) == 1.0


def test_a_response_that_dissolves_lasts_until_a_clip_says_otherwise(dissolving):
    player = dissolving(Dissolving(to=0.4, seconds=0.1))
    period = player.show.actor._performance.period
    player.seek(period - 0.5)
    player.key("K")
    player.seek(period - 0.2)
    assert player.show.actor.dissolved_at(player.time) == pytest.approx(0.4)
    player.seek(period + 0.25)
    assert player.show.actor.dissolved_at(player.time) == pytest.approx(0.5, abs=0.01)
