"""Several layers selected at once, by mouse and keys: what is done to them is done to all, as one step of undo."""

import pytest
from PySide6.QtCore import QMimeData, QPoint, Qt
from PySide6.QtGui import QDropEvent, QGuiApplication
from PySide6.QtTest import QTest

from tests.desktop.conftest import settle
from wraithon.desktop.widgets.trees import attribute_data, key_of, kind_of
from wraithon.interchange.clippings import read_clipping
from wraithon.project.life import Attribute, Tint

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def index(window):
    window.station("effects")
    window.index("effects").tree.setFocus()
    settle()
    return window.index("effects")


def item_of(index, key):
    return next(item for item in index.items() if key_of(item) == key)


def click(index, key, modifiers=NONE):
    tree = index.tree
    tree.scrollToItem(item_of(index, key))
    settle(0.02)
    at = tree.visualItemRect(item_of(index, key)).center()
    QTest.mouseClick(tree.viewport(), LEFT, modifiers, QPoint(90, at.y()))
    settle(0.02)


def layers_of(window, effect):
    return [layer.id for layer in window.session.project.effect(effect).layers]


def an_effect(window, minimum=3):
    effect = next(e for e in window.session.project.effects if len(e.layers) >= minimum)
    return effect.id, [layer.id for layer in effect.layers]


def highlighted(index):
    return [key_of(item) for item in index.tree.selectedItems()]


def test_ctrl_adds_and_takes_away_and_shift_takes_a_run(window, index):
    _, layers = an_effect(window)
    click(index, layers[0])
    click(index, layers[2], CTRL)
    assert window.session.selection == ("layer", layers[2])
    assert set(window.session.chosen) == {layers[0], layers[2]}
    assert f"{layers[0]}" in highlighted(index)
    click(index, layers[2], CTRL)
    assert window.session.chosen == (layers[0],)
    click(index, layers[2], SHIFT)
    assert set(window.session.chosen) == set(layers[:3])
    assert sorted(highlighted(index)) == sorted(layers[:3])
    click(index, layers[1])
    assert window.session.chosen == (layers[1],)
    click(index, layers[1], CTRL)
    assert window.session.chosen == ()


def test_keys_take_a_run_and_ctrl_a_takes_all(window, index):
    _, layers = an_effect(window)
    click(index, layers[0])
    QTest.keyClick(index.tree, Qt.Key.Key_Down, SHIFT)
    QTest.keyClick(index.tree, Qt.Key.Key_Down, SHIFT)
    settle(0.02)
    assert set(window.session.chosen) == set(layers[:3])
    QTest.keyClick(index.tree, Qt.Key.Key_A, CTRL)
    settle(0.02)
    assert len(window.session.chosen) == sum(len(e.layers) for e in window.session.project.effects)
    QTest.keyClick(index.tree, Qt.Key.Key_Down)
    settle(0.02)
    assert len(window.session.chosen) == 1


def test_effects_and_layers_are_not_selected_together(window, index):
    effect, layers = an_effect(window)
    click(index, effect)
    click(index, layers[1], SHIFT)
    kind = window.session.selection[0]
    assert {kind_of(item_of(index, key)) for key in window.session.chosen} == {kind}
    assert {kind_of(item) for item in index.tree.selectedItems()} == {kind}


def test_the_sheet_says_whose_settings_it_shows(window, index):
    _, layers = an_effect(window)
    click(index, layers[0])
    click(index, layers[1], CTRL)
    assert "2 layers are selected; what is set here reaches all that have it." in window.sheet("effects").hint.text()


def test_deleting_and_bringing_back_several(window, index):
    effect, layers = an_effect(window)
    click(index, layers[0])
    click(index, layers[2], CTRL)
    chosen = window.session.chosen
    QTest.keyClick(index.tree, Qt.Key.Key_Delete)
    settle(0.02)
    assert layers_of(window, effect) == [x for x in layers if x not in chosen]
    assert window.session.selection == ("effect", effect)
    assert window.session.history.undo_label == "Delete 2 layers"
    window.session.undo()
    assert layers_of(window, effect) == layers
    assert window.session.chosen == chosen
    assert set(highlighted(index)) == set(chosen)


def test_duplicates_stand_below_their_originals_and_are_selected(window, index):
    effect, layers = an_effect(window)
    click(index, layers[0])
    click(index, layers[2], CTRL)
    QTest.keyClick(window, Qt.Key.Key_D, CTRL)
    settle(0.02)
    now = layers_of(window, effect)
    assert [now[0], now[2], now[3]] == layers[:3]
    assert set(window.session.chosen) == {now[1], now[4]}
    window.session.undo()
    assert layers_of(window, effect) == layers


def test_copies_go_by_the_lists_order_and_cut_takes_them_away(window, index):
    effect, layers = an_effect(window)
    click(index, layers[2])
    click(index, layers[0], CTRL)
    index.cut()
    clipping = read_clipping(QGuiApplication.clipboard().text())
    assert [layer.id for layer in clipping.layers] == [layers[0], layers[2]]
    assert layers_of(window, effect) == [x for x in layers if x not in {layers[0], layers[2]}]
    click(index, layers[1])
    index.paste()
    now = layers_of(window, effect)
    assert now[0] == layers[1]
    assert set(window.session.chosen) == set(now[1:3])
    assert window.session.history.undo_label == "Paste 2 layers"


def test_pasting_below_several_goes_below_the_last_of_them(window, index):
    effect, layers = an_effect(window)
    click(index, layers[0])
    index.copy()
    click(index, layers[1], CTRL)
    index.paste()
    now = layers_of(window, effect)
    assert now[:2] == layers[:2]
    assert now[2] not in layers


def test_mute_mutes_all_and_brings_back_only_when_all_are_muted(window, index):
    effect, layers = an_effect(window)
    click(index, layers[0])
    QTest.keyClick(window, Qt.Key.Key_M)
    click(index, layers[1], CTRL)

    def muted():
        return {layer.id for layer in window.session.played.effect(effect).layers if layer.disabled}

    before = window.session.project
    assert muted() == {layers[0]}
    QTest.keyClick(window, Qt.Key.Key_M)
    assert muted() == {layers[0], layers[1]}
    QTest.keyClick(window, Qt.Key.Key_M)
    assert muted() == set()
    QTest.keyClick(window, Qt.Key.Key_S)
    assert muted() == set(layers) - {layers[0], layers[1]}
    QTest.keyClick(window, Qt.Key.Key_S)
    assert muted() == set()
    assert window.session.project is before


def test_the_eye_mutes_only_its_own_layer(window, index):
    _, layers = an_effect(window)
    click(index, layers[0])
    click(index, layers[1], CTRL)
    index.clicked(item_of(index, layers[2]), 1)
    assert window.session.played.layer(layers[2])[1].disabled
    assert not window.session.played.layer(layers[0])[1].disabled


def test_alt_and_arrows_move_all(window, index):
    effect, layers = an_effect(window)
    click(index, layers[0])
    click(index, layers[1], CTRL)
    index.shift(1)
    assert layers_of(window, effect)[:3] == [layers[2], layers[0], layers[1]]
    assert set(window.session.chosen) == set(layers[:2])
    index.shift(-1)
    index.shift(-1)
    assert layers_of(window, effect) == layers
    window.session.undo()
    assert window.session.history.undo_label == "Move 2 layers"


def test_several_are_dropped_side_by_side(window, index):
    effect, layers = an_effect(window)
    click(index, layers[0])
    click(index, layers[1], CTRL)
    tree = index.tree
    box = tree.visualItemRect(item_of(index, layers[2]))
    at = QPoint(box.left() + 5, box.bottom() - 2).toPointF()
    data = QMimeData()
    event = QDropEvent(at, Qt.DropAction.MoveAction, data, LEFT, NONE)
    tree.dropEvent(event)
    settle(0.02)
    assert layers_of(window, effect)[:3] == [layers[2], layers[0], layers[1]]
    other = next(e for e in window.session.project.effects if e.id != effect)
    tree.scrollToItem(item_of(index, other.id))
    box = tree.visualItemRect(item_of(index, other.id))
    event = QDropEvent(box.center().toPointF(), Qt.DropAction.MoveAction, data, LEFT, NONE)
    tree.dropEvent(event)
    settle(0.02)
    assert layers_of(window, other.id)[:2] == [layers[0], layers[1]]
    assert layers_of(window, effect)[0] == layers[2]


def test_a_layer_that_goes_by_undo_is_selected_no_more(window, index):
    _, layers = an_effect(window)
    click(index, layers[0])
    QTest.keyClick(window, Qt.Key.Key_D, CTRL)
    copy = window.session.selection[1]
    click(index, layers[1], CTRL)
    assert set(window.session.chosen) == {copy, layers[1]}
    window.session.undo()
    assert window.session.chosen == (layers[1],)
    assert highlighted(index) == [layers[1]]


def test_what_is_set_reaches_all_that_are_selected(window, index):
    _, layers = an_effect(window)
    click(index, layers[0])
    click(index, layers[1], CTRL)
    before = window.session.project
    window.sheet("effects").emission.form.widgets["rate"].edited.emit(77.0, True)
    assert [window.session.project.layer(x)[1].emission.rate for x in layers[:3]] == [
        77.0, 77.0, before.layer(layers[2])[1].emission.rate,
    ]  # fmt: skip
    window.session.undo()
    assert window.session.project == before


def test_a_part_of_what_was_copied_goes_onto_all_that_are_selected(window, index):
    _, layers = an_effect(window)
    click(index, layers[2])
    index.copy()
    model = window.session.project.layer(layers[2])[1]
    click(index, layers[0])
    click(index, layers[1], CTRL)
    index.open_parts()
    text = [action.text() for action in index.parts.actions() if action.text()]
    assert text[:6] == ["Emission", "Source", "Motion", "Look", "All of life", "lifetime".capitalize()]
    next(action for action in index.parts.actions() if action.text() == "Look").trigger()
    index.parts.hide()
    assert [window.session.project.layer(x)[1].look for x in layers[:2]] == [model.look] * 2
    assert "Paste the look" in window.session.history.undo_label


def test_without_a_copied_layer_there_is_no_part_to_paste(window, index):
    _, layers = an_effect(window)
    click(index, layers[0])
    QGuiApplication.clipboard().setText("something else")
    before = window.session.project
    index.open_parts()
    assert "Copy one layer" in window.transport.said.toolTip()
    assert window.session.project is before


def test_what_is_selected_while_the_list_is_folded_is_copied_and_pasted_too(window, index):
    effect, layers = an_effect(window)
    window.fold_index()
    settle()
    window.session.select("effect", effect)
    index.duplicate()
    twin = window.session.selection[1]
    assert twin not in {effect, ""}
    last = window.session.project.effect(twin).layers[-1].id
    window.session.select("layer", last)
    index.copy()
    index.paste()
    assert len(layers_of(window, twin)) == len(layers) + 1
    window.fold_index()


# ---- each its own value --------------------------------------------------------------------------


def typed(field, text):
    """Type into a number field with real keys."""
    field.setFocus()
    QTest.keyClick(field, Qt.Key.Key_Return)
    QTest.keyClicks(field._editor, text)
    QTest.keyClick(field._editor, Qt.Key.Key_Return)
    settle(0.02)


def two_layers(window, index, **values):
    """Select two layers of one effect, each with its own values; return a function that gives both."""
    _, layers = an_effect(window)
    for path, pair in values.items():
        for layer, value in zip(layers, pair, strict=False):
            window.session.set_value("layer", layer, path.replace("__", "."), value, "before")
    click(index, layers[1])
    click(index, layers[0], CTRL)
    return lambda: [window.session.project.layer(each)[1] for each in layers[:2]]


@pytest.mark.parametrize(
    ("text", "wanted"), [("*0.5", (20.0, 5.0)), ("/4", (10.0, 2.5)), ("+3", (43.0, 13.0)), ("+-3", (37.0, 7.0)),
                         ("7", (7.0, 7.0)), ("+-15", (25.0, 0.0))],
)  # fmt: skip
def test_what_is_typed_relatively_changes_each_layers_own_number(window, index, text, wanted):
    both = two_layers(window, index, emission__rate=(40.0, 10.0))
    typed(window.sheet("effects").emission.form.widgets["rate"], text)
    assert tuple(layer.emission.rate for layer in both()) == wanted
    window.session.undo()
    assert [layer.emission.rate for layer in both()] == [40.0, 10.0]


def test_a_range_is_scaled_end_by_end_in_each_layer_and_a_unit_may_be_typed(window, index):
    sizes = Attribute.of(0.02, 0.04), Attribute.of(0.10, 0.30)
    both = two_layers(window, index, size=sizes)
    life = window.sheet("effects").life
    life.pick("size")
    typed(life.editor._high, "*2")
    assert [layer.size.ends for layer in both()] == [(0.02, 0.08), (0.10, 0.60)]
    typed(life.editor._low, "+50 mm")
    assert [layer.size.ends for layer in both()] == [(0.07, 0.08), (0.15, 0.60)]
    typed(life.editor._low, "*3")  # the other end gives way where it must
    assert [layer.size.ends for layer in both()] == [(0.21, 0.21), (0.45, 0.60)]


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("*", "* is no number, and nothing that comes to one, as 2 * 3.5 does"),
        ("/0", "/0 divides by 0"),
        ("*2 cm", "a factor has no unit: type *2"),
        ("+3 kg", "kg is no unit here: type /s or 1/s or Hz or /min"),
    ],
)
def test_what_is_no_change_is_refused_in_words(window, index, text, why):
    two_layers(window, index, emission__rate=(40.0, 10.0))
    field = window.sheet("effects").emission.form.widgets["rate"]
    typed(field, text)
    assert field.refused == why
    QTest.keyClick(field._editor, Qt.Key.Key_Escape)


def test_tied_ends_are_one_value_until_they_are_untied(window, index):
    both = two_layers(window, index, size=(Attribute.of(0.04), Attribute.of(0.1, 0.3)))
    life = window.sheet("effects").life
    life.pick("size")
    editor, tie = life.editor, life.editor.ties[0]
    assert tie.isChecked()
    typed(editor._low, "6")
    assert both()[0].size.ends == (0.06, 0.06)
    QTest.mouseClick(tie, LEFT)
    assert not tie.isChecked()
    typed(editor._high, "9")
    assert both()[0].size.ends == (0.06, 0.09)
    QTest.mouseClick(tie, LEFT)
    assert both()[0].size.ends == (0.075, 0.075)


def test_tied_colours_are_picked_together(window, index):
    white = Tint(first=(1, 1, 1), second=(1, 1, 1))
    both = two_layers(window, index, colour=(white, white))
    life = window.sheet("effects").life
    life.pick("colour")
    life.editor._picker.edited.emit((0.2, 0.4, 0.6), True)
    assert [(layer.colour.first, layer.colour.second) for layer in both()] == [((0.2, 0.4, 0.6),) * 2] * 2
    QTest.mouseClick(life.editor.ties[1], LEFT)
    life.editor._picker.edited.emit((0.9, 0.1, 0.1), True)
    assert (both()[0].colour.first, both()[0].colour.second) == ((0.9, 0.1, 0.1), (0.2, 0.4, 0.6))


def test_an_attribute_is_dragged_onto_other_layers(window, index):
    _, layers = an_effect(window)
    window.session.set_value("layer", layers[0], "size", Attribute.of(0.11, 0.22), "before")
    click(index, layers[0])
    row, carried = window.sheet("effects").life.rows["size"], []
    row.dragged.disconnect()
    row.dragged.connect(carried.append)
    QTest.mousePress(row, LEFT, NONE, QPoint(30, 15))
    QTest.mouseMove(row, QPoint(10, 80))
    QTest.mouseRelease(row, LEFT, NONE, QPoint(10, 80))
    row.dragged.connect(window.sheet("effects").life._drag)
    assert carried == ["size"]
    assert window.sheet("effects").life.open_row != "size"

    def drop_on(layer):
        box = index.tree.visualItemRect(item_of(index, layer))
        data = attribute_data(layers[0], "size")
        event = QDropEvent(box.center().toPointF(), Qt.DropAction.CopyAction, data, LEFT, NONE)
        index.tree.dropEvent(event)
        settle(0.02)

    before = window.session.project
    drop_on(layers[0])
    assert window.session.project is before
    drop_on(layers[2])
    sizes = [window.session.project.layer(each)[1].size.ends for each in layers[:3]]
    assert sizes[0] == sizes[2] == (0.11, 0.22) != sizes[1]
    assert window.session.history.undo_label == "Copy size to layer"
    window.session.undo()
    click(index, layers[1])
    click(index, layers[2], CTRL)
    drop_on(layers[2])
    assert [window.session.project.layer(each)[1].size.ends for each in layers[:3]] == [(0.11, 0.22)] * 3
    assert window.session.history.undo_label == "Copy size to 2 layers"
