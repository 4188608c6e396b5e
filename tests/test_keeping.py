"""What is kept beside the project: journals of unsaved work, files brought along, and what colours the skin."""

import json
import os
import subprocess
import sys

import numpy as np
import pytest

from wraithon.character.masks import joint_weights, pack_mask
from wraithon.demo import DEMO_FOLDER
from wraithon.interchange.folders import save_whole
from wraithon.interchange.journal import Journal
from wraithon.numeric.arithmetic import evaluate
from wraithon.project.character import CaptureUse, CharacterUse, PaintedMask
from wraithon.project.edit import with_character
from wraithon.project.files import open_project
from wraithon.project.project import Project
from wraithon.stage.overlays import Heat, Overlay
from wraithon.support.identity import same_objects

# ---- the journal ----------------------------------------------------------------------------------


def ended():
    """Return the number of a program that is no longer running."""
    program = subprocess.Popen([sys.executable, "-c", ""])
    program.wait()
    return program.pid


@pytest.fixture(scope="module")
def gone():
    return ended()


def left_by(pid, journal, name, opened="/here", when=None):
    journal.write(Project(name=name))
    data = json.loads(journal._path.read_text())
    journal._path.unlink()
    path = journal._folder / f"{journal._path.name.split('.')[0]}.{pid}.json"
    path.write_text(json.dumps({**data, "pid": pid, "opened": opened}))
    if when is not None:
        os.utime(path, (when, when))
    return path


def test_work_of_a_program_that_is_gone_is_offered_and_of_one_that_runs_is_not(tmp_path, gone):
    journal, other = Journal("/here", tmp_path), Journal("/here", tmp_path)
    journal.write(Project(name="mine"))
    other.write(Project(name="theirs"))
    assert journal.left_behind() is None
    left_by(gone, journal, "lost")
    left = journal.left_behind()
    assert (left.project.name, left.opened) == ("lost", "/here")
    assert Journal("/there", tmp_path).left_behind() is None


def test_the_latest_work_is_offered_and_what_cannot_be_read_is_passed_over(tmp_path, gone):
    journal = Journal("", tmp_path)
    old = left_by(gone, journal, "old", "", when=1000)
    new = left_by(ended(), journal, "new", "", when=2000)
    assert journal.left_behind().project.name == "new"
    for text in ("", "{", "[]", '{"pid": "x"}', '{"pid": 1e99, "project": 3, "opened": ""}'):
        new.write_text(text)
        left = journal.left_behind()
        assert left is None or left.path == old


def test_a_journal_that_is_cleared_is_gone_and_clearing_twice_is_no_matter(tmp_path):
    journal = Journal("/here", tmp_path / "deep" / "er")
    journal.write(Project())
    assert journal._path.is_file()
    journal.clear()
    journal.clear()
    assert not journal._path.exists()


def test_a_journal_that_cannot_be_written_stops_nothing(tmp_path, caplog):
    blocked = tmp_path / "file"
    blocked.write_text("in the way")
    Journal("/here", blocked / "journal").write(Project())
    assert "journal" in caplog.text


# ---- files brought along --------------------------------------------------------------------------


def project_of(*files, captures=()):
    uses = (CharacterUse(file=file, captures=tuple(CaptureUse(file=c) for c in captures)) for file in files)
    return Project(characters=tuple(uses))


def test_files_from_elsewhere_come_along_under_names_that_are_free(tmp_path):
    positions = [tmp_path / name / "body.glb" for name in ("a", "b", "c")]
    for position, data in zip(positions, (b"one", b"two", b"one"), strict=True):
        position.parent.mkdir()
        position.write_bytes(data)
    there = tmp_path / "there"
    now, renamed, _ = save_whole(project_of(*map(str, positions)), None, there)
    assert [use.file for use in now.characters] == [
        "characters/body.glb", "characters/body 2.glb", "characters/body.glb",
    ]  # fmt: skip
    assert (there / "characters/body 2.glb").read_bytes() == b"two"
    assert renamed[str(positions[1])] == "characters/body 2.glb"


def test_a_folder_saved_elsewhere_takes_captures_and_textures_with_it(tmp_path):
    home, there = tmp_path / "home", tmp_path / "there"
    for name in ("characters/body.glb", "characters/walk.bvh", "textures/spark.png"):
        (home / name).parent.mkdir(parents=True, exist_ok=True)
        (home / name).write_bytes(name.encode())
    project = project_of("characters/body.glb", captures=["characters/walk.bvh"])
    now, *_ = save_whole(project, home, there)
    assert now == project
    for name in ("characters/body.glb", "characters/walk.bvh", "textures/spark.png"):
        assert (there / name).read_bytes() == name.encode()


def test_saving_where_it_is_copies_nothing(tmp_path):
    project = project_of("characters/body.glb")
    assert save_whole(project, tmp_path, tmp_path) == (project, {}, ())


def test_what_is_missing_is_named_and_the_work_is_saved_all_the_same(tmp_path):
    there = tmp_path / "there"
    project = project_of("characters/nowhere.glb")
    saved = save_whole(project, tmp_path, there)
    assert saved == (project, {}, ("characters/nowhere.glb (it is missing)",))
    assert open_project(there).project == project


def test_a_gltf_takes_what_it_refers_to_and_nothing_from_outside(tmp_path):
    home = tmp_path / "home"
    home.mkdir()
    (tmp_path / "secret.bin").write_bytes(b"secret")
    (home / "my data.bin").write_bytes(b"data")
    buffers = [{"uri": "my%20data.bin"}, {"uri": "../secret.bin"}, {"uri": "data:,x"}, {"uri": 7}]
    (home / "body.gltf").write_text(json.dumps({"asset": {"version": "2.0"}, "buffers": buffers}))
    there = tmp_path / "there"
    save_whole(project_of(str(home / "body.gltf")), None, there)
    names = {path.relative_to(there).as_posix() for path in there.rglob("*") if path.is_file()}
    assert names == {"characters/body.gltf", "characters/my data.bin", "project.json"}


# ---- what colours the skin ------------------------------------------------------------------------


def test_weights_density_and_masks_colour_the_skin(player, halcyon):
    heat, count = Heat(), len(halcyon.mesh.positions)
    weights = heat.of(player, Overlay("weights", "head"))
    held = joint_weights(halcyon, {"head"})
    np.testing.assert_array_equal(weights, np.where(held > 0, held, -1))
    assert heat.births is None
    layer = next(key for key, program in player.compiled.programs.items() if program.sampler is not None)
    assert heat.of(player, Overlay("density", layer)).shape == (count,)
    assert heat.births is not None
    assert heat.of(player, Overlay("density", "nowhere")) is None
    assert heat.of(player, Overlay()) is None
    assert heat.births is None


def test_a_mask_of_another_mesh_colours_nothing(player, halcyon):
    values = np.linspace(0, 1, len(halcyon.mesh.positions)).astype(np.float32)
    masks = (PaintedMask(id="own", **pack_of(values)), PaintedMask(id="other", **pack_of(values[:50])))
    player.adopt(with_character(player.project, lambda use: use.evolve(masks=masks)))
    np.testing.assert_allclose(Heat().of(player, Overlay("mask", "own")), values, atol=1 / 500)
    assert Heat().of(player, Overlay("mask", "other")) is None
    assert Heat().of(player, Overlay("mask", "gone")) is None


def pack_of(values):
    packed = pack_mask(PaintedMask(), values)
    return {"vertices": packed.vertices, "values": packed.values}


def test_what_colours_the_skin_is_worked_out_once(player):
    heat = Heat()
    first = heat.of(player, Overlay("weights", "head"))
    player.seek(0.5)
    assert heat.of(player, Overlay("weights", "head")) is first
    assert heat.of(player, Overlay("weights", "hips")) is not first


# ---- small things ---------------------------------------------------------------------------------


def test_the_same_objects_are_more_than_equal_ones():
    a, b = [1], [1]
    assert same_objects((a, b), (a, b))
    assert not same_objects((a, b), (b, a))
    assert not same_objects((a,), (a, b))
    assert same_objects((), ())


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("1", 1), ("-1.5", -1.5), ("+2", 2), ("2*3+4", 10), ("2*(3+4)", 14), ("1/8", 0.125), ("1,5*2", 3),
        ("2**3", None), ("1e3", 1000), ("True", None), ("a", None), ("(", None), ("1/0", None), ("1e999", None),
        ("9" * 101, None), ("", None), ("__import__('os')", None), ("[1]", None), ("(" * 90, None),
    ],
)  # fmt: skip
def test_only_arithmetic_is_worked_out(text, value):
    assert evaluate(text) == value


def test_the_demo_is_where_it_says():
    assert (DEMO_FOLDER / "project.json").is_file()
