"""Preferences: stored, applied at once or from the next start on, damaged ones mended; by real keys."""

import os
import subprocess
import sys

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtTest import QTest

from tests.desktop.conftest import settle
from wraithon.desktop.app import prefer
from wraithon.picture.pace import Pace
from wraithon.project.history import History
from wraithon.project.project import Project
from wraithon.stage.player import Player
from wraithon.support.preferences import (
    Preferences,
    load_preferences,
    preferences_file,
    preset_folder,
    save_preferences,
)

KEYS = Qt.Key
CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier


@pytest.fixture
def sheet(window):
    QTest.keyClick(window, KEYS.Key_P, CTRL | ALT)
    settle()
    yield window.preferences_sheet
    window.preferences_sheet.reset()
    window.preferences_sheet.close()
    window.activateWindow()
    settle()


def type_number(field, text):
    field.setFocus()
    QTest.keyClick(field, KEYS.Key_Return)
    QTest.keyClicks(field._editor, text)
    QTest.keyClick(field._editor, KEYS.Key_Return)
    settle(0.02)


def test_numbers_hold_at_once_and_are_stored(window, sheet):
    type_number(sheet.numbers["undo_steps"], "25")
    type_number(sheet.numbers["copy_megabytes"], "32")
    type_number(sheet.numbers["frames"], "50")
    type_number(sheet.numbers["autosave"], "4.5")
    assert (History.limit, Player.copy_bytes, Pace.WANTED) == (25, 32 * 2**20, 0.02)
    assert window.keeper._timer.interval() == 4500
    stored = Preferences(undo_steps=25, copy_megabytes=32, frames=50, autosave=4.5)
    assert load_preferences() == stored
    history = History(Project())
    for seed in range(100, 140):
        history.record(Project(seed=seed), str(seed))
    assert len(history.labels) == 24  # and the project they began with
    sheet.reset()
    assert (History.limit, Player.copy_bytes, Pace.WANTED) == (500, 96 * 2**20, 1 / 30)
    assert load_preferences() == Preferences()


def test_what_counts_from_the_next_start_on_says_so(sheet):
    type_number(sheet.numbers["size"], "150")
    assert sheet.says.text() == "Counts from the next start on"
    type_number(sheet.numbers["undo_steps"], "30")
    assert sheet.says.text() == ""
    type_number(sheet.numbers["size"], "900")
    assert sheet.numbers["size"].refused == "at most 250 %"


def test_a_command_gets_other_keys_at_once(window, sheet):
    sheet.keys["Duplicate"].setKeySequence(QKeySequence("Ctrl+J"))
    sheet.keys["Duplicate"].editingFinished.emit()
    assert load_preferences().keys == {"Duplicate": "Ctrl+J"}
    action = next(action for action in window.actions() if action.text() == "Duplicate")
    assert [key.toString() for key in action.shortcuts()] == ["Ctrl+J"]
    sheet._usual_key("Duplicate")
    assert [key.toString() for key in action.shortcuts()] == ["Ctrl+D"]
    assert load_preferences().keys == {}


def test_keys_that_are_taken_are_refused_in_words(window, sheet):
    sheet.keys["Duplicate"].setKeySequence(QKeySequence("Ctrl+S"))
    sheet.keys["Duplicate"].editingFinished.emit()
    assert sheet.says.text() == "Ctrl+S is taken by “Save”: give that other keys first"
    assert sheet.keys["Duplicate"].keySequence() == QKeySequence("Ctrl+D")
    assert load_preferences().keys == {}


def test_the_rebound_key_works_in_the_window(window, sheet):
    sheet.change(keys={"Undo": "Ctrl+J"})
    sheet.close()
    window.activateWindow()
    settle(0.1)
    before = window.session.project
    window.session.edit("Seed", lambda p: p.evolve(seed=4711))
    QTest.keyClick(window, KEYS.Key_J, CTRL)
    assert window.session.project is before
    window.session.redo()
    QTest.keyClick(window, KEYS.Key_Z, CTRL)
    assert window.session.project is not before
    window.session.undo()


def test_presets_lie_where_it_is_preferred(sheet, tmp_path):
    usual = preset_folder()
    sheet.presets.setText(str(tmp_path / "mine"))
    sheet.presets.editingFinished.emit()
    assert preset_folder() == tmp_path / "mine"
    sheet.reset()
    assert preset_folder() == usual


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("", Preferences()),
        ("[]", Preferences()),
        ("\x00\xff", Preferences()),
        ('{"size": 5000, "frames": 20}', Preferences(frames=20)),
        ('{"size": "large", "keys": 3, "undo_steps": 40, "other": 1}', Preferences(undo_steps=40)),
    ],
)
def test_damaged_preferences_are_as_usual_where_they_are_damaged(text, wanted):
    preferences_file().parent.mkdir(parents=True, exist_ok=True)
    preferences_file().write_text(text)
    assert load_preferences() == wanted


def test_preferences_that_cannot_be_stored_hold_and_say_so(sheet, monkeypatch):
    def refuse(_preferences):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("wraithon.desktop.preferences_sheet.save_preferences", refuse)
    type_number(sheet.numbers["undo_steps"], "77")
    assert sheet.says.text() == "Not stored: No space left on device"
    assert History.limit == 77


def test_size_and_threads_are_set_before_all_else_and_the_environment_goes_before(monkeypatch):
    for name in ("QT_SCALE_FACTOR", "NUMBA_NUM_THREADS"):
        monkeypatch.setenv(name, "")  # so that it is as before afterwards, whatever is set meanwhile
        del os.environ[name]
    prefer(Preferences(size=125, threads=1))
    assert (os.environ["QT_SCALE_FACTOR"], os.environ["NUMBA_NUM_THREADS"]) == ("1.25", "1")
    prefer(Preferences(size=200))
    assert os.environ["QT_SCALE_FACTOR"] == "1.25"


def test_colours_are_others_from_the_next_start_on():
    code = "from wraithon.desktop.theme.colours import TEAL, BRICK; print(TEAL, BRICK)"
    usual = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
    save_preferences(Preferences(safe_colours=True))
    safe = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
    assert usual != safe
