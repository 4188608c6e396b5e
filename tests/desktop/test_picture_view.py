"""The picture by itself: the camera in the mouse's hand, comparing, what is said over it, and joints to pick."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QImage, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from tests.desktop.test_timeline import rendered
from wraithon.character.pose import rest_pose
from wraithon.desktop.picture.comparing import Way
from wraithon.desktop.picture.picture_tools import JointTool
from wraithon.desktop.picture.picture_view import PictureView
from wraithon.picture.camera import camera_of
from wraithon.project.project import Project, View

KEYS, HAND, OTHER = Qt.Key, Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton
SHIFT = Qt.KeyboardModifier.ShiftModifier
NONE = Qt.KeyboardModifier.NoModifier
START = View(target=(0.5, 1.0, 0.0), azimuth=30, elevation=10, distance=4, follow=False)
WIDE, HIGH = 400, 300


@pytest.fixture
def picture(themed):
    made = PictureView()
    made.resize(WIDE, HIGH)
    made.set_view(START)
    made.show()
    QTest.qWaitForWindowExposed(made)
    yield made
    made.close()
    made.deleteLater()


def drag(picture, across, down, button=HAND, modifiers=NONE):
    QTest.mousePress(picture, button, modifiers, QPoint(200, 150))
    QTest.mouseMove(picture, QPoint(200 + across, 150 + down))
    QTest.mouseRelease(picture, button, modifiers, QPoint(200 + across, 150 + down))


def plain(colour, **changes):
    """Return a rendered frame of one colour."""
    pixels = np.full((HIGH, WIDE, 4), 255, np.uint8)
    pixels[..., :3] = colour
    return replace(rendered(), pixels=pixels, camera=camera_of(START, (0, 0, 0)), **changes)


def pixels_of(picture):
    image = picture.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : image.width() * 3].reshape(image.height(), image.width(), 3).astype(int)


# ---- the camera -----------------------------------------------------------------------------------


def test_a_drag_turns_by_so_many_degrees_a_pixel_and_moves_nothing(picture):
    drag(picture, 50, 20)
    assert picture.view.azimuth == pytest.approx(30 - 50 * 0.4)
    assert picture.view.elevation == pytest.approx(10 + 20 * 0.4)
    assert picture.view.evolve(azimuth=30, elevation=10) == START


@pytest.mark.parametrize(("down", "elevation"), [(-1000, -85), (1000, 89)])
def test_the_camera_never_goes_over_the_top(picture, down, elevation):
    picture.turn(0, down)
    assert picture.view.elevation == elevation


@pytest.mark.parametrize(("button", "modifiers"), [(OTHER, NONE), (HAND, SHIFT)])
def test_what_is_slid_keeps_under_the_mouse(picture, button, modifiers):
    target = np.array([START.target], np.float32)
    before = camera_of(START, (0, 0, 0)).project(target, WIDE, HIGH)[0]
    drag(picture, 60, 0, button, modifiers)
    after = camera_of(picture.view, (0, 0, 0)).project(target, WIDE, HIGH)[0]
    np.testing.assert_allclose(after[:2] - before[:2], (60, 0), atol=1.0)
    assert (picture.view.azimuth, picture.view.distance) == (START.azimuth, START.distance)


@pytest.mark.parametrize(("notches", "factor"), [(1, 0.9), (-2, 0.9**-2)])
def test_the_wheel_nears_by_a_tenth(picture, notches, factor):
    at = QPointF(100, 100)
    event = QWheelEvent(
        at, picture.mapToGlobal(at), QPoint(), QPoint(0, 120 * notches), Qt.MouseButton.NoButton, NONE,
        Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(picture, event)
    assert picture.view.distance == pytest.approx(4 * factor)


@pytest.mark.parametrize(("factor", "distance"), [(1e-6, 0.3), (1e6, 1e5)])
def test_the_camera_stays_within_reach(picture, factor, distance):
    picture.near(factor)
    assert picture.view.distance == distance


@pytest.mark.parametrize(
    ("key", "change"),
    [
        (KEYS.Key_Left, {"azimuth": 38.0}),
        (KEYS.Key_Right, {"azimuth": 22.0}),
        (KEYS.Key_Up, {"elevation": 4.0}),
        (KEYS.Key_Down, {"elevation": 16.0}),
        (KEYS.Key_Plus, {"distance": 3.6}),
        (KEYS.Key_Minus, {"distance": 4 / 0.9}),
    ],
)
def test_keys_do_what_the_mouse_does(picture, qtbot, key, change):
    with qtbot.waitSignal(picture.view_changed) as told:
        QTest.keyClick(picture, key)
    (name, value) = next(iter(change.items()))
    assert getattr(told.args[0], name) == pytest.approx(value)
    assert told.args[0].evolve(**{name: getattr(START, name)}) == START


def test_turning_round_and_round_keeps_the_angle_small(picture):
    for _ in range(10):
        picture.turn(-400, 0)
    assert -180 <= picture.view.azimuth < 180
    assert picture.view.azimuth == pytest.approx((30 + 10 * 160 + 180) % 360 - 180)


def test_a_release_ends_the_drag(picture):
    drag(picture, 10, 0)
    view = picture.view
    QTest.mouseMove(picture, QPoint(10, 10))
    assert picture.view is view


@pytest.mark.parametrize("size", [(400, 300), (3840, 2400), (240, 160)])
def test_the_picture_asked_for_is_no_larger_than_can_be_drawn(picture, size):
    picture.resize(*size)
    width, height = picture.picture_size()
    assert width * height <= 1920 * 1200
    assert width / height == pytest.approx(size[0] / size[1], rel=0.01)


# ---- comparing ------------------------------------------------------------------------------------


def keep(picture, colour):
    picture.show_rendered(plain(colour))
    picture.comparing.keep(picture.image, Project(), picture.view, 0.0)


def test_a_kept_picture_is_shown_left_of_the_wipe_which_is_dragged(picture):
    picture.comparing.compare(Way.WIPE)
    assert picture.comparing.way is Way.NONE  # nothing is kept yet
    keep(picture, (200, 30, 30))
    picture.show_rendered(plain((30, 30, 200)))
    picture.comparing.compare(Way.WIPE)
    seen = pixels_of(picture)[100]
    assert seen[100].tolist() == [200, 30, 30]
    assert seen[300].tolist() == [30, 30, 200]
    QTest.mousePress(picture, HAND, pos=QPoint(200, 120))
    QTest.mouseMove(picture, QPoint(80, 120))
    QTest.mouseRelease(picture, HAND, pos=QPoint(80, 120))
    assert picture.view == START  # the wipe moved, not the camera
    seen = pixels_of(picture)[100]
    assert seen[60].tolist() == [200, 30, 30]
    assert seen[100].tolist() == [30, 30, 200]
    picture.comparing.compare(Way.NONE)
    assert pixels_of(picture)[100, 60].tolist() == [30, 30, 200]


def test_a_kept_picture_flips_in_the_place_of_now_or_stands_beside_it(picture):
    keep(picture, (200, 30, 30))
    picture.show_rendered(plain((30, 30, 200)))
    picture.comparing.compare(Way.FLIP)
    assert pixels_of(picture)[100, [60, 340]].tolist() == [[200, 30, 30]] * 2
    picture.comparing.compare(Way.BESIDE)
    assert pixels_of(picture)[100, [60, 340]].tolist() == [[200, 30, 30], [30, 30, 200]]


def test_a_kept_picture_of_another_shape_shows_things_where_they_are_now(picture):
    image = QImage(WIDE, HIGH * 2, QImage.Format.Format_RGB32)
    image.fill(0xFF0000)
    for x in range(WIDE // 2 - 20, WIDE // 2 + 20):
        for y in range(HIGH * 2):
            image.setPixel(x, y, 0x00FF00)
    picture.show_rendered(plain((30, 30, 200)))
    picture.comparing.keep(image, Project(), picture.view, 0.0)
    picture.comparing.compare(Way.FLIP)
    row = pixels_of(picture)[HIGH // 2]
    green = np.flatnonzero(row[:, 1] > 200)
    assert (green[0], green[-1]) == pytest.approx((WIDE // 2 - 10, WIDE // 2 + 9), abs=1)
    assert row[10].max() < 60  # beyond what was seen then


def test_pictures_are_kept_under_names_and_the_oldest_goes_when_there_are_very_many(picture):
    comparing = picture.comparing
    for _ in range(41):
        keep(picture, (1, 2, 3))
    assert [kept.name for kept in comparing.snapshots][::39] == ["snapshot 2", "snapshot 41"]
    comparing.rename(39, "  best ")
    comparing.rename(39, " ")
    assert comparing.chosen.name == "best"
    comparing.choose(0)
    comparing.drop()
    assert comparing.chosen.name == "snapshot 3"
    keep(picture, (1, 2, 3))
    assert comparing.chosen.name == "snapshot 41"
    comparing.compare(Way.WIPE)
    for _ in range(40):
        comparing.drop()
    assert (comparing.chosen, comparing.way) == (None, Way.NONE)
    comparing.drop()


def test_the_wipe_never_leaves_the_picture(picture):
    keep(picture, (200, 30, 30))
    picture.comparing.compare(Way.WIPE)
    for x, share in ((-500, 0.02), (5000, 0.98)):
        QTest.mousePress(picture, HAND, pos=QPoint(round(picture.comparing.share * WIDE), 120))
        QTest.mouseMove(picture, QPoint(x, 120))
        QTest.mouseRelease(picture, HAND, pos=QPoint(x, 120))
        assert picture.comparing.share == share


# ---- what is said ---------------------------------------------------------------------------------


def changed_rows(picture, act):
    before = pixels_of(picture)
    act()
    return np.flatnonzero((pixels_of(picture) != before).any(axis=(1, 2)))


def test_words_stand_in_the_middle_until_a_picture_comes_and_then_at_the_top(picture):
    rows = changed_rows(picture, lambda: picture.show_message("Reading halcyon.glb", 0.5))
    assert 110 < rows.min() < 130
    assert 170 < rows.max() < 190
    picture.show_rendered(plain((90, 90, 90)))
    assert picture.text == ""
    rows = changed_rows(picture, lambda: picture.show_message("Compiling"))
    assert rows.min() == pytest.approx(10, abs=1)
    assert rows.max() < 75


@pytest.mark.parametrize("progress", [0.0, 0.25, 1.0])
def test_the_bar_is_as_long_as_what_is_done(picture, progress):
    picture.show_message("Reading", progress)
    bar = pixels_of(picture)[150 + 30 - 15]
    teal = (np.abs(bar - [57, 181, 166]) < 20).all(axis=1)
    assert teal.sum() == pytest.approx(180 * progress, abs=4)


@pytest.mark.parametrize(
    "figures",
    [{}, {"refused": 120}, {"coarseness": 2}, {"scale": 0.6}],
)
def test_what_is_less_than_full_is_said_in_the_strip(picture, figures):
    usual = plain((90, 90, 90))
    picture.show_rendered(usual)
    before = pixels_of(picture)[HIGH - 22 :]
    picture.show_rendered(replace(usual, figures=replace(usual.figures, **figures)))
    after = pixels_of(picture)[HIGH - 22 :]
    assert (before != after).any() == bool(figures)


# ---- joints ---------------------------------------------------------------------------------------


@pytest.fixture
def joints(picture, halcyon):
    """Return the picture with Halcyon's joints over it, and where they are in it."""
    hand = JointTool()
    hand.character, hand.shown = halcyon, True
    picture.hands.append(hand)
    positions = rest_pose(halcyon).matrices[:, :3, 3]
    picture.show_rendered(replace(plain((90, 90, 90)), joints=positions))
    return hand, picture.project(positions)


def spot(positions, halcyon, name):
    return QPoint(*(round(x) for x in positions[halcyon.skeleton.index[name], :2]))


@pytest.mark.parametrize("name", ["head", "left hand", "right foot"])
def test_a_click_on_a_joint_picks_it_and_turns_nothing(picture, joints, halcyon, qtbot, name):
    hand, positions = joints
    with qtbot.waitSignal(hand.picked) as picked:
        QTest.mouseClick(picture, HAND, pos=spot(positions, halcyon, name))
    assert picked.args == [name]
    assert picture.view == START


@pytest.mark.parametrize("change", ["beside", "hidden", "right button", "other skeleton"])
def test_a_click_beside_every_joint_is_the_cameras(picture, joints, halcyon, qtbot, change):
    hand, positions = joints
    at = spot(positions, halcyon, "head")
    if change == "beside":
        at = QPoint(8, 8)
    elif change == "hidden":
        hand.shown = False
    elif change == "other skeleton":
        picture.show_rendered(replace(picture.rendered, joints=picture.rendered.joints[:3]))
    button = OTHER if change == "right button" else HAND
    with qtbot.assertNotEmitted(hand.picked):
        QTest.mouseClick(picture, button, pos=at)


def test_the_joint_under_the_mouse_is_named(picture, joints, halcyon):
    hand, positions = joints
    at = spot(positions, halcyon, "head")
    rows = changed_rows(picture, lambda: QTest.mouseMove(picture, at))
    assert hand._under == halcyon.skeleton.index["head"]
    assert at.y() - 20 < rows.min()
    assert rows.max() < at.y() + 12
    QTest.mouseMove(picture, QPoint(5, 5))
    assert hand._under is None


def test_chosen_joints_stand_out(picture, joints, halcyon):
    hand, positions = joints
    x, y = spot(positions, halcyon, "left hand").toTuple()

    def teal():
        near = pixels_of(picture)[y - 6 : y + 7, x - 6 : x + 7]
        return (np.abs(near - [57, 181, 166]) < 30).all(axis=-1).sum()

    assert teal() == 0
    hand.chosen = frozenset({"left hand"})
    assert teal() > 12


def test_joints_behind_the_camera_are_neither_drawn_nor_picked(picture, joints, halcyon, qtbot):
    hand, _ = joints
    behind = picture.rendered.joints.copy()
    behind[:] = camera_of(START, (0, 0, 0)).eye + (camera_of(START, (0, 0, 0)).eye - START.target)
    before = pixels_of(picture)
    picture.show_rendered(replace(picture.rendered, joints=behind.astype(np.float32)))
    assert (pixels_of(picture) != before).any()
    hand.shown = False
    bare = pixels_of(picture)
    hand.shown = True
    assert (pixels_of(picture) == bare).all()
    with qtbot.assertNotEmitted(hand.picked):
        QTest.mouseClick(picture, HAND, pos=QPoint(WIDE // 2, HIGH // 2))


# ---- from where it is looked ------------------------------------------------------------------------


def told_of_pixels(window):
    return [found.message for found in window.session.findings() if "under a pixel" in found.message]


def test_what_is_under_a_pixel_goes_by_where_the_camera_stands_and_not_where_it_stood(qtbot, window):
    """A character's scale was mended, and its sprites were said to be too small for a camera of before."""
    far = window.session.project.view.evolve(distance=4000.0)
    window.session.edit("Far", lambda p: p.evolve(view=far))
    qtbot.waitUntil(lambda: bool(told_of_pixels(window)))
    window.station("character")
    window.sheet("character")._refresh_look()
    qtbot.waitUntil(lambda: not told_of_pixels(window), timeout=5000)
    assert window.session.project.view == far  # as it was saved
    shown = window.transport.findings.text()
    with qtbot.waitSignal(window.session.noticed, timeout=5000):
        window.picture.set_view(far)
    assert told_of_pixels(window)
    assert window.transport.findings.text() != shown


def test_a_camera_that_hardly_moves_has_nothing_found_anew(qtbot, window):
    heard = []
    window.session.noticed.connect(lambda: heard.append(1))
    at = window.session.project.view
    window.session.look_from(at.evolve(distance=at.distance * 1.2, azimuth=90.0))
    window.session.look_from(at.evolve(distance=at.distance / 1.2))
    assert heard == []
    window.session.look_from(at.evolve(distance=at.distance * 1.25))
    assert heard == [1]
