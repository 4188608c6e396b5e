"""A character's check-up: what plays wrong is found, named and measured; what plays right is left alone."""

from dataclasses import replace

import numpy as np
import pytest

from tests.bodies import body, clip_of, sphere
from wraithon.character.checkup import MAX_SAMPLES, SAMPLES, check_clip, check_mesh, feet_of, height_of, measure_clip
from wraithon.character.model import Clip, Morphs, MorphTarget, Track
from wraithon.character.presets import mirrored_name, preset_joints
from wraithon.project.character import CharacterUse
from wraithon.project.project import Project
from wraithon.stage.fitness import fitness_findings

PLAYED = {"loops": True, "scale": 1.0, "raised": 0.0}


def legs(clip):
    """Return a walker of two straight legs from a hip at 1 m: j0 hip, j1 and j3 ankles, j2 and j4 balls."""
    box = np.array([[-0.1, 0, 0], [0.1, 0, 0], [0, 1.0, 0], [0, 0, 0.1]])
    offsets = [[0, 1, 0], [0.1, -0.9, 0], [0, -0.08, 0.1], [-0.1, -0.9, 0], [0, -0.08, 0.1]]
    return body(
        box, [[0, 1, 2], [0, 3, 2], [1, 2, 3]], parents=(-1, 0, 1, 0, 3), offsets=offsets,
        joints=[[0], [0], [2], [4]], clips=(clip,),
    )  # fmt: skip


def sliding(distance, lift=0.0):
    times = np.linspace(0, 1, 31)
    positions = np.zeros((31, 3))
    positions[:, 1] = 1 + lift
    positions[:, 2] = distance * times
    positions[:, 0] = 0.004 * np.sin(2 * np.pi * times)  # a clip that moves nothing is told as that alone
    return clip_of("slide", times, (0, 0, positions))


def text(made, **played):
    clip = made.clips[0]
    return " / ".join(oddity.message for oddity in check_clip(made, clip, **{**PLAYED, **played}))


def test_the_demo_dancer_plays_right(halcyon):
    assert check_mesh(halcyon) == ()
    assert feet_of(halcyon) == ("left ball", "right ball")
    for clip in halcyon.clips:
        assert check_clip(halcyon, clip, loops=clip.name in {"idle", "walk", "run"}, scale=1.0, raised=0.0) == []


def test_walking_feet_stand_in_turns(halcyon):
    left, right = measure_clip(halcyon, halcyon.clip("run")).feet
    assert len(left.contact) == len(right.contact) == 1
    assert left.contact[0][1] < right.contact[0][0]


@pytest.mark.parametrize(("distance", "said"), [(0.3, True), (0.005, False)])
def test_a_foot_that_slides_is_found(distance, said):
    made = legs(sliding(distance))
    assert ("slides by" in text(made)) == said
    assert measure_clip(made, made.clips[0]).feet[0].slide <= distance + 0.03


def test_only_what_loops_is_told_to_slide_or_to_jump():
    made = legs(sliding(0.3))
    assert text(made, loops=False) == ""


@pytest.mark.parametrize(("raised", "said"), [(-0.1, "under the ground"), (0.1, "above the ground"), (0.0, "")])
def test_feet_under_or_over_the_ground_are_found(raised, said):
    found = text(legs(sliding(0.0)), raised=raised)
    assert (said in found) if said else ("ground" not in found)
    assert not said or "10.0 cm" in found


def test_heights_grow_with_the_scale():
    assert "20.0 cm" in text(legs(sliding(0.0, lift=0.1)), scale=2.0)


def test_a_loop_that_jumps_is_found_with_its_joint():
    leg = [[0.1, -0.9, 0], [0.1, -0.9, 0.2], [0.1, -0.7, 0.2]]
    made = legs(clip_of("jump", [0, 0.5, 1], (0, 0, [[0, 1, 0]] * 3), (1, 0, leg)))
    assert "jumps by" in text(made)
    assert measure_clip(made, made.clips[0]).seam_joint in {"j1", "j2"}


def test_a_clip_that_moves_nothing_is_found():
    made = legs(clip_of("still", [0, 1], (0, 0, [[0, 1, 0], [0, 1, 0]])))
    assert "moves nothing" in text(made)


def test_travel_is_measured(halcyon):
    x, _, z = measure_clip(halcyon, halcyon.clip("walk")).travel
    assert (x, z) == (pytest.approx(0, abs=1e-3), pytest.approx(1.35, abs=0.01))


def test_degenerate_triangles_and_turned_normals_are_found_by_part():
    points, triangles = sphere(8, 16)
    turned = body(points, triangles[:, ::-1])
    made = body(points, triangles, parts={"upper": 128, "lower": len(triangles) - 128})
    found = {oddity.about: oddity.message for oddity in check_mesh(made)}
    assert "no area" in found["upper"]
    mesh = turned.mesh
    inside_out = replace(turned, mesh=replace(mesh, normals=-mesh.normals))
    assert any("point into it" in oddity.message for oddity in check_mesh(inside_out))
    assert not any("point into it" in oddity.message for oddity in check_mesh(turned))


def test_a_joint_without_weight_is_found_but_not_one_that_carries_others():
    points, triangles = sphere(8, 16)
    made = body(
        points, triangles, parents=(-1, 0, 1), offsets=[[0, 0, 0], [0, 1, 0], [0, 1, 0]],
        joints=np.full((len(points), 1), 1),
    )  # fmt: skip
    assert [oddity.about for oddity in check_mesh(made) if "no skin" in oddity.message] == ["j2"]


def test_height_is_the_skins(halcyon):
    assert 1.5 < height_of(halcyon) < 2.2


# ---- names ----------------------------------------------------------------------------------------


def test_sides_are_told_by_names(halcyon):
    assert mirrored_name(halcyon, "left upper arm") == "right upper arm"
    assert mirrored_name(halcyon, "right ball") == "left ball"
    assert mirrored_name(halcyon, "spine") is None


def test_presets_find_their_joints(halcyon):
    assert set(preset_joints(halcyon, "head and hands")) == {"head", "left hand", "right hand"}
    assert {"spine", "chest"} <= set(preset_joints(halcyon, "spine"))
    assert preset_joints(body(*sphere(4, 8)), "limbs") == ()


@pytest.mark.parametrize("scale", [1.0, 2.5])
def test_a_jump_is_told_in_centimetres_at_the_characters_scale(scale):
    leg = [[0.1, -0.9, 0], [0.1, -0.9, 0.3], [0.1, -0.9, 0.3]]
    made = legs(clip_of("jump", [0, 0.5, 1], (0, 0, [[0, 1, 0]] * 3), (1, 0, leg)))
    assert f"jumps by {30 * scale:.1f} cm" in text(made, scale=scale)
    assert measure_clip(made, made.clips[0]).seam == pytest.approx(0.3, abs=1e-6)


def test_a_foot_that_rolls_on_and_off_slides_only_in_between():
    """An eighth of each stand at either end is the roll, one sample at least."""
    times = np.linspace(0, 1, 31)
    positions = np.zeros((31, 3))
    positions[:, 1] = 1
    positions[:, 2] = 0.3 * times
    positions[:, 0] = 0.004 * np.sin(2 * np.pi * times)
    made = legs(clip_of("slide", times, (0, 0, positions)))
    (foot, _) = measure_clip(made, made.clips[0]).feet
    ((begin, end),) = foot.contact
    count = round((end - begin) * (len(measure_times(made.clips[0])) - 1) / made.clips[0].seconds) + 1
    edge = max(1, count // 8)
    inner = (count - 1 - 2 * edge) / (count - 1)
    assert foot.slide == pytest.approx(0.3 * (end - begin) * inner, abs=0.003)


def measure_times(clip):
    return np.linspace(0, clip.seconds, int(np.clip(clip.seconds * SAMPLES, 2, MAX_SAMPLES)))


def test_a_turn_alone_and_a_shape_alone_move_something():
    turns = np.zeros((2, 4))
    turns[:, 3], turns[1, 2:] = 1, (np.sin(0.1), np.cos(0.1))
    points, triangles = sphere(8, 12)
    moving, still = clip_of("turn", (0, 1), (0, 1, turns)), clip_of("still", (0, 1), (0, 1, turns[[0, 0]]))
    made = body(points, triangles, clips=(moving, still))
    assert measure_clip(made, moving).moves
    assert not measure_clip(made, still).moves
    shape = MorphTarget("puff", np.arange(5, dtype=np.int32), *np.ones((2, 5, 3), np.float32))
    mesh = replace(made.mesh, morphs=Morphs(("puff",), (0.0,), ((0, shape),)))
    swell = Track(0, 0, 1, np.float32([0, 1]), np.float32([[0, 0, 0, 0], [1, 0, 0, 0]]))
    shaped = Clip.pack("swell", [], [swell])
    assert measure_clip(replace(made, mesh=mesh), shaped).moves


def test_a_characters_fitness_is_looked_at_again_where_its_use_is_another(halcyon):
    use = CharacterUse(id="h", name="h", file="h.glb")
    characters = {"h": halcyon}

    def told(one):
        return [finding.message for finding in fitness_findings(Project(characters=(one,)), characters)]

    plain = told(use)
    assert told(use.evolve(height=-1.0)) != plain
    assert any("below the ground" in message for message in told(use.evolve(height=-1.0)))
    assert any("100" in message or "tall" in message for message in told(use.evolve(scale=100.0)))
    assert told(use) == plain
    assert [finding.message for finding in fitness_findings(Project(characters=(use,)), {})] == []
