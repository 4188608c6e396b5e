"""What is selected is what new things take up, in the real window, by mouse and keys."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from wraithon.desktop.timeline.found_lane import FoundLane
from wraithon.project.edit import find_mark
from wraithon.project.source import PointSource, SkinSource
from wraithon.studio.moments import Candidate


def clicked(listed, text):
    item = listed.findItems(text, Qt.MatchFlag.MatchExactly)[0]
    listed.scrollToItem(item)
    QTest.mouseClick(listed.viewport(), Qt.MouseButton.LeftButton, pos=listed.visualItemRect(item).center())


def new_trigger(window):
    window.index("triggers").add_trigger()
    return window.session.project.trigger(window.session.selection[1])


def test_a_new_trigger_starts_the_selected_effect_at_the_selected_anchor_on_the_selected_event(window):
    window.station("character")
    window.session.select("anchor", "left-fan-tip")
    window.station("effects")
    window.session.select("layer", window.session.project.effect("squall-ring").layers[0].id)
    window.station("triggers")
    clicked(window.index("triggers").events, "landing")
    trigger = new_trigger(window)
    (start,) = trigger.response
    assert (trigger.when.event, start.effect, start.anchor) == ("landing", "squall-ring", "left-fan-tip")
    window.session.undo()
    assert window.session.project.trigger(trigger.id) is None


def test_the_event_has_its_own_anchor_where_that_is_the_selected_one_or_none_is(window):
    window.station("character")
    window.session.select("anchor", "left-ball")
    window.station("triggers")
    window.session.select("event", "landing")
    assert new_trigger(window).response[0].anchor is None
    window.station("character")
    window.session.select("clip", "walk")
    window.station("triggers")
    window.session.select("event", "landing")
    assert new_trigger(window).response[0].anchor is None


def test_an_effect_that_is_gone_is_not_taken(window):
    window.station("effects")
    window.session.select("effect", "tread")
    window.delete()
    window.station("triggers")
    assert new_trigger(window).response[0].effect == window.session.project.effects[0].id


def test_moments_that_were_taken_are_selected_and_a_new_trigger_waits_for_their_event(window, qtbot):
    window.station("triggers")
    lane = window.timeline.findChild(FoundLane)
    lane.show_found([Candidate("walk", "landing", time, "head", 0.8, "quickest here") for time in (0.11, 0.37)])
    qtbot.keyClick(lane, Qt.Key.Key_Return)
    kind, what = window.session.selection
    marks = [find_mark(window.session.project, mark).mark for mark in (what, *window.session.also)]
    assert (kind, [mark.time for mark in marks]) == ("mark", [0.11, 0.37])
    event = marks[0].event
    assert new_trigger(window).when.event == event


@pytest.mark.parametrize(("picked", "own"), [
    (("part", "mask"), {"parts": ("mask",)}), (("joint", "head"), {"joints": ("head",)}),
])  # fmt: skip
def test_a_preset_is_emitted_from_what_is_picked(window, picked, own):
    window.station("character")
    window.session.select(*picked)
    window.station("effects")
    window.session.select("", "")
    library = window.index("effects").presets
    window.index("effects").open_presets()
    for row in range(library.listed.count()):
        library.listed.setCurrentRow(row)
        before = {effect.id for effect in window.session.project.effects}
        library.use_as_effect()
        (effect,) = [effect for effect in window.session.project.effects if effect.id not in before]
        for layer in effect.layers:
            if isinstance(layer.source, SkinSource):
                assert layer.source.parts == own.get("parts", layer.source.parts)
                assert layer.source.joints.names == own.get("joints", layer.source.joints.names)
            if isinstance(layer.source, PointSource):
                assert layer.look.kind not in {"sprite", "piece"}
        window.session.undo()
