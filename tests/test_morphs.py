"""Morph targets: read from files, driven by clips, and followed by skin, births and riders."""

import numpy as np
import pytest

from tests.glb_maker import FLOAT, skinned_strip
from tests.pools import DT, HOME, PLAIN, born, positions
from wraithon.character.morphs import morphed, weights_at
from wraithon.character.pose import clip_locals, pose_of, rest_skin, skin_of
from wraithon.character.reading.gltf import read_gltf
from wraithon.character.sampling import sampler_of
from wraithon.particles.rules import TickContext
from wraithon.project.character import CharacterUse, ClipUse
from wraithon.project.effect import Layer
from wraithon.project.project import ClipRun, Stage
from wraithon.project.source import Riding, SkinSource
from wraithon.stage.performance import Performance
from wraithon.support.errors import CharacterError

PUFF = np.array([[0, 0, 1], [0, 0, 1], [0, 0, 0], [0, 0, 0], [0, 0, 0], [0, 0, 0]], "<f4")
LEAN = np.array([[0, 0, 0]] * 4 + [[2, 0, 0]] * 2, "<f4")


def strip(weights=((0, 0), (1, 0.5)), *, times=(0, 1), mode="LINEAR", rest=None, names=True):
    """Return a strip of six vertices that two morph targets move, with a clip "swell" that sets their weights."""
    maker = skinned_strip()
    mesh = maker.json["meshes"][0]
    mesh["primitives"][0]["targets"] = [
        {
            "POSITION": maker.accessor(PUFF, FLOAT, "VEC3"),
            "NORMAL": maker.accessor(PUFF[:, ::-1].copy(), FLOAT, "VEC3"),
        },
        {"POSITION": maker.accessor(LEAN, FLOAT, "VEC3")},
    ]
    if names:
        mesh["extras"] = {"targetNames": ["puff", "lean"]}
    if rest is not None:
        maker.json["nodes"][2]["weights"] = list(rest)
    keys = maker.accessor(np.array(times, "<f4"), FLOAT, "SCALAR")
    values = maker.accessor(np.array(weights, "<f4").reshape(-1, 1), FLOAT, "SCALAR")
    maker.json["animations"].append(
        {
            "name": "swell",
            "samplers": [{"input": keys, "output": values, "interpolation": mode}],
            "channels": [{"sampler": 0, "target": {"node": 2, "path": "weights"}}],
        }
    )
    return maker


@pytest.fixture
def read(tmp_path):
    def reading(maker):
        path = tmp_path / "strip.glb"
        path.write_bytes(maker.glb())
        return read_gltf(path)

    return reading


def test_names_rest_weights_and_rows_are_read(read):
    morphs = read(strip(rest=(0.25, 0))).mesh.morphs
    assert morphs.names == ("puff", "lean")
    assert morphs.weights == (0.25, 0.0)
    assert [shape.rows.tolist() for _, shape in morphs.shapes] == [[0, 1], [4, 5]]
    assert read(strip(names=False)).mesh.morphs.names == ("shape 1", "shape 2")


def test_a_character_at_rest_stands_by_its_rest_weights(read):
    plain, swollen = read(strip()), read(strip(rest=(0.5, 0)))
    moved = rest_skin(swollen).positions - rest_skin(plain).positions
    np.testing.assert_allclose(moved, 0.5 * PUFF, atol=1e-6)


@pytest.mark.parametrize(
    ("mode", "weights", "time", "expected"),
    [
        ("LINEAR", [(0, 0), (1, 0.5)], 0.25, (0.25, 0.125)),
        ("LINEAR", [(0, 0), (1, 0.5)], 7.0, (1.0, 0.5)),
        ("STEP", [(0.2, 0.3), (1, 0.5)], 0.99, (0.2, 0.3)),
        ("STEP", [(0.2, 0.3), (1, 0.5)], 1.0, (1.0, 0.5)),
        # Each key: in-tangents of both, values of both, out-tangents of both. Flat ones ease: 3 t² - 2 t³.
        ("CUBICSPLINE", [(9, 9), (0, 1), (0, 0), (0, 0), (1, 3), (9, 9)], 0.25, (0.15625, 1.3125)),
    ],
)
def test_weights_follow_the_clip_as_gltf_says(read, mode, weights, time, expected):
    character = read(strip(weights, mode=mode))
    np.testing.assert_allclose(weights_at(character.mesh, character.clip("swell"), time), expected, atol=1e-6)


def test_weights_a_clip_does_not_set_are_those_at_rest(read):
    character = read(strip(rest=(0.25, 0.5)))
    assert weights_at(character.mesh, character.clip("lift"), 0.5).tolist() == [0.25, 0.5]
    assert weights_at(character.mesh, None, 0.5).tolist() == [0.25, 0.5]


def test_a_clip_of_weights_alone_lasts_until_its_last_key(read):
    assert read(strip(times=(0, 2.5))).clip("swell").seconds == 2.5


def test_the_skin_is_that_of_the_moved_mesh(read):
    character = read(strip())
    pose = pose_of(character, clip_locals(character, character.clip("lift"), 0.5), HOME, weights=np.float32([0.5, 1]))
    skin = skin_of(character, pose)
    palette = pose.matrices[character.skeleton.palette_nodes] @ character.skeleton.inverse_bind
    base = character.mesh.positions + 0.5 * PUFF + LEAN
    for vertex in range(6):
        shares = zip(character.mesh.joints[vertex], character.mesh.weights[vertex], strict=True)
        mixed = sum(share * palette[joint] for joint, share in shares)
        np.testing.assert_allclose(skin.positions[vertex], mixed[:3, :3] @ base[vertex] + mixed[:3, 3], atol=1e-6)
    lengths = np.linalg.norm(skin.normals, axis=1)
    np.testing.assert_allclose(lengths, 1, atol=1e-6)
    assert skin.normals[0, 0] != skin.normals[3, 0]  # its own target turned it


def test_a_mesh_that_nothing_moves_is_not_copied(read):
    mesh = read(strip()).mesh
    assert morphed(mesh, np.zeros(2, np.float32))[0] is mesh.positions
    assert morphed(mesh, None)[0] is mesh.positions


def test_births_and_riders_are_where_the_targets_take_the_skin(read):
    character = read(strip(weights=((0, 0), (0, 1))))
    use = CharacterUse(file="strip.glb", clips=(ClipUse(name="swell", loop=False),))
    performance = Performance(character, use, Stage(order=(ClipRun(clip="swell"),), fade=0.0))
    posed = []
    for time in (0.5 - DT, 0.5):
        pose = performance.pose_at(time)
        posed.append((pose, skin_of(character, pose)))
    source = SkinSource(riding=Riding(share=1.0))
    around = TickContext.between(character, *posed)
    pool, program = born(Layer(**PLAIN, source=source), 300, sampler_of(character, source), around)
    at_birth = positions(pool)
    assert at_birth[:, 0].max() > 1.2  # beyond the strip, which is 1 wide
    pool.step(program, DT, 0.5, TickContext.between(character, posed[1], posed[1]))
    # At 0.5 s each point leans by its share of what the upper end leans: by 1 at a height of 2, by 0 at 1.
    after = positions(pool)
    lean = np.clip(after[:, 1] - 1, 0, None)
    assert (after[:, 0] >= lean - 1e-5).all()
    assert (after[:, 0] <= lean + 1 + 1e-5).all()


def test_clips_that_fade_mix_their_weights(read):
    character = read(strip(weights=((1, 1), (1, 1))))
    use = CharacterUse(file="strip.glb")
    performance = Performance(character, use, Stage(order=(ClipRun(clip="lift"), ClipRun(clip="swell")), fade=0.4))
    np.testing.assert_allclose(performance.pose_at(0.9).weights, 0)
    np.testing.assert_allclose(performance.pose_at(1.2).weights, 0.5, atol=1e-6)  # half way through the fade
    np.testing.assert_allclose(performance.pose_at(1.5).weights, 1)


def mesh_of(maker):
    return maker.json["meshes"][0]


def target_of(maker):
    return mesh_of(maker)["primitives"][0]["targets"][0]


def output(maker, count, value=0):
    values = maker.accessor(np.full((count, 1), value, "<f4"), FLOAT, "SCALAR")
    maker.json["animations"][1]["samplers"][0]["output"] = values


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda m: mesh_of(m)["primitives"][0].update(targets=7), "must be a list"),
        (lambda m: mesh_of(m)["primitives"][0].update(targets=[{}] * 3000), "more than 2,048 morph targets"),
        (lambda m: target_of(m).update(POSITION=999), "accessors"),
        (lambda m: target_of(m).update(POSITION=m.accessor(LEAN[:5], FLOAT, "VEC3")), "5 values for 6 vertices"),
        (lambda m: target_of(m).update(POSITION=m.accessor(LEAN * 1e6, FLOAT, "VEC3")), "by more than 1,000,000 m"),
        (lambda m: mesh_of(m).update(weights=[1]), "must be 2 numbers"),
        (lambda m: output(m, 3), "3 values where 4 are needed"),
        (lambda m: output(m, 4, 1e5), "beyond 10,000"),
    ],
)
def test_what_is_wrong_with_targets_is_said(read, change, said):
    maker = strip()
    change(maker)
    with pytest.raises(CharacterError, match=said):
        read(maker)


def test_weights_of_a_mesh_without_targets_are_noted(read):
    maker = strip()
    del mesh_of(maker)["primitives"][0]["targets"]
    assert any("without morph targets" in note for note in read(maker).notes)
