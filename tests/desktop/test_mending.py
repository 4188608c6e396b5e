"""Findings in the real window: told where one works, and mended by a press."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from wraithon.project.emission import Emission
from wraithon.project.life import Attribute
from wraithon.project.paths import with_value_at
from wraithon.project.things import find, with_thing

HAND = Qt.MouseButton.LeftButton


def change(window, kind, what, path, value):
    window.session.edit("Plant", lambda p: with_thing(p, kind, what, with_value_at(find(p, kind, what), path, value)))


def test_what_a_layer_will_not_do_is_told_on_its_sheet_and_mended_there(qtbot, window):
    session, sheet = window.session, window.sheet("effects")
    session.select("layer", "stamp-sparks")
    assert sheet.findings.isHidden()
    before = session.project
    change(window, "layer", "stamp-sparks", "emission", Emission(rate=200, limit=20))
    change(window, "layer", "stamp-sparks", "opacity", Attribute.of(0))
    assert len(sheet.findings.buttons) == 2
    assert "2 findings" in window.transport.findings.text()
    for _ in range(2):
        button = sheet.findings.buttons[0]
        sheet.scroll_to(button)
        QTest.mouseClick(button, HAND)
    assert sheet.findings.isHidden()
    assert window.transport.findings.text() == "No findings"
    assert session.project.layer("stamp-sparks")[1].emission.limit is None
    for _ in range(4):
        session.undo()
    assert session.project == before


def test_the_menu_of_findings_leads_to_them_and_mends_them(window):
    change(window, "effect", "thunder-stamp", "length", None)
    change(window, "layer", "stamp-sparks", "emission.length", None)
    window.transport.fill_findings()
    text, mending = window.transport.findings_menu.actions()
    assert "it has no end" in text.text()
    text.trigger()
    assert window.session.selection == ("effect", "thunder-stamp")
    assert "starts another one" in window.sheet("effects").effect_findings.text()
    mending.trigger()
    assert window.session.project.effect("thunder-stamp").length == 1.0
    assert window.sheet("effects").effect_findings.isHidden()


def test_a_triggers_findings_are_told_on_its_sheet(window):
    trigger = next(t for t in window.session.project.triggers if t.response[0].effect == "thunder-stamp")
    change(window, "trigger", trigger.id, "response.0.anchor", "gone")
    window.station("triggers")
    window.session.select("trigger", trigger.id)
    sheet = window.sheet("triggers")
    (button,) = sheet.findings.buttons
    QTest.mouseClick(button, HAND)
    assert window.session.project.trigger(trigger.id).response[0].anchor is None
