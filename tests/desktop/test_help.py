"""Help inside the program, the list of edits, and what the program is made with; by real keys."""

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

import wraithon
from tests.desktop.conftest import settle
from wraithon.desktop.help import LIBRARIES, AboutView, about_html, guide_text
from wraithon.desktop.stations import STATIONS
from wraithon.project.history import History
from wraithon.project.project import Project

KEYS = Qt.Key
CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier


@pytest.fixture
def asked(window):
    def ask():
        QTest.keyClick(window, KEYS.Key_F1)
        settle(0.15)
        return window.help_view

    yield ask
    if window.help_view is not None:
        window.help_view.close()
    window.activateWindow()
    settle()


def at_top(view):
    """Return the text at the top of what is seen of the guide."""
    return view.guide.cursorForPosition(view.guide.viewport().rect().topLeft()).block().text()


@pytest.mark.parametrize(
    ("path", "begins"),
    [("emission", "Emission sets how many"), ("motion", "Motion"), ("source", "Source sets where")],
)
def test_the_guide_opens_at_what_has_the_focus(window, asked, path, begins):
    window.station("effects")
    layer = window.session.project.effects[0].layers[0]
    window.session.select("layer", layer.id)
    settle()
    sheet = window.sheet("effects")
    editor = getattr(sheet, path)
    field = next(w for w, section in sheet.fields() if editor.isAncestorOf(w))
    field.setFocus()
    view = asked()
    assert view.isVisible()
    assert view.guide.textCursor().block().text().startswith(begins)
    top = view.guide.cursorRect(view.guide.textCursor()).top()
    assert -2 <= top < view.guide.viewport().height() / 2


@pytest.mark.parametrize("station", [each.title for each in STATIONS])
def test_every_station_has_a_heading_and_its_keys(window, asked, station):
    key = next(each.key for each in STATIONS if each.title == station)
    window.station(key)
    window.picture.setFocus()
    view = asked()
    assert view.guide.textCursor().block().text().startswith(station)
    keys = view.keys.toPlainText()
    assert "Everywhere" in keys
    assert "Ctrl+S" in keys
    for text, shortcut, _ in window.index(key).commands():
        assert not shortcut or text.removesuffix(" ...") in keys
    window.station("effects")


def test_the_guide_is_searched(window, asked):
    view = asked()
    QTest.keyClicks(view.line, "overdraw")
    first = view.guide.textCursor().position()
    QTest.keyClick(view.line, KEYS.Key_Return)
    assert view.guide.textCursor().selectedText().lower() == "overdraw"
    assert view.guide.textCursor().position() > first
    for _ in range(40):
        QTest.keyClick(view.line, KEYS.Key_Return)
    assert view.guide.textCursor().selectedText().lower() == "overdraw"
    view.line.setText("zzzz")
    assert view.line.toolTip() == "Not in the guide"


def test_the_program_ships_the_guide_as_it_is():
    docs = Path(__file__).parents[2] / "docs" / "guide.md"
    assert guide_text() == docs.read_text(encoding="utf-8"), "run make schema: it copies the guide"


def test_about_names_versions_and_licences(window):
    text = about_html()
    assert f"Wraithon {wraithon.__version__}" in text
    for name in LIBRARIES:
        assert name in text
    assert "not installed" not in text
    view = AboutView(window)
    assert "MIT" in view.text.toPlainText()
    view.deleteLater()


def test_a_step_of_the_list_of_edits_is_gone_to(window):
    window.session.history.seal()
    before = window.session.project
    for k in range(4):
        window.session.edit(f"Seed {k}", lambda p, k=k: p.evolve(seed=100 + k))
    position = window.session.history.position
    QTest.keyClick(window, KEYS.Key_Z, CTRL | ALT)
    settle()
    listed = window.undo_list.listed
    assert window.undo_list.isVisible()
    assert listed.currentItem().text() == "Seed 3"
    for _ in range(3):
        QTest.keyClick(listed, KEYS.Key_Up)
    QTest.keyClick(listed, KEYS.Key_Return)
    settle()
    assert window.session.project.seed == 100
    assert window.transport.said.text() == "Undone: 3 edits"
    window.session.go_to_step(position)
    assert window.session.project.seed == 103
    assert window.transport.said.text() == "Redone: 3 edits"
    window.session.go_to_step(position - 4)
    assert window.session.project == before


def test_a_history_goes_no_further_than_it_reaches():
    history = History(Project())
    for seed in (11, 12, 13):
        history.record(Project(seed=seed), f"to {seed}")
    assert (history.labels, history.position) == (["to 11", "to 12", "to 13"], 3)
    assert history.go_to(-5).seed == Project().seed
    assert (history.undo_label, history.redo_label) == (None, "to 11")
    assert history.go_to(2).seed == 12
    assert history.go_to(99).seed == 13
