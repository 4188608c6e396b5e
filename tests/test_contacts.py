"""When feet stand: held against what the demo's gaits were made from, and against walks with noise."""

from __future__ import annotations

import json
from dataclasses import replace
from functools import lru_cache

import numpy as np
import pytest
from scripts.demo_maker.gait import RUN, WALK

from tests.bodies import body, clip_of
from tests.test_capture import bvh_of
from tests.test_cli import run
from wraithon.character.checkup import loops_well
from wraithon.character.moments.contacts import find_contacts
from wraithon.character.reading.bvh import read_bvh
from wraithon.character.retarget import guess_unit, propose_matches, retargeted
from wraithon.project.checks.finding import mended
from wraithon.project.project import ClipRun
from wraithon.project.things import with_value
from wraithon.stage.fitness import fitness_findings
from wraithon.stage.performance import Performance

FRAMES = 2.001 / 60
"""Two frames, in seconds."""
GAITS = {"walk": WALK, "run": RUN}


def truth(gait, cycles=1):
    """Return joint, start and end of each stance of a gait, those that go over its ends cut off."""
    found = []
    for number in range(-1, cycles + 1):
        for joint, later in (("left ball", 0.0), ("right ball", gait.period / 2)):
            start = number * gait.period + later
            end = start + gait.period * gait.stance
            found.append((joint, max(start, 0.0), min(end, cycles * gait.period)))
    return [stance for stance in found if stance[2] - stance[1] > 0.12]


def matched(found, wanted, within):
    """Return which of the true stances were found, and how many of those found are none."""
    left = list(found)
    hits = []
    for joint, start, end in wanted:
        near = [c for c in left if c.joint == joint and abs(c.start - start) < within and abs(c.end - end) < within]
        if near:
            left.remove(near[0])
            hits.append((joint, start, end))
    return hits, left


@pytest.mark.parametrize("name", GAITS)
def test_a_loops_contacts_are_within_two_frames_of_the_truth_over_the_seam_as_well(halcyon, name):
    gait = GAITS[name]
    footing = find_contacts(halcyon, halcyon.clip(name), loops=True)
    assert [c.joint for c in footing.contacts] == ["left ball", "right ball"]
    for contact, later in zip(footing.contacts, (0.0, gait.period / 2), strict=True):
        assert contact.start == pytest.approx(later, abs=FRAMES)
        assert contact.end == pytest.approx(later + gait.period * gait.stance, abs=FRAMES)
        assert contact.confidence > 0.85
        high, fast = contact.height * 50, contact.speed * 0.5
        assert contact.reason(0.5) == f"{high:.1f} cm above the ground, {fast:.2f} m/s against it"
    assert footing.pace == (0.0, 0.0)  # it travels


def test_who_stands_stands_all_the_time_and_who_lies_does_not(halcyon):
    idle = find_contacts(halcyon, halcyon.clip("idle"), loops=True)
    assert len(idle.contacts) == 2
    assert all((c.start, c.end) == (0.0, pytest.approx(halcyon.clip("idle").seconds)) for c in idle.contacts)
    fall = find_contacts(halcyon, halcyon.clip("fall"), loops=False)
    assert max(c.end for c in fall.contacts) < 1.5
    leap = find_contacts(halcyon, halcyon.clip("leap"), loops=False)
    for joint in ("left ball", "right ball"):
        (off, on) = [c for c in leap.contacts if c.joint == joint]
        assert off.end < 0.6
        assert on.start > 0.9


def in_place(clip, root, travel):
    """Return a clip whose root no longer travels along z."""
    values = clip.values.copy()
    for head, first in zip(clip.heads, clip.value_heads, strict=True):
        if head[0] == root and head[1] == 0:
            rows = slice(int(first), int(first + head[4]))
            times = clip.times[head[3] : head[3] + head[4]]
            values[rows, 2] -= travel * times / clip.seconds
    return replace(clip, values=values)


@pytest.mark.parametrize("name", GAITS)
def test_a_clip_made_in_place_tells_its_pace(halcyon, name):
    gait, clip = GAITS[name], halcyon.clip(name)
    still = in_place(clip, halcyon.root_node, gait.speed * gait.period)
    footing = find_contacts(halcyon, still, loops=True)
    assert footing.pace[1] == pytest.approx(gait.speed, rel=0.04)
    assert abs(footing.pace[0]) < 0.1
    hits, false = matched(footing.contacts, [(c.joint, c.start, c.end) for c in
                          find_contacts(halcyon, clip, loops=True).contacts], FRAMES)  # fmt: skip
    assert (len(hits), false) == (2, [])


def test_a_clip_made_in_place_is_told_and_mended_and_its_feet_stand_then(demo, halcyon):
    walk = in_place(halcyon.clip("walk"), halcyon.root_node, WALK.speed * WALK.period)
    dancer = replace(halcyon, clips=tuple(walk if clip.name == "walk" else clip for clip in halcyon.clips))
    use = demo.project.character.evolve(clips=tuple(c.evolve(in_place=()) for c in demo.project.character.clips))
    stage = demo.project.stage.evolve(order=(ClipRun(clip="walk"),))
    project = demo.project.evolve(characters=(use,), stage=stage)

    def told(project):
        return [f for f in fitness_findings(project, {use.id: dancer}) if f.about == "walk"]

    (found,) = told(project)
    assert "made in place" in found.message
    assert "1.3" in found.message
    assert not [f for f in fitness_findings(project, {use.id: dancer}) if "slides" in f.message]
    (halved,) = told(project.evolve(characters=(use.evolve(scale=0.75),)))
    speed, seen = (float(each.remedy.text.split()[4]) for each in (found, halved))
    assert seen == pytest.approx(0.75 * speed, abs=0.01)
    assert f"goes by at {seen:.2f} m/s" in halved.message
    assert halved.remedy.changes == found.remedy.changes
    after = mended(project, found.remedy)
    assert told(after) == []
    assert told(with_value(after, "clip", "walk", "goes", (0.0, 0.5)))  # too slow for its feet
    assert told(with_value(project, "clip", "walk", "in_place", ("x", "z"))) == []  # on the spot by wish
    performance = Performance(dancer, after.character, after.stage)
    assert performance.position_at(2.0)[2] == pytest.approx(2 * WALK.speed, rel=0.04)
    ball = dancer.skeleton.index["left ball"]
    stands = np.array([performance.pose_at(1 + t).matrices[ball, :3, 3] for t in np.linspace(0.1, 0.3, 9)])
    assert np.ptp(stands[:, 2]) < 0.02
    scaled = after.evolve(characters=(after.character.evolve(scale=2.0),))
    assert Performance(dancer, scaled.character, stage).position_at(2.0)[2] == pytest.approx(4 * WALK.speed, rel=0.04)


def test_what_stands_too_high_is_raised_by_its_button(demo, halcyon):
    clips = tuple(c.evolve(height=0.08) if c.name == "walk" else c for c in demo.project.character.clips)
    use = demo.project.character.evolve(clips=clips)
    project = demo.project.evolve(characters=(use,))
    found = [f for f in fitness_findings(project, {use.id: halcyon}) if "above the ground" in f.message]
    assert len(found) == 2
    after = mended(project, found[0].remedy)
    assert abs(after.character.clip("walk").height) < 0.01
    assert not [f for f in fitness_findings(after, {use.id: halcyon}) if "the ground" in f.message]


@lru_cache(maxsize=8)
def still_walked(halcyon, name, rate):
    """Return head and channels (F, C) of one cycle of a gait as a motion file gives them."""
    text = bvh_of(halcyon, halcyon.clip(name), frames=round(GAITS[name].period * rate) + 1)
    head, rows = text.split("MOTION\n")
    return head, np.array([[float(x) for x in row.split()] for row in rows.strip().split("\n")[2:]])


def walked(folder, halcyon, name, rate, degrees, metres, seed):
    """Return eight cycles of a gait as a motion file gives them, trembling in every channel, put on the dancer."""
    gait, cycles, rng = GAITS[name], 8, np.random.default_rng(seed)
    head, once = still_walked(halcyon, name, rate)
    stride = np.zeros(once.shape[1])
    stride[:3] = once[-1, :3] - once[0, :3]
    values = np.concatenate([once[:-1] + number * stride for number in range(cycles)])
    noise = rng.normal(size=values.shape) * degrees
    noise[:, :3] = rng.normal(size=(len(values), 3)) * metres * 100
    noise[:, 6:9] = 0
    lines = [" ".join(f"{x:.5f}" for x in row) for row in values + noise]
    step = gait.period / (len(once) - 1)
    text = [f"{head}MOTION", f"Frames: {len(lines)}", f"Frame Time: {step:.8f}", *lines]
    path = folder / "walked.bvh"
    path.write_text("\n".join(text) + "\n")
    capture = read_bvh(path)
    matches = propose_matches(capture, halcyon)
    return path, retargeted(capture, halcyon, matches, guess_unit(capture, halcyon, matches))


@pytest.mark.parametrize("name", GAITS)
@pytest.mark.parametrize("rate", [30, 60, 120])
@pytest.mark.parametrize(("degrees", "metres"), [(0.0, 0.0), (0.3, 0.001), (1.0, 0.003)])
def test_of_motions_with_noise_nearly_all_contacts_are_found_and_nearly_none_are_false(
    tmp_path, halcyon, name, rate, degrees, metres
):
    clip = walked(tmp_path, halcyon, name, rate, degrees, metres, seed=7)[1]
    found = [c for c in find_contacts(halcyon, clip, loops=False).contacts if c.end - c.start > 0.14]
    wanted = truth(GAITS[name], 8)
    hits, false = matched(found, wanted, 0.1)
    assert len(hits) >= 0.95 * len(wanted)
    assert len(false) <= 0.05 * len(found)
    if not degrees:
        assert len(matched(found, wanted, 1.2 * FRAMES)[0]) == len(wanted)


def quadruped(pace=0.8, stands=0.6):
    """Return something with four feet without skin, each in turn on the ground while it goes back at a pace."""
    feet = [(x, 0.0, z) for x in (0.2, -0.2) for z in (0.5, -0.5)]
    parents = [-1, *([0] * 4), 1, 2, 3, 4]
    offsets = [(0, 0.7, 0), *((x, -0.1, z) for x, _, z in feet), *([(0, -0.6, 0)] * 4)]
    times = np.linspace(0, 1, 121)
    moves = []
    for number in range(4):
        phase = (times - number / 4) % 1.0
        swing = np.clip((phase - stands) / (1 - stands), 0, 1)
        reach = pace * stands
        ahead = np.where(phase < stands, reach / 2 - pace * phase, -reach / 2 + reach * swing)
        up = 0.12 * np.sin(np.pi * swing)
        moves.append((5 + number, 0, np.stack([0 * times, -0.6 + up, ahead], axis=1)))
    made = body(np.zeros((0, 3)), np.zeros((0, 3)), parents=parents, offsets=offsets)
    return made, clip_of("trot", times, *moves)


def test_all_four_feet_of_a_quadruped_are_found_and_the_pace_under_them():
    character, clip = quadruped()
    footing = find_contacts(character, clip, loops=True)
    assert footing.pace[1] == pytest.approx(0.8, rel=0.02)
    assert [c.joint for c in footing.contacts] == ["j5", "j6", "j7", "j8"]
    for number, contact in enumerate(footing.contacts):
        assert contact.start == pytest.approx(number / 4, abs=FRAMES)
        assert contact.end == pytest.approx(number / 4 + 0.6, abs=FRAMES)


def test_without_feet_or_length_nothing_is_found_and_nothing_breaks(halcyon):
    stone = body(np.zeros((3, 3), np.float32), np.array([[0, 1, 2]], np.int32))
    clip = clip_of("still", [0.0, 1.0], (0, 0, [(0, 0, 0), (0, 0, 0)]))
    assert find_contacts(stone, clip, loops=False).pace == (0.0, 0.0)
    short = clip_of("short", [0.0, 0.001], (halcyon.root_node, 0, [(0, 0, 0), (0, 0, 0)]))
    assert find_contacts(halcyon, short, loops=True).contacts == ()
    adrift = clip_of("adrift", [0.0, 1.0], (halcyon.root_node, 0, [(0, np.nan, 0), (0, np.inf, 0)]))
    assert find_contacts(halcyon, adrift, loops=True).contacts == ()


def test_whether_a_clip_loops_is_seen_from_its_ends(halcyon):
    assert loops_well(halcyon, halcyon.clip("walk"))
    assert not loops_well(halcyon, halcyon.clip("fall"))


def test_the_command_prints_them(tmp_path, demo, halcyon):
    source = next(p for p in demo.folder.rglob("*.glb"))
    found = json.loads(run("contacts", source, "--clip", "walk", "--json").stdout)
    assert [(c["joint"], round(c["start"], 1), round(c["end"], 1)) for c in found] == [
        ("left ball", 0.0, 0.6), ("right ball", 0.5, 1.1),
    ]  # fmt: skip
    assert {"clip", "joint", "start", "end", "confidence"} == set(found[0])
    lines = run("contacts", "demo").stdout.splitlines()
    assert {line.split(":")[0] for line in lines} == {clip.name for clip in demo.characters["halcyon"].clips}
    path = walked(tmp_path, halcyon, "walk", 30, 0.0, 0.0, seed=1)[0]
    moved = json.loads(run("contacts", source, "--motion", path, "--json").stdout)
    assert len(moved) >= 16
    said = run("contacts", source, "--clip", "wlak", code=2).stderr
    assert "there is no such clip" in said
    assert "walk" in said
