"""Clips in the window: renamed, hidden, raised, and brought in from other files, by mouse and keys."""

import threading

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from scripts.demo_maker.project import CHARACTER_FILE

from tests.desktop.conftest import settle
from tests.glb_maker import skinned_strip
from tests.test_capture import bvh_of
from wraithon.demo import DEMO_FOLDER
from wraithon.desktop.session import session as session_module
from wraithon.desktop.widgets.trees import key_of, kind_of
from wraithon.stage import retarget_cache

LEFT = Qt.MouseButton.LeftButton


def click_clip(window, name):
    """Click a clip in the list."""
    tree = window.index("character").tree
    item = next(i for i in window.index("character").items() if (kind_of(i), key_of(i)) == ("clip", name))
    tree.scrollToItem(item)
    settle()
    QTest.mouseClick(tree.viewport(), LEFT, pos=tree.visualItemRect(item).center())
    settle()
    assert window.session.selection == ("clip", name)
    return window.sheet("character").clip


def clip_names(window):
    return [key_of(item) for item in window.index("character").items() if kind_of(item) == "clip"]


def retype(field, text):
    QTest.mouseClick(field, LEFT, pos=QPoint(5, field.height() // 2))
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)
    settle()


def test_a_clip_is_renamed_by_typing_and_keeps_its_marks(window):
    window.station("character")
    marks = window.session.project.character.clip("walk").marks
    editor = click_clip(window, "walk")
    retype(editor.called, "stroll")
    assert window.session.selection == ("clip", "stroll")
    assert "walk" not in clip_names(window)
    assert editor.called.toolTip() == "The file calls it walk"
    assert window.session.project.character.clip("stroll").marks == marks
    retype(editor.called, "run")  # taken
    assert window.session.selection == ("clip", "run 2")
    window.session.undo()
    assert window.session.selection == ("clip", "stroll")
    window.session.undo()
    assert window.session.selection == ("clip", "walk")
    assert window.session.project.character.clip("walk").marks == marks
    assert not window.session.history.unsaved


def test_an_empty_or_cancelled_name_changes_nothing(window):
    window.station("character")
    editor = click_clip(window, "walk")
    before = window.session.project
    retype(editor.called, "   ")
    assert (editor.called.text(), window.session.project) == ("walk", before)
    editor.called.setFocus()
    QTest.keyClicks(editor.called, "xyz")
    QTest.keyClick(editor.called, Qt.Key.Key_Escape)
    assert (editor.called.text(), window.session.project) == ("walk", before)


def test_a_hidden_clip_goes_last_and_is_not_offered(window):
    window.station("character")
    assert clip_names(window)[0] == "idle"
    editor = click_clip(window, "idle")
    QTest.mouseClick(editor.form.widgets["hidden"], LEFT, pos=QPoint(8, 8))
    settle()
    assert clip_names(window)[-1] == "idle"
    window.session.select("", "")
    offered = window.sheet("character").dissolve.widgets["clip"]
    assert "while idle plays" not in [offered.itemText(k) for k in range(offered.count())]
    window.session.undo()
    assert clip_names(window)[0] == "idle"


def test_a_raised_clip_is_seen_raised(qtbot, window):
    window.station("character")
    window.session.select("clip", "walk")
    window.sheet("character").clip.play_only()
    qtbot.waitUntil(lambda: window.picture.rendered is not None and window.picture.rendered.exact, timeout=20_000)
    lowest = window.picture.rendered.skin[:, 1].min()
    window.session.set_value("clip", "walk", "height", 0.5, "Raise clip")
    qtbot.waitUntil(
        lambda: window.picture.rendered.skin[:, 1].min() == pytest.approx(lowest + 0.5, abs=0.01), timeout=20_000
    )
    text = window.sheet("character").clip._measures.text()
    assert "+50." in text  # centimetres from the ground


# ---- from other files -------------------------------------------------------------------------------


def test_a_second_character_with_the_same_joints_may_give_its_clips(qtbot, window):
    window.station("character")
    before = window.session.project
    window.keeper.bringing.bring_in(DEMO_FOLDER / CHARACTER_FILE)
    assert window.session.project is before
    qtbot.waitUntil(lambda: not window.keeper.reading.busy, timeout=30_000)
    assert window.session.project is before
    assert window.bar.isVisibleTo(window)
    assert "are named like those of Halcyon" in window.bar._text.text()
    assert window.bar._buttons[0].text() == "Put its 6 clips on Halcyon"
    QTest.mouseClick(window.bar._buttons[0], LEFT)
    qtbot.waitUntil(lambda: not window.session.dressing, timeout=30_000)
    settle()
    assert clip_names(window)[6:] == ["idle 2", "walk 2", "run 2", "leap 2", "strike 2", "fall 2"]
    assert window.session.selection == ("clip", "idle 2")
    editor = window.sheet("character").clip.capture
    assert "clip idle" in editor._facts.text()
    editor.match("head", None)
    assert {len(m.matches) for m in window.session.project.character.captures} == {50}  # one skeleton, one match
    window.session.undo()
    retype(window.sheet("character").clip.called, "breathing")
    assert window.session.project.character.captures[0].name == "breathing"
    editor.remove()
    assert len(window.session.project.character.captures) == 5
    for _ in range(3):
        window.session.undo()
    assert window.session.project == before


@pytest.fixture
def moves(tmp_path):
    """Return a glTF file of one motion, "lift", and no mesh."""
    maker = skinned_strip()
    del maker.json["meshes"], maker.json["skins"], maker.json["nodes"][2]
    path = tmp_path / "moves.glb"
    path.write_bytes(maker.glb())
    return path


def test_a_file_of_motions_alone_needs_a_character(window, empty_window, moves):
    empty_window.keeper.bringing.bring_in(moves)
    assert "Import a character first" in empty_window.transport.said.toolTip()
    window.keeper.bringing.bring_in(moves)
    assert "no joint is named like" in window.transport.said.toolTip()
    assert window.session.project.character.captures[-1].clip == "lift"


def test_a_motion_brought_in_elsewhere_is_shown_where_clips_are(window, moves):
    window.station("effects")
    window.keeper.bringing.bring_in(moves)
    assert window.at == "character"
    assert window.session.selection == ("clip", "lift")


def test_a_damaged_character_is_told_of_though_it_holds_motions(window, tmp_path):
    maker = skinned_strip()
    position = maker.json["meshes"][0]["primitives"][0]["attributes"]["POSITION"]
    maker.json["accessors"][position]["count"] = 10**6
    path = tmp_path / "torn.glb"
    path.write_bytes(maker.glb())
    before = window.session.project
    window.keeper.bringing.bring_in(path)
    assert "torn.glb: accessors" in window.transport.said.toolTip()
    assert window.session.project is before


def test_a_motion_matched_with_nothing_is_listed_told_and_can_be_matched(qtbot, window, moves):
    window.station("character")
    window.keeper.bringing.bring_in(moves)
    window.session.select("clip", "walk")
    editor = click_clip(window, "lift")  # it is in the list, though not on the character
    assert "not on the character" in editor._measures.text()
    assert any("none of its joints is matched" in finding.message for finding in window.session.findings())
    editor.capture.match("tip", "head")
    qtbot.waitUntil(lambda: not window.session.dressing, timeout=20_000)
    settle()
    assert window.session.character.clip("lift") is not None
    assert not any("matched" in finding.message for finding in window.session.findings())
    assert "travels" in editor._measures.text()
    assert clip_names(window).count("lift") == 1


def test_a_motion_whose_file_is_lost_may_be_taken_off_or_brought_in_again(qtbot, window, tmp_path, moves):
    window.station("character")
    window.keeper.bringing.bring_in(moves)
    window.sheet("character").clip.capture.match("tip", "head")
    window.sheet("character").clip.rename("raise")
    assert window.keeper.save_in(tmp_path / "home")
    (tmp_path / "home/characters/moves.glb").unlink()
    window.keeper.open_path(tmp_path / "home")
    qtbot.waitUntil(lambda: not window.keeper.reading.busy, timeout=20_000)
    window.station("character")
    settle()
    editor = click_clip(window, "raise")
    assert "was not read" in editor.capture._facts.text()
    assert not editor.capture._again.isEnabled()
    before = window.session.project
    QTest.mouseClick(editor.capture._remove, LEFT)
    assert window.session.project.character.captures == ()
    window.session.undo()
    assert window.session.project == before
    window.keeper.bringing.bring_in(moves)  # of the same name: it takes the place of what was lost
    qtbot.waitUntil(lambda: not window.session.dressing, timeout=20_000)
    settle()
    (motion,) = window.session.project.character.captures
    assert (motion.name, motion.matches, motion.file) == ("raise", (("tip", "head"),), str(moves))
    assert window.session.character.clip("raise") is not None
    assert not any("was not read" in finding.message for finding in window.session.findings())


def test_a_file_with_neither_says_what_is_wrong_with_the_character(window, tmp_path):
    path = tmp_path / "bad.glb"
    path.write_bytes(b"glTF no")
    window.keeper.bringing.bring_in(path)
    assert "bad.glb: header" in window.transport.said.toolTip()


# ---- beside the window ------------------------------------------------------------------------------


def test_a_long_motion_is_put_on_beside_the_window(qtbot, window, tmp_path, monkeypatch):
    """While joints are picked the window goes on; what is seen at the end is the last pick."""
    character = window.session.character
    path = tmp_path / "stroll.bvh"
    path.write_text(bvh_of(character, character.clip("walk")))
    window.station("character")
    window.keeper.bringing.bring_in(path)
    qtbot.waitUntil(lambda: not window.session.dressing, timeout=20_000)
    clip = window.session.character.clip("stroll")
    monkeypatch.setattr(session_module, "AT_ONCE", 0)
    go, threads, real = threading.Event(), [], retarget_cache.retargeted

    def held_up(*given):
        threads.append(threading.current_thread())
        assert go.wait(20)
        return real(*given)

    monkeypatch.setattr(retarget_cache, "retargeted", held_up)
    editor = window.sheet("character").clip.capture
    editor.match("left hand", None)
    editor.match("right hand", None)
    assert window.session.dressing
    assert window.session.character.clip("stroll") is clip  # as it was, meanwhile
    assert "being put on" in editor._facts.text()
    go.set()
    qtbot.waitUntil(lambda: not window.session.dressing, timeout=20_000)
    settle()
    assert threading.main_thread() not in threads
    assert len(threads) == 2  # the first pick, and the last
    moved = {int(head[0]) for head in window.session.character.clip("stroll").heads}
    index = character.skeleton.index
    assert not {index["left hand"], index["right hand"]} & moved
    assert "being put on" not in editor._facts.text()


def test_a_motion_that_cannot_be_put_on_is_said_and_not_tried_for_ever(qtbot, window, tmp_path, monkeypatch):
    character = window.session.character
    path = tmp_path / "stroll.bvh"
    path.write_text(bvh_of(character, character.clip("walk")))

    def broken(*_given):
        raise ArithmeticError("no way")

    monkeypatch.setattr(retarget_cache, "retargeted", broken)
    monkeypatch.setattr(session_module, "AT_ONCE", 0)
    window.keeper.bringing.bring_in(path)
    qtbot.waitUntil(lambda: not window.session.dressing, timeout=20_000)
    settle()
    assert "could not be put on the character: no way" in window.transport.said.toolTip()
    assert not window.session.dressing
