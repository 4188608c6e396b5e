"""What joints are called, rig by rig, and how well a motion follows: sides, prefixes, families, the tree's shape."""

import json
import subprocess
import sys

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from wraithon.character.joint_names import meanings
from wraithon.character.pose import rest_pose
from wraithon.character.reading.bvh import read_bvh
from wraithon.character.retarget import guess_unit, propose_matches, retargeted
from wraithon.character.retarget_fit import limb_error
from wraithon.demo import DEMO_FOLDER

BODY = (
    ("hips", None), ("spine", "hips"), ("chest", "spine"), ("neck", "chest"), ("head", "neck"),
    *(
        (f"{side} {bone}", above if above in {"chest", "hips"} else f"{side} {above}")
        for side in ("left", "right")
        for bone, above in (
            ("collar", "chest"), ("upperarm", "collar"), ("forearm", "upperarm"), ("hand", "forearm"),
            ("thigh", "hips"), ("shin", "thigh"), ("foot", "shin"), ("toe", "foot"),
        )
    ),
)  # fmt: skip
"""A body: each bone with the one above it."""

RIGS = {
    "marked": lambda bone, side: f"B_{side[:1].upper() + '_' if side else ''}{CALLED[0].get(bone, bone).title()}",
    "camel": lambda bone, side: f"{side.title()}{CALLED[1].get(bone, bone.title())}",
    "short": lambda bone, side: f"{side[:1]}{CALLED[2].get(bone, bone.title())}",
    "ends": lambda bone, side: f"{side.title()}{ENDS.get(bone, bone.title())}",
    "dotted": lambda bone, side: f"rig:{CALLED[3].get(bone, bone)}{'.' + side[:1].upper() if side else ''}",
}
ENDS = {
    "collar": "Blade", "upperarm": "Collar", "forearm": "Shoulder", "hand": "Elbow",
    "thigh": "Side", "shin": "Hip", "foot": "Knee", "toe": "Ankle",
}  # fmt: skip
"""Joints called by the bone that ends there."""
CALLED = (
    {"collar": "clavicle", "forearm": "lowerarm", "shin": "calf", "hips": "pelvis"},
    {
        "collar": "Shoulder", "upperarm": "Arm", "forearm": "ForeArm", "thigh": "UpLeg", "shin": "Leg",
        "toe": "ToeBase", "spine": "LowerBack", "chest": "Spine1",
    },
    {"upperarm": "UpArm", "forearm": "LowArm", "thigh": "Femur", "shin": "Tibia", "chest": "ribs"},
    {"upperarm": "upper_arm", "thigh": "upper_leg", "shin": "lower_leg", "toe": "toes", "hips": "root"},
)  # fmt: skip


def named(rig):
    """Return joints and parents of a body as a rig calls them, and what each is."""
    names = [RIGS[rig](bone.rpartition(" ")[2], bone.rpartition(" ")[0]) for bone, _ in BODY]
    where = {bone: k for k, (bone, _) in enumerate(BODY)}
    parents = [where[above] if above else -1 for _, above in BODY]
    return names, parents, [(bone.rpartition(" ")[2], bone.rpartition(" ")[0]) for bone, _ in BODY]


@pytest.mark.parametrize("rig", sorted(set(RIGS) - {"ends"}))
def test_every_bone_of_a_body_is_known_by_its_name(rig):
    names, parents, wanted = named(rig)
    assert meanings(names, parents) == wanted


@pytest.mark.parametrize("name", ["root", "ribs", "LowerBack", "leg", "lower", "alar", "curl", "upper"])
def test_no_side_is_read_into_the_middle_of_a_word(name):
    assert meanings([name], [-1])[0][1] == ""


@pytest.mark.parametrize(
    ("name", "side"),
    [
        ("l_arm", "left"),
        ("Arm.R", "right"),
        ("RightArm", "right"),
        ("armLeft", "left"),
        ("LThigh", "left"),
        ("R-Hand", "right"),
    ],
)
def test_sides_are_whole_words(name, side):
    assert meanings([name], [-1])[0][1] == side


def test_a_shoulder_over_an_elbow_is_an_upper_arm_and_over_an_arm_a_collar():
    assert meanings(["l_shoulder", "l_elbow", "l_wrist"], [-1, 0, 1]) == [
        ("upperarm", "left"), ("forearm", "left"), ("hand", "left"),
    ]  # fmt: skip
    assert meanings(["l_shoulder", "l_arm", "l_forearm"], [-1, 0, 1])[0] == ("collar", "left")


def test_of_a_chain_of_one_word_the_first_and_the_uppermost_count():
    told = meanings(["Spine", "Spine1", "Spine2", "Spine3"], [-1, 0, 1, 2])
    assert told == [("spine", ""), ("", ""), ("", ""), ("chest", "")]


def motion(character, rig, path, unit=100.0, frames=12):
    """Write a motion of a body the shape of a character's, called as a rig calls it, swaying."""
    names, parents, _ = named(rig)
    rest = rest_pose(character).matrices[:, :3, 3].astype(float)
    index = character.skeleton.index
    ours = {"hips": "hips", "spine": "spine", "chest": "chest", "neck": "neck", "head": "head"}
    positions = []
    for bone, _ in BODY:
        side, _, plain = bone.rpartition(" ")
        called = {"upperarm": "upper arm", "toe": "ball", "collar": "shoulder"}.get(plain, plain)
        found = index.get(ours.get(bone, f"{side} {called}".strip()))
        positions.append(rest[found] if found is not None else None)
    for k, position in enumerate(positions):
        if position is None:
            positions[k] = positions[parents[k]] + (0, 0.02, 0)
    lines, channels = ["HIERARCHY"], "3 Zrotation Xrotation Yrotation"

    def write(k, depth):
        pad = "  " * depth
        offset = (positions[k] - (positions[parents[k]] if parents[k] >= 0 else 0)) * unit
        lines.append(f"{pad}{'ROOT' if parents[k] < 0 else 'JOINT'} {names[k]}")
        lines.append(pad + "{")
        lines.append(f"{pad}  OFFSET {offset[0]:.5f} {offset[1]:.5f} {offset[2]:.5f}")
        root = "6 Xposition Yposition Zposition Zrotation Xrotation Yrotation"
        lines.append(f"{pad}  CHANNELS {root if parents[k] < 0 else channels}")
        for child in [c for c, parent in enumerate(parents) if parent == k]:
            write(child, depth + 1)
        if k not in parents:
            lines.extend([f"{pad}  End Site", pad + "  {", f"{pad}    OFFSET 0 {0.1 * unit:.3f} 0", pad + "  }"])
        lines.append(pad + "}")

    write(0, 0)
    lines += ["MOTION", f"Frames: {frames}", "Frame Time: 0.05"]
    rng = np.random.default_rng(4)
    pace, size = rng.uniform(0.5, 2, (len(names), 3)), rng.uniform(0, 25, (len(names), 3))
    for frame in range(frames):
        angles = size * np.sin(pace * frame * 0.4)
        root = positions[0] * unit
        lines.append(" ".join(f"{x:.4f}" for x in (*root, *angles.reshape(-1))))
    path.write_text("\n".join(lines) + "\n")
    return path


@pytest.mark.parametrize("rig", RIGS)
def test_a_motion_of_any_rig_is_matched_measured_and_followed(halcyon, tmp_path, rig):
    capture = read_bvh(motion(halcyon, rig, tmp_path / "made.bvh"))
    matches = propose_matches(capture, halcyon)
    assert len(matches) >= 19
    assert guess_unit(capture, halcyon, matches) == pytest.approx(0.01, rel=0.02)
    clip = retargeted(capture, halcyon, matches, 0.01)
    assert limb_error(capture, halcyon, matches, clip) < 5


def test_the_error_is_that_of_a_limb_turned_aside(halcyon, tmp_path):
    capture = read_bvh(motion(halcyon, "camel", tmp_path / "made.bvh", frames=3))
    matches = propose_matches(capture, halcyon)
    clip = retargeted(capture, halcyon, matches, 0.01)
    straight = limb_error(capture, halcyon, matches, clip)
    row = halcyon.skeleton.index[matches["LeftArm"]]
    values = clip.values.copy()
    for (node, path, _, _, count), first in zip(clip.heads, clip.value_heads, strict=True):
        if (node, path) == (row, 1):
            turned = Rotation.from_quat(values[first : first + count]) * Rotation.from_euler("x", 60, degrees=True)
            values[first : first + count] = turned.as_quat()
    from dataclasses import replace

    assert limb_error(capture, halcyon, matches, replace(clip, values=values)) > straight + 2


def test_nothing_is_matched_upside_down(halcyon, tmp_path):
    text = motion(halcyon, "camel", tmp_path / "made.bvh").read_text()
    # A foot that hangs above the hips is no foot of theirs.
    (tmp_path / "odd.bvh").write_text(
        text.replace("ROOT Hips", "ROOT LeftFoot").replace("JOINT LeftFoot", "JOINT Hips")
    )
    matches = propose_matches(read_bvh(tmp_path / "odd.bvh"), halcyon)
    assert not {"LeftFoot", "Hips"} <= set(matches)


def test_the_command_line_tells_how_a_motion_fits(halcyon, tmp_path):
    path = motion(halcyon, "marked", tmp_path / "made.bvh")
    body = next(DEMO_FOLDER.glob("characters/*.glb"))
    label = [sys.executable, "-m", "wraithon", "inspect", str(body), "--motion", str(path), "--json"]
    told = json.loads(subprocess.run(label, capture_output=True, text=True, check=True).stdout)
    assert set(told) == {
        "unit", "matched", "unmatched", "root_matched", "root", "root_error_deg", "limb_error_deg", "length_error_m",
        "feet_below_ground_m",
    }  # fmt: skip
    assert (told["root_matched"], told["root"]) == (True, ["hips", "B_Pelvis"])
    assert told["root_error_deg"] < 0.1
    assert told["length_error_m"] < 0.001
    assert told["unit"] == pytest.approx(0.01, rel=0.02)
    assert ["hips", "B_Pelvis"] in told["matched"]
    assert told["limb_error_deg"] < 5
