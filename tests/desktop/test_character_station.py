"""The Character station and what the mouse does on the skin, driven as an artist drives it."""

import threading

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from scripts.demo_maker.project import CHARACTER_FILE

from tests.desktop.conftest import exact_at, settle
from tests.glb_maker import skinned_strip
from tests.test_capture import bvh_of
from tests.test_joint_names import motion
from wraithon.character.masks import unpack_mask
from wraithon.character.moments import contacts
from wraithon.demo import DEMO_FOLDER
from wraithon.desktop.effects.source_filters import KINDS
from wraithon.desktop.session import reading
from wraithon.desktop.widgets.basics import Button
from wraithon.project.edit import with_layer
from wraithon.stage.loading import load

LEFT, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton
NONE, CTRL, ALT = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


def drag(widget, start, end, steps=8, modifiers=NONE):
    """Drag with the left button, in steps."""
    QTest.mousePress(widget, LEFT, modifiers, start)
    for k in range(1, steps + 1):
        at = start + (end - start) * k / steps
        # QTest.mouseMove carries no modifiers.
        if modifiers == NONE:
            QTest.mouseMove(widget, at)
        settle(0.01)
    QTest.mouseRelease(widget, LEFT, modifiers, end)
    settle(0.03)


def at_joint(window, name):
    """Return where a joint is in the picture."""
    node = window.session.character.skeleton.index[name]
    x, y, _ = window.picture.project(window.picture.rendered.joints)[node]
    return QPoint(int(x), int(y))


def source_of(window, layer="plume-glints"):
    return window.session.project.layer(layer)[1].source


def choose_layer(qtbot, window, layer="plume-glints"):
    window.station("effects")
    window.session.select("layer", layer)
    settle()
    return window.sheet("effects").source


def filter_form(editor, field):
    return editor.filters.list.forms[editor.filters.list.keys.index(field)]


def click_remove(editor, field):
    """Click the button that removes a filter."""
    settle()
    name = f"Remove this filter: {next(kind.name for kind in KINDS if kind.field == field)}"
    next(
        b for b in editor.filters.list.findChildren(Button) if b.accessibleName() == name and b.isVisibleTo(editor)
    ).click()


def shown(window, heat):
    """Tell whether the picture shows the skin coloured, or no longer."""
    return window.picture.rendered is not None and (window.picture.rendered.heat is not None) == heat


# ---- seeing ---------------------------------------------------------------------------------------


def test_a_selected_joint_shows_its_weights_and_another_station_does_not(qtbot, window):
    window.station("character")
    window.session.select("joint", "left forearm")
    qtbot.waitUntil(lambda: shown(window, True), timeout=10_000)
    heat = window.picture.rendered.heat
    assert len(heat) == len(window.session.character.mesh.positions)
    assert heat.max() == pytest.approx(1, abs=1e-3)
    assert (heat < 0).mean() > 0.9
    window.station("triggers")
    qtbot.waitUntil(lambda: shown(window, False), timeout=10_000)


def test_joints_are_picked_in_the_picture(qtbot, window):
    window.station("character")
    window.session.select("joint", "head")
    settle()
    spot = at_joint(window, "left hand")
    qtbot.mouseClick(window.picture, LEFT, NONE, spot)
    kind, what = window.session.selection
    assert (kind, what) == ("joint", what)
    near = window.picture.project(window.picture.rendered.joints)[window.session.character.skeleton.index[what]]
    assert np.hypot(near[0] - spot.x(), near[1] - spot.y()) < 12


def test_the_clip_says_how_its_feet_stand(window):
    window.station("character")
    window.session.select("clip", "walk")
    text = window.sheet("character").clip._measures.text()
    assert "left ball stands" in text
    assert "+1.35 m ahead" in text


def test_in_place_is_chosen_by_axis(window):
    window.station("character")
    window.session.select("clip", "walk")
    window.sheet("character").clip.form.widgets["in_place"].checks["z"].click()
    assert window.session.project.character.clip("walk").in_place == ("z",)
    window.session.undo()
    assert window.session.project.character.clip("walk").in_place == ()


def test_raising_the_character_is_found_out(window):
    window.sheet("character").form.widgets["height"].edited.emit(0.2, True)
    assert any("above the ground" in finding.message for finding in window.session.findings())


# ---- sources --------------------------------------------------------------------------------------


def test_density_and_the_births_chart_tell_vertices_from_surface(qtbot, window):
    editor = choose_layer(qtbot, window)
    editor.density.click()
    qtbot.waitUntil(lambda: shown(window, True) and editor.chart.isVisibleTo(editor), timeout=20_000)
    even = window.picture.rendered.heat
    even = even[even >= 0]
    assert np.abs(even - 0.5).max() < 0.02
    editor.mode.widgets["mode"].edited.emit("vertices", True)
    qtbot.waitUntil(lambda: np.ptp(window.picture.rendered.heat) > 0.3, timeout=20_000)
    parts = {tally.name: tally for tally in window.picture.rendered.births[0]}
    assert parts["mask"].births > 1.5 * parts["mask"].fair
    editor.density.click()
    qtbot.waitUntil(lambda: shown(window, False), timeout=10_000)


def test_filters_are_added_set_and_removed(qtbot, window):
    editor = choose_layer(qtbot, window)
    for field in ("joints", "height", "facing", "dissolving"):
        editor.filters.add_filter(field)
    source = source_of(window)
    assert source.joints.names == ("root",)
    assert (source.height.low, source.facing.within, source.dissolving) == (0.5, 60, True)
    filter_form(editor, "height").widgets["height.low"].edited.emit(25.0, True)
    assert source_of(window).height.low == 0.25
    click_remove(editor, "height")
    assert source_of(window).height is None
    assert "height" not in editor.filters.list.keys
    for _ in range(6):
        window.session.undo()
    assert source_of(window).height is None
    assert source_of(window).joints.names == ()


def test_the_joint_table_is_filled_and_picked_in_the_picture(qtbot, window):
    editor = choose_layer(qtbot, window)
    editor.table.fill("head and hands")
    assert {row.joint for row in source_of(window).table} == {"head", "left hand", "right hand"}
    editor.table.pick.click()
    settle(0.1)
    qtbot.mouseClick(window.picture, LEFT, NONE, at_joint(window, "left foot"))
    joints = {row.joint for row in source_of(window).table}
    assert len(joints) == 4
    editor.table.list.forms[0].widgets["share"].edited.emit(3.0, True)
    assert source_of(window).table[0].share == 3.0
    editor.table.pick.click()
    editor.table.toggle("head")
    assert "head" not in {row.joint for row in source_of(window).table}


def test_filters_that_leave_nothing_are_told(qtbot, window):
    effect, layer = window.session.project.layer("plume-glints")
    starved = layer.evolve(source=layer.source.evolve(parts=("mask",), joints={"names": ("left foot",)}))
    window.session.edit("Starve", lambda p: with_layer(p, effect.id, starved))
    qtbot.waitUntil(lambda: any("loosen them" in text for text in window.picture.rendered.problems), timeout=20_000)
    assert window.picture.rendered.figures.refused == 0


# ---- painting -------------------------------------------------------------------------------------


def test_a_mask_is_painted_on_the_skin_and_wiped_with_undo(qtbot, window):
    window.seek(0)
    qtbot.waitUntil(lambda: exact_at(window, 0), timeout=20_000)
    window.station("character")
    window.index("character").add_mask()
    settle(0.1)
    chest = at_joint(window, "chest")
    drag(window.picture, chest, chest + QPoint(12, 20))
    (mask,) = window.session.project.character.masks
    held = unpack_mask(mask)
    assert 0.001 < (held > 0.5).mean() < 0.2
    before = window.picture.view
    mesh = window.session.character
    painted = {mesh.parts[p].name for p in np.unique(_parts_of(mesh)[held > 0.5])}
    assert "body" in painted
    window.session.undo()
    assert unpack_mask(window.session.project.character.masks[0]).max() == 0
    window.session.redo()
    drag(window.picture, chest, chest + QPoint(12, 20), steps=1, modifiers=ALT)
    assert unpack_mask(window.session.project.character.masks[0]).sum() < held.sum()
    assert window.picture.view == before  # painting moves no camera


def _parts_of(character):
    out = np.zeros(len(character.mesh.positions), int)
    out[character.mesh.triangles.reshape(-1)] = np.repeat(character.mesh.part_of_triangle, 3)
    return out


def test_a_painted_mask_gates_a_layer(qtbot, window):
    window.station("character")
    window.index("character").add_mask()
    sheet = window.sheet("character").painting
    sheet.paint_all("Fill")
    editor = choose_layer(qtbot, window)
    editor.filters.add_filter("painted")
    mask = window.session.project.character.masks[0]
    assert source_of(window).painted == mask.id
    assert not any("mask" in finding.message for finding in window.session.findings())
    window.session.select("mask", mask.id)
    window.station("character")
    window.index("character").remove()
    assert any("painted mask is gone" in finding.message for finding in window.session.findings())


def test_asking_for_a_mask_that_is_not_there_leads_to_painting_one(qtbot, window):
    editor = choose_layer(qtbot, window)
    editor.filters.add_filter("painted")
    assert window.at == "character"
    assert window.session.selection[0] == "mask"


# ---- anchors --------------------------------------------------------------------------------------


def test_an_anchor_is_dragged_by_its_arrow_and_snaps(qtbot, window):
    window.seek(0)
    qtbot.waitUntil(lambda: exact_at(window, 0), timeout=20_000)
    window.station("character")
    window.session.select("anchor", "overhead")
    settle(0.1)
    hand, picture = window.sheet("character").hands[0], window.picture
    before = window.session.project.anchor("overhead")
    position = picture.rendered.positions["overhead"][:3, 3].copy()
    middle, _, tips, _ = hand._drawn(picture)
    axis = max(range(3), key=lambda k: np.hypot(tips[k].x() - middle.x(), tips[k].y() - middle.y()))
    start = (middle * 0.3 + tips[axis] * 0.7).toPoint()
    way = QPointF(tips[axis] - middle)
    drag(picture, start, start + way.toPoint())
    qtbot.waitUntil(lambda: not np.allclose(picture.rendered.positions["overhead"][:3, 3], position), timeout=10_000)
    settle(0.2)
    moved = picture.rendered.positions["overhead"][:3, 3] - position
    own = picture.rendered.positions["overhead"][:3, axis]
    assert moved @ own > 0.05
    np.testing.assert_allclose(moved, own * (moved @ own), atol=0.01)
    window.session.undo()  # the whole drag is one step
    assert window.session.project.anchor("overhead") == before


def along_a_ring(hand, picture):
    """Return two points of a ring of handles, the first of which takes it."""
    _, _, _, rings = hand._drawn(picture)
    held = (
        (ring[k].toPoint(), ring[k + 3].toPoint())
        for axis, ring in enumerate(rings)
        for k, point in enumerate(ring[:-4])
        if hand._find(picture, point) == ("ring", axis)
    )
    return next(held)


def test_an_anchor_is_turned_by_its_ring(qtbot, window):
    window.seek(0)
    qtbot.waitUntil(lambda: exact_at(window, 0), timeout=20_000)
    window.station("character")
    window.session.select("anchor", "overhead")
    settle(0.1)
    hand, picture = window.sheet("character").hands[0], window.picture
    drag(picture, *along_a_ring(hand, picture))
    assert window.session.project.anchor("overhead").turn != (0, 0, 0)


def test_an_anchor_is_mirrored_and_mirrored_again_in_place(window):
    window.station("character")
    window.session.select("anchor", "left-ball")
    sheet = window.sheet("character").anchor
    count = len(window.session.project.character.anchors)
    sheet.form.widgets["offset.0"].edited.emit(5.0, True)
    sheet.mirror()
    twin = window.session.project.anchor(window.session.selection[1])
    assert twin.joint == "right ball"
    # There was one of that name and joint: it is brought up to date.
    assert len(window.session.project.character.anchors) == count
    assert twin.id == "right-ball"


def test_a_test_burst_fires_at_the_anchor_and_is_no_part_of_the_project(qtbot, window):
    window.seek(0)
    qtbot.waitUntil(lambda: exact_at(window, 0), timeout=20_000)
    window.station("character")
    window.session.select("anchor", "right-fan-tip")
    before = window.session.project
    window.sheet("character").anchor.try_button.click()
    qtbot.waitUntil(lambda: any(r.effect == "(test burst)" for r in window.picture.rendered.records), timeout=20_000)
    window.set_playing(False)
    assert window.session.project is before
    assert "(test burst)" not in {effect.id for effect in before.effects}


def test_the_handles_of_an_anchor_do_not_take_the_camera_elsewhere(qtbot, window):
    window.station("character")
    window.session.select("anchor", "overhead")
    settle()
    before = window.picture.view
    drag(window.picture, QPoint(40, 400), QPoint(80, 400))
    assert window.picture.view != before


# ---- bringing in ----------------------------------------------------------------------------------


@pytest.fixture
def strip(tmp_path):
    path = tmp_path / "strip.glb"
    path.write_bytes(skinned_strip().glb())
    return path


def test_a_second_character_comes_on_stage_and_the_first_comes_back(qtbot, window, strip):
    window.station("character")
    first = window.session.project.character
    window.keeper.bringing.bring_in(strip)
    assert [use.name for use in window.session.project.characters] == ["Halcyon", "strip"]
    assert window.session.project.character.name == "strip"
    qtbot.waitUntil(lambda: len(window.picture.rendered.joints) == 3, timeout=20_000)
    window.index("character").who.edited.emit(first.id, True)
    qtbot.waitUntil(lambda: len(window.picture.rendered.joints) > 50, timeout=20_000)
    assert window.session.project.character == first
    window.session.undo()
    window.session.undo()
    assert window.session.project.characters == (first,)


def test_a_replaced_file_keeps_what_was_added_and_lists_names_to_pick(qtbot, window, strip):
    use = window.session.project.character
    window.station("character")
    window.keeper.bringing.replace(strip)
    now = window.session.project.character
    assert (now.id, now.anchors, now.events) == (use.id, use.anchors, use.events)
    matching = window.sheet("character").matching
    assert matching.isVisibleTo(window.sheet("character"))
    missing = {entry.name for entry in matching._shown}
    assert {"left ball", "walk"} <= missing
    entry = next(e for e in matching._shown if e.name == "left ball")
    joint = window.session.character.skeleton.joint_names[0]
    matching.take(entry, joint)
    assert window.session.project.anchor("left-ball").joint == joint
    matching.take_nearest()
    window.session.undo()
    window.session.undo()
    window.session.undo()
    assert window.session.project.character == use
    qtbot.waitUntil(lambda: len(window.picture.rendered.joints) > 50, timeout=20_000)
    assert not matching.isVisibleTo(window.sheet("character"))


def test_a_motion_is_put_on_matched_saved_and_opened_again(qtbot, window, tmp_path):
    character = window.session.character
    path = tmp_path / "stroll.bvh"
    path.write_text(bvh_of(character, character.clip("walk")))
    window.station("character")
    window.keeper.bringing.bring_in(path)
    assert window.session.selection == ("clip", "stroll")
    sheet = window.sheet("character").clip.capture
    assert sheet.isVisibleTo(window.sheet("character"))
    assert "51 joints matched" in sheet._facts.text()
    assert sheet.form.widgets["unit"].value == pytest.approx(0.01, rel=1e-3)
    sheet.match("left hand", None)
    assert len(window.session.project.character.captures[0].matches) == 50
    sheet.match_again()
    window.sheet("character").clip.play_only()
    qtbot.waitUntil(lambda: window.picture.rendered is not None and window.picture.rendered.exact, timeout=20_000)
    assert window.keeper.save_in(tmp_path / "saved")
    again = load(tmp_path / "saved")
    assert [clip.name for clip in again.characters["halcyon"].clips][-1] == "stroll"
    assert again.check() == []
    sheet.remove()
    assert window.session.character.clip("stroll") is None


def test_joints_of_two_motions_of_one_skeleton_are_matched_in_the_same_fields_each_its_own(window, tmp_path):
    """They were made anew for every motion selected."""
    character = window.session.character
    window.station("character")
    for name in ("stroll", "amble"):
        path = tmp_path / f"{name}.bvh"
        path.write_text(bvh_of(character, character.clip("walk")))
        window.keeper.bringing.bring_in(path)
    sheet = window.sheet("character").clip.capture
    field = sheet.fields["left hand"]
    field.edited.emit(None, True)
    window.session.select("clip", "stroll")
    assert sheet.fields["left hand"] is field
    assert field.currentText() == "left hand"
    field.edited.emit("spine", True)
    matched = {each.name: dict(each.matches).get("left hand") for each in window.session.project.character.captures}
    assert matched == {"stroll": "spine", "amble": None}


def test_a_broken_motion_is_said_and_changes_nothing(window, tmp_path):
    path = tmp_path / "bad.bvh"
    path.write_text("HIERARCHY\nROOT hips {\n")
    before = window.session.project
    window.keeper.bringing.bring_in(path)
    assert "bad.bvh, line" in window.transport.said.toolTip()
    assert window.session.project is before


def test_a_large_file_is_read_beside_the_window_and_can_be_cancelled(qtbot, window, monkeypatch):
    monkeypatch.setattr(reading, "AT_ONCE", 1000)
    before = window.session.project
    path = DEMO_FOLDER / CHARACTER_FILE
    window.keeper.bringing.bring_in(path)
    assert window.keeper.reading.busy
    assert window.session.project is before
    qtbot.waitUntil(lambda: window.bar.isVisibleTo(window), timeout=5_000)
    window.keeper.reading.cancel()
    settle(0.3)
    assert window.session.project is before
    window.keeper.bringing.bring_in(path)
    qtbot.waitUntil(lambda: not window.keeper.reading.busy, timeout=30_000)
    window.bar.answer(1)  # its joints are named like those of the character on stage: it comes in beside it
    assert len(window.session.project.characters) == 2
    assert not window.bar.isVisibleTo(window)


def test_what_is_read_in_no_time_shows_no_progress_and_is_measured_beside_the_window(qtbot, window, monkeypatch):
    shown, threads, real = [], [], contacts._feet
    monkeypatch.setattr(reading, "SOON", 60.0)
    monkeypatch.setattr(contacts, "_feet", lambda *given: threads.append(threading.current_thread()) or real(*given))
    window.keeper.reading.progressed.connect(lambda text, share: shown.append((text, share)))
    window.bar.ask("Something else?", ("Yes", list))
    window.keeper.bringing.replace(DEMO_FOLDER / CHARACTER_FILE)
    assert window.keeper.reading.busy
    qtbot.waitUntil(lambda: not window.keeper.reading.busy, timeout=30_000)
    settle(0.3)
    assert shown == []
    assert window.bar.isVisibleTo(window)  # what was asked before is still there
    assert "Everything still matches" in window.transport.said.toolTip()
    assert threads
    assert threading.main_thread() not in threads


# ---- dissolve -------------------------------------------------------------------------------------


def test_the_dissolve_is_set_in_the_sheet_and_seen(qtbot, window):
    window.station("character")
    window.session.select("", "")
    window.seek(0)
    size = window.picture.picture_size()[::-1]

    def whole():
        """Tell whether the picture is at rest: a live one of a busy machine is smaller, and enlarged."""
        rendered = window.picture.rendered
        return exact_at(window, 0) and rendered.pixels.shape[:2] == size and rendered.figures.scale == 1

    window.engine.send(redraw=True)
    qtbot.waitUntil(whole, timeout=60_000)
    before = window.picture.rendered.pixels.copy()
    dissolve = window.sheet("character").dissolve
    dissolve.widgets["amount"].edited.emit(60.0, True)
    dissolve.widgets["clip"].edited.emit("", True)
    edited = window.session.project.character.dissolve
    assert (edited.amount, edited.clip) == (0.6, "")
    qtbot.waitUntil(lambda: (window.picture.rendered.pixels != before).mean() > 0.02, timeout=20_000)
    window.session.undo()
    qtbot.waitUntil(lambda: np.array_equal(window.picture.rendered.pixels, before), timeout=20_000)


def test_a_match_by_hand_survives_and_the_unit_follows_the_limbs(qtbot, window, tmp_path):
    path = motion(window.session.character, "camel", tmp_path / "made.bvh")
    window.station("character")
    window.keeper.bringing.bring_in(path)
    qtbot.waitUntil(lambda: bool(window.session.project.character.captures), timeout=20_000)
    capture = window.sheet("character").clip.capture
    held = window.session.project.character.captures[0]
    assert "guessed from the lengths of limbs" in capture._facts.text()
    capture.match("LeftToeBase", "left toes")
    capture.match("Head", None)
    capture.match_again()
    now = window.session.project.character.captures[0]
    assert dict(now.matches)["LeftToeBase"] == "left toes"
    assert "Head" not in dict(now.matches)
    assert now.unit == pytest.approx(held.unit, rel=0.05)
    window.session.set_value("capture", now.id, "unit", 0.5, "Unit")
    assert "guessed" not in capture._facts.text()
    capture.match("Head", "head")
    assert window.session.project.character.captures[0].unit == 0.5


def test_the_next_motion_of_a_skeleton_is_matched_as_by_hand_before(qtbot, window, tmp_path):
    path = motion(window.session.character, "camel", tmp_path / "made.bvh")
    again = tmp_path / "second.bvh"
    again.write_bytes(path.read_bytes())
    window.station("character")

    def bring(file, count):
        window.keeper.bringing.bring_in(file)
        qtbot.waitUntil(lambda: len(window.session.project.character.captures) == count, timeout=20_000)
        return window.session.project.character.captures[-1]

    heard = []
    window.session.said.connect(lambda text, _kind: heard.append(text))
    first = bring(path, 1)
    capture = window.sheet("character").clip.capture
    assert capture._forget.isHidden()
    capture.match("LeftToeBase", "left toes")
    capture.match("Head", None)
    by_hand = window.session.project.character.captures[0]
    second = bring(again, 2)
    assert (second.matches, second.by_hand) == (by_hand.matches, by_hand.by_hand)
    assert second.matches != first.matches
    assert any("matched as its skeleton was by hand before" in text for text in heard)
    assert not capture._forget.isHidden()
    qtbot.mouseClick(capture._forget, LEFT)
    now = window.session.project.character.captures[1]
    assert (now.matches, now.by_hand) == (first.matches, ())
    window.session.undo()
    assert window.session.project.character.captures[1].by_hand == by_hand.by_hand
    window.session.redo()
    third = bring(path, 3)
    assert (third.matches, third.by_hand) == (first.matches, ())
