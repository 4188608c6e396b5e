"""What cannot be taken is told in words: typed, dropped, or refused by a model."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest

from tests.glb_maker import skinned_strip
from wraithon.desktop.widgets.fields import NumberField
from wraithon.project.effect import Layer
from wraithon.project.life import Attribute


@pytest.fixture
def field(qtbot, themed):
    made = NumberField("x cm", low=0.0, high=200.0, step=0.5, name="Offset along x")
    qtbot.addWidget(made)
    made.resize(120, 24)
    made.show()
    made.taken = []
    made.edited.connect(lambda value, final: made.taken.append((value, final)))
    made.set_value(3.0)
    return made


def typed(field, text):
    QTest.mouseClick(field, Qt.MouseButton.LeftButton)
    QTest.keyClick(field._editor, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClicks(field._editor, text)
    QTest.keyClick(field._editor, Qt.Key.Key_Return)


@pytest.mark.parametrize(
    ("text", "value"), [("1 m", 100.0), ("12 mm", 1.2), ("2,5", 2.5), ("(1 + 2) * 3 cm", 9.0), ("200", 200.0)]
)
def test_units_and_sums_are_taken_wherever_numbers_have_a_unit(field, text, value):
    typed(field, text)
    assert (field.value, field.refused) == (pytest.approx(value), "")
    assert field.taken == [(pytest.approx(value), True)]


@pytest.mark.parametrize(
    ("text", "label"),
    [
        ("abc", "abc is no number, and nothing that comes to one, as 2 * 3.5 does"),
        ("1/0", "1/0 divides by 0"),
        ("30 parsec", "parsec is no unit here: type mm or cm or m or km"),
        ("--3", "--3 is no number, and nothing that comes to one, as 2 * 3.5 does"),
        ("9e99", "at most 200 x cm"),
        ("-0.5", "at least 0 x cm"),
        (" ", "type a number"),
    ],
)
def test_what_is_typed_wrongly_is_kept_and_told(field, text, label):
    typed(field, text)
    assert field.refused == label
    assert field._editor.text() == text
    assert field._editor.toolTip() == f"{label}. Escape takes it back"
    assert (field.value, field.taken) == (3.0, [])
    QTest.keyClick(field._editor, Qt.Key.Key_Escape)
    assert (field.value, field.refused, field._editor.isVisible()) == (3.0, "", False)


def test_what_was_typed_wrongly_can_be_put_right(field):
    typed(field, "30 parsec")
    QTest.keyClick(field._editor, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClicks(field._editor, "30 mm")
    QTest.keyClick(field._editor, Qt.Key.Key_Return)
    assert field.taken == [(3.0, True)] or field.value == 3.0
    typed(field, "30")
    assert field.value == 30.0


def dropped(window, *paths):
    told = []
    window.session.said.connect(lambda text, kind: told.append((text, kind)))
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    copy, left, none = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    window.dropEvent(QDropEvent(QPointF(400, 300), copy, data, left, none))
    QTest.qWait(60)
    return told


def test_what_cannot_be_taken_is_told(window, tmp_path):
    (tmp_path / "empty").mkdir()
    for name in ("notes.txt", "body.fbx"):
        (tmp_path / name).write_text("x")
    kinds = "not a kind that is read: drop .glb, .gltf, .bvh, .png, .jpg, .webp, .wav or a project folder"
    assert dropped(window, tmp_path / "notes.txt") == [(f"notes.txt: {kinds}", "warning")]
    (told,) = dropped(window, tmp_path / "empty", tmp_path / "notes.txt")
    assert told[0] == (
        "empty: this folder holds no project; drop one that does, or the files in it (and 1 more are not taken)"
    )
    ((text, _),) = dropped(window, tmp_path / "body.fbx")
    assert text.startswith("body.fbx: this kind is not read; export it as glTF 2.0")


def test_all_that_can_be_taken_of_several_files_is(window, tmp_path):
    before = len(window.session.project.characters)
    for name in ("one.glb", "two.glb", "three.glb"):
        (tmp_path / name).write_bytes(skinned_strip().glb())
    (tmp_path / "notes.txt").write_text("x")
    told = dropped(window, *(tmp_path / name for name in ("one.glb", "notes.txt", "two.glb", "three.glb")))
    for _ in range(2):  # each is asked about, since its joints are named as those before
        QTest.qWait(60)
        assert window.bar.isVisible()
        window.bar.answer(1)
    QTest.qWait(60)
    assert [use.name for use in window.session.project.characters[before:]] == ["one", "two", "three"]
    assert told[0][0].startswith("notes.txt: not a kind that is read")


def test_what_is_wrong_with_each_of_several_files_stays_to_be_read(window, tmp_path):
    (tmp_path / "cut.bvh").write_text("HIERARCHY\nROOT a\n{\n OFFSET 0 0 0\n")
    (tmp_path / "bad.glb").write_bytes(b"glTF")
    told = dropped(window, tmp_path / "cut.bvh", tmp_path / "notes.txt", tmp_path / "bad.glb")
    *_, (text, _) = told
    assert [part.split(":")[0] for part in text.split(" · ")] == ["notes.txt", "cut.bvh, line 4", "bad.glb"]
    assert window.transport.said.toolTip() == text
    *_, (text, _) = dropped(window, tmp_path / "bad.glb")  # what came before is over
    assert "cut.bvh" not in text


def test_models_refuse_in_our_words(window):
    told = []
    window.session.said.connect(lambda text, _kind: told.append(text))
    effect = window.session.project.effects[0]
    window.session.set_value("effect", effect.id, "name", "x" * 121, "Rename effect")
    assert told == ["Rename effect: name may have 120 characters at most"]
    layer = effect.layers[0]
    window.session.set_value("layer", layer.id, "size.birth", {"low": 0.7, "high": 0.1}, "Size")
    assert told[1].startswith("Size: ")
    assert "Value error" not in told[1]
    window.session.set_value("layer", layer.id, "emission.rate", -1.0, "Rate")
    assert told[2] == "Rate: rate must be 0 or more"
    assert Layer().size == Attribute.of(0.05)
