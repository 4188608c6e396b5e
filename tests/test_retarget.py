"""Putting captured motion on a character at exact values: names, units, rest poses, roots, quaternion signs."""

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.bodies import body
from wraithon.character import retarget
from wraithon.character.joint_names import meanings
from wraithon.character.pose import clip_locals, pose_of
from wraithon.character.reading.bvh import Capture
from wraithon.character.retarget import guess_unit, propose_matches, retargeted

IDENTITY = np.eye(4, dtype=np.float32)


def named(*names, parents=None, offsets=None):
    """Return a character whose joints are called so, one on another unless told."""
    from dataclasses import replace

    count = len(names)
    parents = parents if parents is not None else range(-1, count - 1)
    offsets = offsets if offsets is not None else [[0, float(k > 0), 0] for k in range(count)]
    made = body(np.eye(3), [[0, 1, 2]], parents=tuple(parents), offsets=offsets)
    return replace(made, skeleton=replace(made.skeleton, names=tuple(names)))


def capture(*names, parents=None, offsets=None, positions=None, turns=None, ends=None, frames=2):
    count = len(names)
    offsets = np.array(offsets if offsets is not None else [[0, float(k > 0), 0] for k in range(count)], float)
    rotations = np.tile(np.eye(3), (frames, count, 1, 1))
    for joint, rotation in (turns or {}).items():
        rotations[:, joint] = rotation
    return Capture(
        "made",
        tuple(names),
        np.array(parents if parents is not None else range(-1, count - 1), np.int32),
        offsets,
        np.full((count, 3), np.nan) if ends is None else np.array(ends, float),
        np.tile(offsets, (frames, 1, 1)) if positions is None else np.array(positions, float),
        rotations,
        0.5,
    )


def world(character, clip, time=0.0):
    return pose_of(character, clip_locals(character, clip, time), IDENTITY).matrices


# ---- names ----------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("name", "bone", "side"),
    [
        ("LeftUpLeg", "thigh", "left"), ("right_thigh", "thigh", "right"), ("rig:LeftForeArm", "forearm", "left"),
        ("l_hand", "hand", "left"), ("Hand.R", "hand", "right"), ("R_Foot", "foot", "right"), ("hips", "hips", ""),
        ("Spine1", "spine", ""), ("calf", "shin", ""), ("tail", "", ""), ("LToeBase", "toe", "left"),
    ],
)  # fmt: skip
def test_a_name_tells_its_bone_and_side(name, bone, side):
    assert meanings([name], [-1]) == [(bone, side)]


def test_equal_names_come_before_bones_and_bones_before_likeness():
    flat = (-1,) * 5  # side by side: there is no tree to turn upside down
    character = named("hips", "Left Thigh", "pelvis", "antenna one", parents=flat[:4])
    made = capture("pelvis", "leftUpperLeg", "Hips", "Antenna_One", "AntennaOne", parents=flat)
    found = propose_matches(made, character)
    assert found == {"pelvis": "pelvis", "leftUpperLeg": "Left Thigh", "Hips": "hips", "Antenna_One": "antenna one"}


def test_a_joint_is_given_away_once_and_never_to_the_other_side():
    character = named("left hand", "right hand")
    assert propose_matches(capture("LeftHand", "L_Hand"), character) == {"LeftHand": "left hand"}
    assert propose_matches(capture("RightHand"), named("left hand")) == {}


# ---- units ----------------------------------------------------------------------------------------


def test_the_unit_is_the_middle_ratio_of_matched_lengths():
    character = named("a", "b", "c", "d", offsets=[[0, 0, 0], [0, 1, 0], [0, 2, 0], [0, 1, 0]])
    made = capture("a", "b", "c", "d", offsets=[[0, 0, 0], [0, 50, 0], [0, 100, 0], [0, 1, 0]])
    matches = {name: name for name in "abcd"}
    assert guess_unit(made, character, matches) == pytest.approx(0.02)
    # Without b, c hangs on a: three metres over a hundred and fifty units.
    assert guess_unit(made, character, {"a": "a", "c": "c"}) == pytest.approx(0.02)


def test_without_anything_to_measure_the_unit_is_one():
    character, made = named("a", "b"), capture("a", "b")
    assert guess_unit(made, character, {}) == 1.0
    assert guess_unit(made, character, {"a": "a"}) == 1.0
    flat = capture("a", "b", offsets=np.zeros((2, 3)))
    assert guess_unit(flat, character, {"a": "a", "b": "b"}) == 1.0


# ---- rotations ------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("start", "end"),
    [((1, 0, 0), (0, 1, 0)), ((0, 2, 0), (0, 0.5, 0)), ((1, 2, 3), (-3, 0.5, 1)), ((0, 1, 0), (0, -1, 0)),
     ((1, 0, 0), (-1, 1e-4, 0))],
)  # fmt: skip
def test_the_shortest_rotation_takes_one_direction_to_another(start, end):
    turn = retarget._between(np.array(start, float), np.array(end, float))
    a, b = np.array(start) / np.linalg.norm(start), np.array(end) / np.linalg.norm(end)
    np.testing.assert_allclose(turn @ a, b, atol=2e-3 if start == (1, 0, 0) and end[0] == -1 else 1e-9)
    np.testing.assert_allclose(turn @ turn.T, np.eye(3), atol=1e-9)
    assert np.linalg.det(turn) == pytest.approx(1)


def test_a_direction_of_no_length_turns_nothing():
    np.testing.assert_array_equal(retarget._between(np.zeros(3), np.array([0, 1.0, 0])), np.eye(3))


def test_quaternions_stay_on_one_side():
    angles = np.linspace(0, 4 * np.pi, 50)
    out = retarget._quaternions(Rotation.from_euler("y", angles[:, None]).as_matrix())
    assert out.dtype == np.float32
    assert ((out[1:] * out[:-1]).sum(axis=1) > 0.9).all()
    np.testing.assert_allclose(
        Rotation.from_quat(out).as_matrix(), Rotation.from_euler("y", angles[:, None]).as_matrix(), atol=1e-6
    )


def test_the_very_first_two_quaternions_are_on_one_side_too():
    turns = Rotation.from_euler("y", np.radians([[260], [280], [300]])).as_matrix()
    out = retarget._quaternions(turns)
    assert ((out[1:] * out[:-1]).sum(axis=1) > 0.9).all()
    np.testing.assert_allclose(Rotation.from_quat(out).as_matrix(), turns, atol=1e-6)


# ---- putting it on --------------------------------------------------------------------------------


def test_a_turn_in_the_capture_is_the_same_turn_in_the_world():
    turn = Rotation.from_euler("z", 90, degrees=True).as_matrix()
    character = named("a", "b", "c")
    clip = retargeted(capture("a", "b", "c", turns={1: turn}), character, {n: n for n in "abc"}, 1.0)
    posed = world(character, clip)
    np.testing.assert_allclose(posed[1, :3, :3], turn, atol=1e-6)
    np.testing.assert_allclose(posed[2, :3, 3], [-1, 1, 0], atol=1e-6)
    assert (clip.name, clip.seconds) == ("made", 0.5)
    assert retargeted(capture("a"), named("a"), {"a": "a"}, 1.0, "other").name == "other"


def test_a_joint_that_is_not_matched_follows_the_one_above():
    turn = Rotation.from_euler("z", 90, degrees=True).as_matrix()
    character = named("a", "b", "c")
    clip = retargeted(capture("a", "c", turns={0: turn}), character, {"a": "a", "c": "c"}, 1.0)
    posed = world(character, clip)
    np.testing.assert_allclose(posed[1, :3, 3], [-1, 0, 0], atol=1e-6)
    np.testing.assert_allclose(posed[2, :3, :3], turn, atol=1e-6)


def test_the_direction_at_rest_that_differs_is_taken_out():
    """The capture's arm hangs at rest, the character's stands out: a capture at rest leaves it hanging."""
    character = named("a", "b", offsets=[[0, 0, 0], [2, 0, 0]])
    made = capture("a", "b", offsets=[[0, 0, 0], [0, -5, 0]])
    posed = world(character, retargeted(made, character, {"a": "a", "b": "b"}, 1.0))
    np.testing.assert_allclose(posed[1, :3, 3], [0, -2, 0], atol=1e-6)


def test_an_end_site_tells_the_direction_of_the_last_joint():
    character = named("a", "tip", offsets=[[0, 0, 0], [2, 0, 0]])
    made = capture("a", ends=[[0, -1, 0]])
    posed = world(character, retargeted(made, character, {"a": "a"}, 1.0))
    np.testing.assert_allclose(posed[1, :3, 3], [0, -2, 0], atol=1e-6)


def test_where_several_bones_meet_nothing_is_taken_out():
    ways = [[0, 0, 0], [1, 1, 0], [-1, 1, 0]]
    character = named("a", "b", "c", parents=(-1, 0, 0), offsets=ways)
    made = capture("a", "b", "c", parents=(-1, 0, 0), offsets=[[0, 0, 0], [1, -1, 0], [-1, -1, 0]])
    posed = world(character, retargeted(made, character, {n: n for n in "abc"}, 1.0))
    np.testing.assert_allclose(posed[0, :3, :3], np.eye(3), atol=1e-6)


def test_the_root_is_moved_by_the_unit_and_nothing_else():
    character = named("a", "b")
    positions = [[[0, 0, 0], [0, 1, 0]], [[100, 50, 20], [10, 1, 0]]]
    clip = retargeted(capture("a", "b", positions=positions), character, {"a": "a", "b": "b"}, 0.01)
    np.testing.assert_allclose(world(character, clip, 0.5)[0, :3, 3], [1, 0.5, 0.2], atol=1e-6)
    np.testing.assert_allclose(world(character, clip, 0.5)[1, :3, 3], [1, 1.5, 0.2], atol=1e-6)  # as long as it is
    np.testing.assert_allclose(world(character, clip, 0.25)[0, :3, 3], [0.5, 0.25, 0.1], atol=1e-6)


def test_a_root_that_stands_on_another_joint_is_placed_in_the_world():
    character = named("base", "a", offsets=[[0, 3, 0], [0, 1, 0]])
    made = capture("a", positions=[[[5, 6, 7]]] * 2)
    posed = world(character, retargeted(made, character, {"a": "a"}, 1.0))
    np.testing.assert_allclose(posed[1, :3, 3], [5, 6, 7], atol=1e-6)
