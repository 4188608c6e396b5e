"""The real window, driven with real mouse and key events."""

from __future__ import annotations

import gc
import threading
import time

import pytest
from PySide6.QtCore import QCoreApplication, QEvent, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from wraithon.desktop.engine.engine import Engine
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
def leak_guard(themed):
    """No test leaves a thread, a running timer of a window, or a window behind."""
    yield
    themed.processEvents()
    assert [t.name for t in threading.enumerate() if t.name == "engine"] == []
    left = [w for w in QApplication.topLevelWidgets() if isinstance(w, Window) and w.isVisible()]
    assert left == []


def open_window(qtbot, loaded, save_folder=None, opened="test", *, auditions=False):
    """Open the real window; what it shows hangs on the project's own show alone, unless with `auditions`."""
    window = Window(loaded, save_folder, opened, Engine())
    window.resize(1280, 800)
    window.show()
    qtbot.waitUntil(lambda: window.picture.shot is not None, timeout=120_000)
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


@pytest.fixture
def window(qtbot, demo):
    made = open_window(qtbot, demo)
    yield made
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

    def show(widget, wide=300, high=180):
        made.append(widget)
        widget.resize(wide, high)
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
    shot = window.picture.shot
    return shot is not None and shot.exact and abs(shot.time - moment) < 1 / 120


def settle(seconds=0.05):
    end = time.perf_counter() + seconds
    while time.perf_counter() < end:
        QApplication.processEvents()
        time.sleep(0.002)
