"""A replaced character file: what no longer matches is listed with the nearest names, and follows when renamed."""

import pytest

from wraithon.project.character import CharacterUse, Mark
from wraithon.project.checks.finding import Level
from wraithon.project.edit import with_layer
from wraithon.project.effect import Effect, Layer
from wraithon.project.findings import CharacterFacts, check
from wraithon.project.matching import missing_names, nearest_names, rename
from wraithon.project.project import Project
from wraithon.project.source import JointRow, JointSet, SkinSource


def renamed_facts(facts, **swaps):
    """Return facts of a newer file in which names have changed."""
    swap = {old.replace("_", " "): new for old, new in swaps.items()}
    return CharacterFacts(
        joints=frozenset(swap.get(name, name) for name in facts.joints),
        parts=frozenset(swap.get(name, name) for name in facts.parts),
        clips={swap.get(name, name): seconds for name, seconds in facts.clips.items()},
    )


@pytest.fixture
def facts(halcyon):
    return halcyon.facts


@pytest.fixture
def project(demo):
    effect, layer = demo.project.layer("plume-glints")
    source = SkinSource(
        parts=("mask",), joints=JointSet(names=("head", "neck")), table=(JointRow(joint="left hand", share=2),)
    )
    return with_layer(demo.project, effect.id, layer.evolve(source=source))


def test_nothing_is_missing_while_all_names_match(project, facts):
    assert missing_names(project, project.character, facts) == []


def test_each_kind_of_name_is_listed_with_its_users_and_the_nearest(project, facts):
    newer = renamed_facts(facts, head="Head_01", left_hand="LeftHand", mask="BirdMask", walk="walk_cycle")
    found = {(m.kind, m.name): m for m in missing_names(project, project.character, newer)}
    assert {("joint", "head"), ("joint", "left hand"), ("part", "mask"), ("clip", "walk")} <= set(found)
    assert found["joint", "left hand"].nearest[0] == "LeftHand"
    assert found["joint", "head"].nearest[0] == "Head_01"
    assert found["part", "mask"].nearest[0] == "BirdMask"
    assert found["clip", "walk"].nearest[0] == "walk_cycle"
    assert any("glints" in user for user in found["part", "mask"].users)


def test_renaming_follows_everywhere_and_settles_the_findings(project, facts):
    newer = renamed_facts(facts, head="Head_01", left_hand="LeftHand", mask="BirdMask", walk="walk_cycle")
    use = project.character
    anchors = [a.id for a in use.anchors]
    marks = use.clip("walk").marks
    assert any(f.level is Level.ERROR for f in check(project, {use.id: newer}))
    for entry in missing_names(project, use, newer):
        project = rename(project, use.id, entry.kind, entry.name, entry.nearest[0])
    assert missing_names(project, project.character, newer) == []
    assert not any(f.level is Level.ERROR for f in check(project, {use.id: newer}))
    assert [a.id for a in project.character.anchors] == anchors
    assert project.character.clip("walk_cycle").marks == marks
    source = project.layer("plume-glints")[1].source
    assert (source.parts, source.joints.names) == (("BirdMask",), ("Head_01", "neck"))
    assert source.table == (JointRow(joint="LeftHand", share=2),)
    assert "walk_cycle" in [clip_run.clip for clip_run in project.stage.order]


def test_a_clip_renamed_onto_another_keeps_the_marks_of_both(demo):
    use = demo.project.character
    project = rename(demo.project, use.id, "clip", "walk", "run")
    expected = sorted([*use.clip("walk").marks, *use.clip("run").marks], key=lambda mark: mark.time)
    assert list(project.character.clip("run").marks) == expected
    assert isinstance(expected[0], Mark)


def test_what_did_not_change_is_shared(project):
    same = rename(project, project.character.id, "joint", "no such joint", "head")
    assert same.effects[0].layers[0] is project.effects[0].layers[0]


def test_nearest_looks_past_case_marks_and_prefixes():
    assert nearest_names("LeftArm", ["rig:left_arm", "right arm", "spine"])[0] == "rig:left_arm"
    assert nearest_names("xyzzy", ["spine", "head"]) == ()


def test_only_what_has_the_old_name_gets_the_new_one(project):
    use = project.character
    before = {a.id: a.joint for a in use.anchors}
    held = "right fan"
    assert held in before.values()
    now = rename(project, use.id, "joint", held, "RightFan").character
    assert {a.id: a.joint for a in now.anchors} == {key: "RightFan" if j == held else j for key, j in before.items()}


def test_a_joint_table_keeps_its_other_rows():
    rows = (JointRow(joint="left hand", share=2), JointRow(joint="head", share=3), JointRow(joint="hips"))
    layer = Layer(id="l", source=SkinSource(table=rows))
    project = Project(characters=(CharacterUse(id="c", file="c.glb"),), effects=(Effect(layers=(layer,)),))
    table = rename(project, "c", "joint", "head", "Head_01").effects[0].layers[0].source.table
    assert table == (rows[0], rows[1].evolve(joint="Head_01"), rows[2])
