"""The effect's mixer and the cost of it, in the real window."""

from __future__ import annotations

import math
from contextlib import suppress
from dataclasses import replace

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from tests.desktop.conftest import settle
from wraithon.desktop.effects.whole.mixer import HEAD, LayerMixer, lasting_of
from wraithon.desktop.theme.colours import ROW
from wraithon.project.effect import ATTRIBUTES, Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, WeightedChoice
from wraithon.project.resolving.mastering import traded
from wraithon.studio.cost import Cost, LayerCost

HAND = Qt.MouseButton.LeftButton


@pytest.mark.parametrize(
    ("emission", "length", "wanted"),
    [
        (Emission(rate=9, start=0.2), 1.0, (0.2, 1.0, 1.5, False)),
        (Emission(rate=9, start=0.2, length=0.3), None, (0.2, 0.5, 1.0, False)),
        (Emission(rate=9), None, (0.0, 0.0, 0.5, True)),
        (Emission(bursts=(Burst(time=0.1, repeats=3, interval=0.2),)), 1.0, (0.1, 0.5, 1.0, False)),
        (Emission(bursts=(Burst(),), loop=0.4), 2.0, (0.0, 2.0, 2.5, False)),
        (Emission(), 1.0, (0.0, 0.0, 0.5, False)),
    ],
)
def test_a_layer_is_shown_from_its_first_birth_to_its_last_death(emission, length, wanted):
    span = lasting_of(Layer(emission=emission, lifetime=Attribute.of(0.1, 0.5)), length)
    assert span[:3] == pytest.approx(wanted[:3])
    assert span.endless == wanted[3]


def test_half_as_many_cover_as_much():
    layer = Layer(emission=Emission(rate=80, bursts=(Burst(count=10),)), size=Attribute.of(0.02, 0.04))
    now = traded(layer, 0.5)
    assert (now.emission.rate, now.emission.bursts[0].count) == (40, 5)
    assert now.size.ends[1] ** 2 * now.emission.rate == pytest.approx(layer.size.ends[1] ** 2 * layer.emission.rate)
    assert now.size.ends[0] == pytest.approx(0.02 * math.sqrt(2))


def test_a_click_or_return_on_a_row_goes_to_the_layer(qtbot, window):
    window.session.select("effect", "thunder-stamp")
    layers = window.session.project.effect("thunder-stamp").layers
    mixer = window.sheet("effects").mixer
    assert mixer.height() == HEAD + ROW * len(layers) + 4
    QTest.mouseClick(mixer, HAND, pos=QPoint(20, HEAD + ROW * 2 + 8))
    assert window.session.selection == ("layer", layers[2].id)
    window.session.select("effect", "thunder-stamp")
    mixer.setFocus(Qt.FocusReason.TabFocusReason)
    for key in (Qt.Key.Key_Up, Qt.Key.Key_Up, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Return):
        QTest.keyClick(mixer, key)
    assert window.session.selection == ("layer", layers[1].id)


def test_it_tells_what_each_layer_gives_and_costs(qtbot):
    layer = Layer(id="l", name="sparks", emission=Emission(rate=9, limit=3), lifetime=Attribute.of(0.5))
    mixer = LayerMixer()
    qtbot.addWidget(mixer)
    mixer.show_effect(Effect(layers=(layer, layer.evolve(id="m", disabled=True))), frozenset(), 10.0)
    mixer.show_living({"l": (3, 7), "elsewhere": (9, 9)})
    mixer.show_cost({"l": LayerCost("e", "l", 3, 3, 7, 0.25, 4.5, 1200)})
    mixer.resize(360, mixer.height())
    mixer.show()
    QTest.mouseMove(mixer, QPoint(10, HEAD + 5))
    qtbot.waitUntil(lambda: "sparks" in mixer.toolTip())
    assert "emitted from 0.00 s until 1.00 s; each lives 0.5 s at most" in mixer.toolTip()
    assert "3 live, 7 births were refused" in mixer.toolTip()
    assert "0.25 ms a step, 4.50 ms a picture, 1 200 pixels" in mixer.toolTip()
    assert not mixer.grab().isNull()


def test_the_cost_is_measured_on_request_and_says_when_it_is_out_of_date(qtbot, window):
    window.session.select("effect", "thunder-stamp")
    sheet = window.sheet("effects")
    sheet.scroll_to(sheet.cost.measure)
    window.session.edit("Short", lambda p: p.evolve(stage=p.stage.evolve(order=p.stage.order[-1:])))
    QTest.mouseClick(sheet.cost.measure, HAND)
    qtbot.waitUntil(lambda: sheet.cost.parts != {}, timeout=120_000)
    assert "The most expensive frame is at" in sheet.cost.text()
    assert "nothing of this effect lives then" in sheet.cost.text()
    assert "measure again" not in sheet.cost.text()
    window.session.select("layer", "plume-glints")
    assert "this layer takes" in sheet.cost.text()
    part = sheet.cost.parts["plume-glints"]
    assert part.maximum >= part.alive > 0
    before = window.session.project
    QTest.mouseClick(sheet.cost.trade, HAND)
    assert window.session.project.layer("plume-glints")[1] == traded(before.layer("plume-glints")[1], 0.5)
    assert "measure again" in sheet.cost.text()


def test_what_is_above_the_budget_is_said(window):
    part = LayerCost("thunder-stamp", "stamp-sparks", 30, 30, 2, 1.0, 6.0, 5000)
    other = LayerCost("plume-drift", "plume-glints", 10, 10, 0, 1.0, 6.0, 5000)
    cost = Cost(1.5, 40, 2, 3.0, 20.0, 10_000, 1.0, 8.0, (part, other), 40.0, 25.0)
    window.session.select("layer", "stamp-sparks")
    sheet = window.sheet("effects")
    sheet._measured(cost)
    text = sheet.cost.text()
    assert "At 1.50 s, the most expensive frame, this layer takes 8.0 ms" in text
    assert "67% of the budget and 50% of all layers' 16.0 ms" in text
    assert "The stage takes 10.0 ms" in text
    assert "30 of 40 live, 2 births were refused" in text
    assert "4.0 ms above the budget" in text
    assert "times over" not in text
    sheet._measured(replace(cost, overdraw=3.5))
    assert "Overdraw is 3.5:" in sheet.cost.text()
    sheet.cost.form.widgets["budget"].edited.emit(16.0, True)
    assert "above the budget" not in sheet.cost.text()


def test_another_roll_is_one_press_and_one_step_of_undo(window):
    window.session.select("effect", "thunder-stamp")
    QTest.mouseClick(window.sheet("effects").again, HAND)
    QTest.mouseClick(window.sheet("effects").again, HAND)
    assert window.session.project.effect("thunder-stamp").roll == 2
    window.session.undo()
    assert window.session.project.effect("thunder-stamp").roll == 1


def test_a_force_is_switched_off_and_kept(window):
    window.session.select("layer", "stamp-sparks")
    form = window.sheet("effects").motion.forces.forms[0]
    before = window.session.project.layer("stamp-sparks")[1].motion.forces[0]
    form.widgets["disabled"].edited.emit(True, True)
    now = window.session.project.layer("stamp-sparks")[1].motion.forces[0]
    assert now == before.evolve(disabled=True)


def test_a_layer_is_set_off_its_anchor_by_its_own_rows(window):
    window.session.select("layer", "stamp-sparks")
    form = window.sheet("effects").source.away
    form.widgets["offset.1"].edited.emit(0.25, True)
    form.widgets["turn.2"].edited.emit(30.0, True)
    source = window.session.project.layer("stamp-sparks")[1].source
    assert (source.offset, source.turn) == ((0, 0.25, 0), (0, 0, 30))


def test_a_layer_is_added_by_its_look_and_layers_are_pictured(qtbot, window):
    window.session.select("effect", "tread")
    sheet, index = window.sheet("effects"), window.index("effects")
    layers = window.session.project.effect("tread").layers
    qtbot.waitUntil(lambda: set(sheet.mixer.pictures) >= {layer.id for layer in layers}, timeout=60_000)
    index.open_looks()
    actions = {action.text(): action for action in index.looks.actions()}
    before = actions["Shell"].icon().cacheKey()
    qtbot.waitUntil(lambda: actions["Shell"].icon().cacheKey() != before, timeout=60_000)
    actions["Shell"].trigger()
    index.looks.hide()
    added = window.session.project.effect("tread").layers[-1]
    assert (added.look.kind, window.session.selection) == ("shell", ("layer", added.id))


def test_layers_are_pictured_though_the_project_is_opened_again_meanwhile(qtbot, new_window, demo):
    """Pictures are made while the show rests; what was asked for before comes after."""
    mixer = new_window.sheet("effects").mixer
    new_window.set_playing(True)
    new_window.session.select("effect", "tread")
    assert not mixer.pictures
    new_window.keeper._take(demo, None, "test")
    new_window.set_playing(False)
    layers = {layer.id for layer in new_window.session.project.effect("tread").layers}
    qtbot.waitUntil(lambda: set(mixer.pictures) >= layers, timeout=60_000)


def test_deleting_an_effect_says_what_started_it(window):
    window.session.select("effect", "thunder-stamp")
    window.delete()
    assert "Started until now by stamp" in window.transport.said.toolTip()


def test_nothing_on_the_sheet_is_wider_than_the_sheet(qtbot, window):
    sheet = window.sheet("effects")
    for effect in window.session.project.effects:
        for kind, what in (("effect", effect.id), *(("layer", layer.id) for layer in effect.layers)):
            window.session.select(kind, what)
            settle(0.12)
            content, across = sheet._scroll.widget(), sheet._scroll.viewport().width()
            with suppress(qtbot.TimeoutError):  # on a busy machine the sheet is laid out some turns later
                qtbot.waitUntil(
                    lambda of=content, maximum=across: of.minimumSizeHint().width() <= maximum, timeout=3000
                )
            assert content.minimumSizeHint().width() <= across, (effect.name, what)


@pytest.mark.parametrize("name", ATTRIBUTES)
def test_nor_is_the_large_editor_of_a_row(qtbot, window, name):
    sheet = window.sheet("effects")
    window.session.select("layer", "plume-feathers")
    if sheet.life.open_row != name:
        sheet.life.pick(name)
    for mode in ("range", "choices"):
        if name != "colour" and mode == "choices":
            choices = (WeightedChoice(value=1.0), WeightedChoice(value=2.0, weight=3.0))
            window.session.set_value("layer", "plume-feathers", f"{name}.choices", choices, "Choices")
        settle(0.05)
        content, across = sheet._scroll.widget(), sheet._scroll.viewport().width()
        with suppress(qtbot.TimeoutError):
            qtbot.waitUntil(lambda of=content, maximum=across: of.minimumSizeHint().width() <= maximum, timeout=3000)
        assert content.minimumSizeHint().width() <= across, mode
    sheet.life.pick(name)


def test_levels_of_quality_are_made_and_seen_without_an_edit(qtbot, window):
    window.session.select("effect", "thunder-stamp")
    editor = window.sheet("effects").quality
    window.sheet("effects").scroll_to(editor.add)
    QTest.mouseClick(editor.add, HAND)
    form = editor.levels.forms[0]
    form.widgets["amount"].edited.emit(10.0, True)
    form.widgets["without"].edited.emit(("light", "piece"), True)
    (level,) = window.session.project.effect("thunder-stamp").qualities
    assert (level.name, level.amount, level.without) == ("low", 0.1, ("light", "piece"))
    before = window.session.project
    editor.seen.edited.emit("low", True)
    assert window.session.project is before
    played = window.session.played.effect("thunder-stamp")
    assert {layer.look.kind for layer in played.layers if layer.disabled} == {"light", "piece"}
    qtbot.waitUntil(lambda: window.engine._player.project is window.session.played, timeout=30_000)
    editor.seen.edited.emit("", True)
    assert window.session.played is before


def test_a_colour_tag_is_given_by_a_key(window):
    window.session.select("layer", "stamp-sparks")
    for wanted in ("teal", "rust", "moss", "ochre", "brick", "violet", ""):
        QTest.keyClick(window, Qt.Key.Key_T)
        assert window.session.project.layer("stamp-sparks")[1].tag == wanted


def test_eight_more_of_her_stand_on_the_stage_until_they_are_sent_away(qtbot, window):
    window.seek(1.0)
    qtbot.waitUntil(lambda: window.picture.rendered.time == 1.0 and window.picture.rendered.exact, timeout=30_000)
    window.session.select("effect", "thunder-stamp")
    sheet, before, alone = window.sheet("effects"), window.session.project, window.picture.rendered
    sheet.scroll_to(sheet.cost.crowd)
    QTest.mouseClick(sheet.cost.crowd, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.picture.rendered.figures.alive == 9 * alone.figures.alive, timeout=30_000)
    assert (window.picture.rendered.pixels != alone.pixels).any()
    assert window.session.project is before
    QTest.mouseClick(sheet.cost.crowd, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.picture.rendered.figures.alive == alone.figures.alive, timeout=30_000)
