"""Joint maps are kept by the names of both skeletons; what cannot be kept or read is done without."""

import pytest

from wraithon.interchange.maps import JointMap, keep_map, stored_map

KNOWN = JointMap(matches=(("Hips", "root"), ("Spine", "chest")), by_hand=("Spine",))
JOINTS, NAMES = ("Hips", "Spine"), ("root", "chest", "tail")


def test_a_map_is_found_for_the_same_two_skeletons_alone(tmp_path):
    keep_map(tmp_path / "maps", JOINTS, NAMES, KNOWN)
    assert stored_map(tmp_path / "maps", list(JOINTS), list(NAMES)) == KNOWN
    for joints, names in ((JOINTS[::-1], NAMES), (JOINTS, NAMES[:2]), (("Hips\nSpine",), ("x",)), (NAMES, JOINTS)):
        assert stored_map(tmp_path / "maps", joints, names) is None


def test_the_latest_map_takes_the_place_of_the_one_before_and_none_by_hand_is_none(tmp_path):
    keep_map(tmp_path, JOINTS, NAMES, KNOWN)
    other = KNOWN.evolve(matches=(("Hips", "tail"),), by_hand=("Hips",))
    keep_map(tmp_path, JOINTS, NAMES, other)
    assert stored_map(tmp_path, JOINTS, NAMES) == other
    assert len(list(tmp_path.iterdir())) == 1
    keep_map(tmp_path, JOINTS, NAMES, other.evolve(by_hand=()))
    assert stored_map(tmp_path, JOINTS, NAMES) is None
    assert list(tmp_path.iterdir()) == []
    keep_map(tmp_path, JOINTS, NAMES, other.evolve(by_hand=()))  # once more: there is nothing to take away


@pytest.mark.parametrize("damage", [b"", b"{", b'{"matches": 3}', b"\xff\xfe", b"[" * 100_000])
def test_a_damaged_map_is_as_good_as_none(tmp_path, damage):
    keep_map(tmp_path, JOINTS, NAMES, KNOWN)
    (path,) = tmp_path.iterdir()
    path.write_bytes(damage)
    assert stored_map(tmp_path, JOINTS, NAMES) is None


def test_where_nothing_can_be_written_nothing_is_kept(tmp_path):
    folder = tmp_path / "a file"
    folder.write_text("in the way")
    keep_map(folder, JOINTS, NAMES, KNOWN)
    assert stored_map(folder, JOINTS, NAMES) is None
