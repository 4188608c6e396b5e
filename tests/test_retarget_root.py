"""A motion's travel goes to the joint that legs and spine hang on, whatever it is called; bones keep their length."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.bodies import body
from wraithon.character.pose import clip_locals, pose_of, rest_pose
from wraithon.character.reading.bvh import Capture
from wraithon.character.retarget import guess_unit, propose_matches, retargeted
from wraithon.character.retarget_fit import length_error, limb_error, root_error
from wraithon.character.retarget_root import root_of
from wraithon.project.character import CaptureUse, CharacterUse
from wraithon.project.project import Project
from wraithon.stage.retarget_cache import RetargetCache

IDENTITY = np.eye(4, dtype=np.float32)
PLACES = {
    "hips": (0, 0.95, 0), "spine": (0, 1.1, 0), "chest": (0, 1.3, 0), "neck": (0, 1.5, 0), "head": (0, 1.6, 0),
    "thigh": (0.1, 0.9, 0), "shin": (0.1, 0.5, 0.01), "foot": (0.1, 0.1, 0), "toe": (0.1, 0.02, 0.12),
    "collar": (0.03, 1.45, 0), "upperarm": (0.18, 1.45, 0), "forearm": (0.46, 1.45, 0), "hand": (0.7, 1.45, 0),
}  # fmt: skip
"""Where the joints of a body are, those of the left side among them; metres."""
CHAINS = (("hips", "spine", "chest", "neck", "head"), ("thigh", "shin", "foot", "toe"),
          ("collar", "upperarm", "forearm", "hand"))  # fmt: skip
TRAVEL = 3.9


def rig(hips="hips", split=(), ground="", scale=1.0, side=lambda bone, at: f"{at} {bone}"):
    """Return names, parents and places of a body.

    `hips` is what its middle is called, `split` what stands between it and either leg, `ground` a joint below it.
    """
    names, parents, places = [], [], []

    def add(name, above, place):
        names.append(name)
        parents.append(names.index(above) if above else -1)
        places.append(np.array(place, float) * scale)

    if ground:
        add(ground, "", (0, 0, 0))
    trunk = {"hips": hips}
    for bone in CHAINS[0]:
        above = CHAINS[0][CHAINS[0].index(bone) - 1] if bone != "hips" else ""
        add(trunk.get(bone, bone), trunk.get(above, above) if above else ground, PLACES[bone])
    for at, sign in (("left", 1), ("right", -1)):
        for chain, base in ((CHAINS[1], hips), (CHAINS[2], "chest")):
            above = base
            if chain is CHAINS[1] and split:
                add(side(split, at), above, (0.05 * sign, 0.95, 0))
                above = names[-1]
            for bone in chain:
                x, y, z = PLACES[bone]
                add(side(bone, at), above, (x * sign, y, z))
                above = names[-1]
    return names, parents, np.array(places)


def character_of(names, parents, places):
    offsets = [place - (places[parent] if parent >= 0 else 0) for place, parent in zip(places, parents, strict=True)]
    made = body(np.eye(3), [[0, 1, 2]], parents=tuple(parents), offsets=offsets)
    return replace(made, skeleton=replace(made.skeleton, names=tuple(names)))


def capture_of(names, parents, places, frames=9, root=0):
    """Return a walk: the root goes ahead, sways and turns; limbs swing."""
    offsets = np.array([p - (places[above] if above >= 0 else 0) for p, above in zip(places, parents, strict=True)])
    rng = np.random.default_rng(8)
    pace, size = rng.uniform(0.5, 2, (len(names), 3)), rng.uniform(5, 25, (len(names), 3))
    turns, moves = np.empty((frames, len(names), 3, 3)), np.tile(offsets, (frames, 1, 1))
    for frame in range(frames):
        turns[frame] = Rotation.from_euler("xyz", size * np.sin(pace * frame * 0.4), degrees=True).as_matrix()
        moves[frame, root] += np.array([0.02 * frame, 0.01 * (frame % 2), TRAVEL * frame / (frames - 1)]) * 1.0
    turns[:, :root] = np.eye(3)
    ends = np.full((len(names), 3), np.nan)
    return Capture("walk", tuple(names), np.array(parents, np.int32), offsets, ends, moves, turns, 0.1)


WALKER = capture_of(*rig())
CHARACTERS = {
    "named alike": rig(),
    "its middle is called otherwise": rig(hips="carrier"),
    "a pelvis split in two": rig(hips="core", split="half"),
    "on a joint of the ground": rig(hips="carrier", ground="base"),
    "split, on a joint of the ground": rig(hips="core", split="half", ground="base"),
    "half as large": rig(hips="carrier", scale=0.5),
}


@pytest.mark.parametrize("name", CHARACTERS)
def test_all_of_a_body_travels_and_turns_with_the_motion(name):
    names, parents, places = CHARACTERS[name]
    character = character_of(names, parents, places)
    matches = propose_matches(WALKER, character)
    assert {"left thigh", "right thigh", "spine"} <= set(matches)
    unit = guess_unit(WALKER, character, matches)
    clip = retargeted(WALKER, character, matches, unit)
    last = pose_of(character, clip_locals(character, clip, clip.seconds), IDENTITY).matrices[:, :3, 3]
    positions, _ = WALKER.placed()
    wanted = {joint: positions[-1, k] * unit for k, joint in enumerate(WALKER.joints)}
    for joint in ("left thigh", "right thigh", "spine", "head", "left toe", "right hand"):
        assert last[names.index(joint)] == pytest.approx(wanted[joint], abs=0.02 * unit), joint
    root = root_of(WALKER, character, matches, unit)
    assert character.skeleton.names[root.node] == names[names.index("spine") and parents[names.index("spine")]]
    assert root_error(WALKER, character, root, clip) < 0.01
    assert limb_error(WALKER, character, matches, clip) < 1
    assert length_error(WALKER, character, clip, root.node) < 0.001


def test_a_motion_whose_middle_is_called_otherwise_travels_too():
    walker = capture_of(*rig(hips="Bip", ground="Scene"), root=1)
    character = character_of(*rig())
    matches = propose_matches(walker, character)
    assert "Bip" not in matches
    clip = retargeted(walker, character, matches, guess_unit(walker, character, matches))
    last = pose_of(character, clip_locals(character, clip, clip.seconds), IDENTITY).matrices[:, :3, 3]
    positions, _ = walker.placed()
    names = character.skeleton.names
    for joint in ("left thigh", "right toe", "head"):
        assert last[names.index(joint)] == pytest.approx(positions[-1, walker.joints.index(joint)], abs=0.02), joint


def test_joints_that_a_motion_pulls_apart_keep_their_bones():
    walker = capture_of(*rig())
    moves = walker.positions.copy()
    moves[3:, walker.joints.index("left shin")] *= 2
    pulled = replace(walker, positions=moves)
    character = character_of(*rig())
    clip = retargeted(pulled, character, propose_matches(pulled, character), 1.0)
    assert length_error(pulled, character, clip, 0) < 0.001


def test_without_a_joint_above_all_that_is_matched_nothing_travels():
    walker = capture_of(*rig())
    character = character_of(["a", "b"], [-1, -1], np.array([(0, 1, 0), (1, 1, 0)], float))
    matches = {"left hand": "a", "right hand": "b"}
    clip = retargeted(walker, character, matches, 1.0)
    assert root_error(walker, character, root_of(walker, character, matches, 1.0), clip) == 180.0
    rest = rest_pose(character).matrices[:, :3, 3]
    last = pose_of(character, clip_locals(character, clip, clip.seconds), IDENTITY).matrices[:, :3, 3]
    np.testing.assert_allclose(last, rest, atol=1e-6)


def test_a_finding_says_when_travel_has_nowhere_to_go():
    character = character_of(["a", "b"], [-1, -1], np.array([(0, 1, 0), (1, 1, 0)], float))
    matches = (("left hand", "a"), ("right hand", "b"))
    used = CaptureUse(name="walk", file="walk.bvh", matches=matches)
    project = Project(characters=(CharacterUse(name="two", file="two.glb", captures=(used,)),))
    captures = {("walk.bvh", used.clip): WALKER}
    _, findings = RetargetCache().with_motions(project, {"two.glb": character}, captures)
    assert [(finding.location, finding.message) for finding in findings] == [
        (
            'character "two", motion "walk"',
            "its travel has nowhere to go: no joint of the character is above all that are matched; match its hips",
        )
    ]
    one = project.characters[0].evolve(captures=(used.evolve(matches=matches[:1]),))
    assert RetargetCache().with_motions(project.evolve(characters=(one,)), {"two.glb": character}, captures)[1] == []
