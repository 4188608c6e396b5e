"""What is new begins as its look is made for, in the real window, by mouse and keys."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from wraithon.project.ending import AtEnd, Ending
from wraithon.project.look import Figure
from wraithon.project.source import PointSource, SkinSource
from wraithon.stage.player import Player
from wraithon.studio.beginning import AFTERIMAGES, KINDS, is_as_begun


def effects(window):
    window.station("effects")
    window.session.select("", "")
    return window.index("effects")


def press(index, tip):
    (button,) = [b for b in index.findChildren(QPushButton) if b.accessibleName() == tip]
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def picked(index, text):
    (action,) = [action for action in index.looks.actions() if action.text() == text]
    action.trigger()
    index.looks.hide()


def stays(layer):
    """Tell whether a layer is one particle that rides where it is fired for as long as that lasts."""
    assert isinstance(layer.source, PointSource)
    assert (layer.source.riding.share, layer.source.riding.turning) == (1.0, False)
    assert [burst.count for burst in layer.emission.bursts] == [1]
    return layer.hold is not None and layer.emission.loop is None and layer.fade_in > 0 and layer.fade_out > 0


def test_a_new_effect_asks_for_its_look_and_a_shell_is_the_characters_own(window):
    index = effects(window)
    press(index, "New effect")
    assert index.looks.isVisible()
    picked(index, "Shell")
    kind, what = window.session.selection
    effect = window.session.project.effect(what)
    (layer,) = effect.layers
    assert (kind, layer.look.kind, layer.look.figure) == ("effect", "shell", Figure.SKIN)
    assert stays(layer)
    press(index, "New layer")
    picked(index, "Light")
    effect = window.session.project.effect(what)
    assert [layer.look.kind for layer in effect.layers] == ["shell", "light"]
    assert stays(effect.layers[1])


def test_in_an_effect_without_an_end_what_stays_is_there_until_it_is_stopped(window):
    index = effects(window)
    window.session.select("effect", "plume-drift")
    index.add_layer("shell")
    effect, layer = window.session.project.layer(window.session.selection[1])
    assert effect.length is None
    assert stays(layer)
    player = Player(window.session.project.evolve(triggers=()), window.session.characters)
    player.fire(effect.id, None)
    for moment in (1.0, 5.0, 9.0):
        player.seek(moment)
        (pool,) = [pool for key, pool in player.show.pools.items() if key == layer.id]
        assert pool.count == 1


def row_of(window, text):
    """Return a widget of the fields below the life table."""
    return window.sheet("effects").life.lasting.widgets[text]


def test_a_layer_is_held_faded_and_ended_by_hand(window):
    effects(window)
    effect = window.session.project.effects[0]
    layer = effect.layers[0].id
    window.session.select("layer", layer)

    def now():
        return window.session.project.layer(layer)[1]

    tick = row_of(window, "hold")
    QTest.mouseClick(tick, Qt.MouseButton.LeftButton, pos=QPoint(8, tick.height() // 2))
    assert now().hold == 0.5
    type_into(row_of(window, "hold number"), "80")
    assert now().hold == pytest.approx(0.8)
    type_into(row_of(window, "fade_in"), "0.3")
    type_into(row_of(window, "fade_out"), "0.4")
    assert (now().fade_in, now().fade_out) == (0.3, 0.4)
    seconds = row_of(window, "ending.seconds")
    assert not seconds.isVisible()
    choice = row_of(window, "ending.what")
    choice.setFocus()
    QTest.keyClick(choice, Qt.Key.Key_Down)
    assert now().ending.what is AtEnd.RELEASE
    QTest.keyClick(choice, Qt.Key.Key_Down)
    assert now().ending.what is AtEnd.FADE
    assert seconds.isVisible()
    type_into(seconds, "2")
    assert now().ending == Ending(what=AtEnd.FADE, seconds=2.0)
    for _ in range(7):
        window.session.undo()
    assert now() == effect.layers[0]


def type_into(field, text):
    field.setFocus()
    QTest.keyClick(field, Qt.Key.Key_Return)
    QTest.keyClicks(field._editor, text)
    QTest.keyClick(field._editor, Qt.Key.Key_Return)


def test_afterimages_come_while_it_moves_and_a_mark_is_one(window):
    index = effects(window)
    index.add_effect("afterimage")
    (layer,) = window.session.project.effects[-1].layers
    assert isinstance(layer.source, PointSource)
    assert (layer.emission.rate, layer.emission.per_metre) == (0.0, AFTERIMAGES)
    index.add_layer("mark")
    mark = window.session.project.effects[-1].layers[-1]
    assert isinstance(mark.source, PointSource)
    assert [burst.count for burst in mark.emission.bursts] == [1]


@pytest.mark.parametrize("kind", sorted(set(KINDS) - {"sprite"}))
def test_a_look_that_is_changed_before_anything_else_was_brings_what_it_is_made_for(window, kind):
    index, choice = effects(window), window.sheet("effects").look.kind
    index.add_effect()
    effect = window.session.project.effects[-1]
    (plain,) = effect.layers
    window.session.select("layer", plain.id)
    window.session.set_value("layer", plain.id, "name", "mine", "Rename")
    choice.edited.emit(kind, True)
    _, layer = window.session.project.layer(plain.id)
    index.add_effect(kind)
    (direct,) = window.session.project.effects[-1].layers
    assert layer == direct.evolve(id=layer.id, name="mine")
    window.session.undo()
    window.session.select("layer", plain.id)
    choice.edited.emit("sprite", True)
    _, again = window.session.project.layer(plain.id)
    assert again == plain.evolve(name="mine")
    assert isinstance(again.source, SkinSource)
    assert is_as_begun(again)


def test_a_layer_that_was_worked_on_keeps_its_births_when_its_look_is_changed(window):
    index, choice = effects(window), window.sheet("effects").look.kind
    index.add_effect()
    (layer,) = window.session.project.effects[-1].layers
    window.session.select("layer", layer.id)
    window.session.set_value("layer", layer.id, "emission.rate", 77.0, "Rate")
    choice.edited.emit("shell", True)
    _, changed = window.session.project.layer(layer.id)
    assert (changed.look.kind, changed.emission.rate, changed.source) == ("shell", 77.0, layer.source)
