"""Automatic limits: what is worked out holds for firings that overlap, and no more than those."""

import math

import pytest

from wraithon.project.character import ClipUse, Event, Mark
from wraithon.project.checks.finding import mended
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import MAX_LIVING, Burst, Emission
from wraithon.project.life import Attribute, Range
from wraithon.project.project import ClipRun
from wraithon.project.resolving.overlapping import Rate, overlapping, rates
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart, EachStep, EveryMetres, EverySeconds, Never, OnEvent, OnKey
from wraithon.project.trigger import Often, Only, Trigger
from wraithon.stage.player import Player
from wraithon.studio.refusals import Refusals, refused_by_layer


@pytest.fixture
def running(demo):
    """Make a project of a run with two footfalls a round, each of which starts one effect."""

    def make(limit=None, count=300, **changes):
        use = demo.project.character
        marks = (Mark(event="step", time=0.0), Mark(event="step", time=0.3))
        use = use.evolve(events=(Event(id="step", name="step"),), clips=(ClipUse(name="run", marks=marks),))
        life = Attribute(birth=Range(low=1.2, high=1.5))
        emission = Emission(bursts=(Burst(count=count),), limit=limit)
        effect = Effect(id="e", length=0.1, layers=(Layer(id="l", emission=emission, lifetime=life),))
        trigger = Trigger(
            id="t", when=changes.pop("when", OnEvent(event="step")), response=(StartEffect(effect="e"),), **changes
        )
        stage = demo.project.stage.evolve(order=(ClipRun(clip="run", times=20),))
        return demo.project.evolve(characters=(use,), effects=(effect,), triggers=(trigger,), stage=stage)

    return make


def test_a_run_of_footfalls_is_refused_nothing(demo, running):
    player = Player(running(), demo.characters)
    player.seek(5.1)
    assert player.show.fired >= 15
    assert player.show.refused == 0
    assert player.show.born == 300 * player.show.fired
    limit = player.compiled.programs["l"].limit
    maximum = max(player.trace()[1])
    assert maximum <= limit <= 2 * maximum


def test_a_limit_that_was_set_stays_as_it_is(demo, running):
    player = Player(running(limit=450), demo.characters)
    player.seek(5.1)
    assert player.compiled.programs["l"].limit == 450
    assert player.show.refused > 0


def limit_of(demo, project):
    return Player(project, demo.characters).compiled.programs["l"].limit


@pytest.mark.parametrize(
    ("changes", "firings"),
    [
        ({"when": AtStart()}, 1.5),
        ({"when": Never()}, 1.5),
        ({"when": OnKey()}, 7),  # four a second, as a guess
        ({"when": OnKey(), "often": Often(cool_down=1.0)}, 2),
        ({"when": OnKey(), "often": Often(alive=3)}, 3),
        ({"when": OnKey(), "often": Often(times=1)}, 1.5),
        ({"when": EverySeconds(seconds=0.5)}, 4),
        ({"when": EveryMetres(metres=1.0)}, 16),
        ({"when": EachStep(), "often": Often(cool_down=0.25)}, 7),
        ({"only": Only(clips=("walk",))}, 1.5),
        ({"enabled": False}, 1.5),
    ],
)
def test_firings_that_may_overlap_are_counted(demo, running, changes, firings):
    assert limit_of(demo, running(**changes)) == pytest.approx(firings * 300, abs=1)


def test_it_is_never_more_than_may_live_at_all(demo, running):
    assert limit_of(demo, running(count=MAX_LIVING)) == MAX_LIVING


def test_rates_are_bounds_at_their_ends(demo, running):
    clips = {clip.name: clip.seconds for clip in next(iter(demo.characters.values())).clips}
    (rate,) = rates(running(), clips)["e"]
    assert (rate.times, rate.seconds) == (2, clips["run"])
    assert Rate(2, 0.6).within(0.0) == 2
    assert Rate(2, 0.6).within(0.6) == 4
    assert Rate(2, 0.6, maximum=3).within(9.0) == 3
    assert Rate(1, 0.5).within(math.inf) == 512
    assert overlapping((), 1.0) == 1
    assert overlapping((Rate(1, math.inf, 1),), 5.0) == 1
    assert overlapping((Rate(1, 0.1), Rate(1, 0.1)), math.inf) == 2


def told(refusals, project):
    return [(finding.message, finding.remedy.text) for finding in refusals.findings(project)]


def test_what_was_really_refused_is_told_and_no_more_once_it_is_mended(demo, running):
    project, refusals = running(limit=450), Refusals()
    assert not refusals.count(project, {})
    assert refusals.count(project, {"l": 3201})
    assert not refusals.count(project, {"l": 3202})
    assert told(refusals, project) == [
        ("births refused so far: 3,202 (its limit is 450)", "Set the limit to automatic")
    ]
    free = mended(project, refusals.findings(project)[0].remedy)
    refusals.count(free, {"l": 3202})
    assert told(refusals, free) == []
    refusals.count(free, {"l": 3212})
    assert told(refusals, free) == [
        ("births refused so far: 10 (more firings overlap than its triggers let expect)", "Set the limit to 900")
    ]
    refusals.count(free, {})
    assert told(refusals, free) == []


def test_refusals_of_variants_are_those_of_their_layer():
    assert refused_by_layer({"a": (3, 0), "b": (3, 4), "b~0c1d": (0, 5)}) == {"b": 9}
