"""Colours in the window: linear light and the screen, the picker by mouse and by code, swatches by keys."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest

from wraithon.desktop.widgets.colours import ColourField, ColourPicker, Swatch, to_linear, to_screen

KEYS, HAND = Qt.Key, Qt.MouseButton.LeftButton


@pytest.mark.parametrize(
    ("linear", "code"),
    [
        ((0, 0, 0), "#000000"),
        ((1, 1, 1), "#ffffff"),
        ((0.0031308, 0, 1), "#0a00ff"),
        ((0.2158605, 0.5, 0.0331048), "#80bc33"),
        ((40, -1, 0.5), "#ff00bc"),
    ],
)
def test_linear_light_is_shown_as_the_standard_says(linear, code):
    assert to_screen(linear).name() == code


@pytest.mark.parametrize("code", ["#000000", "#0a0b0c", "#123456", "#ffffff", "#80bc33"])
def test_there_and_back_is_the_same_colour(code):
    assert to_screen(to_linear(QColor(code))).name() == code


def edits(picker):
    told = []
    picker.edited.connect(lambda colour, final: told.append((to_screen(colour).name(), final)))
    return told


def position(picker, across, up):
    """Return where in the area a depth and a lightness are."""
    area = picker._area._area()
    x, y = across * (area.width() - 1), (1 - up) * (area.height() - 1)
    return QPoint(round(x) or -1, round(y))  # (0, 0) would be taken for the middle


@pytest.mark.parametrize(
    ("depth", "light", "code"), [(0, 1, "#ffffff"), (1, 1, "#ff0000"), (0, 0, "#000000"), (1, 0, "#000000")]
)
def test_the_corners_of_the_area_are_white_full_and_black(shown, depth, light, code):
    picker = shown(ColourPicker(), 260, 150)
    picker.set_colour(to_linear(QColor("#802020")))
    told = edits(picker)
    QTest.mouseClick(picker._area, HAND, pos=position(picker, depth, light))
    assert told == [(code, False), (code, True)]
    assert picker._code.text() == code


def test_a_drag_tells_all_along_and_ends_once(shown):
    picker = shown(ColourPicker(), 260, 150)
    picker.set_colour(to_linear(QColor("#208020")))
    told = edits(picker)
    QTest.mousePress(picker._area, HAND, pos=position(picker, 0.2, 0.8))
    for across in (0.4, 0.6):
        QTest.mouseMove(picker._area, position(picker, across, 0.8))
    QTest.mouseMove(picker._area, QPoint(5000, -500))
    QTest.mouseRelease(picker._area, HAND, pos=QPoint(5000, -500))
    assert [final for _, final in told] == [False] * 4 + [True]
    assert told[-1][0] == "#00ff00"  # held at the corner
    assert len({code for code, _ in told}) == 4


def test_the_strip_changes_the_hue_alone(shown):
    picker = shown(ColourPicker(), 260, 150)
    picker.set_colour(to_linear(QColor("#802020")))
    told = edits(picker)
    third = round((picker._area.width() - 1) / 3)
    QTest.mouseClick(picker._area, HAND, pos=QPoint(third, picker._area.height() - 4))
    before, after = QColor("#802020"), QColor(told[-1][0])
    assert after.hueF() == pytest.approx(1 / 3, abs=0.01)
    assert after.saturationF() == pytest.approx(before.saturationF(), abs=0.01)
    assert after.valueF() == pytest.approx(before.valueF(), abs=0.01)


def test_grey_keeps_the_hue_that_was(shown):
    picker = shown(ColourPicker(), 260, 150)
    picker.set_colour(to_linear(QColor("#208020")))
    picker.set_colour((0.5, 0.5, 0.5))
    told = edits(picker)
    QTest.mouseClick(picker._area, HAND, pos=position(picker, 1, 1))
    assert told[-1][0] == "#00ff00"


@pytest.mark.parametrize(("typed", "code"), [("#123456", "#123456"), ("abcdef", "#abcdef"), (" #f00 ", "#ff0000")])
def test_a_code_is_typed_with_or_without_its_sign(shown, typed, code):
    picker = shown(ColourPicker(), 260, 150)
    told = edits(picker)
    picker._code.setText(typed)
    QTest.keyClick(picker._code, KEYS.Key_Return)
    assert told == [(code, True)]
    assert picker._code.text() == code


@pytest.mark.parametrize("typed", ["", "nonsense", "#12", "#808080"])
def test_nonsense_and_the_same_colour_change_nothing(shown, typed):
    picker = shown(ColourPicker(), 260, 150)
    picker.set_colour(to_linear(QColor("#808080")))
    told = edits(picker)
    picker._code.setText(typed)
    QTest.keyClick(picker._code, KEYS.Key_Return)
    assert told == []
    assert picker._code.text() == "#808080"


def test_showing_a_colour_tells_nothing_and_leaves_what_is_being_typed(shown):
    picker = shown(ColourPicker(), 260, 150)
    told = edits(picker)
    picker.activateWindow()
    picker._code.setFocus()
    picker._code.setText("#12")
    picker.set_colour((1, 0, 0))
    assert told == []
    assert picker._code.text() == "#12"


@pytest.mark.parametrize("way", [HAND, KEYS.Key_Return, KEYS.Key_Space])
def test_a_swatch_is_pressed_by_mouse_and_keys(shown, qtbot, way):
    swatch = shown(Swatch("the colour"), 260, 150)
    with qtbot.waitSignal(swatch.clicked):
        QTest.mouseClick(swatch, way) if way is HAND else QTest.keyClick(swatch, way)
    assert swatch.accessibleName() == swatch.toolTip() == "the colour"


def test_a_field_opens_and_closes_its_picker_and_passes_on_what_it_tells(shown):
    field = shown(ColourField("the glow"), 260, 150)
    field.set_value((1, 0, 0))
    told = edits(field)
    assert not field.picker.isVisible()
    QTest.mouseClick(field.swatch, HAND)
    assert field.picker.isVisible()
    assert field.picker._code.text() == "#ff0000"
    field.picker._code.setText("#00ff00")
    QTest.keyClick(field.picker._code, KEYS.Key_Return)
    assert told == [("#00ff00", True)]
    QTest.mouseClick(field.swatch, HAND)
    assert not field.picker.isVisible()
