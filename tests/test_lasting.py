"""Effects that loop, and that are warmed up, as a whole."""

from __future__ import annotations

import pytest

from wraithon.project.binding import Masters
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.findings import check
from wraithon.project.life import Attribute
from wraithon.project.project import Project
from wraithon.project.resolving.durations import lasting
from wraithon.project.resolving.mastering import mastered
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart, OnEvent
from wraithon.project.trigger import Trigger
from wraithon.stage.player import Player

BURSTS = Layer(id="b", emission=Emission(bursts=(Burst(count=5),)), lifetime=Attribute.of(0.3))
STEADY = Layer(id="s", emission=Emission(rate=60, start=0.5), lifetime=Attribute.of(0.2))


def played(effect, until):
    start = Trigger(when=AtStart(), response=(StartEffect(effect=effect.id),))
    player = Player(Project(effects=(effect,), triggers=(start,)), {})
    player.seek(until)
    return player


def test_one_that_does_neither_is_itself():
    plain = Effect(layers=(BURSTS,))
    assert lasting(plain) is plain
    endless = Effect(layers=(BURSTS,), length=None, loop=True)  # it has no length that could be over
    assert lasting(endless) is endless


@pytest.mark.parametrize(("moment", "alive"), [(0.1, 5), (0.4, 0), (0.9, 0), (1.1, 5), (1.4, 0), (5.2, 5)])
def test_a_loop_begins_all_of_it_anew_each_time_its_length_is_over(moment, alive):
    assert played(Effect(id="e", layers=(BURSTS,), length=1.0, loop=True), moment).show.alive == alive
    assert played(Effect(id="e", layers=(BURSTS,), length=1.0), moment).show.alive == (alive if moment < 1 else 0)


def test_a_rate_keeps_its_pause_in_each_turn():
    effect = Effect(id="e", layers=(STEADY,), length=1.0, loop=True)
    alive = [played(effect, moment).show.alive > 0 for moment in (0.4, 0.6, 0.95, 1.4, 1.6, 3.4, 3.6)]
    assert alive == [False, True, True, False, True, False, True]


def test_a_layer_that_loops_by_itself_goes_on_to():
    own = BURSTS.evolve(emission=BURSTS.emission.evolve(loop=0.5))
    settled = lasting(Effect(layers=(own, STEADY), length=2.0, loop=True))
    assert [layer.emission.loop for layer in settled.layers] == [0.5, 2.0]
    assert (settled.length, settled.loop, settled.layers[1].emission.length) == (None, False, 1.5)


def test_the_longer_warm_up_counts_and_what_lives_is_there_at_once():
    warm = Layer(id="w", emission=Emission(rate=60, warm_up=2.0), lifetime=Attribute.of(1.0))
    settled = lasting(Effect(layers=(warm, STEADY), length=None, warm_up=1.0))
    assert [layer.emission.warm_up for layer in settled.layers] == [2.0, 1.0]
    steady = Layer(id="s", emission=Emission(rate=60), lifetime=Attribute.of(0.5))
    assert played(Effect(id="e", layers=(steady,), length=None, warm_up=1.0), 1 / 60).show.alive == pytest.approx(
        30, abs=1
    )
    assert played(Effect(id="e", layers=(steady,), length=None), 1 / 60).show.alive <= 1


def test_the_same_bytes_step_by_step_and_by_seeking():
    effect = Effect(id="e", layers=(BURSTS, STEADY), length=0.7, loop=True, warm_up=0.3)
    one, two = played(effect, 2.0), played(effect, 3.0)
    for _ in range(60):
        one.step()
    assert one.digest() == two.digest()
    two.seek(1.2)
    two.seek(3.0)
    assert one.digest() == two.digest()


def test_tempo_scales_both():
    quick = mastered(Effect(layers=(BURSTS,), length=1.0, loop=True, warm_up=4.0), Masters(tempo=2))
    assert (quick.length, quick.warm_up) == (0.5, 2.0)
    effect = Effect(id="e", layers=(BURSTS,), length=1.0, loop=True, masters=Masters(tempo=2))
    assert [played(effect, moment).show.alive for moment in (0.1, 0.4, 0.6, 0.9)] == [5, 0, 5, 0]


def test_a_loop_that_an_event_starts_again_and_again_is_told_and_ended():
    trigger = Trigger(when=OnEvent(event="x"), response=(StartEffect(effect="e"),))
    effect = Effect(id="e", layers=(BURSTS,), length=1.0, loop=True)
    found = [f for f in check(Project(effects=(effect,), triggers=(trigger,)), {}) if f.about == "e"]
    assert len(found) == 1
    assert "no end" in found[0].message
    assert [(c.path, c.value) for c in found[0].remedy.changes] == [("loop", False)]
    once = Project(effects=(effect.evolve(loop=False),), triggers=(trigger,))
    assert not [f for f in check(once, {}) if f.about == "e"]


def test_an_edit_of_either_is_heard_by_what_lives():
    start = Trigger(when=AtStart(), response=(StartEffect(effect="e"),))
    effect = Effect(id="e", layers=(BURSTS,), length=1.0)
    player = Player(Project(effects=(effect,), triggers=(start,)), {})
    player.seek(1.1)
    assert player.show.alive == 0
    player.adopt(Project(effects=(effect.evolve(loop=True),), triggers=(start,)), None)
    player.seek(1.1)
    assert player.show.alive == 5
