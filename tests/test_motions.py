"""Clips of another glTF file put on a character, and clips under the project's own names."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.bodies import body, clip_of
from tests.glb_maker import Maker, maker_of, skinned_strip
from wraithon.character.pose import clip_locals, pose_of
from wraithon.character.reading import gltf_motions
from wraithon.character.reading.gltf import read_gltf
from wraithon.character.reading.gltf_motions import motions_of, read_motions
from wraithon.character.retarget import propose_matches, retargeted
from wraithon.character.retarget_fit import limb_error
from wraithon.interchange.folders import save_whole
from wraithon.project.character import CaptureUse, CharacterUse, ClipUse
from wraithon.project.findings import check
from wraithon.project.matching import missing_names, rename_clip
from wraithon.project.project import Project
from wraithon.stage import retarget_cache
from wraithon.stage.loading import load
from wraithon.stage.retarget_cache import RetargetCache
from wraithon.support.errors import CharacterError

IDENTITY = np.eye(4, dtype=np.float32)


def world(character, clip, time):
    return pose_of(character, clip_locals(character, clip, time), IDENTITY).matrices


# ---- motions of a glTF file -------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["walk", "leap", "fall"])
def test_a_clip_put_on_the_same_skeleton_is_the_clip(halcyon, name):
    clip = halcyon.clip(name)
    motion = motions_of(halcyon.skeleton, [clip])[name]
    again = retargeted(motion, halcyon, propose_matches(motion, halcyon), 1.0)
    joints = halcyon.skeleton.is_joint
    for time in np.arange(0, clip.seconds, 0.1):
        frame = round(time / motion.frame_time) * motion.frame_time  # between frames both are mixed
        ours, theirs = world(halcyon, again, frame), world(halcyon, clip, frame)
        np.testing.assert_allclose(ours[joints, :3, 3], theirs[joints, :3, 3], atol=2e-4)


def test_rest_turns_and_nodes_between_joints_are_kept():
    """A joint's motion is how it turns from rest, whatever stands between it and the joint above."""
    turned = Rotation.from_euler("xyz", (30, -40, 70), degrees=True).as_quat()
    made = body([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2]], parents=(-1, 0, 1, 2), offsets=[[0, 1, 0]] * 4)
    rest = made.skeleton.rest.copy()
    rest[:, 3:7] = turned
    skeleton = replace(made.skeleton, rest=rest, is_joint=np.array([True, False, True, True]))
    character = replace(made, skeleton=skeleton)
    spun = Rotation.from_euler("z", 90, degrees=True).as_quat()
    clip = clip_of(
        "spin", (0, 1), (0, 1, [turned, (Rotation.from_quat(turned) * Rotation.from_quat(spun)).as_quat()])
    )
    motion = motions_of(skeleton, [clip])["spin"]
    assert motion.joints == ("j0", "j2", "j3")
    assert motion.parents.tolist() == [-1, 0, 1]
    positions, turns = motion.placed()
    for frame in (0, 30, 60):
        expected = world(character, clip, frame / 60)
        np.testing.assert_allclose(positions[frame], expected[[0, 2, 3], :3, 3], atol=1e-6)
        at_rest = world(character, None, 0)
        away = expected[:, :3, :3] @ at_rest[:, :3, :3].swapaxes(1, 2)
        np.testing.assert_allclose(turns[frame], away[[0, 2, 3]], atol=1e-6)
    np.testing.assert_allclose(motion.rest_positions(), at_rest[[0, 2, 3], :3, 3], atol=1e-6)


def test_lengths_of_frames_and_clips(halcyon):
    motions = motions_of(halcyon.skeleton, halcyon.clips)
    for clip in halcyon.clips:
        assert motions[clip.name].seconds == pytest.approx(clip.seconds)
        assert motions[clip.name].frame_time == pytest.approx(1 / 60, rel=0.02)
    still = clip_of("still", (0,), (0, 0, [[0, 0, 0]]))
    assert motions_of(halcyon.skeleton, [still])["still"].positions.shape[0] == 2


def test_a_file_without_a_mesh_gives_its_motions(tmp_path):
    maker = skinned_strip()
    for key in ("meshes", "skins"):
        del maker.json[key]
    del maker.json["nodes"][2]
    path = tmp_path / "moves.glb"
    path.write_bytes(maker.glb())
    with pytest.raises(CharacterError, match="no triangles"):
        read_gltf(path)
    motions = read_motions(path)
    assert list(motions) == ["lift"]
    positions, _ = motions["lift"].placed()
    assert positions[:, 0, 1].min() == 1.0
    assert positions[-1, 0, 1] == pytest.approx(3.0)


def still_maker():
    maker = Maker()
    maker.json["nodes"] = [{"name": "a"}]
    return maker


def cut(maker):
    raw = maker.glb()
    return raw[: len(raw) // 2]


@pytest.mark.parametrize(
    ("raw", "said"),
    [
        (lambda: still_maker().glb(), "no clips that move a joint"),
        (lambda: b"junk", "not a glTF file"),
        (lambda: cut(skinned_strip()), "cut off|announced"),
    ],
)
def test_what_holds_no_motion_is_refused_in_words(tmp_path, raw, said):
    path = tmp_path / "bad.glb"
    path.write_bytes(raw())
    with pytest.raises(CharacterError, match=said):
        read_motions(path)


def test_too_many_joints_are_refused_and_a_long_clip_is_taken_at_fewer_moments(monkeypatch):
    made = body([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2]], parents=tuple(range(-1, 2000)))
    clip = clip_of("turn", (0, 4000), (0, 0, [[0, 0, 0], [1, 0, 0]]))
    with pytest.raises(CharacterError, match="more than 2000 joints"):
        motions_of(made.skeleton, [clip])
    monkeypatch.setattr(gltf_motions, "MAX_PLACED", 800)
    few = body([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2]], parents=(-1, 0))
    motion = motions_of(few.skeleton, [clip])["turn"]
    assert len(motion.positions) == 401
    assert motion.seconds == pytest.approx(4000)


# ---- the project's characters -----------------------------------------------------------------------


def pole_with(file="pole.glb", **more):
    return Project(characters=(CharacterUse(id="pole", file=file, **more),))


@pytest.fixture
def pole():
    from tests.bodies import swaying_pole

    return swaying_pole()


def test_a_renamed_clip_has_its_name_and_the_files_own_is_kept(pole):
    old = pole.clips[0].name
    project = rename_clip(pole_with(), old, "a sway")
    use = project.character
    assert (use.clip("a sway").file_name, use.clip(old).file_name) == (old, "")
    made, findings = RetargetCache().with_motions(project, {"pole.glb": pole}, {})
    assert [clip.name for clip in made["pole"].clips] == ["a sway"]
    assert findings == []
    assert missing_names(project, use, made["pole"].facts) == []
    back = rename_clip(project, "a sway", old)
    assert back.character.clip(old) == ClipUse(name=old)
    made, _ = RetargetCache().with_motions(back, {"pole.glb": pole}, {})
    assert made["pole"] is pole


def test_renaming_follows_order_marks_and_dissolve(demo):
    dissolve = demo.project.character.dissolve.evolve(clip="walk")
    changed = demo.project.character.evolve(dissolve=dissolve)
    order_of = [clip_run.clip for clip_run in demo.project.stage.order]
    project = rename_clip(demo.project.evolve(characters=(changed,)), "walk", "stroll")
    assert [clip_run.clip for clip_run in project.stage.order] == ["stroll" if c == "walk" else c for c in order_of]
    assert project.character.clip("stroll").marks == demo.project.character.clip("walk").marks
    assert project.character.dissolve.clip == "stroll"
    made, _ = RetargetCache().with_motions(project, demo.files, {})
    facts = {key: character.facts for key, character in made.items()}
    assert check(project, facts) == check(demo.project, demo.facts)


def test_a_file_that_no_longer_has_the_clip_lists_it_by_its_name(pole):
    old = pole.clips[0].name
    project = rename_clip(pole_with(), old, "a sway")
    newer = replace(pole, clips=(replace(pole.clips[0], name="other"),))
    made, _ = RetargetCache().with_motions(project, {"pole.glb": newer}, {})
    assert [m.name for m in missing_names(project, project.character, made["pole"].facts)] == ["a sway"]


def test_a_motion_is_worked_out_once_for_what_it_depends_on(pole, monkeypatch):
    motion = motions_of(pole.skeleton, pole.clips)[pole.clips[0].name]
    capture = CaptureUse(id="m", file="pole.glb", clip="x", name="mine", matches=tuple((j, j) for j in motion.joints))
    project, held = pole_with(captures=(capture,)), {("pole.glb", "x"): motion}
    cache, files = RetargetCache(), {"pole.glb": pole}
    assert cache.work(project, files, held) == len(motion.positions) * (len(motion.joints) + len(pole.skeleton.names))
    made, _ = cache.with_motions(project, files, held)
    assert [clip.name for clip in made["pole"].clips] == [pole.clips[0].name, "mine"]
    renamed = pole_with(captures=(capture.evolve(name="yours"),))
    monkeypatch.setattr("wraithon.stage.retarget_cache.retargeted", None)
    assert cache.work(renamed, files, held) == 0
    made, _ = cache.with_motions(renamed, files, held)
    assert made["pole"].clips[1].name == "yours"
    assert cache.work(pole_with(captures=(capture.evolve(unit=2.0),)), files, held) > 0


def test_motions_of_a_glb_are_saved_and_opened_with_the_project(tmp_path):
    made = body(
        [[0, 0, 0], [1, 0, 0], [0, 3, 0]], [[0, 1, 2]], parents=(-1, 0, 1), offsets=[[0, 0, 0], [0, 1, 0], [0, 1, 0]]
    )
    file, moves = tmp_path / "body.glb", tmp_path / "moves.glb"
    still = maker_of(made)
    still.json["animations"] = []
    file.write_bytes(still.glb())
    moves.write_bytes(maker_of(made).glb())
    matches = tuple((name, name) for name in made.skeleton.names)
    captures = tuple(
        CaptureUse(file=str(moves), clip="sway", name=name, matches=matches) for name in ("sway", "sway again")
    )
    project = Project(characters=(CharacterUse(id="b", file=str(file), captures=captures),))
    saved, *_ = save_whole(project, None, tmp_path / "saved")
    assert {m.file for m in saved.character.captures} == {"characters/moves.glb"}
    again = load(tmp_path / "saved")
    assert [clip.name for clip in again.characters["b"].clips] == ["sway", "sway again"]
    assert again.findings == ()
    assert limb_error(again.captures["characters/moves.glb", "sway"], again.characters["b"], dict(matches),
                      again.characters["b"].clips[0]) < 0.1  # fmt: skip
    moves.unlink()
    (tmp_path / "saved/characters/moves.glb").unlink()
    said = [finding.message for finding in load(tmp_path / "saved").check()]
    assert any("no such file" in text for text in said)
    assert sum("was not read" in text for text in said) == 2


def test_a_clip_of_the_pile_that_is_gone_is_told(tmp_path, pole):
    capture = CaptureUse(file="pole.glb", clip="gone", name="gone", matches=(("j0", "j0"),))
    _, findings = RetargetCache().with_motions(pole_with(captures=(capture,)), {"pole.glb": pole}, {})
    assert [finding.message for finding in findings] == ['its file "pole.glb" was not read; bring it in again']


# ---- heights and hiding -----------------------------------------------------------------------------


def test_a_clip_raises_the_character_while_it_plays_and_fades(halcyon, demo):
    from wraithon.project.project import ClipRun, Stage
    from wraithon.stage.performance import Performance

    use = CharacterUse(file="x.glb", height=0.1, clips=(ClipUse(name="walk", height=0.5), ClipUse(name="idle")))
    flat = use.evolve(clips=())
    stage = Stage(order=(ClipRun(clip="idle"), ClipRun(clip="walk")), fade=0.4)
    raised, plain = (Performance(halcyon, u, stage) for u in (use, flat))
    start = halcyon.clip("idle").seconds

    def lift(time):
        higher = raised.pose_at(time).matrices - plain.pose_at(time).matrices
        assert np.abs(higher[:, [0, 2], 3]).max() == 0
        assert np.ptp(higher[:, 1, 3]) < 1e-5
        return float(higher[0, 1, 3])

    assert lift(start / 2) == 0
    assert lift(start + 0.2) == pytest.approx(0.25, abs=1e-5)
    assert lift(start + 0.5) == pytest.approx(0.5, abs=1e-5)


def test_a_motion_that_was_taken_off_is_not_worked_out_again_as_long_as_there_is_room(pole, monkeypatch):
    held = motions_of(pole.skeleton, pole.clips)[pole.clips[0].name]
    matches = tuple((joint, joint) for joint in held.joints)
    uses = [
        CaptureUse(file="m.glb", clip=name, name=name, unit=1.0, matches=matches) for name in ("one", "two", "three")
    ]
    captures = {("m.glb", use.clip): replace(held) for use in uses}
    worked, real = [], retarget_cache.retargeted
    monkeypatch.setattr(retarget_cache, "retargeted", lambda *given: worked.append(given[0]) or real(*given))
    cache, bare = RetargetCache(), pole_with()

    def wear(*some):
        made, _ = cache.with_motions(pole_with(captures=some), {"pole.glb": pole}, captures)
        return made["pole"].clips[-1]

    first = wear(uses[0])
    cache.with_motions(bare, {"pole.glb": pole}, captures)
    assert cache.work(pole_with(captures=(uses[0],)), {"pole.glb": pole}, captures) == 0
    assert wear(uses[0]).values is first.values
    assert len(worked) == 1
    size = first.values.nbytes + first.times.nbytes
    monkeypatch.setattr(retarget_cache, "MAX_SPARE", 2 * size - 1)  # room for one, besides what is worn
    wear(uses[1])
    wear(uses[2])
    wear(uses[1])
    assert len(worked) == 3
    wear(uses[0])
    assert len(worked) == 4
