"""Only plain files are read: no pipes, no devices, nothing too large, and no link that leads out of its folder."""

import json
import os
import shutil

import pytest

from tests.glb_maker import skinned_strip
from wraithon.character.reading.bvh import read_bvh
from wraithon.character.reading.gltf import read_gltf
from wraithon.demo import DEMO_FOLDER
from wraithon.picture.shipped import SHIPPED, TextureLibrary
from wraithon.picture.textures import read_texture
from wraithon.project.files import open_project
from wraithon.stage.loading import load
from wraithon.support.errors import CharacterError, ProjectError, RenderError
from wraithon.support.plain_files import is_within, read_plain


def test_a_plain_file_is_read_whole_up_to_its_limit(tmp_path):
    path = tmp_path / "some"
    path.write_bytes(bytes(1000))
    assert read_plain(path, 1000) == bytes(1000)
    with pytest.raises(OSError, match="larger than"):
        read_plain(path, 999)


@pytest.fixture(params=["pipe", "device", "folder", "endless"])
def odd(request, tmp_path):
    """Return a path that is there and is no plain file."""
    path = tmp_path / "odd"
    if request.param == "pipe":
        os.mkfifo(path)
    elif request.param == "folder":
        path.mkdir()
    else:
        path.symlink_to("/dev/null" if request.param == "device" else "/dev/zero")
    return path


READERS = {
    "project.json": (open_project, ProjectError),
    "odd.glb": (read_gltf, CharacterError),
    "odd.gltf": (read_gltf, CharacterError),
    "odd.bvh": (read_bvh, CharacterError),
    "odd.png": (read_texture, RenderError),
}


@pytest.mark.parametrize("name", READERS)
def test_no_reader_waits_for_a_pipe_or_reads_a_device(odd, name):
    read, error = READERS[name]
    path = odd.rename(odd.with_name(name))
    with pytest.raises(error, match="only plain files are read"):
        read(path)


@pytest.mark.parametrize("name", ["a\0b.glb", "half \ud800.glb", "x" * 300 + ".glb"])
def test_a_name_no_file_can_have_gets_words(tmp_path, name):
    with pytest.raises(CharacterError, match=r"cannot be read|no such file"):
        read_gltf(tmp_path / name)


def test_a_link_may_lead_anywhere_when_the_user_names_it(tmp_path):
    (tmp_path / "far").mkdir()
    (tmp_path / "far" / "strip.glb").write_bytes(skinned_strip().glb())
    (tmp_path / "near.glb").symlink_to(tmp_path / "far" / "strip.glb")
    assert read_gltf(tmp_path / "near.glb").name == "near"


@pytest.fixture
def project(tmp_path):
    """Return a copy of the demo's folder, to be tampered with, beside a folder of secrets."""
    folder = tmp_path / "project"
    shutil.copytree(DEMO_FOLDER, folder, ignore=shutil.ignore_patterns("__pycache__"))
    (tmp_path / "elsewhere").mkdir()
    return folder


def moved_out(path, project):
    """Move a file out of the project and leave a link to it."""
    there = project.parent / "elsewhere" / path.name
    path.rename(there)
    path.symlink_to(there)


def test_a_character_that_is_a_link_out_of_the_project_is_not_read(project):
    (file,) = (project / "characters").glob("*.glb")
    moved_out(file, project)
    loaded = load(project)
    assert loaded.characters == {}
    assert any("leads out of its folder" in finding.message for finding in loaded.findings)


def test_a_link_within_the_project_is_read(project):
    (file,) = (project / "characters").glob("*.glb")
    file.rename(project / "real.glb")
    file.symlink_to(project / "real.glb")
    assert len(load(project).characters) == 1


def test_a_texture_that_is_a_link_out_of_the_project_is_not_read(project):
    (project / "textures").mkdir(exist_ok=True)
    made = project / "textures" / "mine.png"
    shutil.copyfile(next(SHIPPED.glob("*.png")), made)
    assert TextureLibrary(project).read("mine.png").shape[-1] == 4
    moved_out(made, project)
    with pytest.raises(RenderError, match="leads out of its folder"):
        TextureLibrary(project).read("mine.png")


def test_a_folder_that_is_a_link_out_of_the_project_is_not_read_either(project):
    moved_out(project / "characters", project)
    assert load(project).characters == {}


@pytest.mark.parametrize("uri", ["../secret.bin", "/etc/hostname", "link.bin"])
def test_a_buffer_outside_of_the_characters_folder_is_not_read(tmp_path, uri):
    maker = skinned_strip()
    home = tmp_path / "home"
    home.mkdir()
    (tmp_path / "secret.bin").write_bytes(bytes(maker.data))
    (home / "link.bin").symlink_to(tmp_path / "secret.bin")
    maker.gltf()
    maker.json["buffers"][0]["uri"] = uri
    (home / "strip.gltf").write_text(json.dumps(maker.json))
    with pytest.raises(CharacterError, match="lies outside the file's own folder"):
        read_gltf(home / "strip.gltf")


def test_links_in_a_circle_lead_nowhere(tmp_path):
    (tmp_path / "a").symlink_to(tmp_path / "b")
    (tmp_path / "b").symlink_to(tmp_path / "a")
    assert not is_within(tmp_path / "a" / "c", tmp_path)
    with pytest.raises(CharacterError, match="cannot be read"):
        read_gltf(tmp_path / "a")
