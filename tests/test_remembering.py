"""What is worked out of characters and clips is kept by what they are made of, whatever they are called."""

from dataclasses import replace

import numpy as np

from wraithon.character import checkup
from wraithon.character.checkup import check_mesh, height_of, measure_clip
from wraithon.character.moments import contacts
from wraithon.character.moments.contacts import find_contacts
from wraithon.character.remembering import kept_by_content


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

    @kept_by_content(maxsize=2)
    def name_of(_character, clip):
        made.append(clip.name)
        return clip.name

    one, two, three = halcyon.clips[:3]
    for clip in (one, two, one, three, one, two):
        assert name_of(halcyon, clip) == clip.name
    assert made == [one.name, two.name, three.name, two.name]
