"""The real window, driven with real mouse and key events."""

from __future__ import annotations

import gc
import threading
import time

import pytest
from PySide6.QtCore import QCoreApplication, QEvent, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from wraithon.desktop.engine.engine import Engine
from wraithon.desktop.folding import TIMELINE
from wraithon.desktop.stations import STATIONS
from wraithon.desktop.theme.theme import apply_theme
from wraithon.desktop.window import Window
from wraithon.stage.loading import Loaded


@pytest.fixture(scope="session")
def themed(qapp):
    apply_theme(qapp)
    gc.collect()
    gc.freeze()  # what is there from the start is looked through no more
    return qapp


@pytest.fixture(autouse=True)
def leak_guard(themed, request):
    """No test leaves a thread, a running timer of a window, or a window behind but the one that is kept."""
    if KeptWindow.window is not None and "window" not in request.fixturenames:
        KeptWindow.window.hide()  # the mouse would find it
        themed.processEvents()
    yield
    themed.processEvents()
    kept = KeptWindow.window.engine._thread if KeptWindow.window is not None else None
    assert [t.name for t in threading.enumerate() if t.name == "engine" and t is not kept] == []
    left = [
        w
        for w in QApplication.topLevelWidgets()
        if isinstance(w, Window) and w.isVisible() and w is not KeptWindow.window
    ]
    assert left == []


def open_window(qtbot, loaded, save_folder=None, opened="test", *, auditions=False):
    """Open the real window; what it shows hangs on the project's own show alone, unless with `auditions`."""
    window = Window(loaded, save_folder, opened, Engine())
    window.resize(1280, 800)
    window.show()
    qtbot.waitUntil(lambda: window.picture.rendered is not None, timeout=120_000)
    window.activateWindow()
    if not auditions:
        window.auditioning.on = False
    return window


def close_window(window):
    window.session.history.mark_saved()
    window.close()
    for timer in window.findChildren(QTimer):
        assert not timer.isActive(), "a timer still runs"
    window.deleteLater()
    # Windows that nobody deletes make those after them slower and slower.
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    gc.collect()


class KeptWindow:
    """The window that tests share: building one takes longer than most of them."""

    window: Window | None = None


def reopened(window, qtbot, demo):
    """Put the kept window back to how a new one is, and open the demo in it as a user would."""
    folding = window.folding
    for undo, folded in (
        (folding.everything, window.sheets.isHidden()), (folding.index, window.indexes.isHidden()),
        (folding.timeline, window.timeline.isHidden()),
    ):  # fmt: skip
        if folded:
            undo()
    window.resize(1280, 800)
    window.split.setSizes([602, TIMELINE])
    window.upper.setSizes([224, 606, 390])
    for station in STATIONS:
        window.sheet(station.key).to_top()
    life = window.sheet("effects").life
    if life.open_row:
        life.pick(life.open_row)
    window.transport.tempo.set_value(1.0)
    window.transport.said.clear()
    window.auditioning._anchor, window.auditioning.on = None, True
    window.engine.send(crowd=0, tempo=1.0)
    window.keeper._take(demo, None, "test")
    window.show()
    qtbot.waitUntil(lambda: window.picture.rendered is not None, timeout=120_000)
    other = QWidget()  # a window that was hidden becomes active again only after another was
    other.show()
    QTest.qWaitForWindowActive(other)
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow, timeout=5000)
    other.close()
    window.picture.setFocus()
    window.auditioning.on = False
    return window


@pytest.fixture
def window(qtbot, demo, request):
    """Give a window that shows the demo: the kept one, put back, unless the test before spoilt it."""
    made, KeptWindow.window = KeptWindow.window, None
    made = open_window(qtbot, demo) if made is None else reopened(made, qtbot, demo)
    failed = request.session.testsfailed
    yield made
    if request.session.testsfailed > failed or not made.isVisible():
        close_window(made)
        return
    made.set_playing(False)
    made.rehearse(on=False)
    KeptWindow.window = made


@pytest.fixture
def new_window(qtbot, demo):
    """Give a window that nobody had before."""
    made = open_window(qtbot, demo)
    yield made
    close_window(made)


@pytest.fixture(scope="package", autouse=True)
def _let_go(qapp):
    """Close the kept window before tests of other folders run: its engine would draw beside them."""
    yield
    if KeptWindow.window is not None:
        made, KeptWindow.window = KeptWindow.window, None
        close_window(made)


@pytest.fixture
def empty_window(qtbot):
    from wraithon.project.project import Project

    made = open_window(qtbot, Loaded(Project(), None))
    yield made
    close_window(made)


@pytest.fixture
def shown(themed):
    """Return a function that shows a widget by itself, so large, and closes it afterwards."""
    made = []

    def show(widget, width=300, height=180):
        made.append(widget)
        widget.resize(width, height)
        widget.show()
        widget.activateWindow()
        QTest.qWaitForWindowActive(widget)
        return widget

    yield show
    for widget in made:
        widget.close()
        widget.deleteLater()


def exact_at(window, moment):
    """Tell whether the picture shows a moment exactly."""
    rendered = window.picture.rendered
    return rendered is not None and rendered.exact and abs(rendered.time - moment) < 1 / 120


def settle(seconds=0.05):
    end = time.perf_counter() + seconds
    while time.perf_counter() < end:
        QApplication.processEvents()
        time.sleep(0.002)
