"""Comparing in the real window: kept pictures with their settings, and the way back."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from wraithon.desktop.picture.comparing import Way
from wraithon.project.life import Attribute
from wraithon.project.paths import with_value_at
from wraithon.project.things import find, with_thing

HAND = Qt.MouseButton.LeftButton


def change(window, path, value):
    window.session.edit(
        "Change",
        lambda p: with_thing(
            p, "layer", "stamp-sparks", with_value_at(find(p, "layer", "stamp-sparks"), path, value)
        ),
    )


def at(window, moment):
    return window.picture.rendered.time == moment and window.picture.rendered.exact


def test_kept_changed_wiped_and_gone_back(qtbot, window):
    session, strip = window.session, window.snapshot_strip
    assert strip.isHidden()
    window.seek(3.0)
    qtbot.waitUntil(lambda: at(window, 3.0), timeout=30_000)
    before, view = session.project, window.picture.view
    QTest.keyClick(window, Qt.Key.Key_K)
    assert strip.isVisible()
    assert "the same as now" in strip.text.text()
    assert not strip.back.isEnabled()
    change(window, "size", Attribute.of(0.05))
    change(window, "emission.rate", 400.0)
    assert strip.text.text() == ("Since snapshot 1: thunder stamp: sparks: emission rate 180 → 400 (and 2 more)")
    assert "size birth 0.01 to 0.026 → 0.05" in strip.text.toolTip()
    window.picture.turn(40, 0)
    window.seek(1.0)
    qtbot.waitUntil(lambda: at(window, 1.0), timeout=30_000)
    QTest.keyClick(window, Qt.Key.Key_K)
    assert len(strip.buttons) == 2
    QTest.mouseClick(strip.buttons[0], HAND)
    qtbot.waitUntil(lambda: at(window, 3.0), timeout=30_000)
    assert window.picture.view == view
    QTest.mouseClick(strip.ways[Way.WIPE], HAND)
    assert window.picture.comparing.way is Way.WIPE
    QTest.mouseClick(strip.ways[Way.BESIDE], HAND)
    assert window.picture.comparing.way is Way.BESIDE
    QTest.mouseClick(strip.ways[Way.BESIDE], HAND)
    assert window.picture.comparing.way is Way.NONE
    QTest.mouseClick(strip.back, HAND)
    assert session.project == before
    assert session.history.undo_label == "Go back to snapshot 1"
    session.undo()
    assert session.project.layer("stamp-sparks")[1].size.ends == (0.05, 0.05)


def test_another_project_keeps_none_of_them(qtbot, window):
    QTest.keyClick(window, Qt.Key.Key_K)
    assert len(window.snapshot_strip.buttons) == 1
    window.session.history.mark_saved()
    window.keeper.open_demo()
    qtbot.waitUntil(lambda: window.snapshot_strip.buttons == [], timeout=30_000)
    assert window.snapshot_strip.isHidden()


def test_views_are_kept_under_names_and_keys(qtbot, window):
    window.station("character")
    window.session.select("", "")
    QTest.keyClick(window, Qt.Key.Key_5, Qt.KeyboardModifier.AltModifier)
    assert "Alt + K stores one" in window.transport.said.toolTip()
    view = window.picture.view.evolve(azimuth=77.0, distance=6.0, fov=50.0)
    window.picture.set_view(view)
    QTest.keyClick(window, Qt.Key.Key_K, Qt.KeyboardModifier.AltModifier)
    assert [kept.name for kept in window.session.project.views] == ["view"]
    form = window.sheet("character").views.forms[0]
    form.widgets["name"].edited.emit("as the game sees it", True)
    form.widgets["view.distance"].edited.emit(9.0, True)
    window.picture.turn(50, 20)
    QTest.keyClick(window, Qt.Key.Key_5, Qt.KeyboardModifier.AltModifier)
    assert window.picture.view == view.evolve(distance=9.0)
    assert window.session.project.views[0].name == "as the game sees it"
    window.sheet("character").views.remove(0)
    assert window.session.project.views == ()


def test_a_kept_picture_is_called_something_else_in_place(qtbot, window):
    QTest.keyClick(window, Qt.Key.Key_K)
    strip = window.snapshot_strip
    QTest.mouseClick(strip.rename, HAND)
    assert strip.line.text() == "snapshot 1"
    QTest.keyClicks(strip.line, "   ")
    QTest.keyClick(strip.line, Qt.Key.Key_Return)
    assert window.picture.comparing.chosen.name == "snapshot 1"
    QTest.mouseClick(strip.rename, HAND)
    QTest.keyClicks(strip.line, "before K")  # K keeps no picture while a name is typed
    QTest.keyClick(strip.line, Qt.Key.Key_Return)
    assert [kept.name for kept in window.picture.comparing.snapshots] == ["before K"]
    assert strip.buttons[0].accessibleName() == "before K"
    assert strip.line.isHidden()
