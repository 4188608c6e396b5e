"""What a project from elsewhere names stays within its folder, on every read and every write."""

import json
import os
import shutil
import stat
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.glb_maker import skinned_strip
from wraithon.interchange.folders import save_whole
from wraithon.interchange.journal import Journal
from wraithon.interchange.presets import keep_preset, stored_presets
from wraithon.picture.shipped import TextureLibrary
from wraithon.project.character import CaptureUse, CharacterUse
from wraithon.project.effect import Effect, Layer
from wraithon.project.files import open_project, to_text
from wraithon.project.look import MeshLook, SpriteLook
from wraithon.project.preset import Preset
from wraithon.project.project import Project
from wraithon.project.staging.actions import PlaySound
from wraithon.project.trigger import Trigger
from wraithon.sounds import SoundLibrary
from wraithon.stage.loading import load
from wraithon.support.errors import ProjectError, WraithonError
from wraithon.support.places import state_folder
from wraithon.support.plain_files import file_name, path_inside
from wraithon.support.saving import Staging

SECRET = b"secret"


def sprites(name):
    return Project(effects=(Effect(layers=(Layer(look=SpriteLook(texture=name)),)),))


def pieces(name):
    return Project(effects=(Effect(layers=(Layer(look=MeshLook(shapes=(name,))),)),))


FIELDS = {
    "character": ("characters", ".glb", lambda name: Project(characters=(CharacterUse(file=name),))),
    "motion": ("characters", ".bvh", lambda name: Project(
        characters=(CharacterUse(file="characters/own.glb", captures=(CaptureUse(file=name),)),))),
    "texture": ("textures", ".png", sprites),
    "piece": ("pieces", ".glb", pieces),
    "sound": ("sounds", ".wav", lambda name: Project(triggers=(Trigger(response=(PlaySound(sound=name),)),))),
}  # fmt: skip
"""Each field that names a file: the folder of such files, their ending, and a project with one."""

TRICKS = ("above", "absolute", "link", "dangling link", "folder is a link", "above a folder", "own folder", "pipe")


def hostile(tmp_path, field, trick):
    """Return a project's folder that names a secret file outside by a trick, and the secret."""
    kind, ending, project_of = FIELDS[field]
    home = tmp_path / "home"
    (home / "characters").mkdir(parents=True)
    (home / "characters" / "own.glb").write_bytes(skinned_strip().glb())
    outside = tmp_path / "outside"
    outside.mkdir()
    secret = outside / f"secret{ending}"
    secret.write_bytes(SECRET)
    within = "" if kind != "characters" else "characters/"
    (home / kind).mkdir(exist_ok=True)
    name = f"{within}secret{ending}"
    if trick == "above":
        name = f"../outside/secret{ending}"
    elif trick == "absolute":
        name = str(secret)
    elif trick == "above a folder":
        name = f"{within}../../outside/secret{ending}"
    elif trick == "link":
        (home / kind / f"secret{ending}").symlink_to(secret)
    elif trick == "dangling link":
        secret.unlink()
        (home / kind / f"secret{ending}").symlink_to(secret)
    elif trick == "own folder":
        name = f".wraithon-ready-x/secret{ending}"
        (home / ".wraithon-ready-x").mkdir()
        (home / ".wraithon-ready-x" / f"secret{ending}").write_bytes(SECRET)
    elif trick == "pipe":
        os.mkfifo(home / kind / f"secret{ending}")
    else:
        shutil.rmtree(home / kind)
        (home / kind).symlink_to(outside)
    (home / "project.json").write_text(to_text(project_of(name)))
    return home, secret, name


def everything(folder):
    """Return all paths below a folder with what they hold."""
    return {p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()}


@pytest.mark.parametrize("trick", TRICKS)
@pytest.mark.parametrize("field", FIELDS)
def test_no_field_leads_out_of_the_folder(tmp_path, field, trick):
    home, _secret, name = hostile(tmp_path, field, trick)
    outside = everything(tmp_path / "outside")
    loaded = load(home)
    library = TextureLibrary(home)
    for read in (library.read, library.pieces.read, SoundLibrary(home).read):
        with pytest.raises(WraithonError):
            read(name)
    there = tmp_path / "deep" / "there"
    saved = save_whole(loaded.project, home, there)
    # The work is saved, nothing of the secret is in it, and nothing was written anywhere else.
    assert open_project(there).project == loaded.project
    assert SECRET not in everything(there).values()
    assert everything(tmp_path / "outside") == outside
    assert {p.name for p in tmp_path.iterdir()} == {"home", "outside", "deep"}
    assert {p.name for p in (tmp_path / "deep").iterdir()} == {"there"}
    assert any("secret" in told for told in saved.left_out)


@pytest.mark.parametrize("trick", ["link", "dangling link", "folder is a link"])
@pytest.mark.parametrize("field", ["texture", "character"])
def test_a_save_does_not_write_through_the_links_of_the_folder_it_goes_to(tmp_path, field, trick):
    there, secret, _ = hostile(tmp_path, field, trick)
    outside = everything(tmp_path / "outside")
    kind, ending, project_of = FIELDS[field]
    home = tmp_path / "mine"
    (home / kind).mkdir(parents=True)
    (home / kind / secret.name).write_bytes(b"mine")
    project = project_of(f"{'characters/' if kind == 'characters' else ''}secret{ending}")
    with pytest.raises(ProjectError, match="leads out of its folder; put the file itself there"):
        save_whole(project, home, there)
    assert everything(tmp_path / "outside") == outside


def test_a_project_file_that_leads_out_of_another_folder_is_not_written_through(tmp_path):
    there = tmp_path / "there"
    there.mkdir()
    (there / "project.json").symlink_to(tmp_path / "start-up script")
    with pytest.raises(ProjectError, match=r"cannot be written .*leads out of its folder"):
        save_whole(Project(), None, there)
    assert not (tmp_path / "start-up script").exists()


def test_what_the_user_brought_in_comes_along_and_no_other_absolute_name(tmp_path):
    home = tmp_path / "home"
    home.mkdir()
    for name in ("mine.glb", "theirs.glb"):
        (tmp_path / name).write_bytes(name.encode())
    uses = tuple(CharacterUse(file=str(tmp_path / name)) for name in ("mine.glb", "theirs.glb"))
    saved = save_whole(Project(characters=uses), home, tmp_path / "there", {uses[0].file})
    assert [use.file for use in saved.project.characters] == ["characters/mine.glb", uses[1].file]
    assert saved.left_out == (f"{uses[1].file} (it lies outside the folder; put the file itself there)",)


def test_two_gltf_files_keep_what_each_refers_to(tmp_path):
    uses = []
    for name in ("one", "two"):
        folder = tmp_path / name
        folder.mkdir()
        (folder / "scene.bin").write_bytes(name.encode())
        document = {"asset": {"version": "2.0"}, "buffers": [{"uri": "scene.bin"}]}
        (folder / "body.gltf").write_text(json.dumps(document))
        uses.append(CharacterUse(file=str(folder / "body.gltf")))
    there = tmp_path / "there"
    saved = save_whole(Project(characters=tuple(uses)), None, there)
    beside = [(there / use.file).parent / "scene.bin" for use in saved.project.characters]
    assert [path.read_bytes() for path in beside] == [b"one", b"two"]


def test_a_project_whose_folder_is_gone_is_saved_elsewhere_and_what_is_gone_is_named(tmp_path):
    home = tmp_path / "home"
    (home / "textures").mkdir(parents=True)
    Image.fromarray(np.full((4, 4, 4), 255, np.uint8)).save(home / "textures" / "own.png")
    (home / "characters").mkdir()
    (home / "characters" / "own.glb").write_bytes(skinned_strip().glb())
    project = sprites("own.png").evolve(characters=(CharacterUse(file="characters/own.glb"),))
    save_whole(project, home, home)
    shutil.rmtree(home)
    saved = save_whole(project, home, tmp_path / "there")
    assert open_project(tmp_path / "there").project == project
    assert saved.left_out == ("characters/own.glb (it is missing)", "textures/own.png (it is missing)")


@pytest.mark.parametrize(
    "name", ["", ".", "..", "../x", "x/../y", "/x", "c:x", "x\\..\\y", ".wraithon-ready-1/x", "x\0y", "a" * 1025]
)
def test_one_function_says_what_lies_inside(tmp_path, name):
    with pytest.raises(OSError, match="it lies outside the folder; put the file itself there"):
        path_inside(tmp_path, name)
    with pytest.raises(ProjectError), Staging(tmp_path) as staging:
        staging.write(name, b"")
    assert list(tmp_path.iterdir()) == []


def test_a_name_is_made_one_that_a_project_may_hold():
    assert file_name("a:b\\c\nd\udc80.glb") == "a b c d?.glb"


def test_presets_are_not_read_through_links_out_of_their_folder(tmp_path):
    folder = tmp_path / "presets"
    keep_preset(folder, Preset(name="mine", layer=Layer()))
    (tmp_path / "outside.json").write_bytes(next(folder.glob("*.json")).read_bytes())
    (folder / "linked.json").symlink_to(tmp_path / "outside.json")
    assert [preset.name for preset in stored_presets(folder)] == ["mine"]


def test_journals_are_for_their_owner_alone(tmp_path):
    journal = Journal("/here")
    assert journal.write(Project())
    assert stat.S_IMODE(journal._path.stat().st_mode) == 0o600
    assert stat.S_IMODE((state_folder() / "journal").stat().st_mode) == 0o700
    journal.close()


def test_the_later_of_two_journals_is_known_whatever_the_clock_says(tmp_path):
    def left(name):
        journal = Journal("/here", tmp_path)
        assert journal.write(Project(name=name))
        path = journal._path.rename(journal._path.with_name(f"{journal._stem}.{name}.json"))
        journal.close()
        return path

    first, second, third = (left(name) for name in ("first", "second", "third"))
    os.utime(first, (2e9, 2e9))
    os.utime(second, (1e9, 1e9))
    os.utime(third, (1e8, 1e8))
    found = Journal("/here", tmp_path).all_left_behind()
    assert [work.project.name for work in found] == ["third", "second", "first"]
    assert isinstance(found[0].path, Path)
