"""The score by itself: where time lies, and what mouse, wheel and keys do to playhead, marks and view."""

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QContextMenuEvent, QImage, QPainter, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu

from wraithon.demo.project import demo_project
from wraithon.desktop.engine.shot import Figures, Shot
from wraithon.desktop.score.lanes import ALIVE_TOP, CLIP_TOP, EVENTS_TOP, FIRINGS_TOP, LEFT, Lanes
from wraithon.desktop.score.score import Score
from wraithon.desktop.session.session import Session
from wraithon.desktop.theme.colours import GROUND, RUST, TEAL
from wraithon.picture.camera import camera_of
from wraithon.project.character import CharacterUse, ClipUse, Event, Mark
from wraithon.project.edit import find_mark
from wraithon.project.effect import Effect
from wraithon.project.project import Cue, Project, Stage, View
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
    order = (Cue(clip="walk"), Cue(clip="strike"))
    return Project(characters=(use,), stage=Stage(order=order, fade=0.0), effects=(Effect(id="dust", name="dust"),))


@pytest.fixture
def score(demo, themed):
    session = Session(replace(demo, project=project(), findings=()))
    made = Score(session)
    made.resize(880, 200)
    made.show()
    QTest.qWaitForWindowExposed(made)
    made.session = session
    yield made
    made.close()
    made.deleteLater()


def shot(time=0.0, *, playing=False, records=(), alive=(0, 5, 20, 3)):
    figures = Figures(30.0, 0, 0, 1.0, 1.0, 1, 1.0)
    trace = np.linspace(0, 3, len(alive)), np.array(alive)
    nothing = np.zeros((0, 3), np.float32)
    pixels = np.zeros((8, 8, 4), np.uint8)
    return Shot(
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


def mark(score, key):
    use = score.session.project.character
    return next(m for clip in use.clips for m in clip.marks if m.id == key)


def flag_x(score, key):
    return next(flag.x for flag in score.flags() if flag.mark.id == key)


def wheel(score, notches, x, modifiers=Qt.KeyboardModifier.NoModifier):
    at = QPointF(x, 60)
    event = QWheelEvent(
        at, score.mapToGlobal(at), QPoint(), QPoint(0, 120 * notches), Qt.MouseButton.NoButton, modifiers,
        Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(score, event)


def drag(score, start, end, modifiers=Qt.KeyboardModifier.NoModifier):
    """Drag from a point to another, in three moves."""
    QTest.mousePress(score, HAND, modifiers, start)
    for share in (0.3, 0.7, 1.0):
        x, y = (round(a + share * (b - a)) for a, b in zip(start.toTuple(), end.toTuple(), strict=True))
        QTest.mouseMove(score, QPoint(x, y))
    QTest.mouseRelease(score, HAND, modifiers, end)


# ---- where time lies ------------------------------------------------------------------------------


@pytest.mark.parametrize(("start", "span"), [(0, 8), (2.5, 0.25), (100, 600)])
def test_a_moment_is_drawn_where_it_is_read(start, span):
    lanes = Lanes(start=start, span=span, width=880, height=200)
    assert lanes.x_of(start) == LEFT
    assert lanes.x_of(start + span) == 880 - 8
    for time in np.linspace(start, start + span, 7):
        assert lanes.time_at(lanes.x_of(time)) == pytest.approx(time)
    assert Lanes(width=880).time_at(0) == 0  # no moment before the show


def test_passes_follow_one_another_for_as_long_as_is_in_sight(score, halcyon):
    walk, strike = halcyon.clip("walk").seconds, halcyon.clip("strike").seconds
    passes = score.passes()
    names = [segment.use.name for _, segment in passes]
    assert names[:4] == ["walk", "strike", "walk", "strike"]
    assert [base for base, _ in passes[:3]] == pytest.approx([0, walk, walk + strike])
    assert passes[-1][0] < 8 <= passes[-1][0] + passes[-1][1].length
    score.lanes.start, score.lanes.span = walk + 0.1, 0.3
    assert [segment.use.name for _, segment in score.passes()] == ["strike"]


def test_each_pass_has_flags_of_its_own(score, halcyon):
    period = halcyon.clip("walk").seconds + halcyon.clip("strike").seconds
    flags = [flag for flag in score.flags() if flag.mark.id == "right"]
    assert len(flags) >= 2
    assert [flag.x for flag in flags[:2]] == pytest.approx([score.x_of(0.8), score.x_of(0.8 + period)])
    assert {flag.name for flag in flags} == {"step"}


def test_a_mark_whose_event_is_gone_says_so(score):
    score.session.put("mark", "left", "event", "nobody", "Lose")
    assert {flag.name for flag in score.flags() if flag.mark.id == "left"} == {"(no event)"}


# ---- the playhead ---------------------------------------------------------------------------------


@pytest.mark.parametrize("y", [8, CLIP_TOP + 10, FIRINGS_TOP + 10, ALIVE_TOP + 10])
def test_a_click_anywhere_but_on_a_flag_goes_to_its_moment(score, qtbot, y):
    with qtbot.waitSignal(score.sought) as sought:
        QTest.mouseClick(score, HAND, pos=QPoint(472, y))
    assert sought.args == [pytest.approx(score.lanes.time_at(472))]
    assert score.time == sought.args[0]


def test_a_click_on_the_lanes_names_goes_nowhere(score, qtbot):
    with qtbot.assertNotEmitted(score.sought):
        QTest.mouseClick(score, HAND, pos=QPoint(20, FIRINGS_TOP + 10))


def test_a_drag_seeks_all_along_and_shots_do_not_pull_the_playhead_back(score):
    sought = []
    score.sought.connect(sought.append)
    QTest.mousePress(score, HAND, pos=QPoint(200, 8))
    QTest.mouseMove(score, QPoint(300, 8))
    score.show_shot(shot(0.1))
    assert score.time == sought[-1] == pytest.approx(score.lanes.time_at(300))
    QTest.mouseRelease(score, HAND, pos=QPoint(300, 8))
    score.show_shot(shot(0.1))
    assert score.time == 0.1


@pytest.mark.parametrize(("key", "way"), [(KEYS.Key_Left, -FRAME), (KEYS.Key_Right, FRAME)])
def test_arrows_go_by_one_step_of_the_show(score, qtbot, key, way):
    score.show_shot(shot(1.0))
    score.setFocus()
    with qtbot.waitSignal(score.sought) as sought:
        QTest.keyClick(score, key)
    assert sought.args == [pytest.approx(1 + way)]


def test_nobody_goes_before_the_beginning(score, qtbot):
    with qtbot.waitSignal(score.sought) as sought:
        QTest.keyClick(score, KEYS.Key_Left)
    assert sought.args == [0]


def test_while_playing_the_playhead_stays_in_sight(score):
    score.show_shot(shot(7.4, playing=True))
    assert score.lanes.start == 0
    score.show_shot(shot(7.6, playing=True))
    assert score.lanes.start == pytest.approx(7.6 - 0.06 * 8)
    score.show_shot(shot(2.0, playing=True))
    assert score.lanes.start == pytest.approx(2 - 0.06 * 8)
    score.lanes.start = 5
    score.show_shot(shot(1.0))  # paused: where one looks is one's own business
    assert score.lanes.start == 5


# ---- zoom -----------------------------------------------------------------------------------------


@pytest.mark.parametrize("notches", [1, -1, 3])
def test_ctrl_and_the_wheel_zoom_about_the_mouse(score, notches):
    score.lanes.start = 4
    before = score.lanes.time_at(500)
    wheel(score, notches, 500, CTRL)
    assert score.lanes.span == pytest.approx(8 * 0.85**notches)
    assert score.lanes.time_at(500) == pytest.approx(before)


@pytest.mark.parametrize(("notches", "span"), [(60, 0.25), (-60, 600)])
def test_zoom_ends_at_a_quarter_of_a_second_and_at_ten_minutes(score, notches, span):
    for _ in range(abs(notches)):
        wheel(score, notches // abs(notches), 300, CTRL)
    assert score.lanes.span == span
    assert score.lanes.start >= 0


def test_the_wheel_moves_along_and_not_before_the_beginning(score):
    wheel(score, -2, 300)
    assert score.lanes.start == pytest.approx(2 * 0.12 * 8)
    wheel(score, 5, 300)
    assert score.lanes.start == 0


@pytest.mark.parametrize(("key", "factor"), [(KEYS.Key_Plus, 0.8), (KEYS.Key_Equal, 0.8), (KEYS.Key_Minus, 1.25)])
def test_keys_zoom_about_the_playhead(score, key, factor):
    score.show_shot(shot(3.0))
    before = score.x_of(3.0)
    QTest.keyClick(score, key)
    assert score.lanes.span == pytest.approx(8 * factor)
    assert score.x_of(3.0) == pytest.approx(before) or score.lanes.start == 0


# ---- marks ----------------------------------------------------------------------------------------


def test_a_click_on_a_flag_selects_it_and_moves_nothing(score):
    before = score.session.project
    QTest.mouseClick(score, HAND, pos=QPoint(round(flag_x(score, "right")) + 3, EVENT_Y))
    assert score.session.selection == ("mark", "right")
    assert score.session.project is before


def test_a_dragged_mark_stands_on_whole_frames_in_one_step_of_undo(score):
    start = QPoint(round(flag_x(score, "right")), EVENT_Y)
    end = QPoint(round(score.x_of(0.55)), EVENT_Y)
    drag(score, start, end)
    time = mark(score, "right").time
    assert time == pytest.approx(0.55, abs=FRAME)
    assert time * 60 == pytest.approx(round(time * 60), abs=1e-6)
    assert score.session.history.undo_label == "Move mark"
    score.session.undo()
    assert mark(score, "right").time == 0.8
    assert score.session.history.undo_label is None


@pytest.mark.parametrize(("to", "time"), [(-1.0, 0.0), (5.0, None)])
def test_a_mark_stays_on_its_clip(score, halcyon, to, time):
    drag(score, QPoint(round(flag_x(score, "right")), EVENT_Y), QPoint(round(score.x_of(to)), EVENT_Y))
    wanted = halcyon.clip("walk").seconds - 1e-3 if time is None else time
    assert mark(score, "right").time == pytest.approx(wanted, abs=1e-4)


def test_a_later_pass_is_as_good_a_handle(score, halcyon):
    period = halcyon.clip("walk").seconds + halcyon.clip("strike").seconds
    y = EVENT_Y
    drag(score, QPoint(round(score.x_of(period + 0.8)) + 2, y), QPoint(round(score.x_of(period + 0.4)) + 2, y))
    assert mark(score, "right").time == pytest.approx(0.4, abs=2 * FRAME)


def test_ctrl_and_drag_leaves_the_mark_and_moves_a_copy(score):
    drag(score, QPoint(round(flag_x(score, "left")), EVENT_Y), QPoint(round(score.x_of(0.5)), EVENT_Y), CTRL)
    times = sorted(m.time for m in score.session.project.character.clips[0].marks)
    assert times == pytest.approx([0.2, 0.5, 0.8], abs=FRAME)
    assert len({m.id for m in score.session.project.character.clips[0].marks}) == 3
    assert score.session.selection[1] not in {"left", "right"}


@pytest.mark.parametrize(("key", "way"), [(KEYS.Key_Left, -FRAME), (KEYS.Key_Right, FRAME)])
def test_arrows_nudge_the_selected_mark_and_not_the_playhead(score, qtbot, key, way):
    score.session.select("mark", "blow")
    with qtbot.assertNotEmitted(score.sought):
        QTest.keyClick(score, key)
    assert mark(score, "blow").time == pytest.approx(0.5 + way, abs=1e-4)


@pytest.mark.parametrize("key", [KEYS.Key_Delete, KEYS.Key_Backspace])
def test_delete_takes_the_mark_and_leaves_its_event(score, key):
    score.session.select("mark", "blow")
    QTest.keyClick(score, key)
    assert score.session.project.character.clips[1].marks == ()
    assert [event.id for event in score.session.project.character.events] == ["step", "hit"]
    assert score.session.selection == ("", "")
    score.session.undo()
    assert mark(score, "blow").time == 0.5


def test_a_double_click_in_the_lane_marks_a_new_event_there(score):
    x = round(score.x_of(0.7))
    QTest.mouseDClick(score, HAND, pos=QPoint(x, EVENT_Y))
    marks = score.session.project.character.clips[0].marks
    (new,) = [m for m in marks if m.id not in {"left", "right"}]
    assert new.time == pytest.approx(score.lanes.time_at(x), abs=1e-4)
    assert score.session.project.event(new.event).name == "event"
    assert score.session.selection == ("mark", new.id)


def test_a_selected_event_is_what_is_marked(score):
    score.session.select("event", "hit")
    score.mark_at(0.35)
    marks = score.session.project.character.clips[0].marks
    assert {m.event for m in marks if m.id not in {"left", "right"}} == {"hit"}
    assert score.session.history.undo_label == "Mark hit"


def test_without_a_clip_marking_says_what_to_do(score, qtbot, demo):
    alone = Score(Session(replace(demo, project=Project(), findings=())))
    with qtbot.waitSignal(alone._session.said) as said:
        alone.mark_here()
    assert said.args == ["Play a clip first: events are marked on clips", "warning"]
    alone.deleteLater()


# ---- names and menus ------------------------------------------------------------------------------


@pytest.mark.parametrize("way", ["double click", "F2"])
def test_an_event_is_renamed_over_its_flag(score, way):
    x = round(flag_x(score, "right")) + 4
    if way == "F2":
        score.session.select("mark", "right")
        QTest.keyClick(score, KEYS.Key_F2)
    else:
        QTest.mouseDClick(score, HAND, pos=QPoint(x, EVENT_Y))
    assert score._name.isVisible()
    assert score._name.text() == "step"
    QTest.keyClicks(score._name, "footfall")
    QTest.keyClick(score._name, KEYS.Key_Return)
    assert not score._name.isVisible()
    assert score.session.project.event("step").name == "footfall"
    assert score.session.history.undo_label == "Rename event to footfall"


@pytest.mark.parametrize("typed", ["", "   ", "step"])
def test_no_name_and_the_same_name_change_nothing(score, typed):
    before = score.session.project
    score.rename_event(score.flags()[0])
    score._name.setText(typed)
    QTest.keyClick(score._name, KEYS.Key_Return)
    assert score.session.project is before


@pytest.mark.parametrize(
    ("key", "words"),
    [
        ("left", ["Rename event", "Duplicate mark", "Delete mark"]),
        (None, ["Mark an event here", "Play round from here"]),
    ],
)
def test_the_menu_offers_what_can_be_done_there(score, key, words):
    x = round(flag_x(score, key)) + 2 if key else round(score.x_of(0.7))
    at = QPoint(x, EVENT_Y)
    QApplication.sendEvent(score, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, score.mapToGlobal(at)))
    (menu,) = score.findChildren(QMenu)
    assert [action.text() for action in menu.actions()] == words
    before = len(score.session.project.character.clips[0].marks)
    menu.actions()[1 if key else 0].trigger()
    assert len(score.session.project.character.clips[0].marks) == before + 1
    menu.close()


def test_a_flag_under_the_mouse_says_when_and_what_can_be_done(score):
    QTest.mouseMove(score, QPoint(round(flag_x(score, "left")) + 3, EVENT_Y))
    assert score.toolTip().startswith("step: 0.200 s on walk\n")
    assert score.cursor().shape() is Qt.CursorShape.SizeHorCursor
    QTest.mouseMove(score, QPoint(round(score.x_of(0.7)), EVENT_Y))
    assert score.toolTip() == ""
    QTest.mouseMove(score, QPoint(round(score.x_of(0.7)), 6))
    assert "Shift + drag" in score.toolTip()
    assert score.cursor().shape() is Qt.CursorShape.ArrowCursor


# ---- what is painted ------------------------------------------------------------------------------


def painted(score):
    """Return the score's pixels (H, W, 3)."""
    image = score.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : image.width() * 3].reshape(image.height(), image.width(), 3).astype(int)


def like(pixels, colour, within=40):
    wanted = [int(colour[i : i + 2], 16) for i in (1, 3, 5)]
    return np.abs(pixels - wanted).max(axis=-1) <= within


def test_the_playhead_stands_at_its_moment(score):
    score.show_shot(shot(2.0))
    pixels = painted(score)
    x = round(score.x_of(2.0))
    rust = pixels[FIRINGS_TOP + 40, :, 0] - pixels[FIRINGS_TOP + 40, :, 2] > 60
    assert x - 2 <= np.flatnonzero(rust).mean() <= x + 2


def test_a_firing_is_a_bar_from_its_start_to_its_last_death(score):
    records = (
        FiringRecord("dust", 0, "trigger", 1.0, 2.0, 5),
        FiringRecord("dust", 1, "trigger", 1.5, None, 5),
        FiringRecord("dust", 2, "trigger", 20.0, 21.0, 5),
    )
    score.show_shot(shot(3.0, records=records))
    pixels = painted(score)
    over, alive = pixels[FIRINGS_TOP + 4], pixels[FIRINGS_TOP + 17]
    ended = np.flatnonzero(like(over, "#2e6a63", 12))
    assert (ended.min(), ended.max()) == pytest.approx((score.x_of(1), score.x_of(2)), abs=3)
    living = np.flatnonzero(like(alive[2:-2], "#39b5a6", 12)) + 2  # in a row of its own, for they overlap
    assert (living.min(), living.max()) == pytest.approx((score.x_of(1.5), score.x_of(3)), abs=3)


def test_the_curve_of_the_living_rises_and_falls_with_them(score):
    score.show_shot(shot(4.0, alive=(0, 0, 40, 0, 0)))
    pixels = painted(score)[ALIVE_TOP + 3 :]
    ground = pixels[3, round(score.x_of(3.5))]
    tall = [(np.abs(pixels[:, round(score.x_of(t))] - ground).max(axis=-1) > 12).sum() for t in (0.3, 1.5, 2.7)]
    assert tall[1] > 3 * max(tall[0], tall[2])


def test_an_empty_score_says_where_clips_will_be(demo, themed):
    alone = Score(Session(replace(demo, project=Project(), findings=())))
    alone.resize(880, 200)
    assert alone.passes() == []
    assert alone.flags() == []
    clip = painted(alone)[CLIP_TOP + 4 : EVENTS_TOP - 4, LEFT:]
    assert (np.ptp(clip.reshape(-1, 3), axis=0) > 60).any()  # words
    alone.deleteLater()


# ---- the running order ----------------------------------------------------------------------------


def order(score):
    return [(cue.clip, cue.times) for cue in score.session.project.stage.order]


def on_clip(score, time):
    return QPoint(round(score.x_of(time)), CLIP_TOP + 12)


def test_a_click_on_a_clip_selects_its_entry_and_goes_there(score, qtbot):
    with qtbot.waitSignal(score.sought):
        QTest.mouseClick(score, HAND, pos=on_clip(score, 1.4))
    assert score.session.selection == ("cue", "1")
    assert score.session.project.stage.order[1].clip == "strike"


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
def test_the_running_order_is_edited_by_keys(score, keys, wanted):
    QTest.mouseClick(score, HAND, pos=on_clip(score, 1.4))
    for key, modifier in keys:
        QTest.keyClick(score, key, modifier or Qt.KeyboardModifier.NoModifier)
    assert order(score) == wanted


def test_the_running_order_is_edited_by_mouse_and_undone(score):
    at = on_clip(score, 0.4)
    QApplication.sendEvent(score, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, score.mapToGlobal(at)))
    (menu,) = score.findChildren(QMenu)
    words = [action.text().split("\t")[0] for action in menu.actions()]
    assert words == [
        "Play it once more", "Play it once less", "Play it earlier", "Play it later", "Take it out of the order",
    ]  # fmt: skip
    menu.actions()[0].trigger()
    menu.actions()[3].trigger()
    assert order(score) == [("strike", 1), ("walk", 2)]
    assert score.session.selection == ("cue", "1")
    score.session.undo()
    score.session.undo()
    assert order(score) == [("walk", 1), ("strike", 1)]
    menu.close()


def test_the_last_entry_may_go_too(score):
    for _ in range(2):
        QTest.mouseClick(score, HAND, pos=on_clip(score, 0.3))
        QTest.keyClick(score, KEYS.Key_Delete)
    assert order(score) == []
    QTest.keyClick(score, KEYS.Key_Delete)
    assert score.cue_at(QPointF(on_clip(score, 0.3))) == -1


# ---- playing round ------------------------------------------------------------------------------

SHIFT = Qt.KeyboardModifier.ShiftModifier


def lay_out(score, start, end, modifiers, y=6, *, let_go=True):
    """Drag in the ruler from one moment to another."""
    QTest.mousePress(score, HAND, modifiers, QPoint(round(score.x_of(start)), y))
    for share in (0.5, 1.0):
        QTest.mouseMove(score, QPoint(round(score.x_of(start + share * (end - start))), y))
    if let_go:
        QTest.mouseRelease(score, HAND, modifiers, QPoint(round(score.x_of(end)), y))


def test_shift_and_a_drag_lay_out_what_is_played_round_on_whole_steps(score):
    heard, sought = [], []
    score.rounds.changed.connect(lambda *stretch: heard.append(stretch))
    score.sought.connect(sought.append)
    was = score.session.project
    lay_out(score, 2.0, 1.0, SHIFT)
    start, end = score.rounds.stretch
    rate = score.session.project.step_rate
    assert start == pytest.approx(1.0, abs=FRAME)
    assert end == pytest.approx(2.0, abs=FRAME)
    assert (start * rate) % 1 == pytest.approx(0, abs=1e-9)
    assert heard[-1] == (start, end)
    assert sought == []  # the playhead stays
    assert score.session.project is was  # and nothing of it is the project's


def test_a_stretch_is_never_shorter_than_a_step(score):
    lay_out(score, 1.0, 1.0, SHIFT)
    start, end = score.rounds.stretch
    assert end - start == pytest.approx(1 / score.session.project.step_rate)


def test_escape_gives_a_stretch_up_and_brings_back_the_one_before(score):
    score.rounds.lay(0.5, 0.75)
    lay_out(score, 1.0, 2.0, SHIFT, let_go=False)
    QTest.keyClick(score, KEYS.Key_Escape)
    assert score.rounds.stretch == (0.5, 0.75)
    QTest.mouseRelease(score, HAND, SHIFT, QPoint(round(score.x_of(2.0)), 6))
    assert score.rounds.stretch == (0.5, 0.75)


def test_the_pass_at_the_playhead_is_played_round_and_once_more_ends_it(score):
    walk = next(s for _, s in score.passes() if s.use.name == "walk")
    score.time = walk.length + 0.2
    score.play_round()
    start, end = score.rounds.stretch
    assert start == pytest.approx(walk.length, abs=FRAME)
    strike = next(s for _, s in score.passes() if s.use.name == "strike")
    assert end - start == pytest.approx(strike.length, abs=FRAME)
    score.play_round()
    assert score.rounds.stretch == (0.0, 0.0)


def test_another_project_is_played_on(score, demo):
    score.rounds.lay(1, 2)
    score.session.open(demo, None)
    assert score.rounds.stretch == (0.0, 0.0)


def test_the_stretch_is_seen_in_the_ruler(score):
    def teal():
        image = score.grab().toImage()
        inside = image.pixelColor(round(score.x_of(1.5)), 14)
        outside = image.pixelColor(round(score.x_of(2.5)), 14)
        return inside.green() - outside.green()

    assert teal() == 0
    score.rounds.lay(1.0, 2.0)
    assert teal() > 15


def test_the_menu_offers_to_play_round_from_and_up_to_a_moment(score):
    menu = QMenu()
    score.rounds.fill(menu, 1.0)
    menu.actions()[0].trigger()
    assert score.rounds.stretch == (1.0, 2.0)
    menu.clear()
    score.rounds.fill(menu, 1.5)
    assert [a.text().split("\t")[0] for a in menu.actions()] == [
        "Play round from here", "Play round up to here", "Play on, not round",
    ]  # fmt: skip
    menu.actions()[1].trigger()
    assert score.rounds.stretch == (1.0, 1.5)
    menu.actions()[2].trigger()
    assert score.rounds.stretch == (0.0, 0.0)


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


def test_a_flag_stands_out_as_its_clip_passes_it_and_not_for_long(score):
    lit = []
    for time in (0.1, 0.25, 0.45, 0.6, 0.85):
        score.show_shot(shot(time, playing=True))
        lit.append([flag.mark.id for flag in score.lit])
    assert lit == [[], ["left"], ["left"], [], ["right"]]
    picture = score.grab().toImage()
    (flag,) = score.lit
    assert picture.pixelColor(round(flag.x) + 3, EVENT_Y) == QColor(RUST)
    score.show_shot(shot(0.85))
    assert score.lit == []


# ---- several flags ----------------------------------------------------------------------------------


def flag_of(score, mark):
    flag = next(f for f in score.flags() if f.mark.id == mark)
    return QPoint(round(flag.x) + 2, EVENT_Y)


def times_of(session, *marks):
    return [find_mark(session.project, mark).mark.time for mark in marks]


def test_several_flags_are_taken_moved_nudged_and_removed_at_one_stroke_each(score):
    session, both = score._session, ("left", "right")
    before = session.project
    start = times_of(session, *both)
    QTest.mouseClick(score, HAND, pos=flag_of(score, both[0]))
    QTest.mouseClick(score, HAND, CTRL, pos=flag_of(score, both[1]))
    assert score.flag.chosen == set(both)
    at = flag_of(score, both[0])
    QTest.mousePress(score, HAND, pos=at)
    for k in range(1, 5):
        QTest.mouseMove(score, at + QPoint(6 * k, 0))
    QTest.mouseRelease(score, HAND, pos=at + QPoint(24, 0))
    moved = [b - a for a, b in zip(start, times_of(session, *both), strict=True)]
    assert moved[0] > 0.05
    assert moved[1] == pytest.approx(moved[0], abs=2e-4)
    session.undo()
    assert session.project == before
    QTest.mouseClick(score, HAND, pos=flag_of(score, both[0]))
    QTest.mouseClick(score, HAND, CTRL, pos=flag_of(score, both[1]))
    QTest.keyClick(score, KEYS.Key_Right)
    nudged = times_of(session, *both)
    np.testing.assert_allclose(nudged, np.array(start) + 1 / 60, atol=1e-4)
    QTest.keyClick(score, KEYS.Key_Delete)
    assert all(find_mark(session.project, mark) is None for mark in both)
    session.undo()
    assert times_of(session, *both) == nudged


def test_a_second_control_click_lets_go_of_a_flag_and_a_plain_click_takes_one_alone(score):
    both = ("left", "right")
    QTest.mouseClick(score, HAND, pos=flag_of(score, both[0]))
    for _ in range(2):
        QTest.mouseClick(score, HAND, CTRL, pos=flag_of(score, both[1]))
    assert score.flag.chosen == {both[0]}
    QTest.mouseClick(score, HAND, CTRL, pos=flag_of(score, both[1]))
    QTest.mouseClick(score, HAND, pos=flag_of(score, both[1]))
    QTest.mousePress(score, HAND, pos=flag_of(score, both[1]))
    QTest.keyClick(score, KEYS.Key_Escape)
    assert score.flag.held is None


def test_flags_are_put_anew_only_where_something_of_them_has_changed(score):
    flags = score.flags()
    assert [(flag.name, flag.clip) for flag in flags[:3]] == [("step", "walk"), ("step", "walk"), ("hit", "strike")]
    score.session.edit("exposure", lambda p: p.but(exposure=1.4))
    assert score.flags() is flags
    score.session.put("event", "hit", "name", "blow", "Rename event to blow")
    assert [flag.name for flag in score.flags()[:3]] == ["step", "step", "blow"]
    before = score.flags()[1].x
    score.session.put("mark", "right", "time", 0.6, "Move mark")
    assert score.flags()[1].x < before
    score.zoom(0.5, LEFT)
    assert score.flags()[1].x > before
