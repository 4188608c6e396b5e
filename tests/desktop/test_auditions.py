"""Auditions in the real window, with mouse and keys."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tests.desktop.conftest import close_window, open_window
from wraithon.desktop.widgets.trees import key_of


@pytest.fixture
def window(qtbot, demo):
    made = open_window(qtbot, demo, auditions=True)
    yield made
    close_window(made)


def click(window, key):
    tree = window.index("effects").tree
    item = next(item for item in window.index("effects").items() if key_of(item) == key)
    tree.scrollToItem(item)
    QTest.mouseClick(tree.viewport(), Qt.MouseButton.LeftButton, pos=tree.visualItemRect(item).center())


def alive(window):
    return window.picture.rendered.figures.alive


def sees(qtbot, window, what):
    qtbot.waitUntil(lambda: what(window.picture.rendered), timeout=30_000)


def test_what_is_selected_shows_itself_while_the_show_rests_and_a_turns_that_off(qtbot, window):
    assert alive(window) == 0
    assert not window.index("effects")._audition.isChecked()
    click(window, "thunder-stamp")
    sees(qtbot, window, lambda rendered: rendered.figures.alive > 100)
    assert window.index("effects")._audition.isChecked()
    assert not window.playing
    assert window.picture.rendered.time == 0
    assert window.picture.rendered.exact
    assert window.picture.rendered.records == ()
    QTest.keyClick(window, Qt.Key.Key_A)
    sees(qtbot, window, lambda rendered: rendered.figures.alive == 0)
    assert not window.index("effects")._audition.isChecked()
    click(window, "rain-veil")
    QTest.qWait(200)
    assert alive(window) == 0


def test_a_new_effect_is_seen_at_once_on_what_was_picked(qtbot, window):
    window.session.select("part", "rain skirt")
    window.station("effects")
    window.index("effects").add_effect()
    sees(qtbot, window, lambda rendered: rendered.figures.alive > 5)
    effect = window.session.project.effects[-1]
    assert effect.layers[0].source.parts == ("rain skirt",)
    assert "rain skirt" in window.transport.said.toolTip()
    window.index("effects").add_layer()
    assert window.session.project.effects[-1].layers[1].source.parts == ("rain skirt",)


def test_h_holds_the_pose_of_the_event_that_starts_it(qtbot, window):
    click(window, "stamp-sparks")
    window.set_playing(True)
    sees(qtbot, window, lambda rendered: rendered.time > 0.2)
    QTest.keyClick(window, Qt.Key.Key_H)
    sees(qtbot, window, lambda rendered: not rendered.playing and rendered.figures.alive > 100 and rendered.time > 2)
    use = window.session.project.character
    event = next(e for e in use.events if e.name == "strike")
    clip = next(c for c in use.clips for m in c.marks if m.event == event.id)
    marks = [m.time for m in clip.marks if m.event == event.id]
    segments = {segment.use.name: base for base, segment in window.timeline.passes()}
    assert window.picture.rendered.time == pytest.approx(segments[clip.name] + marks[0], abs=1 / 60)
    assert not window.playing


def test_the_button_turns_it_on_again_and_a_muted_layer_is_left_out_of_it(qtbot, window):
    click(window, "thunder-stamp")
    button = window.index("effects")._audition
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    sees(qtbot, window, lambda rendered: rendered.figures.alive == 0)
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    sees(qtbot, window, lambda rendered: rendered.figures.alive > 100)
    before, saved = window.session.project, window.session.history.unsaved
    for layer in window.session.project.effect("thunder-stamp").layers:
        click(window, layer.id)
        QTest.keyClick(window, Qt.Key.Key_M)
    sees(qtbot, window, lambda rendered: rendered.figures.alive == 0)
    assert window.session.project is before
    assert window.session.history.unsaved == saved


def test_one_that_no_event_starts_says_so_and_stays_where_it_is(qtbot, window):
    window.seek(1.0)
    sees(qtbot, window, lambda rendered: rendered.time == 1.0)
    click(window, "plume-drift")
    QTest.keyClick(window, Qt.Key.Key_H)
    assert "No event" in window.transport.said.toolTip()
    QTest.qWait(200)
    assert window.picture.rendered.time == 1.0


def test_leaving_a_layer_out_is_an_edit_that_can_be_undone(window):
    click(window, "plume-glints")
    QTest.keyClick(window, Qt.Key.Key_M, Qt.KeyboardModifier.ShiftModifier)
    assert window.session.project.layer("plume-glints")[1].disabled
    assert "Disabled: this layer" in window.sheet("effects").hint.text()
    QTest.keyClick(window, Qt.Key.Key_M)
    assert not window.session.project.layer("plume-glints")[1].disabled
    window.session.undo()
    assert window.session.project.layer("plume-glints")[1].disabled
