"""The timeline by itself: where time lies, and what mouse, wheel and keys do to playhead, marks and view."""

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QContextMenuEvent, QImage, QPainter, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu
from scripts.demo_maker.project import demo_project

from wraithon.desktop.engine.rendered_frame import Figures, RenderedFrame
from wraithon.desktop.session.session import Session
from wraithon.desktop.theme.colours import GROUND, RUST, TEAL
from wraithon.desktop.timeline.lanes import ALIVE_TOP, CLIP_TOP, EVENTS_TOP, FIRINGS_TOP, LEFT, Lanes
from wraithon.desktop.timeline.timeline import Timeline
from wraithon.picture.camera import camera_of
from wraithon.project.character import CharacterUse, ClipUse, Event, Mark
from wraithon.project.edit import find_mark
from wraithon.project.effect import Effect
from wraithon.project.project import ClipRun, Project, Stage, View
from wraithon.stage.firing import FiringRecord

KEYS, HAND = Qt.Key, Qt.MouseButton.LeftButton
CTRL = Qt.KeyboardModifier.ControlModifier
EVENT_Y = EVENTS_TOP + 9
FRAME = 1 / 60


def project():
    """Return a walk with two marks, then a strike with one, played over and over."""
    use = CharacterUse(
        id="halcyon",
        file="halcyon.glb",
        events=(Event(id="step", name="step"), Event(id="hit", name="hit")),
        clips=(
            ClipUse(
                name="walk", marks=(Mark(id="left", event="step", time=0.2), Mark(id="right", event="step", time=0.8))
            ),
            ClipUse(name="strike", marks=(Mark(id="blow", event="hit", time=0.5),)),
        ),
    )
    order = (ClipRun(clip="walk"), ClipRun(clip="strike"))
    return Project(characters=(use,), stage=Stage(order=order, fade=0.0), effects=(Effect(id="dust", name="dust"),))


@pytest.fixture
def timeline(demo, themed):
    session = Session(replace(demo, project=project(), findings=()))
    made = Timeline(session)
    made.resize(880, 200)
    made.show()
    QTest.qWaitForWindowExposed(made)
    made.session = session
    yield made
    made.close()
    made.deleteLater()


def rendered(time=0.0, *, playing=False, records=(), alive=(0, 5, 20, 3)):
    figures = Figures(30.0, 0, 0, 1.0, 1.0, 1, 1.0)
    trace = np.linspace(0, 3, len(alive)), np.array(alive)
    nothing = np.zeros((0, 3), np.float32)
    pixels = np.zeros((8, 8, 4), np.uint8)
    return RenderedFrame(
        pixels,
        time,
        playing,
        True,
        camera_of(View(), (0, 0, 0)),
        {},
        nothing,
        figures,
        records,
        trace,
        (),
        (0.0, 0.0, 0.0),
        1.0,
    )


def mark(timeline, key):
    use = timeline.session.project.character
    return next(m for clip in use.clips for m in clip.marks if m.id == key)


def flag_x(timeline, key):
    return next(flag.x for flag in timeline.flags() if flag.mark.id == key)


def wheel(timeline, notches, x, modifiers=Qt.KeyboardModifier.NoModifier):
    at = QPointF(x, 60)
    event = QWheelEvent(
        at, timeline.mapToGlobal(at), QPoint(), QPoint(0, 120 * notches), Qt.MouseButton.NoButton, modifiers,
        Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(timeline, event)


def drag(timeline, start, end, modifiers=Qt.KeyboardModifier.NoModifier):
    """Drag from a point to another, in three moves."""
    QTest.mousePress(timeline, HAND, modifiers, start)
    for share in (0.3, 0.7, 1.0):
        x, y = (round(a + share * (b - a)) for a, b in zip(start.toTuple(), end.toTuple(), strict=True))
        QTest.mouseMove(timeline, QPoint(x, y))
    QTest.mouseRelease(timeline, HAND, modifiers, end)


# ---- where time lies ------------------------------------------------------------------------------


@pytest.mark.parametrize(("start", "span"), [(0, 8), (2.5, 0.25), (100, 600)])
def test_a_moment_is_drawn_where_it_is_read(start, span):
    lanes = Lanes(start=start, span=span, width=880, height=200)
    assert lanes.x_of(start) == LEFT
    assert lanes.x_of(start + span) == 880 - 8
    for time in np.linspace(start, start + span, 7):
        assert lanes.time_at(lanes.x_of(time)) == pytest.approx(time)
    assert Lanes(width=880).time_at(0) == 0  # no moment before the show


def test_passes_follow_one_another_for_as_long_as_is_in_sight(timeline, halcyon):
    walk, strike = halcyon.clip("walk").seconds, halcyon.clip("strike").seconds
    passes = timeline.passes()
    names = [segment.use.name for _, segment in passes]
    assert names[:4] == ["walk", "strike", "walk", "strike"]
    assert [base for base, _ in passes[:3]] == pytest.approx([0, walk, walk + strike])
    assert passes[-1][0] < 8 <= passes[-1][0] + passes[-1][1].length
    timeline.lanes.start, timeline.lanes.span = walk + 0.1, 0.3
    assert [segment.use.name for _, segment in timeline.passes()] == ["strike"]


def test_each_pass_has_flags_of_its_own(timeline, halcyon):
    period = halcyon.clip("walk").seconds + halcyon.clip("strike").seconds
    flags = [flag for flag in timeline.flags() if flag.mark.id == "right"]
    assert len(flags) >= 2
    assert [flag.x for flag in flags[:2]] == pytest.approx([timeline.x_of(0.8), timeline.x_of(0.8 + period)])
    assert {flag.name for flag in flags} == {"step"}


def test_a_mark_whose_event_is_gone_says_so(timeline):
    timeline.session.set_value("mark", "left", "event", "nobody", "Lose")
    assert {flag.name for flag in timeline.flags() if flag.mark.id == "left"} == {"(no event)"}


# ---- the playhead ---------------------------------------------------------------------------------


@pytest.mark.parametrize("y", [8, CLIP_TOP + 10, FIRINGS_TOP + 10, ALIVE_TOP + 10])
def test_a_click_anywhere_but_on_a_flag_goes_to_its_moment(timeline, qtbot, y):
    with qtbot.waitSignal(timeline.sought) as sought:
        QTest.mouseClick(timeline, HAND, pos=QPoint(472, y))
    assert sought.args == [pytest.approx(timeline.lanes.time_at(472))]
    assert timeline.time == sought.args[0]


def test_a_click_on_the_lanes_names_goes_nowhere(timeline, qtbot):
    with qtbot.assertNotEmitted(timeline.sought):
        QTest.mouseClick(timeline, HAND, pos=QPoint(20, FIRINGS_TOP + 10))


def test_a_drag_seeks_all_along_and_shots_do_not_pull_the_playhead_back(timeline):
    sought = []
    timeline.sought.connect(sought.append)
    QTest.mousePress(timeline, HAND, pos=QPoint(200, 8))
    QTest.mouseMove(timeline, QPoint(300, 8))
    timeline.show_rendered(rendered(0.1))
    assert timeline.time == sought[-1] == pytest.approx(timeline.lanes.time_at(300))
    QTest.mouseRelease(timeline, HAND, pos=QPoint(300, 8))
    timeline.show_rendered(rendered(0.1))
    assert timeline.time == 0.1


@pytest.mark.parametrize(("key", "way"), [(KEYS.Key_Left, -FRAME), (KEYS.Key_Right, FRAME)])
def test_arrows_go_by_one_step_of_the_show(timeline, qtbot, key, way):
    timeline.show_rendered(rendered(1.0))
    timeline.setFocus()
    with qtbot.waitSignal(timeline.sought) as sought:
        QTest.keyClick(timeline, key)
    assert sought.args == [pytest.approx(1 + way)]


def test_nobody_goes_before_the_beginning(timeline, qtbot):
    with qtbot.waitSignal(timeline.sought) as sought:
        QTest.keyClick(timeline, KEYS.Key_Left)
    assert sought.args == [0]


def test_while_playing_the_playhead_stays_in_sight(timeline):
    timeline.show_rendered(rendered(7.4, playing=True))
    assert timeline.lanes.start == 0
    timeline.show_rendered(rendered(7.6, playing=True))
    assert timeline.lanes.start == pytest.approx(7.6 - 0.06 * 8)
    timeline.show_rendered(rendered(2.0, playing=True))
    assert timeline.lanes.start == pytest.approx(2 - 0.06 * 8)
    timeline.lanes.start = 5
    timeline.show_rendered(rendered(1.0))  # paused: where one looks is one's own business
    assert timeline.lanes.start == 5


# ---- zoom -----------------------------------------------------------------------------------------


@pytest.mark.parametrize("notches", [1, -1, 3])
def test_ctrl_and_the_wheel_zoom_about_the_mouse(timeline, notches):
    timeline.lanes.start = 4
    before = timeline.lanes.time_at(500)
    wheel(timeline, notches, 500, CTRL)
    assert timeline.lanes.span == pytest.approx(8 * 0.85**notches)
    assert timeline.lanes.time_at(500) == pytest.approx(before)


@pytest.mark.parametrize(("notches", "span"), [(60, 0.25), (-60, 600)])
def test_zoom_ends_at_a_quarter_of_a_second_and_at_ten_minutes(timeline, notches, span):
    for _ in range(abs(notches)):
        wheel(timeline, notches // abs(notches), 300, CTRL)
    assert timeline.lanes.span == span
    assert timeline.lanes.start >= 0


def test_the_wheel_moves_along_and_not_before_the_beginning(timeline):
    wheel(timeline, -2, 300)
    assert timeline.lanes.start == pytest.approx(2 * 0.12 * 8)
    wheel(timeline, 5, 300)
    assert timeline.lanes.start == 0


@pytest.mark.parametrize(("key", "factor"), [(KEYS.Key_Plus, 0.8), (KEYS.Key_Equal, 0.8), (KEYS.Key_Minus, 1.25)])
def test_keys_zoom_about_the_playhead(timeline, key, factor):
    timeline.show_rendered(rendered(3.0))
    before = timeline.x_of(3.0)
    QTest.keyClick(timeline, key)
    assert timeline.lanes.span == pytest.approx(8 * factor)
    assert timeline.x_of(3.0) == pytest.approx(before) or timeline.lanes.start == 0


# ---- marks ----------------------------------------------------------------------------------------


def test_a_click_on_a_flag_selects_it_and_moves_nothing(timeline):
    before = timeline.session.project
    QTest.mouseClick(timeline, HAND, pos=QPoint(round(flag_x(timeline, "right")) + 3, EVENT_Y))
    assert timeline.session.selection == ("mark", "right")
    assert timeline.session.project is before


def test_a_dragged_mark_stands_on_whole_frames_in_one_step_of_undo(timeline):
    start = QPoint(round(flag_x(timeline, "right")), EVENT_Y)
    end = QPoint(round(timeline.x_of(0.55)), EVENT_Y)
    drag(timeline, start, end)
    time = mark(timeline, "right").time
    assert time == pytest.approx(0.55, abs=FRAME)
    assert time * 60 == pytest.approx(round(time * 60), abs=1e-6)
    assert timeline.session.history.undo_label == "Move mark"
    timeline.session.undo()
    assert mark(timeline, "right").time == 0.8
    assert timeline.session.history.undo_label is None


@pytest.mark.parametrize(("to", "time"), [(-1.0, 0.0), (5.0, None)])
def test_a_mark_stays_on_its_clip(timeline, halcyon, to, time):
    drag(timeline, QPoint(round(flag_x(timeline, "right")), EVENT_Y), QPoint(round(timeline.x_of(to)), EVENT_Y))
    wanted = halcyon.clip("walk").seconds - 1e-3 if time is None else time
    assert mark(timeline, "right").time == pytest.approx(wanted, abs=1e-4)


def test_a_later_pass_is_as_good_a_handle(timeline, halcyon):
    period = halcyon.clip("walk").seconds + halcyon.clip("strike").seconds
    y = EVENT_Y
    drag(
        timeline, QPoint(round(timeline.x_of(period + 0.8)) + 2, y), QPoint(round(timeline.x_of(period + 0.4)) + 2, y)
    )
    assert mark(timeline, "right").time == pytest.approx(0.4, abs=2 * FRAME)


def test_ctrl_and_drag_leaves_the_mark_and_moves_a_copy(timeline):
    drag(timeline, QPoint(round(flag_x(timeline, "left")), EVENT_Y), QPoint(round(timeline.x_of(0.5)), EVENT_Y), CTRL)
    times = sorted(m.time for m in timeline.session.project.character.clips[0].marks)
    assert times == pytest.approx([0.2, 0.5, 0.8], abs=FRAME)
    assert len({m.id for m in timeline.session.project.character.clips[0].marks}) == 3
    assert timeline.session.selection[1] not in {"left", "right"}


@pytest.mark.parametrize(("key", "way"), [(KEYS.Key_Left, -FRAME), (KEYS.Key_Right, FRAME)])
def test_arrows_nudge_the_selected_mark_and_not_the_playhead(timeline, qtbot, key, way):
    timeline.session.select("mark", "blow")
    with qtbot.assertNotEmitted(timeline.sought):
        QTest.keyClick(timeline, key)
    assert mark(timeline, "blow").time == pytest.approx(0.5 + way, abs=1e-4)


@pytest.mark.parametrize("key", [KEYS.Key_Delete, KEYS.Key_Backspace])
def test_delete_takes_the_mark_and_leaves_its_event(timeline, key):
    timeline.session.select("mark", "blow")
    QTest.keyClick(timeline, key)
    assert timeline.session.project.character.clips[1].marks == ()
    assert [event.id for event in timeline.session.project.character.events] == ["step", "hit"]
    assert timeline.session.selection == ("", "")
    timeline.session.undo()
    assert mark(timeline, "blow").time == 0.5


def test_a_double_click_in_the_lane_marks_a_new_event_there(timeline):
    x = round(timeline.x_of(0.7))
    QTest.mouseDClick(timeline, HAND, pos=QPoint(x, EVENT_Y))
    marks = timeline.session.project.character.clips[0].marks
    (new,) = [m for m in marks if m.id not in {"left", "right"}]
    assert new.time == pytest.approx(timeline.lanes.time_at(x), abs=1e-4)
    assert timeline.session.project.event(new.event).name == "event"
    assert timeline.session.selection == ("mark", new.id)


def test_a_selected_event_is_what_is_marked(timeline):
    timeline.session.select("event", "hit")
    timeline.mark_at(0.35)
    marks = timeline.session.project.character.clips[0].marks
    assert {m.event for m in marks if m.id not in {"left", "right"}} == {"hit"}
    assert timeline.session.history.undo_label == "Mark hit"


def test_without_a_clip_marking_says_what_to_do(timeline, qtbot, demo):
    alone = Timeline(Session(replace(demo, project=Project(), findings=())))
    with qtbot.waitSignal(alone._session.said) as said:
        alone.mark_here()
    assert said.args == ["Play a clip first: events are marked on clips", "warning"]
    alone.deleteLater()


# ---- names and menus ------------------------------------------------------------------------------


@pytest.mark.parametrize("way", ["double click", "F2"])
def test_an_event_is_renamed_over_its_flag(timeline, way):
    x = round(flag_x(timeline, "right")) + 4
    if way == "F2":
        timeline.session.select("mark", "right")
        QTest.keyClick(timeline, KEYS.Key_F2)
    else:
        QTest.mouseDClick(timeline, HAND, pos=QPoint(x, EVENT_Y))
    assert timeline._name.isVisible()
    assert timeline._name.text() == "step"
    QTest.keyClicks(timeline._name, "footfall")
    QTest.keyClick(timeline._name, KEYS.Key_Return)
    assert not timeline._name.isVisible()
    assert timeline.session.project.event("step").name == "footfall"
    assert timeline.session.history.undo_label == "Rename event to footfall"


@pytest.mark.parametrize("typed", ["", "   ", "step"])
def test_no_name_and_the_same_name_change_nothing(timeline, typed):
    before = timeline.session.project
    timeline.rename_event(timeline.flags()[0])
    timeline._name.setText(typed)
    QTest.keyClick(timeline._name, KEYS.Key_Return)
    assert timeline.session.project is before


@pytest.mark.parametrize(
    ("key", "text"),
    [
        ("left", ["Rename event", "Duplicate mark", "Delete mark"]),
        (None, ["Mark an event here", "Play round from here"]),
    ],
)
def test_the_menu_offers_what_can_be_done_there(timeline, key, text):
    x = round(flag_x(timeline, key)) + 2 if key else round(timeline.x_of(0.7))
    at = QPoint(x, EVENT_Y)
    QApplication.sendEvent(timeline, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, timeline.mapToGlobal(at)))
    (menu,) = timeline.findChildren(QMenu)
    assert [action.text() for action in menu.actions()] == text
    before = len(timeline.session.project.character.clips[0].marks)
    menu.actions()[1 if key else 0].trigger()
    assert len(timeline.session.project.character.clips[0].marks) == before + 1
    menu.close()


def test_a_flag_under_the_mouse_says_when_and_what_can_be_done(timeline):
    QTest.mouseMove(timeline, QPoint(round(flag_x(timeline, "left")) + 3, EVENT_Y))
    assert timeline.toolTip().startswith("step: 0.200 s on walk\n")
    assert timeline.cursor().shape() is Qt.CursorShape.SizeHorCursor
    QTest.mouseMove(timeline, QPoint(round(timeline.x_of(0.7)), EVENT_Y))
    assert timeline.toolTip() == ""
    QTest.mouseMove(timeline, QPoint(round(timeline.x_of(0.7)), 6))
    assert "Shift + drag" in timeline.toolTip()
    assert timeline.cursor().shape() is Qt.CursorShape.ArrowCursor


# ---- what is painted ------------------------------------------------------------------------------


def painted(timeline):
    """Return the timeline's pixels (H, W, 3)."""
    image = timeline.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : image.width() * 3].reshape(image.height(), image.width(), 3).astype(int)


def like(pixels, colour, within=40):
    wanted = [int(colour[i : i + 2], 16) for i in (1, 3, 5)]
    return np.abs(pixels - wanted).max(axis=-1) <= within


def test_the_playhead_stands_at_its_moment(timeline):
    timeline.show_rendered(rendered(2.0))
    pixels = painted(timeline)
    x = round(timeline.x_of(2.0))
    rust = pixels[FIRINGS_TOP + 40, :, 0] - pixels[FIRINGS_TOP + 40, :, 2] > 60
    assert x - 2 <= np.flatnonzero(rust).mean() <= x + 2


def test_a_firing_is_a_bar_from_its_start_to_its_last_death(timeline):
    records = (
        FiringRecord("dust", 0, "trigger", 1.0, 2.0, 5),
        FiringRecord("dust", 1, "trigger", 1.5, None, 5),
        FiringRecord("dust", 2, "trigger", 20.0, 21.0, 5),
    )
    timeline.show_rendered(rendered(3.0, records=records))
    pixels = painted(timeline)
    over, alive = pixels[FIRINGS_TOP + 4], pixels[FIRINGS_TOP + 17]
    ended = np.flatnonzero(like(over, "#2e6a63", 12))
    assert (ended.min(), ended.max()) == pytest.approx((timeline.x_of(1), timeline.x_of(2)), abs=3)
    living = np.flatnonzero(like(alive[2:-2], "#39b5a6", 12)) + 2  # in a row of its own, for they overlap
    assert (living.min(), living.max()) == pytest.approx((timeline.x_of(1.5), timeline.x_of(3)), abs=3)


def test_the_curve_of_the_living_rises_and_falls_with_them(timeline):
    timeline.show_rendered(rendered(4.0, alive=(0, 0, 40, 0, 0)))
    pixels = painted(timeline)[ALIVE_TOP + 3 :]
    ground = pixels[3, round(timeline.x_of(3.5))]
    tall = [(np.abs(pixels[:, round(timeline.x_of(t))] - ground).max(axis=-1) > 12).sum() for t in (0.3, 1.5, 2.7)]
    assert tall[1] > 3 * max(tall[0], tall[2])


def test_an_empty_timeline_says_where_clips_will_be(demo, themed):
    alone = Timeline(Session(replace(demo, project=Project(), findings=())))
    alone.resize(880, 200)
    assert alone.passes() == []
    assert alone.flags() == []
    clip = painted(alone)[CLIP_TOP + 4 : EVENTS_TOP - 4, LEFT:]
    assert (np.ptp(clip.reshape(-1, 3), axis=0) > 60).any()  # words
    alone.deleteLater()


# ---- the running order ----------------------------------------------------------------------------


def order(timeline):
    return [(clip_run.clip, clip_run.times) for clip_run in timeline.session.project.stage.order]


def on_clip(timeline, time):
    return QPoint(round(timeline.x_of(time)), CLIP_TOP + 12)


def test_a_click_on_a_clip_selects_its_entry_and_goes_there(timeline, qtbot):
    with qtbot.waitSignal(timeline.sought):
        QTest.mouseClick(timeline, HAND, pos=on_clip(timeline, 1.4))
    assert timeline.session.selection == ("clip run", "1")
    assert timeline.session.project.stage.order[1].clip == "strike"


@pytest.mark.parametrize(
    ("keys", "wanted"),
    [
        ([(KEYS.Key_Delete, None)], [("walk", 1)]),
        ([(KEYS.Key_Left, CTRL)], [("strike", 1), ("walk", 1)]),
        ([(KEYS.Key_Left, CTRL), (KEYS.Key_Right, CTRL)], [("walk", 1), ("strike", 1)]),
        ([(KEYS.Key_Right, CTRL)], [("walk", 1), ("strike", 1)]),
        ([(KEYS.Key_Asterisk, None)] * 2, [("walk", 1), ("strike", 3)]),
        ([(KEYS.Key_Slash, None)], [("walk", 1), ("strike", 1)]),
    ],
)
def test_the_running_order_is_edited_by_keys(timeline, keys, wanted):
    QTest.mouseClick(timeline, HAND, pos=on_clip(timeline, 1.4))
    for key, modifier in keys:
        QTest.keyClick(timeline, key, modifier or Qt.KeyboardModifier.NoModifier)
    assert order(timeline) == wanted


def test_the_running_order_is_edited_by_mouse_and_undone(timeline):
    at = on_clip(timeline, 0.4)
    QApplication.sendEvent(timeline, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, timeline.mapToGlobal(at)))
    (menu,) = timeline.findChildren(QMenu)
    text = [action.text().split("\t")[0] for action in menu.actions()]
    assert text == [
        "Play it once more", "Play it once less", "Play it earlier", "Play it later", "Remove it from the order",
    ]  # fmt: skip
    menu.actions()[0].trigger()
    menu.actions()[3].trigger()
    assert order(timeline) == [("strike", 1), ("walk", 2)]
    assert timeline.session.selection == ("clip run", "1")
    timeline.session.undo()
    timeline.session.undo()
    assert order(timeline) == [("walk", 1), ("strike", 1)]
    menu.close()


def test_the_last_entry_may_go_too(timeline):
    for _ in range(2):
        QTest.mouseClick(timeline, HAND, pos=on_clip(timeline, 0.3))
        QTest.keyClick(timeline, KEYS.Key_Delete)
    assert order(timeline) == []
    QTest.keyClick(timeline, KEYS.Key_Delete)
    assert timeline.clip_run_at(QPointF(on_clip(timeline, 0.3))) == -1


# ---- playing round ------------------------------------------------------------------------------

SHIFT = Qt.KeyboardModifier.ShiftModifier


def lay_out(timeline, start, end, modifiers, y=6, *, let_go=True):
    """Drag in the ruler from one moment to another."""
    QTest.mousePress(timeline, HAND, modifiers, QPoint(round(timeline.x_of(start)), y))
    for share in (0.5, 1.0):
        QTest.mouseMove(timeline, QPoint(round(timeline.x_of(start + share * (end - start))), y))
    if let_go:
        QTest.mouseRelease(timeline, HAND, modifiers, QPoint(round(timeline.x_of(end)), y))


def test_shift_and_a_drag_lay_out_what_is_played_round_on_whole_steps(timeline):
    heard, sought = [], []
    timeline.rounds.changed.connect(lambda *stretch: heard.append(stretch))
    timeline.sought.connect(sought.append)
    was = timeline.session.project
    lay_out(timeline, 2.0, 1.0, SHIFT)
    start, end = timeline.rounds.stretch
    rate = timeline.session.project.step_rate
    assert start == pytest.approx(1.0, abs=FRAME)
    assert end == pytest.approx(2.0, abs=FRAME)
    assert (start * rate) % 1 == pytest.approx(0, abs=1e-9)
    assert heard[-1] == (start, end)
    assert sought == []  # the playhead stays
    assert timeline.session.project is was  # and nothing of it is the project's


def test_a_stretch_is_never_shorter_than_a_step(timeline):
    lay_out(timeline, 1.0, 1.0, SHIFT)
    start, end = timeline.rounds.stretch
    assert end - start == pytest.approx(1 / timeline.session.project.step_rate)


def test_escape_gives_a_stretch_up_and_brings_back_the_one_before(timeline):
    timeline.rounds.lay(0.5, 0.75)
    lay_out(timeline, 1.0, 2.0, SHIFT, let_go=False)
    QTest.keyClick(timeline, KEYS.Key_Escape)
    assert timeline.rounds.stretch == (0.5, 0.75)
    QTest.mouseRelease(timeline, HAND, SHIFT, QPoint(round(timeline.x_of(2.0)), 6))
    assert timeline.rounds.stretch == (0.5, 0.75)


def test_the_pass_at_the_playhead_is_played_round_and_once_more_ends_it(timeline):
    walk = next(s for _, s in timeline.passes() if s.use.name == "walk")
    timeline.time = walk.length + 0.2
    timeline.play_round()
    start, end = timeline.rounds.stretch
    assert start == pytest.approx(walk.length, abs=FRAME)
    strike = next(s for _, s in timeline.passes() if s.use.name == "strike")
    assert end - start == pytest.approx(strike.length, abs=FRAME)
    timeline.play_round()
    assert timeline.rounds.stretch == (0.0, 0.0)


def test_another_project_is_played_on(timeline, demo):
    timeline.rounds.lay(1, 2)
    timeline.session.open(demo, None)
    assert timeline.rounds.stretch == (0.0, 0.0)


def test_the_stretch_is_seen_in_the_ruler(timeline):
    def teal():
        image = timeline.grab().toImage()
        inside = image.pixelColor(round(timeline.x_of(1.5)), 14)
        outside = image.pixelColor(round(timeline.x_of(2.5)), 14)
        return inside.green() - outside.green()

    assert teal() == 0
    timeline.rounds.lay(1.0, 2.0)
    assert teal() > 15


def test_the_menu_offers_to_play_round_from_and_up_to_a_moment(timeline):
    menu = QMenu()
    timeline.rounds.fill(menu, 1.0)
    menu.actions()[0].trigger()
    assert timeline.rounds.stretch == (1.0, 2.0)
    menu.clear()
    timeline.rounds.fill(menu, 1.5)
    assert [a.text().split("\t")[0] for a in menu.actions()] == [
        "Play round from here", "Loop up to here", "Play on, not round",
    ]  # fmt: skip
    menu.actions()[1].trigger()
    assert timeline.rounds.stretch == (1.0, 1.5)
    menu.actions()[2].trigger()
    assert timeline.rounds.stretch == (0.0, 0.0)


# ---- firings --------------------------------------------------------------------------------------


def bars(records, time=1.0):
    """Return which of the four rows show a bar at half a second, and in which colours."""
    image, lanes = QImage(400, 200, QImage.Format.Format_RGB32), Lanes()
    lanes.width, lanes.height, lanes.start, lanes.span = 400, 200, 0.0, 2.0
    image.fill(QColor(GROUND))
    painter = QPainter(image)
    lanes.paint_firings(painter, SimpleNamespace(records=records), demo_project(), time)
    painter.end()
    x = round(lanes.x_of(0.9))
    return [image.pixelColor(x, round(FIRINGS_TOP + 4 + row * 12.5)).name() for row in range(4)]


def fired(effect, number, start=0.0, end=None):
    return FiringRecord(effect, number, "", start, end, 5)


def test_firings_that_are_alike_share_a_bar():
    living, over = QColor(TEAL).name(), "#2e6a63"
    both = fired("tread", 0), fired("tread", 1)
    assert bars(both)[0] == living
    assert bars(both)[1] == bars([])[1]
    assert bars((fired("tread", 0), fired("drizzle", 0)))[:2] == [living, living]
    assert bars((fired("tread", 0), fired("tread", 1, start=0.2)))[:2] == [living, living]
    # It lives as long as one of them does.
    assert bars((fired("tread", 0, end=0.5), fired("tread", 1)))[0] == living
    assert bars((fired("tread", 0, end=0.5), fired("tread", 1, end=1.0)))[0] == over


def test_a_flag_stands_out_as_its_clip_passes_it_and_not_for_long(timeline):
    lit = []
    for time in (0.1, 0.25, 0.45, 0.6, 0.85):
        timeline.show_rendered(rendered(time, playing=True))
        lit.append([flag.mark.id for flag in timeline.lit])
    assert lit == [[], ["left"], ["left"], [], ["right"]]
    picture = timeline.grab().toImage()
    (flag,) = timeline.lit
    assert picture.pixelColor(round(flag.x) + 3, EVENT_Y) == QColor(RUST)
    timeline.show_rendered(rendered(0.85))
    assert timeline.lit == []


# ---- several flags ----------------------------------------------------------------------------------


def flag_of(timeline, mark):
    flag = next(f for f in timeline.flags() if f.mark.id == mark)
    return QPoint(round(flag.x) + 2, EVENT_Y)


def times_of(session, *marks):
    return [find_mark(session.project, mark).mark.time for mark in marks]


def test_several_flags_are_taken_moved_nudged_and_removed_at_one_stroke_each(timeline):
    session, both = timeline._session, ("left", "right")
    before = session.project
    start = times_of(session, *both)
    QTest.mouseClick(timeline, HAND, pos=flag_of(timeline, both[0]))
    QTest.mouseClick(timeline, HAND, CTRL, pos=flag_of(timeline, both[1]))
    assert timeline.flag.chosen == set(both)
    at = flag_of(timeline, both[0])
    QTest.mousePress(timeline, HAND, pos=at)
    for k in range(1, 5):
        QTest.mouseMove(timeline, at + QPoint(6 * k, 0))
    QTest.mouseRelease(timeline, HAND, pos=at + QPoint(24, 0))
    moved = [b - a for a, b in zip(start, times_of(session, *both), strict=True)]
    assert moved[0] > 0.05
    assert moved[1] == pytest.approx(moved[0], abs=2e-4)
    session.undo()
    assert session.project == before
    QTest.mouseClick(timeline, HAND, pos=flag_of(timeline, both[0]))
    QTest.mouseClick(timeline, HAND, CTRL, pos=flag_of(timeline, both[1]))
    QTest.keyClick(timeline, KEYS.Key_Right)
    nudged = times_of(session, *both)
    np.testing.assert_allclose(nudged, np.array(start) + 1 / 60, atol=1e-4)
    QTest.keyClick(timeline, KEYS.Key_Delete)
    assert all(find_mark(session.project, mark) is None for mark in both)
    session.undo()
    assert times_of(session, *both) == nudged


def test_a_second_control_click_lets_go_of_a_flag_and_a_plain_click_takes_one_alone(timeline):
    both = ("left", "right")
    QTest.mouseClick(timeline, HAND, pos=flag_of(timeline, both[0]))
    for _ in range(2):
        QTest.mouseClick(timeline, HAND, CTRL, pos=flag_of(timeline, both[1]))
    assert timeline.flag.chosen == {both[0]}
    QTest.mouseClick(timeline, HAND, CTRL, pos=flag_of(timeline, both[1]))
    QTest.mouseClick(timeline, HAND, pos=flag_of(timeline, both[1]))
    QTest.mousePress(timeline, HAND, pos=flag_of(timeline, both[1]))
    QTest.keyClick(timeline, KEYS.Key_Escape)
    assert timeline.flag.dragged is None


def test_flags_are_put_anew_only_where_something_of_them_has_changed(timeline):
    flags = timeline.flags()
    assert [(flag.name, flag.clip) for flag in flags[:3]] == [("step", "walk"), ("step", "walk"), ("hit", "strike")]
    timeline.session.edit("exposure", lambda p: p.evolve(exposure=1.4))
    assert timeline.flags() is flags
    timeline.session.set_value("event", "hit", "name", "blow", "Rename event to blow")
    assert [flag.name for flag in timeline.flags()[:3]] == ["step", "step", "blow"]
    before = timeline.flags()[1].x
    timeline.session.set_value("mark", "right", "time", 0.6, "Move mark")
    assert timeline.flags()[1].x < before
    timeline.zoom(0.5, LEFT)
    assert timeline.flags()[1].x > before


# ---- what is in sight ----------------------------------------------------------------------------


def test_fit_shows_the_whole_running_order(timeline):
    period = timeline._performance.period
    timeline.lanes.start, timeline.lanes.span = 5.0, 0.5
    timeline.fit()
    assert timeline.lanes.start == 0.0
    assert timeline.lanes.span == pytest.approx(1.04 * period)
    timeline.zoom_in()
    assert timeline.lanes.span == pytest.approx(0.8 * 1.04 * period)
    timeline.zoom_out()
    assert timeline.lanes.span == pytest.approx(1.04 * period)


def test_the_bar_shows_what_is_seen_and_moves_it(timeline):
    timeline.lanes.start, timeline.lanes.span = 0.5, 1.0
    timeline.repaint()
    period = timeline._performance.period
    bar = timeline.bar
    assert (bar.value(), bar.pageStep(), bar.maximum()) == (500, 1000, round((period - 1.0) * 1000))
    bar.setValue(700)
    assert timeline.lanes.start == 0.7
    QTest.mouseClick(bar, Qt.MouseButton.LeftButton, pos=QPoint(bar.width() - 14, 5))
    assert timeline.lanes.start > 0.7


@pytest.mark.parametrize(("x", "later"), [(20, True), (-60, False)])
def test_a_drag_beyond_an_edge_goes_on(timeline, qtbot, x, later):
    timeline.lanes.start, timeline.lanes.span = 2.0, 2.0
    beyond = timeline.width() + x if later else x
    QTest.mousePress(timeline, Qt.MouseButton.LeftButton, pos=QPoint(timeline.width() // 2, 8))
    QTest.mouseMove(timeline, QPoint(beyond, 8))
    qtbot.waitUntil(lambda: abs(timeline.lanes.start - 2.0) > 0.3, timeout=5000)
    assert (timeline.lanes.start > 2.0) == later
    wanted = timeline.lanes.start + timeline.lanes.span if later else timeline.lanes.start
    assert timeline.time == pytest.approx(wanted, abs=0.25)
    QTest.mouseRelease(timeline, Qt.MouseButton.LeftButton, pos=QPoint(beyond, 8))
    there = timeline.lanes.start
    qtbot.wait(150)
    assert timeline.lanes.start == there
    assert not timeline._beyond.isActive()


def test_a_mark_is_dragged_out_of_sight(timeline, qtbot):
    key = next(flag.mark.id for flag in timeline.flags())
    QTest.mousePress(timeline, Qt.MouseButton.LeftButton, pos=QPoint(round(flag_x(timeline, key)) + 3, 60))
    QTest.mouseMove(timeline, QPoint(timeline.width() + 90, 60))
    qtbot.waitUntil(lambda: timeline.lanes.start > 0.2, timeout=5000)
    QTest.mouseRelease(timeline, Qt.MouseButton.LeftButton, pos=QPoint(timeline.width() + 90, 60))
    assert not timeline._beyond.isActive()
