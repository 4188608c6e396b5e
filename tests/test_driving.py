"""The character driven by hand: exact places, speeds and times, and what stays as it is however it is got at."""

import math
from dataclasses import replace

import numpy as np
import pytest

from tests.bodies import swaying_pole
from wraithon.ground.terrain import terrain_of
from wraithon.project.character import CharacterUse, ClipUse, Mark
from wraithon.project.project import Project
from wraithon.project.staging.driving import Driving
from wraithon.project.staging.ground import Block
from wraithon.stage.driving.actor import Actor
from wraithon.stage.driving.driven_pose import Given
from wraithon.stage.driving.feet import legs_of, spans_of
from wraithon.stage.driving.moves import guessed_roles, moves_of
from wraithon.stage.performance import Performance
from wraithon.stage.player import Player

RATE = 60
LEDGE = Block(place=(0.0, 0.0), size=(4.0, 4.0), height=2.0)


@pytest.fixture
def use(demo):
    return demo.project.character


@pytest.fixture
def acting(demo, use):
    """Drive her: spans of seconds with what is given, over blocks."""

    def drive(*script, pieces=(), use=use, rate=RATE):
        performance = Performance(demo.characters[use.id], use, demo.project.stage)
        actor, step = Actor(performance, terrain_of("slate", pieces), rate, driven=True), 0
        passed = []
        for seconds, given in script:
            for k in range(round(seconds * rate)):
                actor.advance(step, given if not k else given._replace(acts=()))
                passed += [(p.mark.event, p.time) for p in actor.passings(step / rate, (step + 1) / rate)]
                step += 1
        actor.passed = passed
        return actor

    return drive


def test_clips_are_found_for_their_roles_by_name_and_by_what_they_do(demo, use):
    halcyon = demo.characters[use.id]
    named = {role: role for role in ("idle", "walk", "run", "leap", "strike", "fall")}
    assert guessed_roles(halcyon, use) == named
    moves = moves_of(halcyon, use)
    assert (moves.walk.pace, moves.run.pace) == (pytest.approx(1.35, abs=1e-3), pytest.approx(3.4, abs=1e-3))
    assert moves.walk.stride == pytest.approx(1.35, abs=1e-3)
    assert 0.45 < moves.leap.off < moves.leap.top < moves.leap.hang < moves.leap.land < 1.05
    chosen = use.evolve(driving=Driving(strike="leap"))
    assert guessed_roles(halcyon, chosen)["strike"] == "leap"
    hidden = use.evolve(clips=(ClipUse(name="walk", hidden=True),))
    assert guessed_roles(halcyon, hidden).get("walk") != "walk"


@pytest.mark.parametrize("scale", [0.1, 3.0])
def test_what_a_clip_does_hangs_on_no_scale(demo, use, scale):
    numbered = {f"clip {n}": clip for n, clip in enumerate(demo.characters[use.id].clips)}
    nameless = replace(
        demo.characters[use.id], clips=tuple(replace(clip, name=name) for name, clip in numbered.items())
    )
    plain = use.evolve(clips=())
    found = guessed_roles(nameless, plain)
    assert {numbered[found[role]].name for role in ("walk", "run", "leap")} == {"walk", "run", "leap"}
    assert guessed_roles(nameless, plain.evolve(scale=scale)) == found


def test_she_gains_speed_as_she_may_and_ends_at_the_clips_own_pace(acting):
    actor = acting((0.1, Given((0, 1))))
    assert actor.stands[-1].speed == pytest.approx(7.0 * 0.1, abs=1e-6)
    actor = acting((2.0, Given((0, 1))))
    assert (actor.stands[-1].speed, actor.stands[-1].state) == (pytest.approx(1.35, abs=1e-6), "walking")
    actor = acting((2.0, Given((0, 1), fast=True)))
    assert (actor.stands[-1].speed, actor.stands[-1].state) == (pytest.approx(3.4, abs=1e-6), "running")
    half = acting((2.0, Given((0, 0.5))))
    assert half.stands[-1].speed == pytest.approx(0.675, abs=1e-6)


def test_she_turns_no_quicker_than_she_may_and_ends_where_she_is_sent(acting):
    actor = acting((0.1, Given((1, 0))))
    assert math.degrees(actor.stands[-1].heading) == pytest.approx(48, abs=5)
    assert max(abs(math.degrees(s.spin)) for s in actor.stands) <= 480 + 1e-6
    actor = acting((2.0, Given((1, 0))), (0.5, Given()))
    x, _, z = actor.stands[-1].position
    assert math.degrees(actor.stands[-1].heading) == pytest.approx(90)
    assert x > 2.0
    assert abs(z) < 0.2
    assert actor.stands[-1].speed == 0


def test_a_gait_goes_by_the_ground_so_that_feet_stand_still(acting, demo, use):
    halcyon = demo.characters[use.id]
    actor = acting(
        (1.0, Given((0, 1))), (1.5, Given((1, 0.4))), (1.5, Given((1, 0.4), fast=True)), (1.0, Given((0, 1)))
    )
    spans = spans_of(halcyon, moves_of(halcyon, use).walk.clip)
    assert set(spans) == {"left ball", "right ball"}
    slid, stood = [], 0.0
    legs = legs_of(halcyon)
    before = None
    for stand in actor.stands[30:]:
        matrices = actor.pose_at(stand.time).matrices
        positions = [matrices[leg.ball, [0, 2], 3] for leg in legs]
        if before is not None:
            for k, lock in enumerate(stand.locks):
                if lock.fixed and before[1][k].fixed:
                    slid.append(float(np.hypot(*(positions[k] - before[0][k]))))
                    stood += 1 / RATE
        before = positions, stand.locks or [type("", (), {"fixed": False})] * len(legs)
    assert stood > 2.5
    assert np.quantile(slid, 0.95) < 0.002  # metres a step
    assert sum(slid) / stood < 0.05  # metres for each second that a foot stands


def test_events_of_the_leading_clip_pass_once_a_round_at_any_speed(acting):
    walked = acting((10.0, Given((0, 1))))
    lefts = [time for event, time in walked.passed if event == "left-step"]
    way = [walked.stand(time).way for time in lefts]
    np.testing.assert_allclose(np.diff(way[1:]), 1.35, atol=0.02)
    mixed = acting(*[(0.9, Given((0, 1), fast=bool(k % 2))) for k in range(12)])
    for side in ("left-step", "right-step"):
        times = [time for event, time in mixed.passed if event == side]
        assert len(times) > 10
        assert min(np.diff(times)) > 0.25


def test_a_leap_leaves_the_ground_and_comes_down_where_the_clip_does(acting, demo, use):
    leap = moves_of(demo.characters[use.id], use).leap
    actor = acting((2.0, Given((0, 1), fast=True)), (1.5, Given((0, 1), fast=True, acts=("leap",))))
    states = [(s.state, round(s.time - 2.0, 3)) for s in actor.stands if s.time > 2]
    off = next(t for state, t in states if state in {"rising", "falling"})
    down = next(t for state, t in states if state == "landing")
    assert off == pytest.approx(leap.off, abs=2 / RATE)
    assert down == pytest.approx(leap.land, abs=2 / RATE)
    assert actor.stands[-1].speed == pytest.approx(3.4, abs=0.01)
    again = acting((0.5, Given(acts=("leap",))), (0.5, Given(acts=("leap",))))
    assert (
        sum(a.mode != "leap" and b.mode == "leap" for a, b in zip(again.stands, again.stands[1:], strict=False)) == 1
    )


def test_a_leap_takes_her_onto_what_she_could_not_step_on(acting):
    block = Block(place=(0.0, 5.0), size=(4.0, 4.0), height=0.45)
    run = Given((0, 1), fast=True)
    assert acting((3.0, run), pieces=(block,)).stands[-1].position[1] == 0.0
    leapt = acting((0.75, run), (1.6, run._replace(acts=("leap",))), pieces=(block,))
    assert leapt.stands[-1].position[1] == pytest.approx(0.45)
    assert leapt.stands[-1].speed > 3.0
    low = [stand.position[1] + stand.lowest for stand in leapt.stands if 3.0 < stand.position[2] < 7.0]
    assert min(low) > 0.2  # no foot goes through it by more than a step


def test_a_step_off_a_ledge_falls_as_bodies_do(acting):
    actor = acting((3.0, Given((0, 1), fast=True)), pieces=(LEDGE,))
    first = next(s for s in actor.stands if not s.grounded)
    last = next(s for s in actor.stands if s.state == "landing")
    assert first.position[2] == pytest.approx(2.0, abs=0.1)
    assert last.fell == pytest.approx(math.sqrt(2 * 9.81 * 2.0), rel=0.03)
    assert last.time - first.time == pytest.approx(math.sqrt(2 * 2.0 / 9.81), abs=2 / RATE)
    assert actor.stands[-1].position[1] == 0.0


def test_what_is_too_high_stops_her_and_what_is_low_is_stepped_on(acting):
    wall = Block(place=(0.0, 4.0), size=(6.0, 2.0), height=1.5)
    actor = acting((4.0, Given((0, 1), fast=True)), pieces=(wall,))
    assert 2.5 < actor.stands[-1].position[2] < 3.0
    assert actor.stands[-1].speed < 0.5
    kerb = wall.evolve(height=0.3)
    actor = acting((1.4, Given((0, 1), fast=True)), pieces=(kerb,))
    assert actor.stands[-1].position[1] == pytest.approx(0.3)
    ramp = Block(place=(0.0, 4.0), size=(3.0, 6.0), rise=2.0)
    actor = acting((1.5, Given((0, 1), fast=True)), pieces=(ramp,))
    z = actor.stands[-1].position[2]
    assert actor.stands[-1].position[1] == pytest.approx((z - 1.0) / 3.0, abs=0.08)


def test_a_fall_lies_until_she_gets_up(acting):
    actor = acting((0.5, Given()), (4.0, Given((0, 1), acts=("fall",))))
    assert (actor.stands[-1].state, actor.stands[-1].speed) == ("fallen", 0.0)
    up = acting((0.5, Given()), (4.0, Given(acts=("fall",))), (1.0, Given((0, 1), acts=("rise",))))
    assert up.stands[-1].state == "walking"


def test_a_show_driven_is_the_same_by_steps_by_seeking_and_again(demo):
    def played(player):
        player.steer(0.3, 1.0, fast=True)
        player.advance(0.8)
        player.act("leap")
        player.advance(1.5)
        player.steer(0, 0)
        player.act("strike")
        player.key("1")
        player.signal("health", 0.4)
        player.advance(1.2)
        return player

    one = played(Player(demo.project, demo.characters, driven=True))
    two = played(Player(demo.project, demo.characters, driven=True))
    digest, moment = one.digest(), one.time
    assert digest == two.digest()
    one.seek(0.9)
    assert one.show.actor.stand(0.9).state == "leaping"
    one.seek(moment)
    assert one.digest() == digest
    one.seek(0.5)
    one.steer(-1, 0)  # another way from there: what came later is forgotten
    one.seek(moment)
    assert one.digest() != digest
    assert one.show.actor.stand(moment).state == "walking"
    one.restart()
    assert (one.time, one.show.actor.stand(0.0).position) == (0.0, (0.0, 0.0, 0.0))


def test_an_edit_while_driven_is_exact_after_a_seek(demo):
    player = Player(demo.project, demo.characters, driven=True)
    player.steer(0, 1)
    player.advance(1.5)
    kerb = Block(place=(0, 1.0), size=(2, 1), height=0.2)
    edited = demo.project.evolve(stage=demo.project.stage.evolve(pieces=(kerb,)))
    player.adopt(edited)
    player.seek(1.5)
    fresh = Player(edited, demo.characters, driven=True)
    fresh.steer(0, 1)
    fresh.seek(1.5)
    assert player.digest() == fresh.digest()


def test_another_character_that_comes_on_stage_is_driven_from_there(demo):
    pole = CharacterUse(id="pole", file="p.glb")
    both = demo.project.evolve(characters=(*demo.project.characters, pole))
    characters = {**demo.characters, "pole": swaying_pole()}
    player = Player(both, characters, driven=True)
    player.advance(1.0)
    player.adopt(both.evolve(stage=both.stage.evolve(character="pole")))
    player.advance(0.5)
    assert [player.show.actor.stand(t).time for t in (1.25, 1.5)] == pytest.approx([1.25, 1.5])
    player.seek(1.25)
    player.seek(1.5)
    assert player.pure


def test_nonsense_is_not_driven_by(demo):
    player = Player(demo.project, demo.characters, driven=True)
    player.steer(math.nan, 1.0)
    player.steer(math.inf, 0.0)
    player.signal("health", math.nan)
    player.advance(0.5)
    assert player.show.actor.stand(0.5).position == (0.0, 0.0, 0.0)
    player.steer(30.0, 40.0)
    assert player.step() is None
    assert player.show.given.steer == (0.6, 0.8)


def test_a_character_without_a_walk_does_nothing_absurd():
    player = Player(
        Project(characters=(CharacterUse(id="pole", file="p.glb"),)), {"pole": swaying_pole()}, driven=True
    )
    player.steer(0, 1, fast=True)
    for act in ("leap", "strike", "fall", "rise"):
        player.act(act)
    player.advance(1.0)
    assert np.isfinite(player.show.actor.pose_at(1.0).matrices).all()


def test_marks_at_the_very_ends_of_clips_pass(acting, use):
    marks = (Mark(id="m", event="left-step", time=0.0), Mark(id="n", event="right-step", time=0.5))
    changed = use.evolve(clips=tuple(c.evolve(marks=marks) if c.name == "walk" else c for c in use.clips))
    passed = [event for event, _ in acting((4.0, Given((0, 1))), use=changed).passed]
    assert 3 <= passed.count("left-step") <= 4
    assert 3 <= passed.count("right-step") <= 4
