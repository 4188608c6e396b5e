"""How far a character is off the ground, by the clips that it plays, and what puts it there."""

import dataclasses

import numpy as np
import pytest

from wraithon.character import checkup
from wraithon.character.moments import contacts
from wraithon.project.checks.finding import mended
from wraithon.stage.fitness import fitness_findings, look_over


def off_ground(demo, project):
    found = fitness_findings(project, demo.characters)
    return [finding for finding in found if "the ground" in finding.message and finding.remedy]


@pytest.fixture
def lifted(demo):
    """Make a project whose character, or clips of it, are raised by so many metres."""

    def make(height=0.0, **clips):
        use = demo.project.character
        names = [clip.name for clip in demo.characters[use.id].clips]
        how = tuple(
            use.clip(name).evolve(height=clips.get(name, clips.get("others", 0.0)) + use.clip(name).height)
            for name in names
        )
        return demo.project.evolve(characters=(use.evolve(height=use.height + height, clips=how),))

    return make


def test_on_the_ground_there_is_nothing_to_tell(demo, lifted):
    assert off_ground(demo, lifted()) == []


@pytest.mark.parametrize("height", [1.02, -0.4])
def test_where_all_clips_are_off_alike_the_whole_character_is_put_down(demo, lifted, height):
    project = lifted(height)
    (finding,) = off_ground(demo, project)
    side, word = ("above", "Lower") if height > 0 else ("below", "Raise")
    assert finding.message.startswith("in its clips its feet stand ")
    assert f"{side} the ground" in finding.message
    assert finding.remedy.text.startswith(f"{word} it by {abs(height):.1f}"[:-1])
    (change,) = finding.remedy.changes
    assert change.value == pytest.approx(project.character.height - height, abs=0.03)
    assert off_ground(demo, mended(project, finding.remedy)) == []


def test_where_they_differ_one_button_puts_each_down(demo, lifted):
    project = lifted(walk=0.96, run=1.09, others=0.0)
    (finding,) = off_ground(demo, project)
    assert finding.message.startswith("its feet stand 0.0")
    assert "1.09 m above the ground in another" in finding.message
    assert finding.remedy.text == f"Put {len(finding.remedy.changes)} clips on the ground"
    assert {change.what for change in finding.remedy.changes} >= {"walk", "run"}
    assert off_ground(demo, mended(project, finding.remedy)) == []


def test_a_rest_pose_in_the_ground_matters_to_nobody_whose_clips_stand_right(demo, lifted):
    assert off_ground(demo, lifted(-0.8, others=0.8)) == []


def test_once_looked_over_a_scale_is_mended_without_following_feet_again(demo, lifted, monkeypatch):
    """Else the window would stand still while it does."""
    use = lifted().character
    known = demo.characters[use.id]
    mesh = dataclasses.replace(known.mesh, positions=known.mesh.positions * np.float32(1.001))  # as none was before
    character = dataclasses.replace(known, mesh=mesh, clips=known.clips[:2])
    project = demo.project.evolve(characters=(use.evolve(scale=100.0),))
    look_over(project, {use.id: character})
    (finding,) = (found for found in fitness_findings(project, {use.id: character}) if found.remedy)
    assert finding.remedy.text == "Scale it by 0.01"
    monkeypatch.setattr(contacts, "_feet", lambda *_: pytest.fail("feet were followed once more"))
    monkeypatch.setattr(checkup, "clip_poses", lambda *_: pytest.fail("a clip was measured once more"))
    assert mended(project, finding.remedy).character.scale == pytest.approx(1.0)
    fitness_findings(mended(project, finding.remedy), {use.id: character})
