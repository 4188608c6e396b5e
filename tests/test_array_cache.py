"""Arrays that are stored on disk from one start to the next."""

import numpy as np
import pytest

from wraithon.ground.ground import SIZE, ground_colour
from wraithon.picture.solid.ground import ground_texture
from wraithon.support import array_cache
from wraithon.support.array_cache import cached_array


@pytest.fixture
def folder(monkeypatch, tmp_path):
    monkeypatch.setattr(array_cache, "derived_folder", lambda: tmp_path)
    return tmp_path / "arrays"


@pytest.fixture
def source(tmp_path):
    path = tmp_path / "maker.py"
    path.write_text("one")
    return path


class Maker:
    """Makes an array, and counts how often."""

    def __init__(self, *values):
        self.made, self.values = 0, np.array(values, np.float32)

    def __call__(self):
        self.made += 1
        return self.values


def test_an_array_is_made_once_and_then_read(folder, source):
    maker = Maker(1, 2, 3)
    first, second = (cached_array("three", [source], maker) for _ in range(2))
    assert maker.made == 1
    assert type(second) is np.ndarray
    assert (first.dtype, second.dtype) == (np.float32, np.float32)
    assert second.tolist() == [1, 2, 3]


def test_what_is_written_to_it_stays_in_memory(folder, source):
    maker = Maker(1, 2, 3)
    cached_array("three", [source], maker)
    cached_array("three", [source], maker)[:] = 9
    assert cached_array("three", [source], maker).tolist() == [1, 2, 3]
    assert maker.made == 1


def test_another_state_of_its_sources_makes_it_anew_and_throws_the_old_away(folder, source):
    cached_array("three", [source], Maker(1, 2, 3))
    cached_array("three-patch", [source], Maker(4))
    source.write_text("two")
    assert cached_array("three", [source], Maker(7)).tolist() == [7]
    assert sorted(file.name.rpartition("-")[0] for file in folder.iterdir()) == ["three", "three-patch"]


@pytest.mark.parametrize("content", [b"", b"\x93NUMPY", b"cut short", None])
def test_a_broken_file_is_made_anew(folder, source, content):
    maker = Maker(1, 2, 3)
    cached_array("three", [source], maker)
    (file,) = folder.iterdir()
    file.write_bytes(file.read_bytes()[:-5] if content is None else content)
    for made in (2, 2):
        assert cached_array("three", [source], maker).tolist() == [1, 2, 3]
        assert maker.made == made


def test_where_nothing_can_be_stored_it_is_made_each_time(folder, source):
    folder.write_text("a file where the folder would be")
    maker = Maker(1)
    for made in (1, 2):
        assert cached_array("one", [source], maker).tolist() == [1]
        assert maker.made == made


def test_a_full_disk_leaves_nothing_behind(folder, source, monkeypatch):
    def full(*_arguments, **_options):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(np, "save", full)
    assert cached_array("one", [source], Maker(1)).tolist() == [1]
    assert list(folder.iterdir()) == []


def test_grounds_are_the_same_bytes_made_and_read(folder):
    for patch in (False, True):
        made, read = [], []
        for found in (made, read):
            ground_colour.cache_clear()
            ground_texture.cache_clear()
            found += [ground_colour("moss", patch=patch), *ground_texture("moss", patch=patch)]
        assert [array.tobytes() for array in made] == [array.tobytes() for array in read]
        assert read[0].shape == (SIZE, SIZE, 3)
        assert not read[0].flags.writeable


def test_a_kind_out_of_a_file_names_no_file_elsewhere(folder):
    ground_colour.cache_clear()
    wild, slate = ground_colour("../../elsewhere"), ground_colour("slate")
    assert wild.tobytes() == slate.tobytes()
    assert [file.name.rpartition("-")[0] for file in folder.iterdir()] == ["ground-colour-slate"]
    assert sorted(path.name for path in folder.parent.iterdir()) == ["arrays"]
