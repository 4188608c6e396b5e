"""Large projects in the real window: processor time of its thread, as shares of an equal loop in the same run."""

import statistics
import time
from contextlib import contextmanager

import pytest
from PySide6.QtCore import QCoreApplication, QEventLoop, QTimer
from tests.desktop.test_large import grown

from wraithon.desktop.engine.engine import Engine
from wraithon.desktop.theme.theme import apply_theme
from wraithon.desktop.window import Window

SMALL, LARGE = 34, 2034


def wait(milliseconds):
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


def taken(act):
    """Return the processor time of this thread that something takes, events that follow included."""
    began = time.thread_time()
    act()
    QCoreApplication.processEvents()
    return time.thread_time() - began


def loop_of_300_000():
    total = 0
    for number in range(300_000):
        total += number * number
    return total


@pytest.fixture(scope="module", autouse=True)
def _application(qapp):
    apply_theme(qapp)
    return qapp


@contextmanager
def opened(demo, layers):
    """Open the window with a project of so many layers, the first of them selected."""
    window = Window(grown(demo, layers), None, "", Engine())
    window.resize(1280, 800)
    window.show()
    while window.picture.rendered is None:
        wait(50)
    window.auditioning.on = False
    window.station("effects")
    window.session.select("layer", window.session.project.effects[0].layers[0].id)
    wait(6000)  # what is made ahead is made
    yield window
    window.session.history.mark_saved()
    window.close()


def edited(window, number):
    layer = window.session.project.effects[0].layers[0].id
    window.session.put("layer", layer, "size.birth.high", 0.07 + 0.001 * number, "Size")


def shares(window, *acts, rounds=12):
    """Return what each of some acts takes, as a share of the loop."""
    found = {act: [] for act in acts}
    for number in range(rounds):
        for act in acts:
            loop = taken(loop_of_300_000)
            found[act].append(taken(lambda act=act, n=number: act(window, n)) / loop)
            wait(20)
    return [statistics.median(values) for values in found.values()]


def selected(window, number):
    layers = [layer.id for effect in window.session.project.effects for layer in effect.layers]
    window.session.select("layer", layers[(number * 7919) % len(layers)])


def scrolled(window, number):
    bar = window.index("effects").tree.verticalScrollBar()
    bar.setValue((number * 7919) % max(1, bar.maximum()))


def searched(window, number):
    window.index("effects").tree.keyboardSearch(("copy 11", "smoke", "veil")[number % 3])


def test_the_window_answers_at_once_however_large_the_project_is(demo, ratio):
    """The loop takes 25 ms on a calm machine: an edit is to take 10 ms at 34 layers and 20 ms at 2,034.

    A selection is to take 100 ms, and the list to scroll and to find what is typed in it within 50 ms.
    """
    edits = []
    for layers, bound in ((SMALL, 0.4), (LARGE, 0.8)):
        with opened(demo, layers) as window:
            edit, select, scroll, search = shares(window, edited, selected, scrolled, searched)
        edits.append(edit)
        for text, value, maximum in (
            ("an edit", edit, bound), ("selecting a layer", select, 4.0), ("scrolling the list", scroll, 2.0),
            ("typing a name in it", search, 2.0),
        ):  # fmt: skip
            ratio(f"{text} at {layers:,} layers, by a loop of 300,000", value, at_most=maximum)
    ratio("an edit at 2,034 layers, by one at 34: less than the logarithms", edits[1] / edits[0], at_most=2.16)
