"""What is worked out of characters and clips is kept by what they are made of, whatever they are called."""

import gc
from dataclasses import replace
from weakref import ref

import numpy as np

from tests.glb_maker import skinned_strip
from wraithon.character import checkup
from wraithon.character.checkup import check_mesh, height_of, measure_clip
from wraithon.character.moments import contacts
from wraithon.character.moments.contacts import find_contacts
from wraithon.character.pose import rest_skin
from wraithon.character.reading.gltf import read_gltf
from wraithon.character.remembering import cached_by_content, cached_by_identity
from wraithon.project.character import CharacterUse
from wraithon.stage.driving.moves import moves_of


def renamed(character, number=0):
    clips = list(character.clips)
    clips[number] = replace(clips[number], name="another name")
    return replace(character, clips=tuple(clips))


def test_a_renamed_clip_is_measured_as_it_was(halcyon, monkeypatch):
    facts, footing = measure_clip(halcyon, halcyon.clips[0]), find_contacts(halcyon, halcyon.clips[0], loops=True)
    odd = check_mesh(halcyon)

    def never(*_arguments, **_named):
        raise AssertionError

    for module, name in ((checkup, "clip_poses"), (contacts, "_feet")):
        monkeypatch.setattr(module, name, never)
    other = renamed(halcyon)
    assert measure_clip(other, other.clips[0]) is facts
    assert find_contacts(other, other.clips[0], loops=True) is footing
    assert check_mesh(other) is odd


def test_another_clip_or_another_mesh_is_worked_out_anew(halcyon):
    walk, run = halcyon.clip("walk"), halcyon.clip("run")
    assert measure_clip(halcyon, walk) is not measure_clip(halcyon, run)
    assert find_contacts(halcyon, walk, loops=True) is not find_contacts(halcyon, walk, loops=False)
    longer = replace(walk, seconds=walk.seconds / 2)
    assert measure_clip(halcyon, longer) is not measure_clip(halcyon, walk)
    mesh = replace(halcyon.mesh, positions=(halcyon.mesh.positions * 2).astype(np.float32))
    assert height_of(replace(halcyon, mesh=mesh)) > 1.2 * height_of(halcyon)


def test_no_more_are_kept_than_asked_for(halcyon):
    made = []

    @cached_by_content(maxsize=2)
    def name_of(_character, clip):
        made.append(clip.name)
        return clip.name

    one, two, three = halcyon.clips[:3]
    for clip in (one, two, one, three, one, two):
        assert name_of(halcyon, clip) == clip.name
    assert made == [one.name, two.name, three.name, two.name]


def test_a_character_that_is_held_by_nobody_else_is_let_go(tmp_path):
    path = tmp_path / "strip.glb"
    path.write_bytes(skinned_strip().glb())
    character = read_gltf(path)
    measure_clip(character, character.clips[0])
    find_contacts(character, character.clips[0], loops=True)
    check_mesh(character)
    rest_skin(character)
    moves_of(character, CharacterUse(file="strip.glb"))
    mesh, clip = ref(character.mesh), ref(character.clips[0].values)
    del character
    gc.collect()
    assert mesh() is None
    assert clip() is None


def test_what_hangs_on_names_is_kept_for_that_very_character(halcyon):
    made = []

    @cached_by_identity(maxsize=2)
    def names_of(character, more):
        made.append(more)
        return [clip.name for clip in character.clips]

    other = renamed(halcyon)
    assert names_of(halcyon, 1) is names_of(halcyon, 1)
    assert names_of(other, 1)[0] == "another name"
    assert names_of(halcyon, 2) == names_of(halcyon, 1)
    assert made == [1, 1, 2, 1]  # no more than two are kept
