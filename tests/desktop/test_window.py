"""What an artist does: look, choose, change, mark, fire, undo, save, come back."""

import json
import os
import shutil
import time
from collections import Counter

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QEvent, QMimeData, QObject, QPoint, QPointF, Qt, QTimer, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMessageBox

from tests.desktop.conftest import close_window, exact_at, open_window, settle
from tests.glb_maker import skinned_strip
from tests.test_gltf import breakage
from wraithon.demo import DEMO_FOLDER
from wraithon.desktop.session.recents import recent_projects
from wraithon.desktop.session.save_sheet import SaveSheet
from wraithon.desktop.timeline.lanes import CLIP_TOP, EVENTS_TOP
from wraithon.interchange.journal import Journal
from wraithon.picture.pace import Pace, Thrift
from wraithon.project.files import open_project
from wraithon.project.life import LifeMode
from wraithon.project.project import Project
from wraithon.stage.loading import Loaded, load
from wraithon.stage.player import Player


def press(qtbot, window, key, modifiers=Qt.KeyboardModifier.NoModifier):
    window.picture.setFocus()
    qtbot.keyClick(window.picture, key, modifiers)
    settle(0.02)


CTRL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier
ALT = Qt.KeyboardModifier.AltModifier

LEFT = Qt.MouseButton.LeftButton


# ---- playing --------------------------------------------------------------------------------------


def test_space_plays_and_pauses(qtbot, window):
    press(qtbot, window, Qt.Key.Key_Space)
    assert window.playing
    qtbot.waitUntil(lambda: window.picture.rendered.time > 0.3, timeout=30_000)
    press(qtbot, window, Qt.Key.Key_Space)
    settle(0.3)
    paused = window.picture.rendered.time
    settle(0.3)
    assert window.picture.rendered.time == paused


def test_stepping_and_rewinding_by_keys(qtbot, window):
    for _ in range(3):
        press(qtbot, window, Qt.Key.Key_Period)
    qtbot.waitUntil(lambda: exact_at(window, 3 / 60), timeout=10_000)
    press(qtbot, window, Qt.Key.Key_Comma)
    qtbot.waitUntil(lambda: exact_at(window, 2 / 60), timeout=10_000)
    press(qtbot, window, Qt.Key.Key_Home)
    qtbot.waitUntil(lambda: exact_at(window, 0), timeout=10_000)


def test_scrubbing_both_ways_shows_each_moment_exactly(qtbot, window, demo):
    timeline = window.timeline
    for moment in (1.0, 0.4, 2.9):
        qtbot.mouseClick(timeline, LEFT, pos=QPoint(round(timeline.x_of(moment)), 8))
        wanted = round(timeline.time * 60) / 60
        qtbot.waitUntil(lambda w=wanted: exact_at(window, w), timeout=60_000)
        player = Player(demo.project, demo.characters)
        player.seek(window.picture.rendered.time)
        assert window.engine._player.digest() == player.digest()


def test_dragging_the_picture_turns_slides_and_nears(qtbot, window):
    picture = window.picture
    before = picture.view
    qtbot.mousePress(picture, LEFT, pos=QPoint(200, 200))
    qtbot.mouseMove(picture, QPoint(260, 220))
    qtbot.mouseRelease(picture, LEFT, pos=QPoint(260, 220))
    assert picture.view.azimuth != before.azimuth
    assert picture.view.elevation > before.elevation
    turned = picture.view
    qtbot.mousePress(picture, Qt.MouseButton.RightButton, pos=QPoint(200, 200))
    qtbot.mouseMove(picture, QPoint(240, 200))
    qtbot.mouseRelease(picture, Qt.MouseButton.RightButton, pos=QPoint(240, 200))
    assert picture.view.target != turned.target
    assert picture.view.azimuth == turned.azimuth
    press(qtbot, window, Qt.Key.Key_1, ALT)
    assert picture.view.azimuth == 0


def test_turning_the_camera_is_no_step_of_undo(qtbot, window):
    window.picture.turn(50, 10)
    assert window.session.history.undo_label is None


# ---- stations and selection -----------------------------------------------------------------------


@pytest.mark.parametrize("number", [1, 2, 3])
def test_keys_change_the_station(qtbot, window, number):
    press(qtbot, window, getattr(Qt.Key, f"Key_{number}"), CTRL)
    assert window.indexes.currentIndex() == number - 1
    assert window.sheets.currentIndex() == number - 1


def test_a_key_shows_only_the_picture_and_brings_the_rest_back(qtbot, window):
    press(qtbot, window, Qt.Key.Key_F9)
    assert not window.indexes.isVisible()
    assert not window.timeline.isVisible()
    press(qtbot, window, Qt.Key.Key_F9)
    assert window.indexes.isVisible()
    assert window.timeline.isVisible()


def test_a_layer_is_selected_at_once_and_its_life_is_shown(window):
    kind, what = window.session.selection
    assert (kind, what) == ("layer", "plume-feathers")
    assert window.sheet("effects").title.text().startswith("feathers")


# ---- editing --------------------------------------------------------------------------------------


def layer(window, key="plume-feathers"):
    return window.session.project.layer(key)[1]


def test_typing_a_sum_into_a_range_changes_the_size(qtbot, window):
    life = window.sheet("effects").life
    qtbot.mouseClick(life.rows["size"], LEFT)
    field = life.editor._high
    field.begin_typing()
    field._editor.setText("4*5+1")
    qtbot.keyClick(field._editor, Qt.Key.Key_Return)
    assert layer(window).size.birth.high == pytest.approx(0.21)
    press(qtbot, window, Qt.Key.Key_Z, CTRL)
    assert layer(window).size.birth.high == pytest.approx(0.13)
    press(qtbot, window, Qt.Key.Key_Z, CTRL | SHIFT)
    assert layer(window).size.birth.high == pytest.approx(0.21)


def test_nonsense_typed_changes_nothing(qtbot, window):
    life = window.sheet("effects").life
    life.pick("size")
    field = life.editor._low
    field.begin_typing()
    field._editor.setText("__import__('os')")
    qtbot.keyClick(field._editor, Qt.Key.Key_Return)
    assert window.session.history.undo_label is None
    qtbot.keyClick(field._editor, Qt.Key.Key_Escape)


def test_dragging_a_number_is_one_step_of_undo(qtbot, window):
    emission = window.sheet("effects").emission
    before = layer(window).emission.rate
    field = emission.form.widgets["rate"]
    qtbot.mousePress(field, LEFT, pos=QPoint(10, 10))
    for x in range(12, 90, 4):
        qtbot.mouseMove(field, QPoint(x, 10))
    qtbot.mouseRelease(field, LEFT, pos=QPoint(90, 10))
    assert layer(window).emission.rate > before
    window.session.undo()
    assert layer(window).emission.rate == before
    assert window.session.history.undo_label is None


def test_a_curve_goes_from_one_row_to_another_by_keys_and_the_layer_stays(qtbot, window):
    life, control = window.sheet("effects").life, Qt.KeyboardModifier.ControlModifier
    before, layers = layer(window), len(window.session.project.layer("plume-feathers")[0].layers)
    life.pick("opacity")
    settle()
    plot = life.editor._curve.plot
    plot.setFocus()
    qtbot.keyClick(plot, Qt.Key.Key_C, control)
    life.pick("size")
    settle()
    life.editor._mode.edited.emit(LifeMode.SCALE, True)
    plot.setFocus()
    qtbot.keyClick(plot, Qt.Key.Key_V, control)
    assert layer(window).size.life == before.opacity.life
    assert len(window.session.project.layer("plume-feathers")[0].layers) == layers
    window.session.undo()
    assert layer(window).size.life == before.size.life
    heard = []
    window.session.said.connect(lambda text, kind: heard.append((text, kind)))
    life.pick("colour")
    settle()
    strip = life.editor._gradient.strip
    strip.setFocus()
    qtbot.keyClick(strip, Qt.Key.Key_V, control)
    assert heard == [("Nothing to paste here: copy a gradient first", "warning")]


def test_a_curve_is_dragged_added_to_and_cut_back(qtbot, window):
    life = window.sheet("effects").life
    life.pick("opacity")
    settle()
    plot = life.editor._curve.plot
    points = len(layer(window).opacity.life.points)
    middle = plot.position_of(1)
    qtbot.mousePress(plot, LEFT, pos=middle.toPoint())
    qtbot.mouseMove(plot, middle.toPoint() + QPoint(15, 20))
    qtbot.mouseRelease(plot, LEFT, pos=middle.toPoint() + QPoint(15, 20))
    assert layer(window).opacity.life.points[1][1] < 1
    qtbot.mouseDClick(plot, LEFT, pos=QPoint(plot.width() // 2, 30))
    assert len(layer(window).opacity.life.points) == points + 1
    qtbot.keyClick(plot, Qt.Key.Key_Delete)
    assert len(layer(window).opacity.life.points) == points
    window.session.undo()
    window.session.undo()
    window.session.undo()
    assert window.session.history.undo_label is None


def test_replacing_through_life_strikes_the_birth_out(qtbot, window):
    life = window.sheet("effects").life
    life.pick("size")
    life.editor._mode.edited.emit(LifeMode.REPLACE, True)
    assert layer(window).size.mode is LifeMode.REPLACE
    before = life.rows["size"].grab().toImage()
    life.editor._mode.edited.emit(LifeMode.SCALE, True)
    assert life.rows["size"].grab().toImage() != before


def test_an_edit_shows_in_the_picture(qtbot, window):
    window.seek(1.0)
    qtbot.waitUntil(lambda: exact_at(window, 1.0), timeout=30_000)
    before = window.picture.rendered.pixels.copy()
    window.session.edit("exposure", lambda p: p.evolve(exposure=3.0))
    qtbot.waitUntil(lambda: window.picture.rendered.exposure == 3.0, timeout=5_000)
    assert window.picture.rendered.pixels.mean() > before.mean() * 1.2


def test_an_edit_while_paused_becomes_exact(qtbot, window):
    window.seek(1.0)
    qtbot.waitUntil(lambda: exact_at(window, 1.0), timeout=30_000)
    before = window.picture.rendered.figures.alive
    window.sheet("effects").emission.form.widgets["rate"].edited.emit(200.0, True)
    qtbot.waitUntil(
        lambda: exact_at(window, 1.0) and window.picture.rendered.figures.alive > before + 100, timeout=30_000
    )
    player = Player(window.session.project, window.session.characters)
    player.seek(1.0)
    assert window.engine._player.digest() == player.digest()


def test_muting_duplicating_and_deleting_by_keys(qtbot, window):
    press(qtbot, window, Qt.Key.Key_M)
    assert window.session.played.layer("plume-feathers")[1].disabled
    assert not layer(window).disabled
    press(qtbot, window, Qt.Key.Key_M)
    press(qtbot, window, Qt.Key.Key_D, CTRL)
    layers = window.session.project.effect("plume-drift").layers
    assert [x.name for x in layers] == ["feathers", "feathers 2", "glints"]
    press(qtbot, window, Qt.Key.Key_Delete)
    assert len(window.session.project.effect("plume-drift").layers) == 2
    window.session.select("layer", "stamp-sparks")
    press(qtbot, window, Qt.Key.Key_S)
    muted = [x.disabled for x in window.session.played.effect("thunder-stamp").layers]
    assert muted.count(True) == len(muted) - 1
    press(qtbot, window, Qt.Key.Key_S)
    assert not any(x.disabled for x in window.session.played.effect("thunder-stamp").layers)


def test_a_refused_edit_is_said_and_changes_nothing(window):
    assert not window.session.edit("Seed", lambda p: p.evolve(seed=-1))
    assert "Seed" in window.transport.said.toolTip()
    assert window.session.history.undo_label is None


# ---- events and triggers --------------------------------------------------------------------------


def test_marking_dragging_renaming_and_deleting_an_event(qtbot, window):
    window.session.select("event", "strike")
    window.seek(0.5)
    qtbot.waitUntil(lambda: exact_at(window, 0.5), timeout=30_000)
    press(qtbot, window, Qt.Key.Key_E)
    kind, key = window.session.selection
    assert kind == "mark"
    marks = window.session.project.character.clip("walk").marks
    assert [m.time for m in marks if m.id == key] == [0.5]
    timeline = window.timeline
    y = EVENTS_TOP + 9
    x = round(timeline.x_of(0.5))
    qtbot.mousePress(timeline, LEFT, pos=QPoint(x + 2, y))
    qtbot.mouseMove(timeline, QPoint(round(timeline.x_of(0.75)), y))
    qtbot.mouseRelease(timeline, LEFT, pos=QPoint(round(timeline.x_of(0.75)), y))
    moved = next(m for m in window.session.project.character.clip("walk").marks if m.id == key)
    assert moved.time == pytest.approx(0.75, abs=0.02)
    timeline.setFocus()
    qtbot.keyClick(timeline, Qt.Key.Key_F2)
    timeline._name.setText("slam")
    qtbot.keyClick(timeline._name, Qt.Key.Key_Return)
    assert window.session.project.event("strike").name == "slam"
    qtbot.keyClick(timeline, Qt.Key.Key_Delete)
    assert all(m.id != key for m in window.session.project.character.clip("walk").marks)
    for _ in range(4):
        window.session.undo()
    assert window.session.history.undo_label is None


def test_ctrl_drag_duplicates_a_mark(qtbot, window):
    timeline = window.timeline
    before = [m.event for m in window.session.project.character.clip("strike").marks]
    x = round(timeline.x_of(2.82))
    qtbot.mousePress(timeline, LEFT, CTRL, QPoint(x + 2, EVENTS_TOP + 9))
    qtbot.mouseMove(timeline, QPoint(x + 40, EVENTS_TOP + 9))
    qtbot.mouseRelease(timeline, LEFT, CTRL, QPoint(x + 40, EVENTS_TOP + 9))
    marks = window.session.project.character.clip("strike").marks
    assert sorted(m.event for m in marks) == sorted([*before, "strike"])


def test_a_moved_mark_moves_its_firing(qtbot, window):
    from wraithon.project.edit import find_mark, with_mark

    mark = find_mark(window.session.project, "strike-strike").mark
    window.session.edit("Move", lambda p: with_mark(p, "strike", mark.evolve(time=0.2)))
    window.seek(2.5)
    qtbot.waitUntil(lambda: exact_at(window, 2.5), timeout=60_000)
    stamps = [r for r in window.picture.rendered.records if r.effect == "thunder-stamp"]
    assert [r.start for r in stamps] == [pytest.approx(2.2)]


def test_a_new_trigger_is_set_up_by_picking_from_lists(qtbot, window):
    window.station("triggers")
    window.index("triggers").add_trigger()
    key = window.session.selection[1]
    sheet = window.sheet("triggers")
    sheet.kind_forms["event"].widgets["event"].edited.emit("landing", True)
    step = sheet.action_list.forms[0]
    step.widgets["effect"].edited.emit("thunder-stamp", True)
    step.widgets["anchor"].edited.emit("left-fan-tip", True)
    trigger = window.session.project.trigger(key)
    assert trigger.when.event == "landing"
    assert (trigger.response[0].effect, trigger.response[0].anchor) == ("thunder-stamp", "left-fan-tip")


def test_firing_now_plays_and_shows_the_effect(qtbot, window):
    window.session.select("effect", "thunder-stamp")
    press(qtbot, window, Qt.Key.Key_Return, CTRL)
    qtbot.waitUntil(lambda: any(r.effect == "thunder-stamp" for r in window.picture.rendered.records), timeout=30_000)
    assert window.playing


# ---- character ------------------------------------------------------------------------------------


def test_hiding_a_part_and_playing_one_clip(qtbot, window):
    window.station("character")
    window.index("character").toggle_part("mask")
    assert window.session.project.character.hidden_parts == ("mask",)
    window.session.select("clip", "strike")
    window.sheet("character").clip.play_only()
    assert [c.clip for c in window.session.project.stage.order] == ["strike"]
    assert [s.use.name for _, s in window.timeline.passes()][:2] == ["strike", "strike"]


def test_a_new_anchor_on_the_selected_joint_is_nudged_by_numbers(window):
    window.station("character")
    window.session.select("joint", "head")
    window.index("character").add_anchor()
    anchor = window.session.project.anchor(window.session.selection[1])
    assert anchor.joint == "head"
    window.sheet("character").anchor.form.widgets["offset.1"].edited.emit(12.0, True)
    assert window.session.project.anchor(anchor.id).offset == (0.0, 0.12, 0.0)


def drop(window, path):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    event = QDropEvent(QPointF(50, 50), Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier)
    window.dropEvent(event)


def test_dropping_a_character_on_an_empty_window(qtbot, empty_window, tmp_path):
    path = tmp_path / "strip.glb"
    path.write_bytes(skinned_strip().glb())
    assert empty_window.sheet("character").title.text() == "No character"
    drop(empty_window, path)
    assert empty_window.session.project.character.name == "strip"
    qtbot.waitUntil(
        lambda: empty_window.picture.rendered is not None and len(empty_window.picture.rendered.joints) == 3,
        timeout=30_000,
    )


def test_a_broken_character_is_said_and_nothing_is_lost(window, tmp_path):
    path = tmp_path / "bad.glb"
    path.write_bytes(breakage("cyclic nodes").glb())
    before = window.session.project
    drop(window, path)
    assert "bad.glb" in window.transport.said.toolTip()
    assert window.session.project is before


def test_an_empty_project_says_what_to_do_next(empty_window):
    for station in ("character", "effects", "triggers"):
        empty_window.station(station)
        settle(0.02)
    assert empty_window.index("effects")._empty.isVisibleTo(empty_window.index("effects"))
    empty_window.index("effects").add_effect()
    assert empty_window.session.selection[0] == "effect"
    empty_window.index("triggers").add_event()
    assert "character first" in empty_window.transport.said.toolTip()


# ---- files ----------------------------------------------------------------------------------------


def test_save_and_open_again(qtbot, window, tmp_path, demo):
    folder = tmp_path / "mine"
    window.session.edit("Rename", lambda p: p.evolve(name="Mine"))
    assert window.windowTitle().startswith("•")
    assert window.keeper.save_in(folder)
    assert not window.windowTitle().startswith("•")
    again = load(folder)
    assert again.project.name == "Mine"
    assert again.check() == []
    assert again.characters["halcyon"].mesh.positions.shape == demo.characters["halcyon"].mesh.positions.shape


def test_saving_asks_where_when_the_project_has_no_place(qtbot, window, tmp_path, monkeypatch):
    seen = []

    def answer():
        sheet = QApplication.activeModalWidget()
        QTest.keyClicks(sheet.name, "Storm / day ..")
        sheet.place.setText(str(tmp_path / "new" / "place"))
        seen.append((sheet._folder.text(), sheet.folder))
        QTest.keyClick(sheet.place, Qt.Key.Key_Return)

    QTimer.singleShot(200, answer)
    press(qtbot, window, Qt.Key.Key_S, CTRL)
    folder = tmp_path / "new" / "place" / "Storm   day"
    assert seen == [(f"Saved in {folder}", folder)]
    assert open_project(folder).project.name == "Storm / day .."
    assert window.session.save_folder == folder
    assert tuple(recent_projects()[0]) == (folder, "Storm / day ..")
    press(qtbot, window, Qt.Key.Key_S, CTRL)  # and the next time it asks nothing


@pytest.mark.parametrize(
    ("name", "place", "says"),
    [
        ("..", "/", "Type a name with letters or digits."),
        ("", "/", "Type a name with letters or digits."),
        ("mine", "here", "Type the whole path of the place, or choose it."),
        ("mine", "", "Type the whole path of the place, or choose it."),
        ("mine", "/dev/null", "/dev/null is a file: choose a folder."),
    ],
)
def test_what_no_folder_can_be_made_of_is_told_before_saving(window, name, place, says):
    sheet = SaveSheet(window, name, None)
    sheet.place.setText(place)
    assert sheet._folder.text() == says
    assert not sheet.save.isEnabled()
    sheet.deleteLater()


def test_a_place_that_holds_a_project_is_told(window, tmp_path):
    assert window.keeper.save_in(tmp_path / "one")
    sheet = SaveSheet(window, "one", tmp_path)
    assert sheet._folder.text() == f"Saved in {tmp_path / 'one'}, which holds a project already"
    sheet.deleteLater()


def test_unsaved_work_is_asked_about(qtbot, demo, monkeypatch):
    window = open_window(qtbot, demo)
    window.session.edit("Rename", lambda p: p.evolve(name="Mine"))
    asked = []
    monkeypatch.setattr(QMessageBox, "exec", lambda box: asked.append(box.text()))
    window.close()
    assert "Halcyon" not in asked[0]
    assert "Mine" in asked[0]
    assert window.isVisible()  # nothing was answered, so it stays
    close_window(window)


def test_work_left_by_a_crash_is_offered_and_brought_back(qtbot, tmp_path):
    folder = tmp_path / "mine"
    shutil.copytree(DEMO_FOLDER, folder)
    loaded = load(folder)
    journal = Journal(str(folder))
    journal.write(loaded.project.evolve(name="Lost"))
    written = json.loads(journal._path.read_text())
    written["pid"] = 2**22 + 7  # nobody's
    journal._path.unlink()
    left = journal._path.with_name(journal._path.name.replace(str(os.getpid()), "4194311"))
    left.write_text(json.dumps(written))
    window = open_window(qtbot, loaded, folder, str(folder))
    assert window.bar.isVisible()
    window.bar.answer(0)
    assert window.session.project.name == "Lost"
    assert window.session.history.unsaved
    assert not left.exists()
    window.session.undo()
    assert window.session.project.name == "Halcyon"
    close_window(window)


def test_edits_are_journalled_and_the_journal_goes_with_saving(qtbot, window, tmp_path):
    window.session.edit("Rename", lambda p: p.evolve(name="Mine"))
    qtbot.waitUntil(window.keeper.journal._path.exists, timeout=10_000)
    window.keeper.save_in(tmp_path / "mine")
    assert list((tmp_path / "state").rglob("journal/*.json")) == []


def test_findings_lead_to_their_place(qtbot, window):
    from wraithon.project.edit import remove_effect

    window.session.edit("Delete", lambda p: remove_effect(p, "thunder-stamp"))
    assert "finding" in window.transport.findings.text()
    window.transport.fill_findings()
    window.transport.findings_menu.actions()[0].trigger()
    assert window.session.selection == ("trigger", "on-strike")
    assert window.indexes.currentIndex() == 2


def test_the_pace_shrinks_slowly_and_grows_back_with_plenty_of_time():
    pace = Pace()
    for _ in range(200):
        pace.tick(0.05, may_shrink=False)
    assert pace.scale == 1.0
    pace = Pace()
    for _ in range(Pace.PATIENCE + 1):
        pace.tick(0.05, may_shrink=True)
    assert pace.scale == Pace.SIZES[1]
    for _ in range(100):
        pace.tick(0.05, may_shrink=True)
    assert pace.scale == Pace.SIZES[-1]
    for _ in range(300):
        pace.tick(0.032, may_shrink=True)
    assert pace.scale == Pace.SIZES[-1]
    for _ in range(500):
        pace.tick(0.005, may_shrink=True)
    assert pace.scale == 1.0


def frames_until(pace, size, seconds):
    """Return after how many frames of a length a picture has a size."""
    for n in range(5000):
        if pace.scale == Pace.SIZES[size]:
            return n
        pace.tick(seconds, may_shrink=True)
    return None


def test_with_some_time_to_spare_the_pace_tries_a_larger_size_and_less_often_after_it_failed():
    pace = Pace()
    frames_until(pace, 1, 0.05)
    waits = []
    for _ in range(5):
        waits.append(frames_until(pace, 0, 0.028))
        frames_until(pace, 1, 0.05)  # at full size it takes too long
    assert waits == [Pace.HOPE + 1, 2 * Pace.HOPE + 1, 4 * Pace.HOPE + 1, 8 * Pace.HOPE + 1, 8 * Pace.HOPE + 1]
    frames_until(pace, 0, 0.028)
    for _ in range(2 * Pace.CAUTION + 2):
        pace.tick(0.028, may_shrink=True)
    assert pace.scale == 1.0  # this time it went well
    frames_until(pace, 1, 0.05)
    assert frames_until(pace, 0, 0.028) == Pace.HOPE + 1


@pytest.mark.parametrize(
    ("took", "period"),
    [(0.005, 1 / 30), (0.28 / 30, 1 / 30), (0.0196, 0.07), (0.5, 1 / 9)],
    ids=["a quick machine", "as quick as need be", "a slow one", "one that can hardly follow"],
)
def test_what_shows_itself_beside_rest_takes_its_share_of_a_processor(took, period):
    taken = iter(np.arange(100) * took)
    thrift = Thrift(clock=lambda: next(taken))
    periods = [thrift.period() for _ in range(60)]
    assert periods[-1] == pytest.approx(period, abs=1e-6)
    assert took / periods[-1] <= 0.2801 or took == 0.5


# ---- speed and looks ------------------------------------------------------------------------------


def test_the_window_never_waits_for_the_engine(qtbot, window):
    window.set_playing(True)
    settle(0.5)
    longest, last = 0.0, time.perf_counter()
    end = last + 1.5
    while time.perf_counter() < end:
        window.session.edit("Exposure", lambda p: p.evolve(exposure=1 + (time.perf_counter() % 1)), merge="x")
        for _ in range(4):
            settle(0.01)
        now = time.perf_counter()
        longest, last = max(longest, now - last), now
    # A generous bound for a busy machine: what it forbids is waiting for a whole seek or compile.
    assert longest < 2.0


def test_keeping_and_wiping_pictures(qtbot, window):
    press(qtbot, window, Qt.Key.Key_K, SHIFT)
    assert window.picture.comparing.way == ""
    press(qtbot, window, Qt.Key.Key_K)
    press(qtbot, window, Qt.Key.Key_K, SHIFT)
    assert window.picture.comparing.way == "wipe"
    window.picture.grab()


def test_the_anchor_of_what_is_selected_is_drawn_where_it_is(qtbot, window):
    event = next(e for e in window.session.project.character.events if e.anchor == "right-fan-tip")
    window.session.select("event", event.id)
    settle(0.1)
    (name, matrix) = window.picture.marked[0]
    assert name == "right fan tip"
    np.testing.assert_allclose(matrix, window.engine._player.anchors()["right-fan-tip"])
    position = window.picture.project(matrix[None, :3, 3])[0]
    assert 0 < position[0] < window.picture.width()


def test_the_timeline_draws_its_lanes(window):
    image = window.timeline.grab().toImage()
    assert image.height() > CLIP_TOP
    colours = {image.pixel(x, CLIP_TOP + 12) for x in range(80, image.width(), 3)}
    assert len(colours) > 3


def test_a_selected_mark_is_moved_by_typing_its_time(window):
    window.session.select("mark", "strike-strike")
    assert window.indexes.currentIndex() == 2
    sheet = window.sheet("triggers")
    assert sheet.title.text() == "strike"
    assert sheet.mark_form.isVisibleTo(sheet)
    sheet.mark_form.widgets["time"].edited.emit(0.9, True)
    marks = window.session.project.character.clip("strike").marks
    assert [m.time for m in marks if m.id == "strike-strike"] == [0.9]


def test_f6_takes_the_keyboard_from_area_to_area(qtbot, window):
    seen = set()
    for _ in range(4):
        qtbot.keyClick(window.focusWidget() or window, Qt.Key.Key_F6)
        focus = window.focusWidget()
        areas = {
            "index": window.indexes,
            "picture": window.picture,
            "sheet": window.sheets,
            "timeline": window.timeline,
        }
        seen |= {name for name, area in areas.items() if area is focus or area.isAncestorOf(focus)}
    assert seen == {"index", "picture", "sheet", "timeline"}


def test_space_presses_the_button_that_has_the_keyboard(qtbot, window):
    check = window.sheet("effects").look.forms["sprite"][1].widgets["lit"]
    window.sheet("effects").scroll_to(check)
    check.setFocus()
    qtbot.keyClick(check, Qt.Key.Key_Space)
    assert layer(window).look.lit
    assert not window.playing


class Noted(QObject):
    """Notes what is painted and laid out, by the widget's class."""

    def __init__(self):
        super().__init__()
        self.seen = Counter()

    def eventFilter(self, widget, event):  # noqa: N802  # Qt's name
        if event.type() in {QEvent.Type.Paint, QEvent.Type.LayoutRequest}:
            self.seen[type(widget).__name__, event.type()] += 1
        return False


def test_playing_paints_the_picture_and_lays_nothing_out(qtbot, window):
    qtbot.waitUntil(lambda: window.picture.rendered is not None, timeout=60_000)
    window.set_playing(True)
    qtbot.waitUntil(lambda: window.picture.rendered.time > 0.3, timeout=60_000)
    noted = Noted()
    QApplication.instance().installEventFilter(noted)
    began = window.transport.clock.text()
    qtbot.waitUntil(lambda: noted.seen["PictureView", QEvent.Type.Paint] >= 12, timeout=60_000)
    QApplication.instance().removeEventFilter(noted)
    window.set_playing(False)
    assert window.transport.clock.text() != began
    assert noted.seen["Window", QEvent.Type.LayoutRequest] <= 1
    assert noted.seen["Window", QEvent.Type.Paint] <= 3  # what lies beneath the picture


def test_live_pictures_have_the_size_they_are_shown_at(qtbot, new_window, monkeypatch):
    window = new_window
    qtbot.waitUntil(lambda: window.picture.rendered is not None, timeout=60_000)
    monkeypatch.setattr(Pace, "SIZES", (0.6,))
    window.set_playing(True)
    qtbot.waitUntil(
        lambda: window.picture.rendered.playing and window.picture.rendered.figures.scale == 0.6, timeout=60_000
    )
    assert window.picture.rendered.pixels.shape[1::-1] == tuple(window.picture.picture_size())
    window.set_playing(False)


def test_findings_follow_an_edit_at_once(window):
    from wraithon.project.edit import remove_effect

    before = window.session.findings()
    window.session.edit("Delete", lambda p: remove_effect(p, "thunder-stamp"))
    after = window.session.findings()
    assert any("stamp" in finding.message or "stamp" in finding.location for finding in after)
    window.session.undo()
    assert window.session.findings() == before


def test_a_picture_dropped_on_the_window_is_the_selected_layers_texture(qtbot, window, tmp_path):
    path = tmp_path / "soot.png"
    Image.new("RGBA", (16, 16), (255, 255, 255, 255)).save(path)
    session = window.session
    layer = session.project.effects[0].layers[0]
    session.select("layer", layer.id)
    drop(window, path)
    assert session.project.layer(layer.id)[1].look.texture == "soot.png"
    assert session.history.undo_label == "Texture soot.png"
    assert all("soot" not in finding.message for finding in session.findings())
    rendered = window.picture.rendered
    qtbot.waitUntil(lambda: window.picture.rendered is not rendered, timeout=60_000)
    assert not window.picture.rendered.problems
    session.undo()
    assert session.project.layer(layer.id)[1] == layer
    # With nothing to give it to, it is kept and that is said.
    heard = []
    session.said.connect(lambda text, kind: heard.append((text, kind)))
    session.select("", "")
    drop(window, path)
    assert heard[-1][1] == "warning"
    assert "select a layer" in heard[-1][0]
    path.write_bytes(b"broken")
    session.select("layer", layer.id)
    drop(window, path)
    assert heard[-1][1] == "error"
    assert session.project.layer(layer.id)[1] == layer


def test_a_lost_texture_is_mended_by_dropping_one_of_its_name(qtbot, window, tmp_path):
    session = window.session
    effect = session.project.effects[0]
    layer = effect.layers[0]
    window.station("effects")
    session.select("layer", layer.id)
    session.set_value("layer", layer.id, "look.texture", "washed out.png", "Texture")
    window.seek(1.0)
    qtbot.waitUntil(
        lambda: any("washed out.png" in problem for problem in window.picture.rendered.problems), timeout=20_000
    )
    assert any("washed out.png" in finding.message for finding in session.findings())
    path = tmp_path / "washed out.png"
    Image.new("RGBA", (8, 8), (255, 255, 255, 255)).save(path)
    before = session.project
    window.keeper.take_dropped([path])
    qtbot.waitUntil(lambda: not window.picture.rendered.problems, timeout=20_000)
    assert session.project is before  # it names the same picture still
    assert "washed out.png was missing" in window.transport.said.toolTip()
    assert not any("washed out.png" in finding.message for finding in session.findings())


def test_no_picture_of_the_project_before_comes_after_another_was_opened(qtbot, new_window, demo):
    window, seen = new_window, []
    window.engine.frame_ready.connect(
        lambda: seen.append(window.picture.rendered), Qt.ConnectionType.QueuedConnection
    )
    for _ in range(4):
        window.keeper._take(demo, None, "test")
        window.set_playing(True)
        qtbot.waitUntil(
            lambda: window.picture.rendered is not None and window.picture.rendered.time > 0.1, timeout=30_000
        )
        window.keeper._take(Loaded(Project(), None), None, "test")
        seen.clear()
        qtbot.waitUntil(lambda: any(rendered is not None for rendered in seen), timeout=30_000)
        settle(0.1)
        assert all(rendered is None or rendered.skin is None for rendered in seen)
