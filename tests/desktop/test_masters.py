"""Master values in the real window: one drag for all of an effect, and others where it is started."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from wraithon.project.edit import remove_layer


def effect(window, key="thunder-stamp"):
    return window.session.project.effect(key)


def drag(field, by):
    """Drag a number field sideways with the mouse, step by step."""
    at = field.rect().center()
    QTest.mousePress(field, Qt.MouseButton.LeftButton, pos=at)
    for k in range(1, 11):
        QTest.mouseMove(field, at + QPoint(round(by * k / 10), 0))
    QTest.mouseRelease(field, Qt.MouseButton.LeftButton, pos=at + QPoint(by, 0))


def test_one_drag_makes_all_of_it_larger_and_is_one_step_of_undo(qtbot, window):
    window.session.select("effect", "thunder-stamp")
    field = window.sheet("effects").masters.widgets["masters.size"]
    before = window.session.project
    drag(field, 60)
    assert effect(window).masters.size > 1.2
    assert effect(window).layers == before.effect("thunder-stamp").layers
    window.session.undo()
    assert window.session.project == before


def test_they_go_into_the_layers_by_a_button_and_nothing_looks_otherwise(qtbot, window):
    window.session.select("effect", "thunder-stamp")
    sheet = window.sheet("effects")
    assert not sheet._settle.isEnabled()
    sheet.masters.widgets["masters.size"].edited.emit(2.0, True)
    sheet.masters.widgets["masters.opacity"].edited.emit(50.0, True)
    assert (effect(window).masters.size, effect(window).masters.opacity) == (2.0, 0.5)
    window.seek(3.0)
    qtbot.waitUntil(lambda: window.picture.rendered.time == 3.0 and window.picture.rendered.exact, timeout=30_000)
    first = window.engine._player.digest()
    QTest.mouseClick(sheet._settle, Qt.MouseButton.LeftButton)
    assert effect(window).masters.neutral
    qtbot.waitUntil(lambda: window.engine._player.project is window.session.played, timeout=30_000)
    qtbot.waitUntil(lambda: window.picture.rendered.exact, timeout=30_000)
    assert window.engine._player.digest() == first


def test_where_it_is_started_others_come_on_top(qtbot, window):
    trigger = next(t for t in window.session.project.triggers if t.response[0].effect == "thunder-stamp")
    window.station("triggers")
    window.session.select("trigger", trigger.id)
    form = window.sheet("triggers").action_list.forms[0]
    form.widgets["masters.size"].edited.emit(0.5, True)
    step = window.session.project.trigger(trigger.id).response[0]
    assert step.masters.size == 0.5
    window.seek(3.0)
    qtbot.waitUntil(lambda: window.picture.rendered.time == 3.0 and window.picture.rendered.exact, timeout=30_000)
    compiled = window.engine._player.compiled
    own = effect(window).layers[0]
    assert compiled.started(step).layers[0].size.ends[1] == pytest.approx(own.size.ends[1] / 2)
    assert "thunder-stamp" in {record.shown for record in window.picture.rendered.records}
    window.session.edit("Fewer", lambda p: remove_layer(p, own.id))
    qtbot.waitUntil(lambda: window.engine._player.project is window.session.played, timeout=30_000)
