"""Dials in the real window: declared, tried by dragging, and what they drive."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from wraithon.project.effect import Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, WeightedChoice
from wraithon.project.motion import Motion, Wind
from wraithon.project.paths import value_at, with_value_at
from wraithon.project.resolving.driving import drivable
from wraithon.project.resolving.resolving import resolved

HAND = Qt.MouseButton.LeftButton


def effect(window):
    return window.session.project.effect("thunder-stamp")


def action_of(menu, *text):
    for word in text:
        found = next(action for action in menu.actions() if action.text() == word)
        menu = found.menu()
    return found


def test_a_dial_is_declared_bound_by_picking_and_drives_what_is_drawn(qtbot, window):
    window.session.select("effect", "thunder-stamp")
    editor, before = window.sheet("effects").dials, window.session.project
    assert not editor.drive.isVisible()
    window.sheet("effects").scroll_to(editor.add)
    QTest.mouseClick(editor.add, HAND)
    assert [action.text().split(":")[0] for action in editor.kinds.actions()] == [
        "Number",
        "Colour",
        "Toggle",
        "Choice",
    ]
    editor.kinds.actions()[0].trigger()
    editor.kinds.close()
    assert [dial.name for dial in effect(window).dials] == ["dial"]
    editor.dials.forms[0].widgets["name"].edited.emit("strength", True)
    editor.fill_menu()
    action_of(editor.menu, "sparks", "size", "size at birth high").trigger()
    (binding,) = effect(window).bindings
    own = window.session.project.layer("stamp-sparks")[1].size.birth.high
    assert (binding.low, binding.high) == (0.0, 2 * own)
    assert resolved(effect(window)).layers[-2].size.birth.high == own  # the dial stands in the middle
    editor.dials.forms[0].widgets["value"].edited.emit(1.0, True)
    assert resolved(effect(window)).layers[-2].size.birth.high == 2 * own
    editor.bindings.forms[0].widgets["low"].edited.emit(0.01, True)
    assert effect(window).bindings[0].low == 0.01
    editor.fill_menu()
    action_of(editor.menu, "sparks", "size", "size at birth high").trigger()
    assert len(effect(window).bindings) == 1  # bound anew, not twice
    editor.dials.remove(0)
    assert (effect(window).dials, effect(window).bindings) == ((), ())
    while window.session.history.undo_label:
        window.session.undo()
    assert window.session.project == before


def test_with_several_dials_each_has_its_own_list_of_what_it_may_drive(window):
    window.session.select("effect", "thunder-stamp")
    editor = window.sheet("effects").dials
    editor.add_dial()
    editor.add_dial()
    editor.fill_menu()
    assert [action.text() for action in editor.menu.actions()] == ["dial", "dial 2"]
    action_of(editor.menu, "dial 2", "embers", "emission", "emission rate").trigger()
    assert effect(window).bindings[0].dial == effect(window).dials[1].id
    editor.bindings.remove(0)
    assert effect(window).bindings == ()


def test_every_number_that_may_be_driven_stands_in_the_layer_and_takes_another():
    layer = Layer(
        emission=Emission(bursts=(Burst(),)), motion=Motion(forces=(Wind(),)),
        size=Attribute(choices=(WeightedChoice(value=1),)),
    )  # fmt: skip
    paths = drivable(layer)
    assert {"speed.birth.low", "emission.bursts.0.count", "motion.forces.0.push.1", "look.soft"} <= set(paths)
    assert not any(path.startswith(("size.", "disabled", "look.lit")) for path in paths)
    assert len(set(paths)) == len(paths)
    for path in paths:
        assert with_value_at(layer, path, value_at(layer, path)) == layer


def test_a_colour_a_toggle_and_a_choice_drive_what_they_can_and_only_that(window):
    window.session.select("effect", "thunder-stamp")
    editor = window.sheet("effects").dials
    for kind in ("colour", "toggle", "choice"):
        editor.add_dial(kind)
    assert [dial.name for dial in effect(window).dials] == ["colour", "toggle", "choice"]
    editor.fill_menu()
    assert not [a for a in action_of(editor.menu, "colour", "sparks").menu().actions() if a.text() == "emission"]
    action_of(editor.menu, "colour", "sparks", "colour", "colour first").trigger()
    editor.fill_menu()
    action_of(editor.menu, "toggle", "sparks", "disabled").trigger()
    editor.fill_menu()
    action_of(editor.menu, "choice", "sparks", "look", "look blend").trigger()
    before = window.session.project.layer("stamp-sparks")[1]
    assert effect(window).bindings[2].values == (before.look.blend, before.look.blend)

    def sparks():
        return next(layer for layer in resolved(effect(window)).layers if layer.id == "stamp-sparks")

    assert sparks().disabled  # the toggle is off
    editor.dials.forms[1].widgets["value"].click()
    assert not sparks().disabled
    editor.dials.forms[0].widgets["colour"].edited.emit((0.1, 0.2, 0.3), True)
    assert sparks().colour.first == (0.1, 0.2, 0.3)
    second = editor.bindings.forms[2].widgets["values.1"]
    assert [second.itemText(k) for k in range(second.count())] == ["alpha", "additive", "multiply"]
    second.edited.emit("multiply", True)
    assert sparks().look.blend == before.look.blend
    editor.dials.forms[2].widgets["value"].edited.emit(1.0, True)
    assert sparks().look.blend == "multiply"
    assert window.session.project.layer("stamp-sparks")[1] == before  # what the layer has itself stays


def test_a_choice_gets_options_and_loses_them_with_what_they_drive(window):
    window.session.select("effect", "thunder-stamp")
    editor, before = window.sheet("effects").dials, window.session.project
    editor.add_dial("choice")
    editor.fill_menu()
    action_of(editor.menu, "sparks", "emission", "emission rate").trigger()
    editor.bindings.forms[0].widgets["values.1"].edited.emit(33.0, True)
    editor.dials.add_option(0)
    (dial,) = effect(window).dials
    assert dial.options == ("first", "second", "option")
    assert effect(window).bindings[0].values[1:] == (33.0, 33.0)
    editor.dials.forms[0].widgets["options.2"].edited.emit("ash", True)
    editor.dials.forms[0].widgets["value"].edited.emit(2.0, True)
    editor.dials.remove_option(0)
    (dial,) = effect(window).dials
    assert (dial.options, dial.value) == (("first", "second"), 1.0)
    assert len(effect(window).bindings[0].values) == 2
    editor.dials.remove_option(0)
    editor.dials.remove_option(0)
    assert effect(window).dials[0].options == ("first",)
    while window.session.history.undo_label:
        window.session.undo()
    assert window.session.project == before
