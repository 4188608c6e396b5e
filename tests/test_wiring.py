"""An effect and a moment of a clip become event, mark, anchor and trigger."""

from __future__ import annotations

import pytest

from wraithon.project.character import Mark
from wraithon.project.edit import with_event, with_mark, with_trigger
from wraithon.project.project import ClipRun
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import OnEvent
from wraithon.project.trigger import Trigger
from wraithon.stage.performance import Performance
from wraithon.stage.player import Player
from wraithon.studio.wiring import ClipMoment, mirrored_event, spot_at, wired


@pytest.fixture
def bare(demo):
    """The demo without anchors, events and triggers, walking and then striking."""
    clips = tuple(clip.evolve(marks=()) for clip in demo.project.character.clips)
    use = demo.project.character.evolve(anchors=(), events=(), clips=clips)
    stage = demo.project.stage.evolve(order=(ClipRun(clip="walk"), ClipRun(clip="strike")))
    return demo.project.evolve(characters=(use,), triggers=(), stage=stage)


def performance_of(project, character):
    return Performance(character, project.character, project.stage)


@pytest.mark.parametrize(
    ("time", "joint", "lands"),
    [(0.02, "left ball", True), (0.48, "right ball", True), (0.55, "right ball", True), (0.99, "left ball", True)],
)
def test_where_a_foot_comes_down_that_is_what_the_moment_is_about(bare, halcyon, time, joint, lands):
    spot = spot_at(performance_of(bare, halcyon), time, 60)
    assert (spot.clip, spot.joint, spot.lands) == ("walk", joint, lands)
    assert spot.time == pytest.approx(round(time * 60) / 60, abs=1.5e-3)


def test_else_it_is_the_joint_that_is_quickest_or_the_one_that_is_chosen(bare, halcyon):
    performance = performance_of(bare, halcyon)
    strike = spot_at(performance, 1.0 + 0.82, 60)
    assert strike.clip == "strike"
    assert strike.joint == "right finger tips"  # a foot comes down then, too, but the hand strikes
    assert not strike.lands
    assert spot_at(performance, 1.82, 60, joint="head").joint == "head"
    assert spot_at(performance, 1.82, 60, joint="nothing").joint == strike.joint


def test_where_nothing_plays_there_is_no_spot(bare, halcyon):
    still = bare.evolve(stage=bare.stage.evolve(order=()))
    assert spot_at(performance_of(still, halcyon), 0.5, 60) is None


def test_all_of_it_is_made_once_and_fires_there(bare, demo, halcyon):
    spot = spot_at(performance_of(bare, halcyon), 0.5, 60)
    project, trigger = wired(bare, "tread", spot)
    use = project.character
    (anchor,), (event,), (mark,) = use.anchors, use.events, use.clip("walk").marks
    assert (anchor.joint, anchor.on_ground, event.anchor) == ("right ball", True, anchor.id)
    assert (mark.event, mark.time) == (event.id, spot.time)
    assert project.trigger(trigger).response == (StartEffect(effect="tread"),)
    player = Player(project, demo.characters)
    player.seek(0.7)
    (record,) = player.show.history()
    assert (record.effect, record.start) == ("tread", pytest.approx(spot.time))
    player.seek(10.0)
    starts = [record.start for record in player.show.history()]
    assert len(starts) == len(set(starts)) == 4  # once a round


def test_what_is_there_already_is_taken_up(bare, halcyon):
    spot = spot_at(performance_of(bare, halcyon), 0.5, 60)
    project, first = wired(bare, "tread", spot)
    again, second = wired(project, "drizzle", spot)
    assert first != second
    assert (len(again.character.anchors), len(again.character.events), len(again.triggers)) == (1, 1, 2)
    idle = Trigger(id="idle", when=OnEvent(event=project.character.events[0].id), response=(StartEffect(),))
    waiting = project.evolve(triggers=(idle,))
    filled, which = wired(waiting, "tread", spot)
    assert which == "idle"
    assert filled.trigger("idle").response[0].effect == "tread"
    elsewhere = wired(again, "tread", ClipMoment("walk", 0.1, "right ball", lands=True))[0]
    assert len(elsewhere.character.events) == 2
    assert len(elsewhere.character.anchors) == 1


def test_an_effect_or_a_character_that_is_gone_is_wired_to_nothing(bare):
    spot = ClipMoment("walk", 0.1, "head", lands=False)
    assert wired(bare, "nothing", spot) == (bare, "")
    nobody = bare.evolve(characters=())
    assert wired(nobody, "tread", spot) == (nobody, "")


def test_an_event_is_mirrored_with_anchor_marks_and_triggers_half_a_round_later(bare, halcyon):
    project, trigger = wired(bare, "tread", ClipMoment("walk", 0.1, "left ball", lands=True))
    left = project.character.events[0].evolve(name="left step")
    project = with_event(project, left)
    project = with_trigger(project, project.trigger(trigger).evolve(name="left dust"))
    struck = with_mark(project, "strike", Mark(event=left.id, time=0.4))
    both, twin = mirrored_event(struck, halcyon, left.id)
    event = both.event(twin)
    assert (event.name, both.anchor(event.anchor).joint, both.anchor(event.anchor).on_ground) == (
        "right step", "right ball", True,
    )  # fmt: skip
    marks = {clip.name: [m.time for m in clip.marks if m.event == twin] for clip in both.character.clips}
    assert marks["walk"] == [pytest.approx(0.6)]
    assert marks["strike"] == [0.4]  # what does not loop has no other half
    right = next(t for t in both.triggers if t.name == "right dust")
    assert (right.when.event, right.response) == (twin, project.trigger(trigger).response)
    again, same = mirrored_event(both, halcyon, left.id)
    assert (again, same) == (both, twin)


def test_what_is_on_no_side_has_no_mirror_image(bare, halcyon):
    project, _ = wired(bare, "tread", ClipMoment("walk", 0.1, "head", lands=False))
    event = project.character.events[0]
    assert mirrored_event(project, halcyon, event.id) == (project, "")
    assert mirrored_event(project, halcyon, "nothing") == (project, "")
