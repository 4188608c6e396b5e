"""Projects: frozen, saved whole, read with whatever can be read, and undone step by step."""

import json
import os
import signal
import subprocess
import sys
import time

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError
from scripts.demo_maker.project import demo_project

from wraithon.demo import DEMO_FOLDER
from wraithon.project.binding import Binding
from wraithon.project.character import Event, Mark
from wraithon.project.checks.finding import Level
from wraithon.project.edit import (
    copy_layer,
    fresh_name,
    move_effect,
    move_layer,
    move_layers,
    remove_anchor,
    remove_effect,
    remove_event,
    remove_layer,
    remove_mark,
    shift_layers,
    with_event,
    with_mark,
)
from wraithon.project.effect import Effect, Layer
from wraithon.project.files import from_text, open_project, save_project, to_text
from wraithon.project.findings import check
from wraithon.project.history import History
from wraithon.project.life import Attribute, Curve, Range
from wraithon.project.project import Project
from wraithon.project.schema import fields_text, schema_text
from wraithon.support.errors import ProjectError
from wraithon.support.plain_files import is_inside


def test_a_project_cannot_be_written_to():
    with pytest.raises(ValidationError):
        demo_project().name = "other"


def test_round_trip_is_exact_and_diff_friendly(tmp_path):
    project = demo_project()
    save_project(project, tmp_path)
    again = open_project(tmp_path)
    assert again.project == project
    assert again.findings == ()
    text = (tmp_path / "project.json").read_text()
    assert text == to_text(project)
    one = json.loads(text)
    one["exposure"] = 2.0
    changed = to_text(Project.model_validate(one)).splitlines()
    assert sum(a != b for a, b in zip(text.splitlines(), changed, strict=True)) == 1


@pytest.mark.parametrize(
    "values",
    [
        {"low": 2, "high": 1},
        {"low": float("nan"), "high": 1},
        {"low": float("inf"), "high": 1},
        {"low": -1e9, "high": 1},
        {"low": "x"},
    ],
)
def test_bad_ranges_are_refused(values):
    with pytest.raises(ValidationError):
        Range(**values)


def test_curves_must_rise():
    with pytest.raises(ValidationError, match="rise"):
        Curve(points=((0.5, 1), (0.5, 2)))


# ---- reading what is wrong ------------------------------------------------------------------------


def edited(change):
    data = json.loads(to_text(demo_project()))
    change(data)
    return json.dumps(data)


def test_a_bad_number_is_set_aside_and_the_rest_is_kept():
    def change(data):
        data["effects"][0]["layers"][0]["size"]["birth"]["low"] = "thick"

    opened = from_text(edited(change), "p.json")
    assert len(opened.project.effects) == len(demo_project().effects)
    (finding,) = opened.findings
    assert finding.level is Level.ERROR
    assert "effects[0].layers[0].size.birth.low" in finding.location
    assert '"thick"' in finding.message
    saved = json.loads(to_text(opened.project))
    assert saved["set_aside"] == [{"place": "effects[0].layers[0].size.birth.low", "value": "thick"}]


def test_an_entry_that_cannot_stand_is_set_aside_whole():
    opened = from_text(edited(lambda d: d["characters"][0]["clips"][1]["marks"][0].pop("event")), "p.json")
    assert len(opened.project.character.clip("walk").marks) == 1
    assert "clips[1].marks[0]" in opened.findings[0].location


def test_unknown_fields_are_told_and_written_back():
    def change(data):
        data["effects"][0]["mood"] = {"rain": 3}
        data["version"] = 9

    opened = from_text(edited(change), "p.json")
    assert any("newer Wraithon" in f.message for f in opened.findings)
    assert any("effects[0].mood" in f.location for f in opened.findings)
    again = json.loads(to_text(opened.project.evolve(name="renamed")))
    assert again["effects"][0]["mood"] == {"rain": 3}
    assert again["version"] == 9


@pytest.mark.parametrize(
    ("text", "label"),
    [
        ("", "not valid JSON"),
        ("{", "not valid JSON"),
        ("[" * 100_000, "nested too deeply"),
        ("[]", "not a Wraithon project"),
        ('{"format": "other"}', "not a Wraithon project"),
        ('{"format": "wraithon project", "exposure": NaN}', "NaN"),
    ],
)
def test_what_is_no_project_is_refused_in_words(text, label):
    with pytest.raises(ProjectError, match=label):
        from_text(text, "p.json")


def test_missing_and_binary_files_are_refused_in_words(tmp_path):
    with pytest.raises(ProjectError, match="no such project"):
        open_project(tmp_path / "gone")
    (tmp_path / "project.json").write_bytes(b"\xff\xfe\x00")
    with pytest.raises(ProjectError, match="UTF-8"):
        open_project(tmp_path)


@settings(max_examples=60, deadline=None)
@given(st.data())
def test_any_one_wrong_value_leaves_a_project(data):
    document = json.loads(to_text(demo_project()))
    positions = []

    def walk(value):
        for key in value if isinstance(value, dict) else range(len(value)):
            positions.append((value, key))
            if isinstance(value[key], dict | list):
                walk(value[key])

    walk(document)
    owner, key = data.draw(st.sampled_from(positions))
    if owner is document and key == "format":
        return
    owner[key] = data.draw(st.sampled_from([None, -1, 1e30, "x", [], {}, [None], [[1, 2]], {"a": [1]}, True]))
    opened = from_text(json.dumps(document), "p.json")
    assert from_text(to_text(opened.project), "p.json").project.effects == opened.project.effects


@pytest.mark.parametrize("name", ["../up.glb", "/etc/passwd", "a/../../b", "c:\\x", "..", ""])
def test_paths_out_of_the_folder_are_known(name):
    assert not is_inside(name)


def test_paths_within_the_folder_are_fine():
    assert is_inside("characters/halcyon.glb")


# ---- saving ---------------------------------------------------------------------------------------


def test_a_kill_while_saving_leaves_the_old_or_the_new(tmp_path):
    script = (
        "import sys\nfrom pathlib import Path\nfrom scripts.demo_maker.project import demo_project\n"
        "from wraithon.project.files import save_project\nfolder = Path(sys.argv[1])\nn = 0\n"
        "while True:\n    save_project(demo_project().evolve(seed=n), folder)\n    n += 1\n    print(n, flush=True)\n"
    )
    for wait in (0.0, 0.011, 0.023, 0.05):
        run = subprocess.Popen([sys.executable, "-c", script, str(tmp_path)], stdout=subprocess.PIPE)
        run.stdout.readline()
        time.sleep(wait)
        run.send_signal(signal.SIGKILL)
        run.wait()
        run.stdout.close()
        assert open_project(tmp_path).project.effects == demo_project().effects


@pytest.mark.skipif(os.geteuid() == 0, reason="root may write anywhere")
def test_a_folder_that_cannot_be_written_is_told(tmp_path):
    tmp_path.chmod(0o500)
    with pytest.raises(ProjectError, match="cannot be written"):
        save_project(demo_project(), tmp_path)


def test_a_file_in_the_way_is_told(tmp_path):
    (tmp_path / "file").write_text("")
    with pytest.raises(ProjectError, match="cannot be written"):
        save_project(demo_project(), tmp_path / "file" / "folder")


def test_the_shipped_schema_is_the_models_own():
    path = DEMO_FOLDER.parents[3] / "docs" / "project.schema.json"
    assert path.read_text() == schema_text()


def test_the_page_of_numbers_is_the_models_own():
    text = (DEMO_FOLDER.parents[3] / "docs" / "fields.md").read_text()
    assert text == fields_text()
    assert "| `pull` | 9.81 | -1e+06, 1e+06 | m s^-2 | Acceleration downwards; negative rises |" in text


# ---- edits and history ----------------------------------------------------------------------------


def test_edits_share_what_did_not_change():
    project = demo_project()
    edited = with_mark(project, "idle", Mark(event="strike", time=1.0))
    assert edited.effects[0] is project.effects[0]
    assert project.character.clip("idle").marks == ()


def test_marks_stay_in_order_of_time():
    project = with_mark(demo_project(), "walk", Mark(id="m", event="strike", time=0.3))
    assert [m.time for m in project.character.clip("walk").marks] == sorted(
        m.time for m in project.character.clip("walk").marks
    )
    assert len(remove_mark(project, "m").character.clip("walk").marks) == 2


def test_renaming_an_event_keeps_everything_that_refers_to_it():
    project = demo_project()
    event = project.event("strike")
    renamed = with_event(project, event.evolve(name="slam"))
    assert renamed.trigger("on-strike").when.event == "strike"
    assert check(renamed, {}) == check(project, {})


def test_a_copied_layer_stands_below_its_original_with_a_fresh_name():
    project, copy = copy_layer(demo_project(), "stamp-sparks")
    layers = project.effect("thunder-stamp").layers
    position = [x.id for x in layers].index(copy)
    assert layers[position - 1].id == "stamp-sparks"
    assert layers[position].name == "sparks 2"
    assert fresh_name("sparks 2", ["sparks", "sparks 2"]) == "sparks 3"


def test_a_fresh_name_is_cut_short_where_it_would_be_too_long():
    longest = "x" * 120
    assert fresh_name(longest, [longest]) == "x" * 118 + " 2"
    taken = [longest, *(f"{'x' * 118} {n}" for n in range(2, 10))]
    assert fresh_name(longest, taken) == "x" * 117 + " 10"
    assert fresh_name("y", taken) == "y"


@pytest.mark.parametrize(
    ("remove", "text"),
    [
        (lambda p: remove_effect(p, "tread"), "starts no effect"),
        (lambda p: remove_event(p, "strike"), "waits for no event"),
        (lambda p: remove_anchor(p, "right-fan-tip"), "names an anchor"),
        (lambda p: with_event(p, Event(id="new", name="new")), None),
    ],
)
def test_what_was_removed_is_found_where_it_was_used(demo, remove, text):
    findings = check(remove(demo.project), demo.facts)
    assert findings == [] if text is None else any(text in f.message for f in findings)


def test_findings_tell_what_will_not_show(demo):
    effect, layer = demo.project.layer("stamp-sparks")

    def found(**changes):
        from wraithon.project.edit import with_layer

        project = with_layer(demo.project, effect.id, layer.evolve(**changes))
        return " ".join(
            f.message for f in check(project, demo.facts, frozenset({"spark.png"})) if f.about == layer.id
        )

    assert "opacity is never above zero" in found(opacity=Attribute.of(0))
    assert "size is never above zero" in found(size=Attribute.of(1, 1, Curve.through((0, 0), (1, 0))))
    assert "nothing is emitted" in found(emission={})
    assert "births will be refused" in found(emission={"rate": 10_000, "limit": 10})
    assert 'texture "gone.png"' in found(look={"texture": "gone.png"})
    assert 'no part "wing"' in found(source={"kind": "skin", "parts": ["wing"]})
    assert found() == ""


def test_the_demo_has_no_findings(demo):
    assert demo.check() == []


def test_history_undoes_and_redoes_step_by_step():
    a = Project(name="a")
    history = History(a)
    b, c = a.evolve(name="b"), a.evolve(name="c")
    assert history.record(b, "to b")
    assert not history.record(b, "again")
    history.record(c, "to c")
    assert history.undo() is b
    assert history.redo_label == "to c"
    assert history.undo() is a
    assert history.undo() is a
    assert history.redo() is b
    history.record(a.evolve(name="d"), "to d")
    assert history.redo_label is None
    assert history.unsaved
    history.mark_saved()
    assert not history.unsaved


def test_a_drag_is_one_step_and_the_next_drag_another():
    history = History(Project(seed=0))
    for n in (1, 2, 3):
        history.record(Project(seed=n), "drag", merge="seed")
    history.seal()
    for n in (4, 5):
        history.record(Project(seed=n), "drag", merge="seed")
    assert history.undo().seed == 3
    assert history.undo().seed == 0


def test_removing_a_layer_and_undoing_brings_it_back():
    project = demo_project()
    history = History(project)
    history.record(remove_layer(project, "stamp-sparks"), "remove")
    assert history.project.layer("stamp-sparks") is None
    assert history.undo().layer("stamp-sparks")[1].name == "sparks"


def test_a_new_layer_checks_what_it_is_given():
    with pytest.raises(ValidationError):
        Layer().evolve(emission={"limit": 0})


# ---- moving ---------------------------------------------------------------------------------------


def listed(project):
    return {effect.id: [layer.id for layer in effect.layers] for effect in project.effects}


MOVED = Project(
    effects=(
        Effect(
            id="a",
            layers=tuple(Layer(id=f"a{k}") for k in range(3)),
            bindings=(Binding(dial="d", layer="a1", path="size.birth.high"),),
        ),
        Effect(id="b", layers=(Layer(id="b0"),)),
        Effect(id="c"),
    )
)


@pytest.mark.parametrize(("number", "order"), [(0, "a1 a0 a2"), (1, "a0 a1 a2"), (2, "a0 a2 a1"), (9, "a0 a2 a1")])
def test_a_layer_moves_within_its_effect_and_keeps_its_dials(number, order):
    moved = move_layer(MOVED, "a1", "a", number)
    assert listed(moved) == listed(MOVED) | {"a": order.split()}
    assert moved.effect("a").bindings == MOVED.effect("a").bindings


@pytest.mark.parametrize(("to", "number", "order"), [("b", 0, "a1 b0"), ("b", 1, "b0 a1"), ("c", 5, "a1")])
def test_a_layer_moves_to_another_effect_and_its_dials_stay_behind(to, number, order):
    moved = move_layer(MOVED, "a1", to, number)
    assert listed(moved) == listed(MOVED) | {"a": ["a0", "a2"], to: order.split()}
    assert moved.effect("a").bindings == ()


@pytest.mark.parametrize(("number", "order"), [(-3, "bac"), (0, "bac"), (1, "abc"), (2, "acb")])
def test_an_effect_moves_in_the_list(number, order):
    assert "".join(listed(move_effect(MOVED, "b", number))) == order


def test_what_is_not_there_moves_nothing():
    assert move_layer(MOVED, "x", "a", 0) is MOVED
    assert move_layer(MOVED, "a0", "x", 0) is MOVED
    assert move_effect(MOVED, "x", 0) is MOVED


@pytest.mark.parametrize(
    ("chosen", "by", "expected"),
    [
        ("b", 1, "acbde"),
        ("b", -1, "bacde"),
        ("a", -1, "abcde"),
        ("e", 1, "abcde"),
        ("bc", 1, "adbce"),
        ("bc", -1, "bcade"),
        ("ab", -1, "abcde"),
        ("ac", -1, "acbde"),
        ("ce", 1, "abdce"),
        ("bd", 1, "acbed"),
        ("abcde", 1, "abcde"),
    ],
)
def test_layers_shift_side_by_side_and_stay_at_the_ends(chosen, by, expected):
    layers = tuple(Layer(id=letter, name=letter) for letter in "abcde")
    project = Project(effects=(Effect(id="e", layers=layers), Effect(id="other", layers=(Layer(id="x"),))))
    moved = shift_layers(project, chosen, by)
    assert "".join(layer.id for layer in moved.effect("e").layers) == expected
    assert moved.effect("other") is project.effect("other")


@pytest.mark.parametrize(
    ("moved", "before", "expected"),
    [("ac", "", "bdeac"), ("ac", "e", "bdace"), ("dx", "a", "dxabce"), ("x", "c", "abxcde")],
)
def test_layers_move_side_by_side(moved, before, expected):
    layers = tuple(Layer(id=letter, name=letter) for letter in "abcde")
    project = Project(effects=(Effect(id="e", layers=layers), Effect(id="other", layers=(Layer(id="x"),))))
    after = move_layers(project, moved, "e", before)
    assert "".join(layer.id for layer in after.effect("e").layers) == expected
    assert len(after.effect("other").layers) == 1 - ("x" in moved)
