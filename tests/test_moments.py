"""Moments that are found on clips: feet, strikes and extremes; and what is made of those that are taken."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from tests.bodies import body, clip_of
from wraithon.character.moments.peaks import KINDS, candidates
from wraithon.project.checks.finding import Level
from wraithon.project.findings import check
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import OnEvent
from wraithon.studio.moments import found_moments, taken


@pytest.fixture
def bare(demo):
    """The demo without anchors, events and triggers."""
    clips = tuple(clip.evolve(marks=()) for clip in demo.project.character.clips)
    use = demo.project.character.evolve(anchors=(), events=(), clips=clips)
    return demo.project.evolve(characters=(use,), triggers=())


WIDE = 0.12


def swung():
    """Return a stick whose end goes up to 2 m at 0.5 s and out to 1.5 m at 0.7 s, quickest to either side of that."""
    times = np.linspace(0, 1, 241)
    up = 0.5 - 0.5 * np.cos(2 * np.pi * np.clip(times, 0, 1))
    out = np.exp(-(((times - 0.7) / WIDE) ** 2))
    return stick(times, np.stack([1.5 * out, up, 0 * times], axis=1))


def stick(times, positions):
    """Return a stick 1 m tall, and a clip on which its end is at places (n, 3)."""
    made = body(
        [[0, 0, 0], [0.1, 0, 0], [0, 1, 0]], [[0, 1, 2]], parents=(-1, 0), offsets=[(0, 1, 0), (0, 0, 0)],
        joints=[[0], [0], [1]],
    )  # fmt: skip
    return made, clip_of("swing", times, (1, 0, positions))


@pytest.mark.parametrize(
    ("kind", "time", "text"),
    [
        ("highest", 0.5, "2.00 m above the ground"), ("lowest", 0.0, "1.00 m above the ground"),
        ("farthest", 0.7, "1.50 m from the middle"),
    ],
)  # fmt: skip
def test_extremes_are_where_they_are(kind, time, text):
    made, clip = swung()
    (found,) = candidates(made, clip, kind, "j1", loops=False)
    assert found.time == pytest.approx(time, abs=1 / 60)
    assert (found.reason, found.joint, found.clip, found.kind) == (text, "j1", "swing", kind)
    assert found.confidence == 1.0


@pytest.mark.parametrize(
    ("kind", "text"),
    [
        ("highest", "0.54 m above the ground"), ("lowest", "0.52 m above the ground"),
        ("farthest", "0.03 m from the middle"), ("strike", "m/s"),
    ],
)  # fmt: skip
def test_what_was_measured_is_told_as_it_is_seen(kind, text):
    """A character of centimetres was said to strike at hundreds of metres a second."""
    made, clip = swung()
    found = candidates(made, clip, kind, "j1", loops=False)
    small = candidates(made, clip, kind, "j1", loops=False, scale=0.02, raised=0.5)
    assert [each.time for each in small] == pytest.approx([each.time for each in found], abs=1 / 60)
    assert [each.confidence for each in small] == pytest.approx([each.confidence for each in found])
    if kind == "strike":
        assert all(float(each.reason.split()[0]) < 0.3 for each in small)
    else:
        assert [each.reason for each in small] == [text]


def test_strikes_are_peaks_of_speed_and_apart():
    made, clip = swung()
    found = candidates(made, clip, "strike", "j1", loops=False)
    quickest = 0.7 - WIDE / 2**0.5, 0.7 + WIDE / 2**0.5
    times = [candidate.time for candidate in found]
    for time in quickest:
        assert min(abs(time - each) for each in times) < 0.03
    assert all(b - a >= 0.149 for a, b in pairwise(times))
    assert all("m/s" in candidate.reason for candidate in found)


def test_strikes_along_a_direction_are_peaks_of_the_speed_that_way_alone():
    times, width = np.linspace(0, 1, 961), 0.06
    ahead, down = (np.exp(-(((times - at) / width) ** 2)) for at in (0.3, 0.7))
    made, clip = stick(times, np.stack([0 * times, 1 - down, ahead], axis=1))
    off, quickest = width / 2**0.5, (2 / np.e) ** 0.5 / width
    for kind, wanted in {"strike ahead": 0.3 - off, "strike down": 0.7 - off, "strike up": 0.7 + off}.items():
        (found,) = candidates(made, clip, kind, "j1", loops=False)
        assert found.time == pytest.approx(wanted, abs=1 / 120), kind
        assert float(found.reason.split()[0]) == pytest.approx(quickest, rel=0.03)
        assert kind in KINDS
    assert len(candidates(made, clip, "strike", "j1", loops=False)) == 2  # those closer than APART are one


def test_the_demos_strike_is_found_on_the_hand_that_strikes(halcyon):
    found = candidates(halcyon, halcyon.clip("strike"), "strike", "right finger tips", loops=False)
    best = max(found, key=lambda candidate: candidate.confidence)
    assert best.time == pytest.approx(0.7, abs=0.06)
    assert best.confidence > 0.8
    assert candidates(halcyon, halcyon.clip("idle"), "strike", "right finger tips", loops=True) == []


@pytest.mark.parametrize(("kind", "times"), [("down", [0.0, 0.5]), ("up", [0.12, 0.62])])
def test_feet_of_a_loop_come_down_and_lift_off_within_it(halcyon, kind, times):
    found = candidates(halcyon, halcyon.clip("walk"), kind, loops=True)
    assert [candidate.time for candidate in found] == pytest.approx(times, abs=2.001 / 60)
    assert candidates(halcyon, halcyon.clip("idle"), kind, loops=True) == []  # they stand all the time


@pytest.mark.parametrize("kind", [kind for kind in KINDS if kind not in {"down", "up"}])
def test_of_a_joint_that_is_not_there_nothing_is_found(halcyon, kind):
    assert candidates(halcyon, halcyon.clip("walk"), kind, "tail", loops=True) == []
    assert candidates(halcyon, halcyon.clip("walk"), kind, loops=True) == []


def test_what_is_taken_is_marked_with_anchors_on_the_ground_and_triggers_that_wait_for_an_effect(bare, halcyon):
    found = found_moments(bare, halcyon, "down")
    assert {candidate.clip for candidate in found} >= {"walk", "run", "leap"}
    project = taken(bare, found)
    use = project.character
    assert {event.name for event in use.events} == {"left ball down", "right ball down"}
    assert {(anchor.joint, anchor.on_ground) for anchor in use.anchors} == {("left ball", True), ("right ball", True)}
    assert sum(len(clip.marks) for clip in use.clips) == len(found)
    assert [trigger.response for trigger in project.triggers] == [(StartEffect(),)] * 2
    assert {trigger.when for trigger in project.triggers} == {OnEvent(event=event.id) for event in use.events}
    told = [f for f in check(project, {}) if f.level is Level.ERROR]
    assert {f.message for f in told} == {"an action starts no effect; pick one"}
    assert found_moments(project, halcyon, "down") == []  # all of them are marked
    more = taken(project, found_moments(project, halcyon, "up")[:1])
    assert len(more.character.anchors) == 2  # the foot has one already


def test_what_is_hidden_and_what_is_hardly_sure_is_not_offered(bare, halcyon):
    clips = tuple(clip.evolve(hidden=clip.name != "walk") for clip in bare.character.clips)
    others = {clip.name for clip in halcyon.clips} - {clip.name for clip in clips}
    more = (bare.character.clip(name).evolve(hidden=True) for name in others)
    hidden = bare.evolve(characters=(bare.character.evolve(clips=(*clips, *more)),))
    assert {candidate.clip for candidate in found_moments(hidden, halcyon, "down")} == {"walk"}
    assert all(candidate.confidence >= 0.25 for candidate in found_moments(bare, halcyon, "highest", "head"))
    assert found_moments(bare.evolve(characters=()), halcyon, "down") == []
    assert taken(bare.evolve(characters=()), found_moments(bare, halcyon, "down")).triggers == ()
