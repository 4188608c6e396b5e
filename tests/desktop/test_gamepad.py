"""The gamepad: what the kernel tells of it, by a pipe that stands in for one."""

from __future__ import annotations

import os

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from wraithon.desktop.rehearse.pad import AXIS, BUTTON, EVENT, FIRST, FULL, Gamepad


@pytest.fixture
def pad(tmp_path, themed):
    os.mkfifo(tmp_path / "js0")
    made = Gamepad(tmp_path)
    made.start()
    made.heard, made.acts = [], []
    made.steered.connect(lambda *way: made.heard.append(way))
    made.acted.connect(made.acts.append)
    made.hand = os.open(tmp_path / "js0", os.O_WRONLY)
    yield made
    made.stop()
    if made.hand >= 0:
        os.close(made.hand)


def set_signal(pad, *events):
    os.write(pad.hand, b"".join(EVENT.pack(0, value, kind, number) for value, kind, number in events))


def test_its_stick_steers_by_how_far_it_is_moved_beyond_its_dead_zone(qtbot, pad):
    set_signal(pad, (FULL, AXIS, 0))
    qtbot.waitUntil(lambda: pad.heard == [(1.0, 0.0, False)])
    set_signal(pad, (0, AXIS, 0), (-FULL // 2, AXIS, 1))
    qtbot.waitUntil(lambda: len(pad.heard) == 2)
    right, away, fast = pad.heard[-1]
    assert (right, fast) == (0.0, False)
    assert away == pytest.approx((0.5 - 0.18) / 0.82, abs=1e-3)
    set_signal(pad, (FULL // 10, AXIS, 1))
    qtbot.waitUntil(lambda: pad.heard[-1] == (0.0, 0.0, False))
    set_signal(pad, (FULL, AXIS, 5))  # another stick's
    set_signal(pad, (1, BUTTON, 5))
    qtbot.waitUntil(lambda: pad.heard[-1] == (0.0, 0.0, True))


def test_its_buttons_act_once_and_not_for_how_it_was_found(qtbot, pad):
    set_signal(pad, (1, BUTTON | FIRST, 0), (1, BUTTON, 2), (0, BUTTON, 2), (1, BUTTON, 0), (1, BUTTON, 9))
    qtbot.waitUntil(lambda: pad.acts == ["strike", "leap"])


def test_one_that_is_pulled_out_is_let_go_of_and_another_is_found(qtbot, pad, tmp_path):
    set_signal(pad, (FULL, AXIS, 0))
    qtbot.waitUntil(lambda: bool(pad.heard))
    os.close(pad.hand)
    pad.hand = -1
    qtbot.waitUntil(lambda: not pad.there)
    assert pad.heard[-1] == (0.0, 0.0, False)
    (tmp_path / "js0").unlink()
    pad.look()
    assert not pad.there
    os.mkfifo(tmp_path / "js1")
    pad.look()
    assert pad.there


def test_it_drives_her_in_the_window(qtbot, window):
    window.picture.look_from(180, 12)
    window.station("rehearse")
    qtbot.waitUntil(lambda: window.picture.rendered.driven, timeout=30_000)
    window.keys.pad.steered.emit(0.0, 0.5, False)
    qtbot.waitUntil(
        lambda: window.picture.rendered.signals["speed"] == pytest.approx(0.675, abs=0.01), timeout=30_000
    )
    window.keys.pad.acted.emit("strike")
    qtbot.waitUntil(lambda: window.picture.rendered.state == "striking", timeout=30_000)
    window.station("effects")
    assert not window.keys.pad._timer.isActive()
    qtbot.waitUntil(lambda: not window.picture.rendered.driven, timeout=30_000)
    window.station("rehearse")  # what was held before is not held any more
    qtbot.waitUntil(lambda: window.picture.rendered.driven and window.picture.rendered.time > 0.3, timeout=30_000)
    QTest.keyClick(window.picture, Qt.Key.Key_W)
    moment = window.picture.rendered.time
    qtbot.waitUntil(lambda: window.picture.rendered.time > moment + 0.5, timeout=30_000)
    assert (window.picture.rendered.state, window.picture.rendered.signals["speed"]) == ("standing", 0.0)
