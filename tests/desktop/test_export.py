"""Pictures of the show are written from the window: one, a sequence, given up, and refused in words."""

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tests.desktop.conftest import exact_at, settle
from wraithon.interchange.pictures import render_moment
from wraithon.picture.raster import RasterRenderer
from wraithon.picture.shipped import TextureLibrary
from wraithon.stage.player import Player

LEFT, CTRL = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def sheet(window, qtbot):
    window.station("effects")
    window.seek(1.0)
    qtbot.waitUntil(lambda: exact_at(window, 1.0), timeout=60_000)
    QTest.keyClick(window, Qt.Key.Key_E, CTRL)
    settle()
    made = window.export_sheet
    made.across.set_value(160)
    made.down.set_value(90)
    yield made
    if made.isVisible():
        made._running = False
        made.reject()
    settle(0.1)


def type_path(sheet, path):
    sheet.path.selectAll()
    QTest.keyClicks(sheet.path, str(path))
    settle()


def test_the_picture_of_this_moment_is_that_of_the_command(qtbot, window, sheet, tmp_path, demo):
    type_path(sheet, tmp_path / "one.png")
    assert sheet._says.text() == "1 picture of 160 × 90"
    view = window.picture.view
    QTest.mouseClick(sheet.write, LEFT)
    qtbot.waitUntil((tmp_path / "one.png").exists, timeout=60_000)
    library = TextureLibrary(demo.folder)
    player = Player(demo.project.evolve(view=view), demo.characters)
    renderer = RasterRenderer(library.read, library.pieces.read)
    render_moment(player, renderer, 1.0, (160, 90), tmp_path / "two.png")
    written, wanted = (np.asarray(Image.open(tmp_path / name)) for name in ("one.png", "two.png"))
    np.testing.assert_array_equal(written, wanted)
    qtbot.waitUntil(lambda: "Pictures written" in window.transport.said.text(), timeout=10_000)


def test_a_sequence_is_numbered_and_its_progress_shown(qtbot, window, sheet, tmp_path):
    sheet.choose_what("sequence")
    sheet.start.set_value(0.5)
    sheet.end.set_value(0.7)
    sheet.fps.set_value(20)
    type_path(sheet, tmp_path / "run_####.jpg")
    assert sheet._says.text() == "4 pictures of 160 × 90"
    QTest.mouseClick(sheet.write, LEFT)
    assert sheet.bar.isVisible()
    qtbot.waitUntil((tmp_path / "run_0003.jpg").exists, timeout=60_000)
    qtbot.waitUntil(lambda: not window.engine._background_tasks.measures, timeout=20_000)
    assert sorted(path.name for path in tmp_path.glob("*.jpg")) == [f"run_{k:04}.jpg" for k in range(4)]


def test_the_rest_of_a_sequence_is_given_up_by_cancel(qtbot, window, sheet, tmp_path):
    sheet.choose_what("sequence")
    sheet.end.set_value(100.0)
    type_path(sheet, tmp_path / "run_####.png")
    QTest.mouseClick(sheet.write, LEFT)
    qtbot.waitUntil((tmp_path / "run_0001.png").exists, timeout=60_000)
    assert sheet.leave.text() == "Cancel"
    QTest.mouseClick(sheet.leave, LEFT)
    qtbot.waitUntil(lambda: sheet._says.text().startswith("Stopped: "), timeout=20_000)
    assert sheet.isVisible()
    assert sheet.leave.text() == "Close"
    count = len(list(tmp_path.glob("*.png")))
    assert sheet._says.text() == f"Stopped: {count} pictures are written"
    settle(0.3)
    assert len(list(tmp_path.glob("*.png"))) == count


@pytest.mark.parametrize(
    ("what", "path", "says"),
    [
        ("moment", "{}/one.gif", "Name the file .png, .jpg or .webp."),
        ("moment", "{}/none/one.png", "There is no folder {}/none: choose one."),
        ("moment", "one.png", "There is no folder .: choose one."),
        ("sequence", "{}/one.png", "Put #### into the name, where the number goes."),
    ],
)
def test_what_cannot_be_written_is_told_before(sheet, tmp_path, what, path, says):
    sheet.choose_what(what)
    type_path(sheet, path.format(tmp_path))
    assert sheet._says.text() == says.format(tmp_path)
    assert not sheet.write.isEnabled()


def test_a_span_that_is_none_or_too_long_is_told(sheet, tmp_path):
    sheet.choose_what("sequence")
    type_path(sheet, tmp_path / "a_#.png")
    sheet.end.edited.emit(0.0, True)
    sheet.end.set_value(0.0)
    sheet._show()
    assert sheet._says.text() == "The last moment must come after the first."
    sheet.end.set_value(1e5)
    sheet._show()
    assert sheet._says.text() == "3,000,000 pictures are too many: 100,000 at most."


def test_a_file_that_cannot_be_written_keeps_the_sheet_open(qtbot, window, sheet, tmp_path):
    (tmp_path / "one.png").mkdir()
    type_path(sheet, tmp_path / "one.png")
    QTest.mouseClick(sheet.write, LEFT)
    qtbot.waitUntil(lambda: "cannot be written" in sheet._says.text(), timeout=60_000)
    assert sheet.isVisible()
    assert sheet.write.isEnabled()
