"""Project files at their bounds: what is read, what is set aside and where, and how a file is written."""

import json
import stat

import pytest

from wraithon.project import files
from wraithon.project.checks.finding import Level
from wraithon.project.effect import Effect, Layer
from wraithon.project.files import PROJECT_FILE, from_text, open_project, save_project, to_text, write_atomic
from wraithon.project.life import Curve
from wraithon.project.project import Project
from wraithon.support import saving
from wraithon.support.errors import ProjectError

PROJECT = Project(name="p", effects=(Effect(id="e", layers=(Layer(id="a"), Layer(id="b"))),))


def data():
    return json.loads(to_text(PROJECT))


def opened(change):
    document = data()
    change(document)
    return from_text(json.dumps(document), "p.json")


def positions(found):
    return [finding.location for finding in found.findings]


def test_the_text_has_sorted_keys_one_value_a_line_and_ends_the_line():
    text = to_text(PROJECT)
    assert text.endswith("}\n")
    lines = text.splitlines()
    assert lines[0] == "{"
    assert lines[1:3] == [' "budget": 12.0,', ' "characters": [],']
    assert text == json.dumps(json.loads(text), indent=1, sort_keys=True, ensure_ascii=False) + "\n"
    assert to_text(Project(name="Übung")).count("Übung") == 1


def test_a_file_is_written_whole_for_all_to_read_and_nothing_is_left_beside(tmp_path):
    path = tmp_path / "deep" / "file.json"
    write_atomic(path, b"one")
    write_atomic(path, b"two")
    assert path.read_bytes() == b"two"
    assert stat.S_IMODE(path.stat().st_mode) == 0o644
    assert [p.name for p in path.parent.iterdir()] == ["file.json"]


def test_a_failed_write_leaves_what_was_there(tmp_path, monkeypatch):
    path = tmp_path / "file.json"
    write_atomic(path, b"one")

    def full(_handle):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(saving.os, "fsync", full)
    with pytest.raises(ProjectError, match=r"file\.json: cannot be written \(No space left on device\)"):
        write_atomic(path, b"two")
    assert path.read_bytes() == b"one"
    assert [p.name for p in tmp_path.iterdir()] == ["file.json"]


@pytest.mark.parametrize("name", ["", PROJECT_FILE])
def test_a_folder_or_its_file_may_be_opened(tmp_path, name):
    save_project(PROJECT, tmp_path)
    assert open_project(tmp_path / name if name else tmp_path).project == PROJECT


def test_a_file_up_to_the_limit_is_read_and_a_larger_one_is_not(tmp_path, monkeypatch):
    assert files.LARGEST == 64 * 2**20
    save_project(PROJECT, tmp_path)
    size = (tmp_path / PROJECT_FILE).stat().st_size
    monkeypatch.setattr(files, "LARGEST", size)
    assert open_project(tmp_path).project == PROJECT
    monkeypatch.setattr(files, "LARGEST", size - 1)
    with pytest.raises(ProjectError, match="larger than"):
        open_project(tmp_path)


def test_the_byte_that_is_not_utf8_is_named(tmp_path):
    (tmp_path / PROJECT_FILE).write_bytes(b'{"a": "\xff"}')
    with pytest.raises(ProjectError, match="byte 7 is not UTF-8"):
        open_project(tmp_path)


@pytest.mark.parametrize(("version", "newer"), [(1, False), (2, True), (99, True)])
def test_a_newer_version_is_told_and_kept(version, newer):
    found = opened(lambda d: d.update(version=version))
    assert any("newer Wraithon" in f.message for f in found.findings) == newer
    assert found.project.version == version


@pytest.mark.parametrize("version", [0, -1, "x", None])
def test_a_version_that_is_none_is_set_aside(version):
    found = opened(lambda d: d.update(version=version))
    assert found.project.version == 1
    assert positions(found) == ["p.json: version"]


def wrong(document, path, value):
    owner = document
    for key in path[:-1]:
        owner = owner[key]
    owner[path[-1]] = value


@pytest.mark.parametrize(
    ("path", "value", "position", "aside"),
    [
        (("seed",), -1, "seed", -1),
        (("effects", 0, "layers", 1, "emission", "rate"), "fast", "effects[0].layers[1].emission.rate", "fast"),
        (("view", "target"), [0, "x", 0], "view.target", [0, "x", 0]),
        (("view", "target", 1), "x", "view.target", [0.0, "x", 0.1]),
        (("effects", 0, "layers", 0), 7, "effects[0].layers[0]", 7),
        (("effects",), {}, "effects", {}),
        (("effects", 0, "layers", 0, "source"), {"kind": "cloud"}, "effects[0].layers[0].source", {"kind": "cloud"}),
    ],
)
def test_what_is_wrong_is_set_aside_at_its_place(path, value, position, aside):
    def change(document):
        document["view"]["target"] = [0.0, 0.9, 0.1]
        wrong(document, path, value)

    found = opened(change)
    assert positions(found) == [f"p.json: {position}"]
    assert found.findings[0].level is Level.ERROR
    saved = json.loads(to_text(found.project))
    assert saved["set_aside"] == [{"place": position, "value": aside}]
    # Read again, it is still there, and nothing new is found but that.
    again = from_text(json.dumps(saved), "p.json")
    assert json.loads(to_text(again.project))["set_aside"] == saved["set_aside"]
    assert again.findings == ()


def test_two_wrong_values_are_both_set_aside_and_the_rest_stands():
    def change(document):
        document["seed"] = "x"
        document["effects"][0]["layers"][0]["disabled"] = "perhaps"

    found = opened(change)
    assert sorted(positions(found)) == ["p.json: effects[0].layers[0].disabled", "p.json: seed"]
    assert found.project.effects[0].layers[1].id == "b"


def test_unknown_fields_are_told_at_every_depth_with_the_names_of_the_file():
    def change(document):
        document["mood"] = 1
        document["effects"][0]["layers"][1]["emission"]["mood"] = 2
        document["characters"] = [{"id": "c", "file": "c.glb", "motions": [{"file": "m.bvh", "mood": 3}]}]

    found = opened(change)
    assert sorted(positions(found)) == [
        "p.json: characters[0].motions[0].mood", "p.json: effects[0].layers[1].emission.mood", "p.json: mood",
    ]  # fmt: skip
    assert all(f.level is Level.WARNING for f in found.findings)


def test_long_values_are_cut_short_in_the_message():
    found = opened(lambda d: d.update(seed="x" * 100))
    said = found.findings[0].message
    assert '"' + "x" * 56 + "..." in said
    assert "x" * 57 not in said
    whole = opened(lambda d: d.update(seed="x" * 58))
    assert '"' + "x" * 58 + '"' in whole.findings[0].message


def test_two_hundred_wrong_values_are_mended_and_more_are_refused():
    def layers(count):
        def change(document):
            document["triggers"] = [{"enabled": "perhaps"} for _ in range(count)]

        return change

    assert len(opened(layers(199)).findings) == 199
    with pytest.raises(ProjectError, match="more than 200"):
        opened(layers(201))


def test_nesting_is_refused_in_words():
    with pytest.raises(ProjectError, match="nested too deeply"):
        from_text('{"a":' * 200_000, "p.json")


@pytest.mark.parametrize(("length", "shown"), [(58, "x" * 58), (59, "x" * 56)])
def test_a_long_value_is_told_by_its_beginning(length, shown):
    text = files._short("x" * length)
    assert text == (f'"{shown}"' if length == 58 else f'"{shown}...')
    assert len(text) == 60


def test_fields_under_their_earlier_names_are_read_and_written_under_the_present_ones():
    ramp = {"points": [[0, 0], [1, 1]]}
    old = {
        "effects": [{"id": "e", "layers": [{
            "id": "l", "muted": True,
            "emission": {"course": ramp, "bursts": [{"off": True}]},
            "motion": {"forces": [{"kind": "gravity", "off": True, "course": ramp}]},
            "source": {"kind": "skin", "height": {"off": True}},
        }], "dials": [{"id": "d"}], "bindings": [{"dial": "d", "layer": "l", "path": "motion.forces.0.off"}]}],
        "triggers": [{"id": "t", "when": {"kind": "start"}, "response": [{"kind": "dissolve", "course": ramp}]}],
    }  # fmt: skip
    project = Project.model_validate(old)
    (effect,), (trigger,) = project.effects, project.triggers
    (layer,) = effect.layers
    assert (layer.disabled, layer.emission.bursts[0].disabled, layer.motion.forces[0].disabled) == (True, True, True)
    curve = Curve(points=((0, 0), (1, 1)))
    assert (layer.emission.curve, layer.motion.forces[0].curve, trigger.response[0].curve) == (curve, curve, curve)
    assert effect.bindings[0].path == "motion.forces.0.disabled"
    written = project.model_dump_json()
    assert not any(f'"{name}"' in written for name in ("muted", "off", "course"))
    assert written.count('"curve"') >= 3
