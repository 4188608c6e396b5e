"""Pictures that the user brought in: kept once, under free names, and saved with the project that uses them."""

import shutil

import numpy as np
import pytest
from PIL import Image

from wraithon.interchange.folders import save_whole
from wraithon.picture.shipped import SHIPPED, TextureLibrary
from wraithon.project.edit import textures_of
from wraithon.project.effect import Effect, Layer
from wraithon.project.look import SpriteLook
from wraithon.project.project import Project
from wraithon.project.source import SkinSource, TextureMask
from wraithon.support.errors import RenderError
from wraithon.support.places import texture_folder


def picture(path, colour=(255, 0, 0, 255)):
    path.parent.mkdir(parents=True, exist_ok=True)
    Image.new("RGBA", (8, 8), colour).save(path)
    return path


def drawn_with(name, source=None):
    layer = Layer(look=SpriteLook(texture=name), **({"source": source} if source else {}))
    return Project(effects=(Effect(layers=(layer,)),))


def test_a_picture_is_kept_once_and_at_hand_in_every_project(tmp_path):
    path = picture(tmp_path / "soot.png")
    library = TextureLibrary(None)
    assert library.keep(path) == "soot.png"
    assert library.keep(path) == "soot.png"
    assert [p.name for p in texture_folder().iterdir()] == ["soot.png"]
    path.unlink()
    for other in (TextureLibrary(None), TextureLibrary(tmp_path)):
        assert "soot.png" in other.names()
        np.testing.assert_array_equal(other.read("soot.png")[0, 0], (255, 0, 0, 255))


def test_another_picture_of_a_taken_name_gets_a_number(tmp_path):
    library = TextureLibrary(tmp_path / "home")
    picture(tmp_path / "home" / "textures" / "soot.png")
    other = picture(tmp_path / "soot.png", (0, 255, 0, 255))
    assert library.keep(other) == "soot 2.png"
    assert library.keep(picture(tmp_path / "b" / "soot.png", (0, 0, 255, 255))) == "soot 3.png"
    shipped = next(SHIPPED.glob("*.png"))
    assert library.keep(picture(tmp_path / shipped.name)) == f"{shipped.stem} 2.png"
    # The project's own wins over the user's.
    assert library.path("soot.png").parent == tmp_path / "home" / "textures"


@pytest.mark.parametrize("content", [b"", b"no picture", b"\x89PNG\r\n\x1a\n" + bytes(64)])
def test_what_is_no_picture_is_refused_and_not_kept(tmp_path, content):
    path = tmp_path / "bad.png"
    path.write_bytes(content)
    with pytest.raises(RenderError, match=r"bad\.png"):
        TextureLibrary(None).keep(path)
    assert not texture_folder().exists()


def test_saving_brings_those_that_are_used_and_no_others(tmp_path):
    library = TextureLibrary(None)
    names = [library.keep(picture(tmp_path / f"{k}.png", (k, 0, 0, 255))) for k in range(3)]
    project = drawn_with(names[0], SkinSource(texture=TextureMask(texture=names[1])))
    assert textures_of(project) == set(names[:2])
    home = tmp_path / "home"
    save_whole(project, None, home)
    assert sorted(p.name for p in (home / "textures").iterdir()) == ["0.png", "1.png"]
    # The project stands on its own from then on.
    shutil.rmtree(texture_folder())
    assert TextureLibrary(home).path("0.png") is not None


def test_saving_again_in_its_own_folder_brings_what_came_since(tmp_path):
    home = tmp_path / "home"
    save_whole(Project(), None, home)
    name = TextureLibrary(home).keep(picture(tmp_path / "late.png"))
    save_whole(drawn_with(name), home, home)
    assert (home / "textures" / "late.png").is_file()
    copy = tmp_path / "copy"
    shutil.rmtree(texture_folder())
    save_whole(drawn_with(name), home, copy)
    assert (copy / "textures" / "late.png").is_file()


def test_what_comes_with_the_program_is_not_copied(tmp_path):
    shipped = next(SHIPPED.glob("*.png")).name
    save_whole(drawn_with(shipped), None, tmp_path / "home")
    assert not (tmp_path / "home" / "textures").exists()
