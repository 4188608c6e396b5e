"""Reading glTF: what is right comes in whole, what is wrong is refused in words."""

import copy
import json
import struct
import tracemalloc

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.bodies import swaying_pole
from tests.glb_maker import BYTE, FLOAT, SHORT, UBYTE, UINT, USHORT, Maker, maker_of, skinned_strip
from wraithon.character.pose import clip_locals, pose_of, skin_of
from wraithon.character.reading.gltf import read_gltf
from wraithon.stage.loading import project_of_character
from wraithon.stage.player import Player
from wraithon.support.errors import CharacterError

IDENTITY = np.eye(4, dtype=np.float32)


def read(tmp_path, maker, name="thing.glb"):
    path = tmp_path / name
    path.write_bytes(maker.glb() if name.endswith(".glb") else maker.gltf().encode())
    return read_gltf(path)


def test_binary_and_text_read_alike(tmp_path):
    a, b = read(tmp_path, skinned_strip()), read(tmp_path, skinned_strip(), "thing.gltf")
    np.testing.assert_array_equal(a.mesh.positions, b.mesh.positions)
    np.testing.assert_array_equal(a.mesh.weights, b.mesh.weights)
    assert [part.name for part in a.parts] == ["cloth"]
    assert a.skeleton.joint_names == ("hip", "tip")
    assert a.clips[0].seconds == 1.0


def test_skin_follows_the_clip(tmp_path):
    character = read(tmp_path, skinned_strip())
    pose = pose_of(character, clip_locals(character, character.clips[0], 0.5), IDENTITY)
    moved = skin_of(character, pose).positions - character.mesh.positions
    np.testing.assert_allclose(moved[:, 1], [0, 0, 0.5, 0.5, 1, 1], atol=1e-6)


@pytest.mark.parametrize(("mode", "half"), [("STEP", 1.0), ("LINEAR", 2.0), ("CUBICSPLINE", 2.0)])
def test_interpolation(tmp_path, mode, half):
    maker = skinned_strip()
    sampler = maker.json["animations"][0]["samplers"][0]
    sampler["interpolation"] = mode
    if mode == "CUBICSPLINE":
        keys = np.array([[0, 0, 0], [0, 1, 0], [0, 0, 0], [0, 0, 0], [0, 3, 0], [0, 0, 0]], "<f4")
        sampler["output"] = maker.accessor(keys, FLOAT, "VEC3")
    character = read(tmp_path, maker)
    assert clip_locals(character, character.clips[0], 0.5)[1, 1] == pytest.approx(half)
    assert clip_locals(character, character.clips[0], 9.0)[1, 1] == pytest.approx(3.0)


def test_cubic_spline_tangents(tmp_path):
    maker = skinned_strip()
    keys = np.array([[0, 0, 0], [0, 0, 0], [0, 4, 0], [0, 4, 0], [0, 0, 0], [0, 0, 0]], "<f4")
    maker.json["animations"][0]["samplers"][0] |= {
        "interpolation": "CUBICSPLINE",
        "output": maker.accessor(keys, FLOAT, "VEC3"),
    }
    character = read(tmp_path, maker)
    # Hermite with p0 = p1 = 0 and tangents 4, 4 at t = 1/4: (t3 - 2 t2 + t) 4 + (t3 - t2) 4.
    t = 0.25
    expected = (t**3 - 2 * t**2 + t) * 4 + (t**3 - t**2) * 4
    assert clip_locals(character, character.clips[0], t)[1, 1] == pytest.approx(expected)


def test_rotations_take_the_shorter_way(tmp_path):
    maker = skinned_strip()
    turns = np.array([[0, 0, 0, 1], [0, 0, -np.sin(0.2), -np.cos(0.2)]], "<f4")
    animation = maker.json["animations"][0]
    animation["samplers"].append(
        {"input": animation["samplers"][0]["input"], "output": maker.accessor(turns, FLOAT, "VEC4")}
    )
    animation["channels"] = [{"sampler": 1, "target": {"node": 1, "path": "rotation"}}]
    character = read(tmp_path, maker)
    half = clip_locals(character, character.clips[0], 0.5)[1, 3:7]
    np.testing.assert_allclose(half, [0, 0, np.sin(0.1), np.cos(0.1)], atol=1e-6)


@pytest.mark.parametrize(
    ("component", "dtype", "top"),
    [(UBYTE, "u1", 255), (USHORT, "<u2", 65535), (BYTE, "i1", 127), (SHORT, "<i2", 32767)],
)
def test_normalised_integers(tmp_path, component, dtype, top):
    maker = skinned_strip()
    attributes = maker.json["meshes"][0]["primitives"][0]["attributes"]
    weights = np.array([[top, 0, 0, 0]] * 6, dtype)
    attributes["WEIGHTS_0"] = maker.accessor(weights, component, "VEC4", normalized=True)
    np.testing.assert_allclose(read(tmp_path, maker).mesh.weights[:, 0], 1.0)


def test_byte_stride_and_offset(tmp_path):
    maker = skinned_strip()
    points = np.array([[x, y, 5] for y in (0, 1, 2) for x in (0, 1)], "<f4")
    rows = np.zeros((6, 5), "<f4")
    rows[:, 1:4] = points
    view = maker.view(rows.tobytes(), stride=20)
    attributes = maker.json["meshes"][0]["primitives"][0]["attributes"]
    attributes["POSITION"] = maker.accessor(points, FLOAT, "VEC3", bufferView=view, byteOffset=4)
    np.testing.assert_array_equal(read(tmp_path, maker).mesh.positions, points)


def test_sparse_values(tmp_path):
    maker = skinned_strip()
    attributes = maker.json["meshes"][0]["primitives"][0]["attributes"]
    entry = maker.json["accessors"][attributes["POSITION"]]
    entry["sparse"] = {
        "count": 2,
        "indices": {"bufferView": maker.view(np.array([1, 4], "<u2").tobytes()), "componentType": USHORT},
        "values": {"bufferView": maker.view(np.array([[7, 7, 7], [8, 8, 8]], "<f4").tobytes())},
    }
    positions = read(tmp_path, maker).mesh.positions
    np.testing.assert_array_equal(positions[[1, 4]], [[7, 7, 7], [8, 8, 8]])
    np.testing.assert_array_equal(positions[0], [0, 0, 0])


def test_matrix_nodes_are_kept(tmp_path):
    maker = skinned_strip()
    matrix = np.eye(4)
    matrix[:3, 3] = (1, 2, 3)
    matrix[0, 1] = 0.5  # a shear, which no translation, rotation and scale can say
    del maker.json["nodes"][1]["translation"]
    maker.json["nodes"][1]["matrix"] = matrix.T.ravel().tolist()
    maker.json["animations"] = []
    character = read(tmp_path, maker)
    pose = pose_of(character, character.skeleton.rest, IDENTITY)
    np.testing.assert_allclose(pose.matrices[1], matrix, atol=1e-6)


def test_several_skins_and_primitives(tmp_path):
    maker = skinned_strip()
    first = maker.json["meshes"][0]["primitives"][0]
    maker.json["materials"] = [{"name": "silk"}, {"name": "wool"}]
    maker.json["meshes"][0]["primitives"] = [first | {"material": 0}, first | {"material": 1}]
    maker.json["meshes"].append({"name": "cloak", "primitives": [first]})
    maker.json["skins"].append(copy.deepcopy(maker.json["skins"][0]))
    maker.json["nodes"].append({"name": "cloak", "mesh": 1, "skin": 1})
    character = read(tmp_path, maker)
    assert [part.name for part in character.parts] == ["cloth silk", "cloth wool", "cloak"]
    assert len(character.skeleton.palette_nodes) == 4


def test_strips_and_fans(tmp_path):
    for mode, expected in ((5, [[0, 1, 2], [1, 3, 2], [2, 3, 4]]), (6, [[0, 1, 2], [0, 2, 3], [0, 3, 4]])):
        maker = skinned_strip()
        primitive = maker.json["meshes"][0]["primitives"][0]
        primitive |= {"mode": mode, "indices": maker.accessor(np.arange(5, dtype="<u4"), UINT, "SCALAR")}
        assert read(tmp_path, maker).mesh.triangles.tolist() == expected


def test_vertices_without_weights_are_told_and_follow_the_first_joint(tmp_path):
    maker = skinned_strip()
    attributes = maker.json["meshes"][0]["primitives"][0]["attributes"]
    weights = np.array([[1, 0, 0, 0]] * 5 + [[0, 0, 0, 0]], "<f4")
    attributes["WEIGHTS_0"] = maker.accessor(weights, FLOAT, "VEC4")
    character = read(tmp_path, maker)
    assert "WEIGHTS_0" in character.notes[0]
    assert "1 vertices" in character.notes[0]
    np.testing.assert_allclose(character.mesh.weights.sum(axis=1), 1.0)


def breakage(name):  # noqa: C901, PLR0912, PLR0915  # one case after another
    """Return a maker whose document is wrong in one way."""
    maker = skinned_strip()
    document = maker.json
    primitive = document["meshes"][0]["primitives"][0]
    points = primitive["attributes"]["POSITION"]
    if name == "cyclic nodes":
        document["nodes"][1]["children"] = [0]
    elif name == "two parents":
        document["nodes"][2]["children"] = [1]
    elif name == "child out of range":
        document["nodes"][0]["children"] = [99]
    elif name == "index out of range":
        primitive["indices"] = maker.accessor(np.array([0, 1, 6], "<u2"), USHORT, "SCALAR")
    elif name == "joint out of range":
        primitive["attributes"]["JOINTS_0"] = maker.accessor(np.full((6, 4), 9, np.uint8), UBYTE, "VEC4")
    elif name == "nan position":
        bad = np.zeros((6, 3), "<f4")
        bad[3, 1] = np.nan
        primitive["attributes"]["POSITION"] = maker.accessor(bad, FLOAT, "VEC3")
    elif name == "infinite position":
        primitive["attributes"]["POSITION"] = maker.accessor(np.full((6, 3), np.inf, "<f4"), FLOAT, "VEC3")
    elif name == "absurd count":
        document["accessors"][points]["count"] = 4_000_000_000
    elif name == "absurd sparse count":
        del document["accessors"][points]["bufferView"]
        document["accessors"][points]["count"] = 2**31
    elif name == "view outside buffer":
        document["bufferViews"][0]["byteLength"] = 10**9
    elif name == "negative offset":
        document["bufferViews"][0]["byteOffset"] = -4
    elif name == "missing buffer file":
        document["buffers"][0]["uri"] = "gone.bin"
    elif name == "path outside":
        document["buffers"][0]["uri"] = "../../etc/passwd"
    elif name == "required extension":
        document["extensionsRequired"] = ["KHR_draco_mesh_compression"]
    elif name == "times fall":
        sampler = document["animations"][0]["samplers"][0]
        sampler["input"] = maker.accessor(np.array([1, 0], "<f4"), FLOAT, "SCALAR")
    elif name == "too few keys":
        sampler = document["animations"][0]["samplers"][0]
        sampler["output"] = maker.accessor(np.zeros((1, 3), "<f4"), FLOAT, "VEC3")
    elif name == "no triangles":
        document["meshes"] = []
        del document["nodes"][2]["mesh"]
    elif name == "damaged picture":
        document["images"] = [{"bufferView": maker.view(b"not a picture")}]
        document["textures"] = [{"source": 0}]
        document["materials"] = [{"pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}]
        primitive["material"] = 0
    elif name == "wrong version":
        document["asset"]["version"] = "1.0"
    elif name == "weights below zero":
        primitive["attributes"]["WEIGHTS_0"] = maker.accessor(np.full((6, 4), -1, "<f4"), FLOAT, "VEC4")
    elif name == "zero rotation":
        document["nodes"][0]["rotation"] = [0, 0, 0, 0]
    return maker


BREAKAGES = {
    "cyclic nodes": "nodes",
    "two parents": "two parents",
    "child out of range": "nodes[99]",
    "index out of range": "out of range",
    "joint out of range": "out of range",
    "nan position": "value 3 is not a finite number",
    "infinite position": "not a finite number",
    "absurd count": "absurd",
    "absurd sparse count": "absurd",
    "view outside buffer": "outside its buffer",
    "negative offset": "0 or more",
    "missing buffer file": "gone.bin",
    "path outside": "outside the file's own folder",
    "required extension": "KHR_draco_mesh_compression",
    "times fall": "times must rise",
    "too few keys": "1 values where 2 are needed",
    "no triangles": "no triangles",
    "damaged picture": "images[0]",
    "wrong version": "asset.version",
    "weights below zero": "below zero",
    "zero rotation": "rotation",
}


@pytest.mark.parametrize(("name", "text"), BREAKAGES.items())
def test_broken_files_are_refused_with_file_and_place(tmp_path, name, text):
    with pytest.raises(CharacterError) as caught:
        read(tmp_path, breakage(name))
    assert str(caught.value).startswith("thing.glb: ")
    assert text in str(caught.value)


@pytest.mark.parametrize("keep", [0, 3, 11, 19, 60, 400, 1500])
def test_truncated_files_are_refused(tmp_path, keep):
    path = tmp_path / "cut.glb"
    path.write_bytes(skinned_strip().glb()[:keep])
    with pytest.raises(CharacterError):
        read_gltf(path)


def test_nesting_bombs_are_refused(tmp_path):
    path = tmp_path / "deep.gltf"
    path.write_text("[" * 200_000)
    with pytest.raises(CharacterError, match="JSON"):
        read_gltf(path)


def test_deep_chains_of_nodes_are_read(tmp_path):
    maker = skinned_strip()
    first = len(maker.json["nodes"])
    maker.json["nodes"] += [{"children": [first + k + 1]} for k in range(5000)] + [{}]
    assert len(read(tmp_path, maker).skeleton.names) == first + 5001


@settings(max_examples=300, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.data())
def test_fuzzed_bytes_never_do_worse_than_refuse(tmp_path, data):
    raw = bytearray(skinned_strip().glb())
    for _ in range(data.draw(st.integers(1, 6))):
        raw[data.draw(st.integers(0, len(raw) - 1))] = data.draw(st.integers(0, 255))
    path = tmp_path / "fuzz.glb"
    path.write_bytes(raw)
    try:
        character = read_gltf(path)
    except CharacterError as error:
        assert str(error).startswith("fuzz.glb")
    else:
        assert np.isfinite(character.mesh.positions).all()


@settings(max_examples=300, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.data())
def test_fuzzed_documents_never_do_worse_than_refuse(tmp_path, data):
    maker = skinned_strip()
    positions = []

    def walk(value):
        for key in value if isinstance(value, dict) else range(len(value)):
            positions.append((value, key))
            if isinstance(value[key], dict | list):
                walk(value[key])

    walk(maker.json)
    owner, key = data.draw(st.sampled_from(positions))
    owner[key] = data.draw(
        st.sampled_from([None, -1, 0, 1, 2**31, 2**63, 1e308, "x", [], {}, True, [None], [{}], {"a": 1}, [0, 0]])
    )
    path = tmp_path / "fuzz.glb"
    text = json.dumps(maker.json).encode()
    text += b" " * (-len(text) % 4)
    body = bytes(maker.data)
    head = struct.pack("<4sII", b"glTF", 2, 28 + len(text) + len(body))
    path.write_bytes(
        head + struct.pack("<I4s", len(text), b"JSON") + text + struct.pack("<I4s", len(body), b"BIN\0") + body
    )
    try:
        read_gltf(path)
    except CharacterError as error:
        assert str(error).startswith("fuzz.glb")


def test_empty_maker_has_nothing_to_draw(tmp_path):
    with pytest.raises(CharacterError, match="no triangles"):
        read(tmp_path, Maker())


def test_a_file_of_300_000_triangles_and_250_joints_comes_in_and_plays_within_its_memory(tmp_path):
    path = tmp_path / "large.glb"
    path.write_bytes(maker_of(swaying_pole(250, 602)).glb())
    tracemalloc.start()
    try:
        large = read_gltf(path)
        _, peak = tracemalloc.get_traced_memory()
    finally:
        tracemalloc.stop()
    mesh = large.mesh
    held = sum(a.nbytes for a in (mesh.positions, mesh.normals, mesh.uvs, mesh.triangles, mesh.joints, mesh.weights))
    assert (len(mesh.triangles), len(large.skeleton.names)) == (302_204, 251)
    assert peak <= 4 * held
    project = project_of_character(large, path)
    player = Player(project, {project.characters[0].id: large})
    player.seek(0.5)
    bent, straight = player.show.posed(player.show.step_number)[1].positions, mesh.positions
    assert np.abs(bent - straight).max() > 0.1
