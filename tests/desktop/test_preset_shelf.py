"""The shelf of presets in the real window: found by typing, used, changed, and followed."""

from __future__ import annotations

from types import SimpleNamespace

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from wraithon.desktop.engine import gallery as gallery_module
from wraithon.desktop.engine.gallery import Gallery
from wraithon.desktop.engine.mailbox import Mailbox
from wraithon.interchange.presets import stored_presets
from wraithon.project.edit import remove_layer
from wraithon.project.effect import Effect
from wraithon.project.life import Attribute
from wraithon.project.resolving.following import own_rows
from wraithon.support.preferences import preset_folder

HAND = Qt.MouseButton.LeftButton


@pytest.fixture
def library(window):
    window.session.select("effect", "tread")
    QTest.keyClick(window, Qt.Key.Key_P)
    made = window.index("effects").presets
    assert made.isVisible()
    yield made
    made.hide()


def layers(window, effect):
    return window.session.project.effect(effect).layers


def names(library):
    return [library.listed.item(k).text() for k in range(library.listed.count())]


def test_one_is_found_by_typing_and_taken_by_return(qtbot, window, library):
    assert len(names(library)) >= 20
    QTest.keyClicks(library.search, "sparks BOUN")
    assert names(library) == ["bouncing sparks"]
    qtbot.waitUntil(lambda: bool(library._pictures), timeout=60_000)
    before = window.session.project
    QTest.keyClick(library.search, Qt.Key.Key_Return)
    assert not library.isVisible()
    added = layers(window, "tread")[-1]
    assert window.session.selection == ("layer", added.id)
    assert added.name == "bouncing sparks"
    assert [p.name for p in window.session.project.presets] == ["bouncing sparks"]
    window.session.undo()
    assert window.session.project == before


def test_the_arrows_lead_into_the_list_and_a_whole_effect_becomes_another(window, library):
    QTest.keyClicks(library.search, "explosion blast")
    QTest.keyClick(library.search, Qt.Key.Key_Down)
    assert library.listed.hasFocus()
    QTest.keyClick(library.listed, Qt.Key.Key_Return)
    kind, what = window.session.selection
    assert kind == "effect"
    assert window.session.project.effects[-1].id == what
    assert all(layer.follows for layer in layers(window, what))


def test_what_is_typed_before_any_picture_is_there_loses_none(qtbot, window, library):
    """Pictures are made while the show rests: until then all that were asked for wait."""
    asked = []
    library.pictures_wanted.connect(asked.append)
    QTest.keyClicks(library.search, "spell")
    assert asked == []  # opening it has asked for all
    shown = {library.listed.item(row).data(Qt.ItemDataRole.UserRole) for row in range(library.listed.count())}
    assert any(library._presets[key].effect is not None for key in shown)
    qtbot.waitUntil(lambda: shown <= set(library._pictures), timeout=120_000)


def test_pictures_wished_for_one_after_another_are_all_made():
    mail, effects = Mailbox(), {key: Effect(name=key) for key in "abc"}
    mail.wish("pictures", {"a": effects["a"], "b": effects["b"]})
    mail.wish("pictures", {"b": effects["c"]})
    assert mail.pictures == {"a": effects["a"], "b": effects["c"]}
    later = Mailbox()
    later.wish("pictures", {"c": effects["c"]})
    later.restore(mail)
    assert later.pictures == {"a": effects["a"], "b": effects["c"], "c": effects["c"]}
    mail.wish("pictures", None)
    assert mail.pictures is None


def test_what_was_asked_for_last_is_pictured_first_and_each_once(monkeypatch):
    made, gallery = [], Gallery()
    monkeypatch.setattr(gallery_module, "thumbnail", lambda effect, *_rest: made.append(effect.name))
    gallery.ask({key: Effect(name=f"early {key}") for key in "abc"})
    gallery.ask({key: Effect(name=f"late {key}") for key in "cd"})
    keys = []
    while gallery.runs:
        key, _ = gallery.make_one(SimpleNamespace(project=None), {}, None, None)
        keys.append(key)
    assert (keys, made) == (["c", "d", "a", "b"], ["late c", "late d", "early a", "early b"])


def test_what_is_not_there_is_said_and_nothing_is_taken(window, library):
    before = window.session.project
    QTest.keyClicks(library.search, "no such thing")
    assert "No preset" in library._text.text()
    QTest.keyClick(library.search, Qt.Key.Key_Return)
    assert not library.make.isEnabled()
    assert window.session.project is before


def test_kept_used_elsewhere_changed_and_both_follow(qtbot, window):
    session, view = window.session, window.sheet("effects").preset
    session.select("layer", "stamp-sparks")
    assert "follows no preset" in view.text()
    window.sheet("effects").scroll_to(view.keep)
    QTest.mouseClick(view.keep, HAND)
    assert view.line.text() == "sparks"
    QTest.keyClicks(view.line, "nothing")
    QTest.keyClick(view.line, Qt.Key.Key_Escape)
    assert (session.project.presets, view.line.isVisible()) == ((), False)
    QTest.mouseClick(view.keep, HAND)
    QTest.keyClicks(view.line, "my sparks")
    QTest.keyClick(view.line, Qt.Key.Key_Return)
    assert not view.line.isVisible()
    assert 'It follows "my sparks".' in view.text()
    session.select("effect", "tread")
    library = window.index("effects").presets
    library.open_at(QPoint(0, 0))
    QTest.keyClicks(library.search, "my sparks")
    QTest.mouseClick(library.add, HAND)
    added = session.selection[1]
    assert "as another does" in view.text()
    session.set_value("layer", added, "size", Attribute.of(0.07), "Size")
    session.set_value("layer", added, "speed", Attribute.of(9.0), "Speed")
    assert [button.text() for button in view.ways_back] == ["speed", "size"]
    life = window.sheet("effects").life
    assert not life.rows["size"].standard
    assert life.rows["opacity"].standard
    row = life.rows["speed"]
    window.sheet("effects").scroll_to(row)
    QTest.mouseClick(row, HAND, pos=QPoint(round(row.dot), row.height() // 2))
    assert own_rows(session.project, added) == ("size",)
    QTest.mouseClick(view.into, HAND)
    assert session.project.layer("stamp-sparks")[1].size.ends == (0.07, 0.07)
    assert view.ways_back == []
    session.undo()
    assert session.project.layer("stamp-sparks")[1].size.ends != (0.07, 0.07)
    QTest.mouseClick(view.ways_back[0], HAND)
    assert own_rows(session.project, added) == ()


def test_a_layer_more_in_one_effect_is_one_more_in_all_that_follow_its_preset(window):
    session, view = window.session, window.sheet("effects").preset
    session.select("effect", "thunder-stamp")
    view.keep_as("my stamp")
    assert view.text() == 'It follows "my stamp".'
    library = window.index("effects").presets
    library.open_at(QPoint(0, 0))
    QTest.keyClicks(library.search, "my stamp")
    QTest.mouseClick(library.make, HAND)
    second = session.selection[1]
    assert "as another does" in view.text()
    mine = session.project.effect(second).layers
    session.edit("Remove", lambda p: remove_layer(p, mine[0].id), final=True)
    session.set_value("effect", second, "length", 3.0, "Length")
    assert f"It lacks {mine[0].name}." in view.text()
    assert [button.text() for button in view.ways_back] == ["length", f"{mine[0].name} again"]
    QTest.mouseClick(view.ways_back[1], HAND)
    assert len(session.project.effect(second).layers) == len(mine)
    session.undo()
    before = session.project
    window.sheet("effects").scroll_to(view.into)
    QTest.mouseClick(view.into, HAND)
    assert len(session.project.effect("thunder-stamp").layers) == len(mine) - 1
    assert session.project.effect("thunder-stamp").length == 3.0
    assert not view.into.isEnabled()
    session.undo()
    assert session.project == before
    QTest.mouseClick(view.back, HAND)
    assert len(session.project.effect(second).layers) == len(mine)


def test_for_all_projects_and_not_any_more(window, library):
    library.hide()
    window.session.select("effect", "thunder-stamp")
    window.sheet("effects").preset.keep_for_all("my stamp")
    assert [p.name for p in stored_presets(preset_folder())] == ["my stamp"]
    assert window.session.project.presets == ()
    library.open_at(QPoint(0, 0))
    QTest.keyClicks(library.search, "my stamp")
    assert library.drop.isVisible()
    QTest.mouseClick(library.drop, HAND)
    assert names(library) == []
    assert stored_presets(preset_folder()) == ()
