"""Courses through life, handle by handle: dragged, nudged, added, deleted, and never out of order."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QContextMenuEvent, QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMenu

from wraithon.desktop.widgets.curve_editor import CurveEditor
from wraithon.desktop.widgets.gradient_editor import GradientEditor
from wraithon.desktop.widgets.handles import GAP, Handles
from wraithon.interchange.clippings import curve_text
from wraithon.project.life import Curve, Gradient

LEFT, KEYS = Qt.MouseButton.LeftButton, Qt.Key
CURVE = Curve.through((0, 0.0), (0.5, 1.0), (1, 0.25))
GRADIENT = Gradient.through((0, (1, 0, 0)), (0.5, (0, 1, 0)), (1, (0, 0, 1)))


class Held:
    """An editor that shows again what it told, as the window's do."""

    def __init__(self, editor, put, value):
        self.editor, self.put, self.value = editor, put, value
        self.told = []
        editor.edited.connect(self.take)
        put(value)
        editor.resize(360, 220)
        editor.show()
        QTest.qWaitForWindowExposed(editor)
        (self.handles,) = editor.findChildren(Handles)

    def take(self, value, final):
        self.value = value
        self.told.append(final)
        self.put(value)

    def at(self, index):
        return self.handles.position_of(index).toPoint()

    def ages(self):
        return self.handles.ages()


@pytest.fixture
def curve(qtbot, themed):
    editor = CurveEditor()
    qtbot.addWidget(editor)
    return Held(editor, editor.set_curve, CURVE)


@pytest.fixture
def gradient(qtbot, themed):
    editor = GradientEditor()
    qtbot.addWidget(editor)
    return Held(editor, editor.set_gradient, GRADIENT)


@pytest.fixture(params=["curve", "gradient"])
def held(request):
    return request.getfixturevalue(request.param)


def drag(held, start, end):
    QTest.mousePress(held.handles, LEFT, pos=start)
    for share in (0.4, 1.0):
        QTest.mouseMove(held.handles, start + (end - start) * share)
    QTest.mouseRelease(held.handles, LEFT, pos=end)


def test_each_handle_stands_at_its_age(held):
    assert held.ages() == [0, 0.5, 1]
    positions = [held.at(k).x() for k in range(3)]
    assert positions[1] - positions[0] == pytest.approx(positions[2] - positions[1], abs=1)


def test_a_drag_is_one_gesture_that_ends_once(held):
    start = held.at(1)
    drag(held, start, start + QPoint(30, 0))
    assert held.told[-1] is True
    assert not any(held.told[:-1])
    width = held.at(2).x() - held.at(0).x()
    assert held.ages()[1] == pytest.approx(0.5 + 30 / width, abs=0.01)


@pytest.mark.parametrize(("way", "age"), [(-2000, GAP), (2000, 1 - GAP)])
def test_a_handle_stops_at_its_neighbours(held, way, age):
    drag(held, held.at(1), held.at(1) + QPoint(way, 0))
    assert held.ages()[1] == pytest.approx(age, abs=1e-6)
    assert held.ages() == sorted(held.ages())


def test_a_double_click_adds_where_there_is_room(held):
    midpoint = (held.at(0) + held.at(1)) / 2
    QTest.mouseDClick(held.handles, LEFT, pos=midpoint)
    assert len(held.ages()) == 4
    assert held.ages()[1] == pytest.approx(0.25, abs=0.01)
    assert held.handles.picked_index == 1


def test_delete_takes_the_picked_handle_and_leaves_the_last(held):
    QTest.mouseClick(held.handles, LEFT, pos=held.at(1))
    QTest.keyClick(held.handles, KEYS.Key_Delete)
    assert held.ages() == [0, 1]
    for _ in range(4):
        QTest.keyClick(held.handles, KEYS.Key_Backspace)
    assert len(held.ages()) == 1


def test_page_keys_go_round_all_handles(held):
    held.handles.setFocus()
    picked = []
    for key in (KEYS.Key_PageDown, KEYS.Key_PageDown, KEYS.Key_PageDown, KEYS.Key_PageUp):
        QTest.keyClick(held.handles, key)
        picked.append(held.handles.picked_index)
    assert picked == [1, 2, 0, 2]


def test_arrow_keys_nudge_the_picked_handle_both_ways(held):
    QTest.mouseClick(held.handles, LEFT, pos=held.at(1))
    QTest.keyClick(held.handles, KEYS.Key_Right)
    right = held.ages()[1]
    assert right > 0.5
    QTest.keyClick(held.handles, KEYS.Key_Left)
    assert held.ages()[1] == pytest.approx(0.5)


def test_shift_nudges_a_point_finely(curve):
    QTest.mouseClick(curve.handles, LEFT, pos=curve.at(1))
    QTest.keyClick(curve.handles, KEYS.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert curve.ages()[1] == pytest.approx(0.499)


def test_a_press_beside_every_handle_moves_none(held):
    midpoint = (held.at(0) + held.at(1)) / 2
    before = held.value
    drag(held, midpoint + QPoint(3, 0), midpoint + QPoint(40, 0))
    assert held.value == before
    assert held.told == []


def test_a_value_is_dragged_up_and_nudged(curve):
    QTest.mouseClick(curve.handles, LEFT, pos=curve.at(2))
    before = curve.value.points[2][1]
    QTest.keyClick(curve.handles, KEYS.Key_Up)
    assert curve.value.points[2][1] > before
    assert curve.value.points[:2] == CURVE.points[:2]


def test_a_stop_that_is_added_has_the_colour_of_its_place(gradient):
    midpoint = (gradient.at(0) + gradient.at(1)) / 2
    QTest.mouseDClick(gradient.handles, LEFT, pos=midpoint)
    np.testing.assert_allclose(gradient.value.stops[1].colour, (0.5, 0.5, 0), atol=0.03)


# ---- copied and pasted ----------------------------------------------------------------------------


def pressed(held, key):
    QTest.keyClick(held.handles, key, Qt.KeyboardModifier.ControlModifier)


def test_a_course_is_copied_and_pasted_over_another(held):
    first = held.value
    pressed(held, KEYS.Key_C)
    QTest.keyClick(held.handles, KEYS.Key_Delete)
    QTest.keyClick(held.handles, KEYS.Key_Delete)
    assert len(held.ages()) == 1
    pressed(held, KEYS.Key_V)
    assert held.value == first
    assert held.told == [True] * 3  # each is one step of undo


def test_a_picked_handle_is_one_that_the_pasted_course_has(held):
    QTest.keyClick(held.handles, KEYS.Key_Delete)
    pressed(held, KEYS.Key_C)
    few = held.value
    held.put(CURVE if isinstance(few, Curve) else GRADIENT)
    held.handles.pick(2)
    pressed(held, KEYS.Key_V)
    assert held.value == few
    assert held.handles.picked_index == 1


@pytest.mark.parametrize("text", ["", "hello", curve_text(CURVE), curve_text(GRADIENT), curve_text(CURVE)[:-20]])
def test_what_is_no_such_course_is_told_and_changes_nothing(held, text):
    said, first = [], held.value
    held.handles.said.connect(said.append)
    QGuiApplication.clipboard().setText(text)
    pressed(held, KEYS.Key_V)
    other = "gradient" if isinstance(first, Curve) else "curve"
    if text == curve_text(first):
        assert (said, held.value) == ([], first)
    else:
        damaged = text == curve_text(CURVE)[:-20]
        mine = "curve" if other == "gradient" else "gradient"
        assert held.value == first
        assert said == [
            "What was copied is damaged, or of a newer version: nothing is pasted"
            if damaged
            else f"Nothing to paste here: copy a {mine} first"
        ]


def test_a_pasted_curve_stays_within_what_the_attribute_can_be(curve):
    curve.editor.set_measure("", 1.0, 0.1, 2, (0.0, 0.5))
    QGuiApplication.clipboard().setText(curve_text(Curve.through((0, -3), (0.5, 0.4), (1, 9))))
    pressed(curve, KEYS.Key_V)
    assert curve.value == Curve.through((0, 0), (0.5, 0.4), (1, 0.5))


def test_a_course_is_turned_round_in_time(held):
    turned = held.handles.reversed_in_time()
    held.handles.restore(turned)
    if isinstance(turned, Curve):
        assert turned == Curve.through((0, 0.25), (0.5, 1.0), (1, 0.0))
    else:
        assert turned == Gradient.through((0, (0, 0, 1)), (0.5, (0, 1, 0)), (1, (1, 0, 0)))
    assert held.value == turned
    assert held.handles.reversed_in_time() != turned


def test_the_menu_does_the_same(held):
    first = held.value
    event = QContextMenuEvent(
        QContextMenuEvent.Reason.Mouse, QPoint(10, 10), held.handles.mapToGlobal(QPoint(10, 10))
    )
    held.handles.contextMenuEvent(event)
    (menu,) = held.handles.findChildren(QMenu)
    actions = {action.text(): action for action in menu.actions()}
    assert list(actions) == ["Copy all points", "Paste over them", "Turn round in time"]
    actions["Copy all points"].trigger()
    actions["Turn round in time"].trigger()
    assert held.value != first
    actions["Paste over them"].trigger()
    assert held.value == first
    menu.close()
