"""Rehearse in the real window: keys that drive, what responds to it, and the stage that is made."""

from __future__ import annotations

import math
from itertools import pairwise

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from wraithon.desktop.picture.flashing import flashes_of
from wraithon.desktop.rehearse.index import PIECES
from wraithon.project.edit import with_trigger
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import EveryMetres, OnEvent, OnKey
from wraithon.project.trigger import Often, Only, Trigger

KEY, HAND = Qt.Key, Qt.MouseButton.LeftButton


@pytest.fixture
def rehearsing(qtbot, new_window):
    """The window in Rehearse, looking from behind her: W leads along +Z."""
    window = new_window
    window.picture.look_from(180, 12)
    window.station("rehearse")
    qtbot.waitUntil(lambda: window.picture.rendered.driven and window.picture.hasFocus(), timeout=30_000)
    return window


def there(qtbot, window, so, timeout=60_000):
    qtbot.waitUntil(lambda: so(window.picture.rendered), timeout=timeout)


def press(window, *keys):
    for key in keys:
        QTest.keyPress(window.picture, key)


def release(window, *keys):
    for key in keys:
        QTest.keyRelease(window.picture, key)


def tap(window, key):
    press(window, key)
    release(window, key)


def go(qtbot, window, x, z):
    """Steer her to a place as a hand would: again and again towards it."""

    def near():
        cx, _, cz = window.picture.rendered.centre
        off = math.hypot(x - cx, z - cz)
        if off > 0.2:
            window.engine.give("steer", (x - cx) / off, (z - cz) / off)
        return off <= 0.2

    qtbot.waitUntil(near, timeout=90_000)
    window.engine.give("steer", 0.0, 0.0)


def shown(window):
    return [record.shown for record in window.picture.rendered.records]


def test_keys_walk_run_turn_with_the_camera_and_let_go(qtbot, rehearsing):
    window = rehearsing
    before = window.session.project
    press(window, KEY.Key_W)
    there(qtbot, window, lambda rendered: rendered.state == "walking" and rendered.centre[2] > 0.3)
    press(window, KEY.Key_Shift)
    there(qtbot, window, lambda rendered: rendered.state == "running")
    window.picture.look_from(270, 12)  # away is now +X
    there(qtbot, window, lambda rendered: abs(rendered.signals["facing"] - 90) < 2)
    release(window, KEY.Key_Shift, KEY.Key_W)
    there(qtbot, window, lambda rendered: rendered.state == "standing")
    press(window, KEY.Key_D)
    window.picture.clearFocus()
    there(qtbot, window, lambda rendered: rendered.state == "standing" and rendered.signals["speed"] == 0)
    assert window.session.project is before
    assert "running" in [state for _, state in window.picture.rendered.states]


def test_space_leaps_here_and_plays_elsewhere_and_leaving_gives_the_order_back(qtbot, rehearsing):
    window = rehearsing
    tap(window, KEY.Key_Space)
    there(qtbot, window, lambda rendered: rendered.state in {"rising", "falling"})
    assert window.playing
    tap(window, KEY.Key_Backspace)
    there(qtbot, window, lambda rendered: rendered.state == "fallen")
    window.station("effects")
    there(qtbot, window, lambda rendered: not rendered.driven)
    assert not window.playing  # as before
    QTest.keyClick(window.picture, KEY.Key_Space)
    assert window.playing
    window.station("rehearse")
    there(qtbot, window, lambda rendered: rendered.driven and rendered.state == "standing")


def test_the_fall_gives_petals_dissolves_and_takes_her_away_until_she_gets_up(qtbot, rehearsing):
    window = rehearsing
    tap(window, KEY.Key_Backspace)
    there(qtbot, window, lambda _: "scatter" in shown(window))
    there(qtbot, window, lambda rendered: rendered.skin is not None and rendered.time > 3.0)
    there(
        qtbot, window, lambda rendered: all(r.end is not None for r in rendered.records if r.shown == "plume-drift")
    )
    tap(window, KEY.Key_R)
    there(qtbot, window, lambda rendered: rendered.state == "standing")


def test_the_strike_bursts_at_the_fan(qtbot, rehearsing):
    window = rehearsing
    tap(window, KEY.Key_J)
    there(qtbot, window, lambda _: "thunder-stamp" in shown(window))
    record = next(r for r in window.picture.rendered.records if r.shown == "thunder-stamp")
    assert record.begun.anchor == "right-fan-tip"
    tip = record.begun.pinned[:3, 3]
    assert math.hypot(tip[0], tip[2]) > 0.3  # out at the fan, which comes down before her


def test_feet_bring_up_what_the_ground_is_made_of_and_flash_where_they_do(qtbot, rehearsing):
    window = rehearsing
    go(qtbot, window, -2.3, 2.4)
    assert "flecks" in shown(window)
    go(qtbot, window, 2.3, 2.2)
    assert "splash" in shown(window)
    assert "tread" in shown(window)
    seen = set()
    window.engine.give("steer", 0.0, 1.0)
    qtbot.waitUntil(
        lambda: bool(
            seen.update(f.text for f in flashes_of(window.picture.rendered, window.session.project)) or seen
        ),
        timeout=30_000,
    )
    assert seen <= {"left tread", "right tread"}


def test_a_ring_only_where_she_comes_down_hard_and_the_larger_the_harder(qtbot, rehearsing):
    window = rehearsing
    tap(window, KEY.Key_Space)
    there(qtbot, window, lambda rendered: rendered.state == "landing")
    there(qtbot, window, lambda rendered: rendered.state == "standing")
    states = window.picture.rendered.triggers.states
    assert "hard-landing" not in states or not states["hard-landing"].fired
    go(qtbot, window, 4.4, 1.8)
    go(qtbot, window, 4.4, 6.4)
    assert window.picture.rendered.centre[1] == pytest.approx(1.4, abs=0.02)
    press(window, KEY.Key_W, KEY.Key_Shift)
    there(qtbot, window, lambda rendered: rendered.state == "landing")
    there(qtbot, window, lambda rendered: rendered.triggers.states["hard-landing"].fired == 1)
    ring = [r for r in window.picture.rendered.records if r.trigger == "hard-landing"]
    assert [(r.shown, r.effect != "squall-ring") for r in ring] == [("squall-ring", True)]


def test_running_dust_keeps_to_the_ground_and_every_nth_step_and_walking_dust_cools_down(qtbot, rehearsing):
    window = rehearsing
    step = (StartEffect(effect="flecks"),)
    run = Trigger(id="run", when=OnEvent(event="left-step"), only=Only(slowest=2.5, where="on the ground"),
                  often=Often(every=2), response=step)  # fmt: skip
    move = Trigger(id="move", when=EveryMetres(metres=0.1), only=Only(slowest=0.5),
                   often=Often(cool_down=0.5, jitter=0.5), response=step)  # fmt: skip
    window.session.edit("dust", lambda p: with_trigger(with_trigger(p, run), move))
    press(window, KEY.Key_W, KEY.Key_Shift)
    there(qtbot, window, lambda rendered: rendered.centre[2] > 9)
    release(window, KEY.Key_W, KEY.Key_Shift)
    there(qtbot, window, lambda rendered: rendered.state == "standing")
    states, records = window.picture.rendered.triggers.states, window.picture.rendered.records
    assert states["run"].fired == -(-states["run"].heard // 2)
    times = sorted(r.start for r in records if r.trigger == "move")
    gaps = [b - a for a, b in pairwise(times)]
    assert len(gaps) >= 3
    assert min(gaps) >= 0.25
    assert max(gaps) <= 0.75 + 0.1
    assert len({round(gap, 3) for gap in gaps}) > 1


def test_a_key_that_a_trigger_waits_for_is_pressed_on_the_picture(qtbot, rehearsing):
    window = rehearsing
    mine = Trigger(id="mine", name="mine", when=OnKey(key="E"), response=(StartEffect(effect="splash"),))
    window.session.edit("key", lambda p: with_trigger(p, mine))
    marks = len(window.session.project.character.clips[0].marks)
    tap(window, KEY.Key_E)
    there(qtbot, window, lambda rendered: rendered.triggers.states.get("mine") is not None)
    assert len(window.session.project.character.clips[0].marks) == marks  # E marks nothing here


def test_the_stage_is_made_and_dragged_with_its_undo(qtbot, rehearsing):
    window = rehearsing
    index, before = window.index("rehearse"), window.session.project
    window.set_playing(False)
    index.add_piece(PIECES["Block to step on"])
    kind, what = window.session.selection
    assert kind == "block"
    assert index.pieces.currentItem().text() == "block"
    piece = window.session.project.stage.pieces[-1]
    (hand, *_) = window.sheet("rehearse").hands
    qtbot.waitUntil(lambda: hand.piece is not None and window.picture.rendered is not None, timeout=30_000)
    window.picture.look_from(200, 40)
    window.picture.near(2.0)
    qtbot.wait(300)
    x, y, _ = window.picture.project(hand.handles(piece)["move"][None])[0]
    start = QPoint(round(x), round(y))
    QTest.mousePress(window.picture, HAND, pos=start)
    for k in range(1, 6):
        QTest.mouseMove(window.picture, start + QPoint(8 * k, 0))
    QTest.mouseRelease(window.picture, HAND, pos=start + QPoint(40, 0))
    moved = window.session.project.stage.pieces[-1]
    assert moved.place != piece.place
    assert moved.place[0] < piece.place[0]  # to the right of who looks along +Z is -X
    assert all(round(part * 10, 6).is_integer() for part in moved.place)
    window.sheet("rehearse").piece.widgets["height"].edited.emit(0.6, True)
    assert window.session.project.stage.pieces[-1].height == 0.6
    window.delete()
    assert what not in [p.id for p in window.session.project.stage.pieces]
    for _ in range(4):
        window.session.undo()
    assert window.session.project == before


def test_a_signal_of_ones_own_is_made_and_dragged(qtbot, rehearsing):
    window = rehearsing
    index = window.index("rehearse")
    index.add_signal()
    (signal,) = window.session.project.signals
    qtbot.waitUntil(lambda: signal.id in index.meters.meters)
    meter = index.meters.meters[signal.id]
    QTest.mouseClick(meter, HAND, pos=QPoint(round(meter.width() * 0.75), 20))
    there(qtbot, window, lambda rendered: rendered.signals.get(signal.id, 0) == pytest.approx(0.75, abs=0.02))
    assert meter.value == pytest.approx(0.75, abs=0.02)
    window.session.undo()
    assert not window.session.project.signals


def test_another_clip_plays_a_role(qtbot, rehearsing):
    window = rehearsing
    roles = window.sheet("rehearse").roles.widgets
    assert roles["strike"].currentText() == "strike (found)"
    roles["strike"].edited.emit("leap", True)
    assert window.session.project.character.driving.strike == "leap"
    tap(window, KEY.Key_J)
    there(qtbot, window, lambda rendered: rendered.state == "striking")
    there(qtbot, window, lambda rendered: rendered.state == "standing")
    assert "thunder-stamp" not in shown(window)


def test_from_the_beginning_forgets_what_was_done(qtbot, rehearsing):
    window = rehearsing
    press(window, KEY.Key_W)
    there(qtbot, window, lambda rendered: rendered.centre[2] > 0.5)
    release(window, KEY.Key_W)
    window.restart()
    there(qtbot, window, lambda rendered: rendered.time < 0.4 and rendered.centre[2] == 0)
    assert window.picture.rendered.states == () or window.picture.rendered.states[-1][1] == "standing"
