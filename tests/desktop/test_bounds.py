"""How far an effect reaches, in the real window: measured by itself, shown as a box, fixed, and told when left."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from wraithon.project.edit import with_effect

HAND = Qt.MouseButton.LeftButton


def effect(window):
    return window.session.project.effect("thunder-stamp")


@pytest.fixture
def view(qtbot, window):
    """The section of bounds, once the selected effect is measured."""
    window.session.select("effect", "thunder-stamp")
    bounds = window.sheet("effects").bounds
    qtbot.waitUntil(lambda: bounds.survey is not None, timeout=60_000)
    window.sheet("effects").scroll_to(bounds)
    return bounds


def test_it_is_measured_by_itself_and_drawn_where_the_effect_is_fired(qtbot, window, view):
    low, high = (np.array(end) for end in (view.survey.low, view.survey.high))
    assert f"{high[0] - low[0]:.2f} m across" in view.text()
    hand, picture = window.sheet("effects")._box_gizmo, window.picture
    assert hand.measured is None
    QTest.mouseClick(view.box, HAND)
    assert hand.measured == (view.survey.low, view.survey.high)
    assert hand.fixed is None
    lines = hand.lines(picture, hand.measured)
    assert 7 <= len(lines) < 12  # some lie behind the camera, which is within
    origin = picture.rendered.positions[hand.anchor][:3, 3]
    corners = picture.project(origin + np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1])
                                                 for z in (low[2], high[2])]))  # fmt: skip
    ends = [point for line in lines for point in (line.p1(), line.p2())]
    for x, y, ahead in corners.tolist():
        if ahead > 0.05:
            assert min(np.hypot(p.x() - x, p.y() - y) for p in ends) < 1e-3
    small = hand.lines(picture, ((-0.1, -0.1, -0.1), (0.1, 0.1, 0.1)))
    assert len(small) == 12
    away = picture.rendered.camera.eye + 5 * (picture.rendered.camera.eye - origin)
    behind = tuple(float(v) for v in away - origin)
    assert hand.lines(picture, (behind, tuple(v + 0.1 for v in behind))) == []
    QTest.mouseClick(view.box, HAND)
    assert hand.measured is None


def test_it_is_fixed_with_a_margin_told_when_it_grows_and_mended_by_the_button(qtbot, window, view):
    session, sheet = window.session, window.sheet("effects")
    before = session.project
    QTest.mouseClick(view.fix, HAND)
    bounds, measured = effect(window).bounds, window.session.survey_of(before.effect("thunder-stamp"))
    np.testing.assert_allclose(bounds.low, measured.low, atol=1.001e-3)
    assert all(a >= b for a, b in zip(bounds.high, measured.high, strict=True))
    view.form.widgets["bounds.margin"].edited.emit(0.0, True)
    qtbot.waitUntil(lambda: view.survey is not None, timeout=60_000)
    assert not [f for f in session.findings() if f.about == "thunder-stamp"]
    sheet.masters.widgets["masters.size"].edited.emit(1.1, True)
    assert "measured while paused" in view.text()
    qtbot.waitUntil(lambda: view.survey is not None, timeout=60_000)
    told = [f for f in session.findings() if f.about == "thunder-stamp"]
    assert len(told) == 1
    assert "bounds are smaller" in told[0].message
    assert window.transport.findings.text() != "No findings"
    sheet.scroll_to(sheet.effect_findings)
    button = sheet.effect_findings.buttons[0]
    QTest.mouseClick(button, HAND)
    qtbot.waitUntil(lambda: view.survey is not None, timeout=60_000)
    assert not [f for f in session.findings() if f.about == "thunder-stamp"]
    QTest.mouseClick(view.free, HAND)
    assert effect(window).bounds is None
    while session.history.undo_label:
        session.undo()
    assert session.project == before


def test_what_was_asked_for_is_measured_though_the_project_is_opened_again_meanwhile(qtbot, new_window, demo):
    new_window.set_playing(True)
    new_window.session.select("effect", "tread")
    bounds = new_window.sheet("effects").bounds
    assert bounds.survey is None
    new_window.keeper._take(demo, None, "test")
    new_window.session.select("effect", "tread")
    new_window.set_playing(False)
    qtbot.waitUntil(lambda: bounds.survey is not None, timeout=60_000)


def test_nothing_is_measured_while_it_plays_and_it_is_as_soon_as_it_rests(qtbot, window):
    window.set_playing(True)
    tread = window.session.project.effect("tread")
    window.session.edit("Longer", lambda p: with_effect(p, tread.evolve(length=0.3)))  # which nobody measured before
    window.session.select("effect", "tread")
    bounds = window.sheet("effects").bounds
    qtbot.wait(400)
    assert bounds.survey is None
    window.set_playing(False)
    qtbot.waitUntil(lambda: bounds.survey is not None, timeout=60_000)
