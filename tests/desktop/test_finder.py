"""One field that finds settings, things and commands, by real keys in the real window."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from tests.desktop.conftest import settle
from wraithon.desktop.widgets.basics import Button, Section
from wraithon.studio.places import best_first, places_of

KEYS, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def finder(window):
    window.station("effects")
    effect = window.session.project.effects[0]
    window.session.select("layer", effect.layers[0].id)
    window.picture.setFocus()
    settle()
    yield window.finder
    window.finder.hide()
    window.activateWindow()
    settle()


def ask(window, text, modifiers=CTRL, key=KEYS.Key_F):
    QTest.keyClick(window, key, modifiers)
    settle()
    assert window.finder.isVisible()
    QTest.keyClicks(window.finder.line, text)
    settle()
    listed = window.finder.listed
    return [listed.item(k).text() for k in range(listed.count())]


def press(widget, key):
    QTest.keyClick(widget, key)
    settle(0.1)


def test_a_setting_is_found_by_its_word_and_gets_the_focus(window, finder):
    found = ask(window, "gravity")
    assert "gravity" in " ".join(found).lower() or finder._nothing.isVisible()
    finder.hide()
    names = ask(window, "rate")
    assert names[0] == "rate"
    assert len(set(names)) == len(names)
    press(finder.line, KEYS.Key_Return)
    assert not finder.isVisible()
    field = QApplication.focusWidget()
    assert field is window.sheet("effects").emission.form.widgets["rate"]
    assert field.visibleRegion().boundingRect().height() > 0


def test_a_setting_of_a_folded_section_is_unfolded(window, finder):
    sheet = window.sheet("effects")
    section = next(s for s in sheet.sections() if s.title == "Emission")
    section._head.setChecked(False)
    settle()
    ask(window, "max alive")
    press(finder.line, KEYS.Key_Return)
    assert not section.folded
    assert sheet.emission.form.widgets["limit number"].isVisible()


@pytest.mark.parametrize(
    ("typed", "selection"),
    [
        ("fan streamers", ("effect", "fan-streamers")),
        ("landing", ("event", "landing")),
        ("left hand", ("joint", "left hand")),
        ("leap", ("clip", "leap")),
    ],
)
def test_things_of_all_stations_are_gone_to(window, finder, typed, selection):
    ask(window, typed)
    listed = finder.listed
    while finder._entries[listed.currentItem().data(257)].kind != selection[0]:
        press(finder.line, KEYS.Key_Down)
    press(finder.line, KEYS.Key_Return)
    assert window.session.selection == selection
    assert window.indexes.currentWidget().isAncestorOf(QApplication.focusWidget())


def test_a_command_is_run_by_its_words(window, finder):
    before = window.session.project
    names = ask(window, "dupl", CTRL | SHIFT, KEYS.Key_P)
    assert names == ["Duplicate"]
    press(finder.line, KEYS.Key_Return)
    assert window.session.project != before
    window.session.undo()


def test_nothing_found_says_so_and_escape_closes(window, finder):
    assert ask(window, "zzz") == []
    assert finder._nothing.isVisible()
    press(finder.line, KEYS.Key_Return)
    assert finder.isVisible()
    press(finder.line, KEYS.Key_Escape)
    assert not finder.isVisible()


@pytest.mark.parametrize(("number", "key"), [(1, "character"), (2, "effects"), (3, "triggers")])
def test_the_keys_of_a_station_lead_into_its_list(window, number, key):
    window.picture.setFocus()
    QTest.keyClick(window, KEYS(KEYS.Key_0 + number), CTRL)
    settle()
    assert window.at == key
    assert window.index(key).isAncestorOf(QApplication.focusWidget())


def test_those_whose_name_begins_so_come_first():
    names = [
        ("dust trail", ""),
        ("trail", ""),
        ("red trails", ""),
        ("smoke", "layer of trail"),
        ("trail of sparks", ""),
    ]
    assert best_first("trail", names, 10) == [1, 4, 0, 2, 3]
    assert best_first("trail", names, 2) == [1, 4]
    assert best_first("", names, 10) == [0, 1, 2, 3, 4]
    assert best_first("sp tr", names, 10) == [4]


def test_all_things_of_the_demo_can_be_gone_to(demo, halcyon):
    kinds = {place.kind for place in places_of(demo.project, halcyon)}
    assert kinds >= {"effect", "layer", "trigger", "event", "anchor", "clip", "part", "joint"}
    assert {place.kind for place in places_of(demo.project.evolve(characters=()), None)} == {
        "effect",
        "layer",
        "trigger",
    }


def test_a_strip_of_names_leads_to_sections_and_they_stay_folded(window, finder):
    sheet = window.sheet("effects")
    window.picture.setFocus()
    sheet.refresh()
    strip = {button.text(): button for button in sheet._strip.findChildren(Button) if button.isVisible()}
    assert list(strip) == ["Life", "Emission", "Source", "Look", "Motion", "Preset", "Cost"]
    motion = next(s for s in sheet.sections() if s.title == "Motion")
    QTest.mouseClick(motion._head, Qt.MouseButton.LeftButton)
    assert motion.folded
    assert Section("Motion").folded  # as the next window has it
    QTest.mouseClick(strip["Motion"], Qt.MouseButton.LeftButton)
    assert not motion.folded
    settle()
    assert motion.mapTo(sheet, QPoint(0, 0)).y() < 120 or sheet._scroll.verticalScrollBar().value() > 0
    QTest.mouseClick(motion._head, Qt.MouseButton.LeftButton)
    QTest.mouseClick(motion._head, Qt.MouseButton.LeftButton)
    assert not Section("Motion").folded
