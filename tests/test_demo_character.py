"""Halcyon: other readers accept her, her rest pose is her rest mesh, and her feet stay where they stand."""

import io

import numpy as np
import pygltflib
import pytest
import trimesh
from scipy.spatial.transform import Rotation
from scripts.demo_maker.make import make
from scripts.demo_maker.project import CHARACTER_FILE

from wraithon.character.pose import clip_locals, mixed, pose_of, rest_pose, root_position, skin_of
from wraithon.demo import DEMO_FOLDER

FILE = DEMO_FOLDER / CHARACTER_FILE
IDENTITY = np.eye(4, dtype=np.float32)


def pose_at(character, clip, time):
    return pose_of(character, clip_locals(character, clip, time), IDENTITY).matrices


def test_other_readers_agree(halcyon):
    document = pygltflib.GLTF2().load(str(FILE))
    assert len(document.skins[0].joints) == len(halcyon.skeleton.joint_names) >= 40
    scene = trimesh.load(io.BytesIO(FILE.read_bytes()), file_type="glb")
    counts = sorted(len(mesh.faces) for mesh in scene.geometry.values())
    assert counts == sorted(part.triangle_count for part in halcyon.parts)
    assert 6_000 <= sum(counts) <= 15_000


def test_parts_and_clips(halcyon):
    assert [part.name for part in halcyon.parts] == ["body", "mask", "rain skirt", "left fan", "right fan"]
    assert [clip.name for clip in halcyon.clips] == ["idle", "walk", "run", "leap", "strike", "fall"]
    assert halcyon.notes == ()
    assert all(material.texture is not None for material in halcyon.materials[1:])


def test_rest_pose_skins_to_the_rest_mesh(halcyon):
    skin = skin_of(halcyon, rest_pose(halcyon))
    np.testing.assert_allclose(skin.positions, halcyon.mesh.positions, atol=2e-6)
    np.testing.assert_allclose(skin.normals, halcyon.mesh.normals, atol=2e-5)


@pytest.mark.parametrize("name", ["idle", "walk", "run"])
def test_looping_clips_are_seamless(halcyon, name):
    clip = halcyon.clip(name)
    first, last = pose_at(halcyon, clip, 0.0), pose_at(halcyon, clip, clip.seconds)
    end, start = (root_position(halcyon, clip_locals(halcyon, clip, t)) for t in (clip.seconds, 0.0))
    last[:, :3, 3] -= (end - start) * (1, 0, 1)
    joints = halcyon.skeleton.is_joint
    np.testing.assert_allclose(first[joints], last[joints], atol=2e-4)


@pytest.mark.parametrize(("name", "planted"), [("walk", (0.10, 0.58)), ("run", (0.05, 0.24))])
def test_planted_feet_do_not_slide(halcyon, name, planted):
    clip = halcyon.clip(name)
    ball = halcyon.skeleton.index["left ball"]
    positions = np.array([pose_at(halcyon, clip, t)[ball, :3, 3] for t in np.linspace(*planted, 25)])
    assert np.ptp(positions[:, [0, 2]], axis=0).max() < 0.012
    assert np.ptp(positions[:, 1]) < 0.012


def test_leap_and_strike_keep_the_standing_foot(halcyon):
    for name, foot, span in (("leap", "left ball", (1.1, 1.6)), ("strike", "left ball", (0.0, 1.8))):
        clip, joint = halcyon.clip(name), halcyon.skeleton.index[foot]
        positions = np.array([pose_at(halcyon, clip, t)[joint, :3, 3] for t in np.linspace(*span, 30)])
        assert np.ptp(positions, axis=0).max() < 0.02


def test_skinning_equals_its_plain_twin(halcyon):
    pose = pose_of(halcyon, clip_locals(halcyon, halcyon.clip("strike"), 0.7), IDENTITY)
    mesh, skeleton = halcyon.mesh, halcyon.skeleton
    palette = pose.matrices[skeleton.palette_nodes].astype(float) @ skeleton.inverse_bind.astype(float)
    mixed = (palette[mesh.joints] * mesh.weights[..., None, None]).sum(axis=1)
    expected = np.einsum("vij,vj->vi", mixed[:, :3, :3], mesh.positions) + mixed[:, :3, 3]
    np.testing.assert_allclose(skin_of(halcyon, pose).positions, expected, atol=5e-6)


def test_blended_poses_are_rigid(halcyon):
    a = clip_locals(halcyon, halcyon.clip("idle"), 0.3)
    b = clip_locals(halcyon, halcyon.clip("leap"), 0.7)
    matrices = pose_of(halcyon, mixed(a, b, 0.4), IDENTITY).matrices
    turns = matrices[:, :3, :3].astype(float)
    np.testing.assert_allclose(turns @ turns.transpose(0, 2, 1), np.tile(np.eye(3), (len(turns), 1, 1)), atol=1e-4)
    Rotation.from_matrix(turns)


def test_making_her_again_gives_the_same_bytes(tmp_path):
    make(tmp_path / "halcyon", tmp_path / "sprites")
    assert (tmp_path / "halcyon" / CHARACTER_FILE).read_bytes() == FILE.read_bytes()
    assert (tmp_path / "halcyon" / "project.json").read_text() == (DEMO_FOLDER / "project.json").read_text()
