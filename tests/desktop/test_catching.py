"""Faults of the program: whatever a handler raises is caught in one place, told once, and the window goes on."""

from __future__ import annotations

import ast
import importlib
import os
import pkgutil
import subprocess
import sys
import threading
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, QPointF, Qt, QTimer
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QWidget

import wraithon.desktop
from tests.desktop.conftest import close_window, open_window
from wraithon.character.moments.peaks import Candidate
from wraithon.desktop.catching import Catcher, crashed_before
from wraithon.desktop.guarding import guarded, is_handler
from wraithon.desktop.stations import STATIONS
from wraithon.desktop.timeline.found_lane import FoundLane
from wraithon.project.edit import play_only
from wraithon.support.places import crash_file, log_file, start_log

pytestmark = pytest.mark.qt_no_exception_capture


def own_classes():
    """Return all classes of the window that answer to Qt."""
    for module in pkgutil.walk_packages(wraithon.desktop.__path__, "wraithon.desktop."):
        importlib.import_module(module.name)
    found, todo = {}, [QWidget]
    while todo:
        for kind in todo.pop().__subclasses__():
            todo.append(kind)
            if kind.__module__.startswith("wraithon.desktop"):
                found[f"{kind.__module__}.{kind.__qualname__}"] = kind
    return list(found.values())


@pytest.fixture
def catcher(qapp):
    made = Catcher()
    made.text = []
    made.fault_found.connect(made.text.append)
    made.install()
    yield made
    made.remove()


def exercised(window):
    """Paint all that is seen, and have the mouse and the keys pass over it, in the event loop."""
    for widget in [window, *window.findChildren(QWidget)]:
        if not widget.isVisible() or isinstance(widget, QComboBox):
            continue
        widget.update()
        at = QPointF(widget.rect().center())
        spot = QPointF(widget.mapToGlobal(widget.rect().center()))
        button, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        kinds = (QEvent.Type.MouseMove, QEvent.Type.MouseButtonPress, QEvent.Type.MouseButtonRelease)
        for kind in kinds if not hasattr(widget, "click") else kinds[:1]:  # no buttons: they would open dialogs
            QApplication.postEvent(widget, QMouseEvent(kind, at, spot, button, button, none))
        QApplication.postEvent(widget, QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_Shift, none))
        QApplication.postEvent(widget, QKeyEvent(QEvent.Type.KeyRelease, Qt.Key.Key_Shift, none))
    QApplication.sendPostedEvents()
    QTest.qWait(500)
    for each in (window, window.sheet(window.at)._scroll.widget()):
        each.grab()  # what a busy machine has not painted yet, and what is scrolled out of sight


MADE = []
"""Handlers that instances may still know: Qt's binding keeps no hold of them itself."""


@pytest.fixture
def breakable(monkeypatch):
    """Have every handler of the window's classes raise once it is told to; instances made from now on know them."""
    broken = set()
    switch = {"on": False}

    def breaking(handler, kind, name):
        def call(*arguments):
            if switch["on"]:
                broken.add((kind, name))
                raise ValueError(f"{kind.__name__}.{name} is broken")
            return handler(*arguments)

        return guarded(call, name)

    for kind in own_classes():
        for name, method in list(vars(kind).items()):
            if is_handler(name) and name != "event":
                MADE.append(breaking(method.__wrapped__, kind, name))
                monkeypatch.setattr(kind, name, MADE[-1])
    return switch, broken


def painted(broken):
    return {kind for kind, name in broken if name == "paintEvent"}


@pytest.fixture
def breakable_window(qtbot, demo, breakable):
    window = open_window(qtbot, demo)
    yield window
    close_window(window)


def test_every_handler_may_raise_and_the_window_goes_on(qtbot, breakable, breakable_window, catcher):
    (switch, broken), window = breakable, breakable_window
    for station in STATIONS:
        window.station(station.key)
        QTest.qWait(50)
    window.session.select("trigger", "always")
    window.station("effects")
    window.session.select("layer", "scatter-petals")
    window.sheet("effects").life.pick("size")
    switch["on"] = True
    for station in STATIONS:
        window.station(station.key)
        exercised(window)
    switch["on"] = False
    assert len(painted(broken)) > 10, painted(broken)
    assert {name for _, name in broken} >= {
        "paintEvent", "mousePressEvent", "mouseMoveEvent", "mouseReleaseEvent", "keyPressEvent", "eventFilter",
    }  # fmt: skip
    assert window.isVisible()
    # It is all still there: what is painted, the engine, the project.
    window.station("effects")
    before = window.picture.rendered.time
    window.set_playing(True)
    qtbot.waitUntil(lambda: window.picture.rendered.time != before, timeout=20_000)
    window.set_playing(False)
    assert any("is broken" in text for text in catcher.text)
    assert len(catcher.text) == len(set(catcher.text))


class Failing(QPainter):
    """A painter that breaks at the first thing it is to do."""

    def __getattribute__(self, name):
        if name.startswith(("draw", "fill", "set")):
            raise ValueError(f"{name} is broken")
        return super().__getattribute__(name)


def test_painting_that_breaks_half_way_leaves_no_painter_behind(new_window, catcher, monkeypatch, qtbot):
    window = new_window
    for name, module in list(sys.modules.items()):
        if name.startswith("wraithon.desktop") and hasattr(module, "QPainter"):
            monkeypatch.setattr(module, "QPainter", Failing)
    for station in STATIONS:
        window.station(station.key)
        exercised(window)
    monkeypatch.undo()
    assert any("is broken" in text for text in catcher.text)
    window.station("effects")
    exercised(window)
    assert not window.grab().toImage().isNull()


def test_all_handlers_are_guarded():
    for kind in own_classes():
        for own in kind.__mro__:
            if own.__module__.startswith("wraithon.desktop"):
                for name, method in vars(own).items():
                    assert not is_handler(name) or hasattr(method, "__wrapped__"), f"{own.__name__}.{name}"


def test_painters_are_ended_whatever_happens():
    """One that is left to chance goes on painting on what is gone: the program ends."""
    for path in Path(wraithon.desktop.__path__[0]).rglob("*.py"):
        tree = ast.parse(path.read_text())
        within = {
            id(item.context_expr) for node in ast.walk(tree) if isinstance(node, ast.With) for item in node.items
        }
        for node in ast.walk(tree):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "QPainter":
                assert id(node) in within, f"{path.name}:{node.lineno}"


def test_slots_timers_and_threads_are_heard_and_each_place_told_once(catcher, qtbot):
    start_log()

    def slot():
        raise ValueError("slot is broken")

    for _ in range(3):
        QTimer.singleShot(0, slot)
    qtbot.waitUntil(lambda: bool(catcher.text), timeout=5000)
    QTest.qWait(50)
    assert catcher.text == [
        f"A fault of the program: ValueError: slot is broken. Your work is kept; details are in {log_file()}"
    ]
    thread = threading.Thread(target=lambda: 1 / 0)
    thread.start()
    thread.join()
    qtbot.waitUntil(lambda: len(catcher.text) == 2, timeout=5000)
    assert "ZeroDivisionError: division by zero" in catcher.text[1]


def test_interrupts_go_their_usual_way(catcher, monkeypatch):
    heard = []
    monkeypatch.setattr(catcher, "_before", (lambda *told: heard.append(told), catcher._before[1]))
    catcher.catch(KeyboardInterrupt, KeyboardInterrupt(), None)
    assert heard
    assert not catcher.text


def test_moments_on_a_clip_that_is_not_played_are_told_and_taken(window, catcher, qtbot):
    lane = window.timeline.findChild(FoundLane)
    window.session.edit("Only walk", lambda project: play_only(project, "walk"))
    lane.show_found([Candidate("strike", "strike", 0.1, "head", 0.8, "quickest here")])
    QTest.qWait(80)
    assert lane.flags() == []
    assert lane._unseen() == "1 moment on strike, not played here: Enter accepts all, Escape none"
    window.station("rehearse")
    QTest.qWait(80)
    assert not catcher.text
    qtbot.keyClick(lane, Qt.Key.Key_Return)
    assert not lane.isVisible()
    use = window.session.project.character
    assert 0.1 in [mark.time for mark in use.clip("strike").marks]


def test_a_crash_is_written_down_and_named_by_the_next_start(tmp_path):
    program = (
        "import faulthandler\n"
        "from wraithon.desktop.catching import watch_for_crashes\n"
        "watch_for_crashes(); faulthandler._sigsegv()"
    )
    done = subprocess.run([sys.executable, "-c", program], check=False, capture_output=True)
    assert done.returncode < 0
    assert "Segmentation fault" in crash_file().read_text()
    told = crashed_before()
    assert Path(told).read_text().startswith("Fatal Python error: Segmentation fault")
    assert crashed_before() == ""
    assert os.fspath(tmp_path) in told
