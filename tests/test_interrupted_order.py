"""Marks of the running order pass once each, whatever interrupts it, at any step rate."""

from collections import Counter

import pytest

from wraithon.ground.terrain import terrain_of
from wraithon.project.character import ClipUse, Mark
from wraithon.project.life import Curve
from wraithon.project.project import ClipRun
from wraithon.stage.driving.actor import Actor
from wraithon.stage.driving.driven_pose import Given
from wraithon.stage.performance import Performance

TIMES = tuple(k * 0.02 for k in range(50))


@pytest.fixture
def interrupted(demo):
    """Play walks in a row, marked every 20 ms, and interrupt them at some marks; count the marks that pass."""
    base = demo.project.character
    marks = tuple(Mark(id=f"m{k}", event="e", time=time) for k, time in enumerate(TIMES))
    use = base.evolve(clips=(ClipUse(name="walk", marks=marks), ClipUse(name="strike"), ClipUse(name="fall")))
    stage = demo.project.stage.evolve(order=(ClipRun(clip="walk", times=4),))

    def play(rate, interrupt, at=("m10",), seconds=10.0):
        performance = Performance(demo.characters[use.id], use, stage)
        actor = Actor(performance, terrain_of("slate", ()), rate)
        passed, waiting, done = Counter(), [], 0
        for step in range(round(seconds * rate)):
            actor.advance(step, Given())
            for passing in actor.passings(step / rate, (step + 1) / rate):
                passed[passing.mark.id] += 1
                if passing.mark.id in at and passed[passing.mark.id] == 1:
                    waiting += [(step + 1 + round(late * rate), act) for late, act in interrupt]
            for _, act in [due for due in waiting if due[0] == step + 1]:
                act(actor, step + 1)
                done += 1
        stand = actor.stand(seconds)
        rounds = (stand.order if stand is not None else seconds) / performance.segment(0).moving
        return passed, rounds, done

    return play


def clip(name):
    return lambda actor, step: actor.play(step, name)


def hidden(now):
    return lambda actor, step: actor.change(step, hidden=now)


def still(seconds):
    return lambda actor, step: actor.change(step, still=step / actor._rate + seconds)


def gone(actor, step):
    actor.dissolve(step, 1.0, 0.3, Curve())


INTERRUPTIONS = {
    "nothing": (),
    "a clip": ((0, clip("strike")),),
    "a clip in the middle of a clip": ((0, clip("strike")), (0.3, clip("leap"))),
    "a clip as the order comes back": ((0, clip("strike")), (1.55, clip("strike"))),
    "two at once": ((0, clip("strike")), (0, clip("leap"))),
    "held still": ((0, still(0.5)),),
    "held still while blending": ((0, clip("strike")), (0.05, still(0.5))),
    "hidden": ((0, hidden(True)), (0.4, hidden(False))),
    "dissolved": ((0, gone),),
    "fallen and risen": ((0, clip("fall")), (2.0, clip("rise"))),
    "a fall that interrupts a clip": ((0, clip("strike")), (0.1, clip("fall")), (3.0, clip("rise"))),
}


@pytest.mark.parametrize("rate", [24, 30, 60, 144, 480])
@pytest.mark.parametrize("kind", INTERRUPTIONS)
def test_each_mark_of_the_order_passes_once(interrupted, kind, rate):
    passed, rounds, done = interrupted(rate, INTERRUPTIONS[kind])
    assert done == len(INTERRUPTIONS[kind])
    assert rounds > 4
    whole = int(rounds)
    for number, time in enumerate(TIMES):
        due = whole + (time < (rounds - whole) * 1.0 - 1e-9)
        near = abs(time - (rounds - whole)) < 1.5 / rate
        assert passed[f"m{number}"] in ({whole, whole + 1} if near else {due}), (kind, number, time, rounds)


@pytest.mark.parametrize("rate", [30, 60, 144])
def test_interrupted_at_every_mark_it_still_passes_each_once(interrupted, rate):
    passed, rounds, _ = interrupted(
        rate, ((0, clip("strike")),), at=tuple(f"m{k}" for k in range(0, 50, 3)), seconds=60.0
    )
    whole = int(rounds)
    assert all(whole <= count <= whole + 1 for count in passed.values())
    assert len(passed) == len(TIMES)
