"""Triggers in the real window: what has to be so, how often, and what came of it."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from tests.desktop.test_character_station import drag
from wraithon.desktop.widgets.trees import key_of, kind_of
from wraithon.project.edit import remove_event
from wraithon.project.ending import AtEnd, Ending
from wraithon.project.staging.actions import StopEffect
from wraithon.project.staging.trigger_kinds import EverySeconds, Never

HAND = Qt.MouseButton.LeftButton
STRIKE = 2.82
"""The strike's moment in the demo's order, about."""


@pytest.fixture
def sheet(window):
    """The sheet of the trigger that starts the demo's strike."""
    window.station("triggers")
    window.session.select("trigger", "on-strike")
    return window.sheet("triggers")


def trigger(window):
    return window.session.project.trigger("on-strike")


def at(qtbot, window, moment):
    window.seek(moment)
    qtbot.waitUntil(lambda: window.picture.rendered.time == pytest.approx(moment, abs=0.01), timeout=30_000)
    qtbot.waitUntil(lambda: window.picture.rendered.exact, timeout=30_000)


def test_a_trigger_that_keeps_to_a_clip_responds_there_and_says_why_it_does_not_elsewhere(qtbot, window, sheet):
    at(qtbot, window, STRIKE + 0.2)
    assert sheet._answer.text().startswith("Responded 1 time so far, last at 2.8")
    before = window.session.project
    tick = sheet.only.widgets["only.clips"].checks["walk"]
    sheet.scroll_to(tick)
    QTest.mouseClick(tick, HAND, pos=tick.rect().center().__class__(10, tick.height() // 2))
    assert trigger(window).only.clips == ("walk",)
    assert "while walk plays" in sheet._sentence.text()
    at(qtbot, window, STRIKE + 0.2)
    qtbot.waitUntil(lambda: "Refused" in sheet._answer.text(), timeout=10_000)
    assert "strike plays, which is none of its clips" in sheet._answer.text()
    assert "Responded 0 times so far." in sheet._answer.text()
    assert any(f.about == "on-strike" and "never responds" in f.message for f in window.session.findings())
    window.session.undo()
    assert window.session.project == before


def test_how_often_is_set_by_fields_and_heard_at_once(qtbot, window, sheet):
    for path, value in (("often.every", 2.0), ("often.cool_down", 0.5), ("often.jitter", 20.0)):
        sheet.often.widgets[path].edited.emit(value, True)
    sheet.often.widgets["often.times"].click()
    sheet.often.widgets["often.alive"].click()
    sheet.often.widgets["often.alive number"].edited.emit(4.0, True)
    often = trigger(window).often
    assert (often.every, often.cool_down, often.jitter, often.times, often.alive) == (2, 0.5, 0.2, 1, 4)
    assert "every 2nd time, no sooner than 0.5 s after the last (± 20%), once" in sheet._sentence.text()
    sheet.often.widgets["often.times"].click()
    assert trigger(window).often.times is None


def test_a_trigger_that_comes_again_and_again_and_one_that_never_does(qtbot, window, sheet):
    sheet.when.edited.emit("seconds", True)
    assert isinstance(trigger(window).when, EverySeconds)
    sheet.kind_forms["seconds"].widgets["seconds"].edited.emit(0.4, True)
    at(qtbot, window, 1.0)
    qtbot.waitUntil(lambda: "Responded 2 times so far, last at 0.80 s" in sheet._answer.text(), timeout=10_000)
    assert "Every 0.4 s: start thunder stamp" in sheet._sentence.text()
    sheet.when.edited.emit("never", True)
    assert isinstance(trigger(window).when, Never)
    at(qtbot, window, 1.5)
    qtbot.waitUntil(lambda: "Responded 0 times" in sheet._answer.text(), timeout=10_000)
    sheet.when.edited.emit("seconds", True)
    assert trigger(window).when.seconds == 0.4  # a choice that is taken back has kept its work


def test_it_is_tried_by_a_button_and_a_step_that_stops_is_added(qtbot, window, sheet):
    sheet.when.edited.emit("never", True)
    at(qtbot, window, 0.5)
    sheet.scroll_to(sheet.trying.once)
    QTest.mouseClick(sheet.trying.once, HAND)
    qtbot.waitUntil(lambda: any(r.trigger == "on-strike" for r in window.picture.rendered.records), timeout=20_000)
    assert window.playing
    window.set_playing(False)
    sheet.add_menu.actions()[1].trigger()
    steps = sheet.action_list
    steps.forms[-1].widgets["effect"].edited.emit("drizzle", True)
    steps.forms[-1].widgets["after"].edited.emit(0.5, True)
    assert trigger(window).response[-1] == StopEffect(effect="drizzle", after=0.5)
    assert sheet._sentence.text().endswith("; stop drizzle after 0.5 s.")
    ending, seconds = (steps.forms[-1].widgets[path] for path in ("ending", "ending.seconds"))
    assert (ending.currentText(), seconds.isVisibleTo(sheet)) == ("as each layer says", False)
    ending.edited.emit(Ending(what=AtEnd.FADE), True)
    assert seconds.isVisibleTo(sheet)
    seconds.edited.emit(1.5, True)
    assert trigger(window).response[-1].ending == Ending(what=AtEnd.FADE, seconds=1.5)
    assert ending.currentText() == "fade out"
    assert sheet._sentence.text().endswith("; stop drizzle (what lives fades out in 1.5 s) after 0.5 s.")
    steps.remove(len(trigger(window).response) - 1)
    assert trigger(window).response == window.session.project.trigger("on-strike").starts


def test_rows_light_up_when_their_triggers_respond(qtbot, window, sheet):
    index = window.index("triggers")

    def lit():
        rows = (index.triggers.item(k) for k in range(index.triggers.count()))
        return {row.text() for row in rows if row.background().style() is not Qt.BrushStyle.NoBrush}

    at(qtbot, window, STRIKE + 0.05)
    qtbot.waitUntil(lambda: lit() == {"stamp"}, timeout=10_000)
    at(qtbot, window, STRIKE + 0.5)
    qtbot.waitUntil(lambda: lit() == set(), timeout=10_000)


def test_an_event_is_mirrored_to_the_other_side_by_a_button(qtbot, window):
    window.station("triggers")
    window.session.edit("No right step", lambda p: remove_event(p, "right-step"), final=True)
    before = window.session.project
    window.session.select("event", "left-step")
    sheet = window.sheet("triggers")
    sheet.scroll_to(sheet.mirror)
    QTest.mouseClick(sheet.mirror, HAND)
    kind, twin = window.session.selection
    assert (kind, window.session.project.event(twin).name) == ("event", "right step")
    assert sum(m.event == twin for clip in window.session.project.character.clips for m in clip.marks) >= 2
    window.session.undo()
    assert window.session.project == before
    window.session.select("event", "gives-way")
    said = []
    window.session.said.connect(lambda _text, kind: said.append(kind))
    QTest.mouseClick(sheet.mirror, HAND)
    assert said == ["warning"]


# ---- an effect dropped on the clip ----------------------------------------------------------------


def dragged(window, effect, moment, kind):
    """Send what Qt sends a timeline while an effect of the list is dragged over it, or dropped."""
    index = window.index("effects")
    item = next(item for item in index.items() if (kind_of(item), key_of(item)) == ("effect", effect))
    timeline = window.timeline
    at = QPointF(timeline.x_of(moment), 40)
    data = index.tree.mimeData([item])
    made = {"enter": QDragEnterEvent, "move": QDragMoveEvent, "drop": QDropEvent}[kind]
    position = at if kind == "drop" else at.toPoint()
    event = made(position, Qt.DropAction.MoveAction, data, HAND, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(timeline, event)
    return event


def test_an_effect_dropped_on_the_clip_fires_there_and_its_spot_is_dragged_in_the_picture(qtbot, window):
    window.station("effects")
    window.session.select("effect", "skipping-spark")
    before = window.session.project
    assert dragged(window, "skipping-spark", STRIKE, "enter").isAccepted()
    assert dragged(window, "skipping-spark", STRIKE, "move").isAccepted()
    assert window.session.project is before
    dragged(window, "skipping-spark", STRIKE, "drop")
    kind, what = window.session.selection
    assert (window.at, kind) == ("triggers", "trigger")
    trigger = window.session.project.trigger(what)
    assert trigger.response[0].effect == "skipping-spark"
    event = window.session.project.event(trigger.when.event)
    anchor = window.session.project.anchor(event.anchor)
    assert window.session.project.effect("skipping-spark") is not None  # the list has not taken it away
    at(qtbot, window, STRIKE + 0.4)
    fired = [r for r in window.picture.rendered.records if r.trigger == what]
    assert [r.effect for r in fired] == ["skipping-spark"]
    hand, picture = window.sheet("triggers")._anchor_gizmo, window.picture
    assert hand.anchor.id == anchor.id
    middle = hand._drawn(picture)[0].toPoint()
    drag(picture, middle, middle + QPointF(30, -20).toPoint())
    assert window.session.project.anchor(anchor.id).offset != anchor.offset
    window.session.undo()
    window.session.undo()
    assert window.session.project == before


def test_what_is_no_effect_or_falls_beside_the_lanes_is_not_taken(qtbot, window):
    window.station("effects")
    before = window.session.project
    data = QMimeData()
    data.setText("hello")
    at_lane = QPointF(window.timeline.x_of(1.0), 40)
    for position, held in ((at_lane, data), (QPointF(5, 40), window.index("effects").tree.mimeData(
            [next(window.index("effects").items())]))):  # fmt: skip
        event = QDropEvent(position, Qt.DropAction.MoveAction, held, HAND, Qt.KeyboardModifier.NoModifier)
        QApplication.sendEvent(window.timeline, event)
        assert not event.isAccepted()
    assert window.session.project is before


# ---- moments that are found -----------------------------------------------------------------------


@pytest.fixture
def lane(window):
    """The lane of moments, over a character that has no marks yet."""
    use = window.session.project.character
    clips = tuple(clip.evolve(marks=()) for clip in use.clips)
    bare = use.evolve(events=(), anchors=(), clips=clips)
    window.session.edit("Bare", lambda p: p.evolve(triggers=(), characters=(bare,)), final=True)
    window.station("triggers")
    index = window.index("triggers")
    index.fill_menu()
    index.menu.actions()[0].trigger()
    return index._lane


def test_all_moments_are_taken_by_enter_as_one_step_of_undo(qtbot, window, lane):
    before, found = window.session.project, list(lane.found)
    assert lane.isVisible()
    assert len(lane.flags()) > len(found)  # the walk is played twice
    QTest.keyClick(lane, Qt.Key.Key_Return)
    use = window.session.project.character
    assert sum(len(clip.marks) for clip in use.clips) == len(found)
    assert not lane.isVisible()
    assert window.index("triggers").triggers.count() == 2
    window.session.undo()
    assert window.session.project == before


def test_one_is_taken_by_a_click_another_left_out_and_a_third_moved_first(qtbot, window, lane):
    found = list(lane.found)
    flags = {flag.number: flag for flag in reversed(lane.flags()) if flag.x > 5}
    walking = [number for number in flags if found[number].clip == "walk"]
    leaping = next(number for number in flags if found[number].clip == "run")
    middle = QPoint(3, 6)

    def spot(number):
        flag = next(f for f in lane.flags() if lane.found[f.number] == found[number] and f.x > 5)
        return QPoint(round(flag.x), 0) + middle

    assert "sure to" in lane._text(found[walking[0]])
    QTest.mouseClick(lane, Qt.MouseButton.RightButton, pos=spot(leaping))
    assert len(lane.found) == len(found) - 1
    QTest.mouseClick(lane, HAND, pos=spot(walking[0]))
    marks = window.session.project.character.clip("walk").marks
    assert [mark.time for mark in marks] == [found[walking[0]].time]
    start = spot(walking[1])
    QTest.mousePress(lane, HAND, pos=start)
    QTest.mouseMove(lane, start + QPoint(6, 0))
    QTest.mouseMove(lane, start + QPoint(12, 0))
    QTest.mouseRelease(lane, HAND, pos=start + QPoint(12, 0))
    moved = next(c for c in lane.found if c.clip == "walk")
    assert moved.time != found[walking[1]].time
    assert len(window.session.project.character.clip("walk").marks) == 1  # a drag takes nothing yet
    QTest.keyClick(lane, Qt.Key.Key_Escape)
    assert not lane.isVisible()
    assert window.timeline.hasFocus()
    assert len(window.session.project.character.clip("walk").marks) == 1


def test_of_a_joint_what_is_found_is_offered_and_what_is_not_is_said(qtbot, window, lane):
    index, said = window.index("triggers"), []
    window.session.said.connect(lambda text, kind: said.append((text, kind)))
    index.find_moments("strike", "right finger tips")
    assert {candidate.joint for candidate in lane.found} == {"right finger tips"}
    index.find_moments("strike", "hips")
    assert not lane.isVisible()
    assert said[-1] == ("Found no moment where hips strikes that is not marked already", "warning")
