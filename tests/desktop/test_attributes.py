"""The editor of an attribute, the units it shows, the choice of a kind, and the engine's mailbox."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from wraithon.desktop.effects.attribute_editor import AttributeEditor, RangeBar
from wraithon.desktop.effects.look_editor import LookEditor
from wraithon.desktop.effects.source_editor import SourceEditor
from wraithon.desktop.effects.units import RANGES, drawn_band, range_text, unit_of
from wraithon.desktop.engine.mailbox import LATEST, Mailbox
from wraithon.desktop.session.session import Session
from wraithon.particles.curves import TABLE
from wraithon.project.effect import ATTRIBUTES, Effect, Layer
from wraithon.project.life import Attribute, Curve, Gradient, LifeMode, Range, Tint
from wraithon.project.look import Blend, RibbonLook, SpriteLook
from wraithon.project.project import Project
from wraithon.project.source import Aim, PointSource, SphereSource

LEFT, KEYS = Qt.MouseButton.LeftButton, Qt.Key
NUMBERS = [name for name in ATTRIBUTES if name != "colour"]


@pytest.fixture
def editor(qtbot, themed):
    made = AttributeEditor()
    qtbot.addWidget(made)
    made.told = []
    made.edited.connect(lambda attribute, final: made.told.append((attribute, final)))
    made.resize(380, 420)
    return made


def type_into(field, text):
    field.begin_typing()
    field._editor.setText(text)
    QTest.keyClick(field._editor, KEYS.Key_Return)


def test_every_number_of_a_layer_has_a_unit():
    assert set(RANGES) == set(NUMBERS)


@pytest.mark.parametrize("name", NUMBERS)
def test_a_range_is_shown_and_typed_in_its_own_unit(editor, name):
    unit = unit_of(name)
    editor.show_attribute(name, Attribute.of(0.2, 0.6))
    editor.show()
    assert editor._low.value == pytest.approx(0.2 * unit.factor)
    type_into(editor._high, str(0.8 * unit.factor))
    attribute, final = editor.told[-1]
    assert attribute.birth.high == pytest.approx(0.8)
    assert attribute.birth.low == 0.2
    assert final


@pytest.mark.parametrize("name", NUMBERS)
@pytest.mark.parametrize("birth", [(-300, -200), (0, 5e5), (-1e6, 1e6)])
def test_what_a_file_may_hold_is_never_clamped(editor, name, birth):
    """An edit of one end leaves the other as the file has it, however unusual."""
    editor.show_attribute(name, Attribute(birth=Range(low=birth[0], high=birth[1])))
    editor.show()
    type_into(editor._low, str((birth[0] + 1) * unit_of(name).factor))
    changed = editor.told[-1][0].birth
    assert changed.low == pytest.approx(birth[0] + 1)
    assert changed.high == pytest.approx(birth[1])
    assert editor._bar.top >= editor._bar.high or editor._bar.top == pytest.approx(editor._bar.high)
    assert editor._bar.bottom <= editor._bar.low


def test_an_end_pushes_the_other_along_so_that_they_stay_in_order(editor):
    editor.show_attribute("speed", Attribute.of(1, 2))
    editor.show()
    type_into(editor._low, "5")
    assert editor.told[-1][0].birth == Range(low=5, high=5)
    editor.show_attribute("speed", Attribute.of(1, 2))
    type_into(editor._high, "0.5")
    assert editor.told[-1][0].birth == Range(low=0.5, high=0.5)


def test_steady_takes_the_course_away_and_a_way_gives_a_first_one(editor):
    editor.show_attribute("size", Attribute.of(0.1))
    editor._mode_chosen(LifeMode.SCALE, True)
    assert editor.told[-1][0].life == Curve.through((0, 1), (1, 0))
    editor._mode_chosen(LifeMode.REPLACE, True)
    assert editor.told[-1][0].mode is LifeMode.REPLACE
    editor._mode_chosen(None, True)
    assert editor.told[-1][0].life is None


@pytest.mark.parametrize(
    ("name", "mode", "curve"),
    [
        ("speed", LifeMode.SCALE, Curve.through((0, 1), (1, 1))),
        ("speed", LifeMode.ADD, Curve.through((0, 0), (1, 0))),
        ("speed", LifeMode.REPLACE, Curve.through((0, 3), (1, 3))),
        ("opacity", LifeMode.SCALE, Curve.through((0, 1), (1, 0))),
    ],
)  # fmt: skip
def test_a_first_course_changes_little(editor, name, mode, curve):
    editor.show_attribute(name, Attribute.of(2, 3))
    editor._mode_chosen(mode, True)
    assert editor.told[-1][0].life == curve


def test_a_colour_is_never_added_to(editor):
    editor.show_attribute("colour", Tint())
    assert LifeMode.ADD not in editor._mode._values
    editor.show_attribute("size", Attribute())
    assert LifeMode.ADD in editor._mode._values


def test_each_end_of_a_tint_is_coloured_by_itself(editor):
    editor.show_attribute("colour", Tint(life=Gradient.through((0, (1, 1, 1)))))
    editor.show()
    assert not editor._swatches[1].isVisible()
    QTest.mouseClick(editor.ties[1], LEFT)
    QTest.mouseClick(editor._swatches[1], LEFT)
    editor._picker.edited.emit((0.1, 0.2, 0.3), True)
    tint = editor.told[-1][0]
    assert (tint.first, tint.second) == ((1, 1, 1), (0.1, 0.2, 0.3))
    QTest.mouseClick(editor._swatches[0], LEFT)
    editor._picker.edited.emit((0.5, 0.5, 0.5), True)
    assert editor.told[-1][0].first == (0.5, 0.5, 0.5)


def test_a_lifetime_has_no_course(editor):
    editor.show_attribute("lifetime", Attribute.of(1))
    editor.show()
    assert not editor._life_row.isVisible()
    assert not editor._curve.isVisible()


@pytest.mark.parametrize(
    ("grip", "way", "low", "high"),
    [("low", -30, 3.0, 8.0), ("high", 30, 4.0, 9.0), ("middle", 30, 5.0, 9.0), ("low", 500, 8.0, 8.0),
     ("high", -500, 4.0, 4.0), ("middle", 500, 6.0, 10.0)],
)  # fmt: skip
def test_a_range_is_dragged_by_its_ends_and_by_its_middle(qtbot, themed, grip, way, low, high):
    bar = RangeBar()
    qtbot.addWidget(bar)
    bar.resize(314, 20)
    bar.set_range(4, 8, 0, 10)
    told = []
    bar.edited.connect(lambda a, b, final: told.append((a, b, final)))
    bar.show()
    start = QPoint(round({"low": bar._x(4), "high": bar._x(8), "middle": bar._x(6)}[grip]), 10)
    QTest.mousePress(bar, LEFT, pos=start)
    QTest.mouseMove(bar, start + QPoint(way, 0))
    QTest.mouseRelease(bar, LEFT, pos=start + QPoint(way, 0))
    assert told[-1] == (pytest.approx(low, abs=0.04), pytest.approx(high, abs=0.04), True)
    assert [final for *_, final in told].count(True) == 1


@pytest.mark.parametrize(
    ("mode", "low", "high"), [(LifeMode.SCALE, 0.5, 1.5), (LifeMode.ADD, 1.5, 3.5), (LifeMode.REPLACE, 0.5, 0.5)]
)
def test_the_band_is_what_is_drawn(mode, low, high):
    bottom, top = drawn_band(Attribute(birth=Range(low=1, high=3), life=Curve.through((0, 0.5)), mode=mode))
    assert bottom.shape == top.shape == (TABLE,)
    np.testing.assert_allclose(bottom, low, atol=1e-6)
    np.testing.assert_allclose(top, high, atol=1e-6)


def test_a_band_stays_the_right_way_up_where_a_course_is_below_zero():
    bottom, top = drawn_band(Attribute(birth=Range(low=1, high=3), life=Curve.through((0, -1))))
    np.testing.assert_allclose((bottom[0], top[0]), (-3, -1))


@pytest.mark.parametrize(
    ("name", "birth", "text"),
    [("size", Range.of(0.05), "5 cm"), ("size", Range.of(0.05, 0.125), "5–12.5 cm"), ("turn", Range.of(90), "90°"),
     ("opacity", Range.of(0.5), "0.5")],
)  # fmt: skip
def test_a_range_in_words(name, birth, text):
    assert range_text(birth, unit_of(name)) == text


# ---- the kind of a source and a look --------------------------------------------------------------


def session_with(demo, layer):
    return Session(replace(demo, project=Project(effects=(Effect(id="e", layers=(layer,)),)), findings=()))


def test_another_look_keeps_what_both_know_and_comes_back_by_undo(demo, themed, qtbot):
    look = SpriteLook(texture="spark", blend=Blend.ADDITIVE, soft=0.3, lit=True, stretch=2.0)
    session = session_with(demo, Layer(id="l", look=look))
    editor = LookEditor(session)
    qtbot.addWidget(editor)
    editor.show_layer(session.project.effects[0].layers[0])
    editor.kind.edited.emit("ribbon", True)
    ribbon = session.project.effects[0].layers[0].look
    assert ribbon == RibbonLook(texture="spark", blend=Blend.ADDITIVE, soft=0.3, lit=True)
    editor.show_layer(session.project.effects[0].layers[0])
    assert [form.isVisibleTo(editor) for form in editor.forms["ribbon"]] == [True, True]
    assert not any(form.isVisibleTo(editor) for form in editor.forms["sprite"])
    session.undo()
    assert session.project.effects[0].layers[0].look == look


def test_the_same_kind_again_changes_nothing(demo, themed, qtbot):
    session = session_with(demo, Layer(id="l"))
    editor = LookEditor(session)
    qtbot.addWidget(editor)
    editor.show_layer(session.project.effects[0].layers[0])
    editor.kind.edited.emit("sprite", True)
    assert session.history.undo_label is None


def test_another_source_keeps_the_aim(demo, themed, qtbot):
    session = session_with(demo, Layer(id="l", source=PointSource(aim=Aim(spread=33))))
    editor = SourceEditor(session)
    qtbot.addWidget(editor)
    editor.show_layer(session.project.effects[0].layers[0])
    editor.kind.edited.emit("sphere", True)
    assert session.project.effects[0].layers[0].source == SphereSource(aim=Aim(spread=33))


# ---- the engine's mailbox -------------------------------------------------------------------------


def test_an_empty_mailbox_wishes_for_nothing_and_nothing_that_is_said_is_nothing():
    assert not Mailbox().any()
    for mail in (
        Mailbox(seek=0.0),
        Mailbox(playing=False),
        Mailbox(steps=-1),
        Mailbox(redraw=True),
        Mailbox(given=[("fire", ("e", None), {})]),
    ):
        assert mail.any()


def test_what_came_since_goes_before_what_was_not_done():
    first, then = ("fire", ("a", "x"), {}), ("steer", (0.0, 1.0), {"fast": True})
    now = Mailbox(seek=2.0, steps=1, given=[then])
    now.restore(Mailbox(seek=1.0, playing=True, steps=2, given=[first]))
    assert (now.seek, now.playing, now.steps) == (2.0, True, 3)
    assert now.given == [first, then]


def test_the_latest_counts_of_all_but_steps_and_what_hands_do():
    overrides = {"project", "characters", "library", "view", "size", "playing", "tempo", "seek", "round", "overlay"}
    overrides |= {"audition", "crowd", "drive", "measure", "export", "pictures", "survey", "seen"}
    assert set(LATEST) == overrides
