"""Motions from .bvh files: read exactly, refused in words, put on a character by rotation."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from wraithon.character.pose import clip_locals, pose_of, rest_pose
from wraithon.character.reading.bvh import read_bvh
from wraithon.character.retarget import guess_unit, propose_matches, retargeted
from wraithon.support.errors import CharacterError

IDENTITY = np.eye(4, dtype=np.float32)

SMALL = """HIERARCHY
ROOT Hips
{
  OFFSET 0 100 0
  CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation
  JOINT Spine
  {
    OFFSET 0 20 0
    CHANNELS 3 Zrotation Xrotation Yrotation
    End Site
    {
      OFFSET 0 10 0
    }
  }
}
MOTION
Frames: 2
Frame Time: 0.05
0 100 0 0 0 0 0 0 0
5 101 2 90 0 0 10 20 30
"""


def bvh_of(character, clip, unit=100.0, frames=21, names=lambda name: name, bend=None):
    """Write a clip of a character as .bvh text in another unit, with each joint's offset turned by `bend` first."""
    skeleton = character.skeleton
    joints = [n for n in range(len(skeleton.names)) if skeleton.is_joint[n]]
    rest = rest_pose(character).matrices.astype(float)
    bend = bend or {}
    turned = {n: bend.get(skeleton.names[n], np.eye(3)) for n in joints}
    times = np.linspace(0, clip.seconds, frames)
    poses = [
        pose_of(character, clip_locals(character, clip, float(t)), IDENTITY).matrices.astype(float) for t in times
    ]
    lines, order = ["HIERARCHY"], []

    def write(node, above, depth):
        pad = "  " * depth
        lines.append(f"{pad}{'JOINT' if above is not None else 'ROOT'} {names(skeleton.names[node])}")
        way = rest[node, :3, 3] - (rest[above, :3, 3] if above is not None else 0)
        if above is not None:
            way = turned[above] @ way
        lines.append(f"{pad}{{\n{pad}  OFFSET {' '.join(f'{x * unit:.6f}' for x in way)}")
        moves = above is None or skeleton.names[node] == "hips"
        kinds = ("Xposition Yposition Zposition " if moves else "") + "Zrotation Xrotation Yrotation"
        lines.append(f"{pad}  CHANNELS {6 if moves else 3} {kinds}")
        order.append((node, above))
        children = [n for n in joints if skeleton.parents[n] == node]
        for child in children:
            write(child, node, depth + 1)
        if not children:
            lines.append(f"{pad}  End Site\n{pad}  {{\n{pad}    OFFSET 0 0 0\n{pad}  }}")
        lines.append(f"{pad}}}")

    write(joints[0], None, 0)
    lines += ["MOTION", f"Frames: {frames}", f"Frame Time: {clip.seconds / (frames - 1):.8f}"]
    for pose in poses:
        row = []
        for node, above in order:
            world = pose[node, :3, :3] @ rest[node, :3, :3].T @ turned[node].T
            if above is None:
                row += (pose[node, :3, 3] * unit).tolist()
                local = world
            else:
                up = pose[above, :3, :3] @ rest[above, :3, :3].T @ turned[above].T
                local = up.T @ world
                if skeleton.names[node] == "hips":
                    row += (up.T @ (pose[node, :3, 3] - pose[above, :3, 3]) * unit).tolist()
            row += Rotation.from_matrix(local).as_euler("ZXY", degrees=True).tolist()
        lines.append(" ".join(f"{x:.6f}" for x in row))
    return "\n".join(lines) + "\n"


@pytest.fixture
def small(tmp_path):
    path = tmp_path / "small.bvh"
    path.write_text(SMALL)
    return path


# ---- reading --------------------------------------------------------------------------------------


def test_a_file_is_read_as_it_says(small):
    capture = read_bvh(small)
    assert capture.joints == ("Hips", "Spine")
    assert capture.seconds == pytest.approx(0.05)
    np.testing.assert_allclose(capture.positions[1, 0], [5, 101, 2])
    expected = Rotation.from_euler("ZXY", [10, 20, 30], degrees=True).as_matrix()
    np.testing.assert_allclose(capture.rotations[1, 1], expected, atol=1e-12)
    positions, _ = capture.placed()
    np.testing.assert_allclose(positions[1, 1], [5 - 20, 101, 2], atol=1e-9)


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ("HIERARCHY", "HIER", "expected"),
        ("Frames: 2", "Frames: 3", "numbers follow"),
        ("Frames: 2", "Frames: 99999999", "frames"),
        ("Frame Time: 0.05", "Frame Time: 0", "above zero"),
        ("OFFSET 0 20 0", "OFFSET 0 nan 0", "no number a joint can have"),
        ("OFFSET 0 20 0", "OFFSET 0 x 0", "a number is expected"),
        ("CHANNELS 3 Zrotation", "CHANNELS 3 Wrotation", "no channel"),
        ("CHANNELS 6", "CHANNELS 600", "six channels"),
        ("5 101 2", "5 inf 2", "no joint can have"),
        ("}\nMOTION", "MOTION", "not closed"),
    ],
)
def test_broken_files_are_refused_with_name_and_line(small, old, new, said):
    small.write_text(SMALL.replace(old, new, 1))
    with pytest.raises(CharacterError, match=r"small\.bvh, line \d+") as caught:
        read_bvh(small)
    assert said in str(caught.value)


@given(st.data())
def test_damaged_files_never_do_worse_than_a_message(tmp_path_factory, data):
    at = data.draw(st.integers(0, len(SMALL) - 1))
    length = data.draw(st.integers(1, 40))
    junk = data.draw(st.text(max_size=20))
    path = tmp_path_factory.getbasetemp() / "damaged.bvh"
    path.write_text(SMALL[:at] + junk + SMALL[at + length :], encoding="utf-8", errors="replace")
    try:
        capture = read_bvh(path)
    except CharacterError as error:
        assert "damaged.bvh" in str(error)
    else:
        assert np.isfinite(capture.positions).all()


def test_a_deep_chain_does_not_exhaust_the_stack(tmp_path):
    depth = 1500
    head = "".join(f"JOINT j{k} {{ OFFSET 0 1 0 CHANNELS 0\n" for k in range(depth)).replace("JOINT", "ROOT", 1)
    path = tmp_path / "deep.bvh"
    path.write_text(f"HIERARCHY {head} {'}' * depth}\nMOTION Frames: 1 Frame Time: 0.1\n")
    assert len(read_bvh(path).joints) == depth


# ---- putting it on --------------------------------------------------------------------------------


def read_text(tmp_path, text):
    path = tmp_path / "motion.bvh"
    path.write_text(text)
    return read_bvh(path)


def world(character, clip, time):
    return pose_of(character, clip_locals(character, clip, time), IDENTITY).matrices[character.skeleton.is_joint]


@pytest.mark.parametrize("name", ["walk", "strike"])
def test_a_characters_own_motion_comes_back_as_it_was(tmp_path, halcyon, name):
    clip = halcyon.clip(name)
    capture = read_text(tmp_path, bvh_of(halcyon, clip))
    matches = propose_matches(capture, halcyon)
    assert len(matches) == 51
    unit = guess_unit(capture, halcyon, matches)
    assert unit == pytest.approx(0.01, rel=1e-4)
    again = retargeted(capture, halcyon, matches, unit)
    for time in np.linspace(0, clip.seconds, 21)[[0, 5, 13, 20]]:
        ours, theirs = world(halcyon, again, float(time)), world(halcyon, clip, float(time))
        np.testing.assert_allclose(ours[:, :3, 3], theirs[:, :3, 3], atol=2e-3)


def test_a_rest_pose_that_differs_is_taken_out(tmp_path, halcyon):
    down = Rotation.from_euler("z", -50, degrees=True).as_matrix()
    bend = {"left upper arm": down, "left forearm": down, "left hand": down}
    clip = halcyon.clip("walk")
    capture = read_text(tmp_path, bvh_of(halcyon, clip, bend=bend))
    matches = {j: m for j, m in propose_matches(capture, halcyon).items() if "finger" not in j and "thumb" not in j}
    again = retargeted(capture, halcyon, matches, guess_unit(capture, halcyon, matches))
    index = [n for n, name in enumerate(halcyon.skeleton.joint_names) if name in {"left forearm", "left hand"}]
    for time in (0.0, 0.4, 0.8):
        ours, theirs = world(halcyon, again, time), world(halcyon, clip, time)
        np.testing.assert_allclose(ours[index, :3, 3], theirs[index, :3, 3], atol=0.02)


def test_names_of_another_tradition_are_matched(tmp_path, halcyon):
    other = {
        "left upper arm": "LeftArm", "left forearm": "LeftForeArm", "left hand": "LeftHand",
        "left thigh": "LeftUpLeg", "left shin": "LeftLeg", "left foot": "LeftFoot",
        "right thigh": "RightUpLeg", "head": "Head", "hips": "Hips",
    }  # fmt: skip
    text = bvh_of(
        halcyon, halcyon.clip("walk"), names=lambda name: other.get(name, f"extra_{name.replace(' ', '_')}_x")
    )
    matches = propose_matches(read_text(tmp_path, text), halcyon)
    for ours, theirs in other.items():
        assert matches[theirs] == ours
