"""Several layers selected at once, by mouse and keys: what is done to them is done to all, as one step of undo."""

import pytest
from PySide6.QtCore import QMimeData, QPoint, Qt
from PySide6.QtGui import QDropEvent, QGuiApplication
from PySide6.QtTest import QTest

from tests.desktop.conftest import settle
from wraithon.desktop.widgets.trees import key_of, kind_of
from wraithon.interchange.clippings import read_clipping

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
    event = QDropEvent(at, Qt.DropAction.MoveAction, QMimeData(), LEFT, NONE)
    tree.dropEvent(event)
    settle(0.02)
    assert layers_of(window, effect)[:3] == [layers[2], layers[0], layers[1]]
    other = next(e for e in window.session.project.effects if e.id != effect)
    tree.scrollToItem(item_of(index, other.id))
    box = tree.visualItemRect(item_of(index, other.id))
    event = QDropEvent(box.center().toPointF(), Qt.DropAction.MoveAction, QMimeData(), LEFT, NONE)
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
