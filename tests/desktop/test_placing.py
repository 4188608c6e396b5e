"""Where a layer is born is moved and turned in the picture, away from its anchor."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from tests.desktop.test_character_station import along_a_ring, drag, exact_at, settle
from wraithon.project.edit import with_layer
from wraithon.project.source import SkinSource

HAND = Qt.MouseButton.LeftButton
LAYER = "stamp-sparks"


def source(window):
    return window.session.project.layer(LAYER)[1].source


@pytest.fixture
def hand(qtbot, window):
    """The handles of the sparks' place, while nothing moves."""
    window.seek(0)
    qtbot.waitUntil(lambda: exact_at(window, 0), timeout=20_000)
    window.station("effects")
    window.session.select("layer", LAYER)
    sheet = window.sheet("effects")
    sheet.scroll_to(sheet.source.move_it)
    QTest.mouseClick(sheet.source.move_it, HAND)
    settle(0.1)
    return sheet._source_gizmo


def test_it_is_dragged_by_an_arrow_away_from_where_its_effect_is_fired(window, hand):
    picture, before = window.picture, source(window)
    anchor = window.auditioning.position("thunder-stamp")
    matrix = picture.rendered.positions[anchor]
    np.testing.assert_allclose(
        hand._matrix(picture)[:3, 3], matrix[:3, :3] @ before.offset + matrix[:3, 3], atol=1e-5
    )
    middle, _, tips, _ = hand._drawn(picture)
    axis = max(range(3), key=lambda k: np.hypot(tips[k].x() - middle.x(), tips[k].y() - middle.y()))
    start = (middle * 0.3 + tips[axis] * 0.7).toPoint()
    drag(picture, start, start + QPointF(tips[axis] - middle).toPoint())
    moved = np.subtract(source(window).offset, before.offset)
    assert moved[axis] > 0.05
    np.testing.assert_allclose(np.delete(moved, axis), 0, atol=1e-5)
    assert source(window).turn == before.turn
    window.session.undo()  # the whole drag is one step
    assert source(window) == before


def test_at_twice_the_master_size_a_drag_means_half_as_far(window, hand):
    window.sheet("effects").show()
    window.session.set_value("effect", "thunder-stamp", "masters.size", 2.0, "Size")
    settle(0.1)
    picture, before = window.picture, source(window)
    middle, metres, _, _ = hand._drawn(picture)
    drag(picture, middle.toPoint(), middle.toPoint() + QPointF(40, 0).toPoint())
    moved = np.linalg.norm(np.subtract(source(window).offset, before.offset))
    assert moved == pytest.approx(40 * metres / 2, rel=0.05)


def test_a_ring_turns_it_and_escape_gives_the_drag_up(window, hand):
    picture, before = window.picture, source(window)
    found = along_a_ring(hand, picture)
    drag(picture, *found)
    assert source(window).turn != before.turn
    assert source(window).offset == before.offset
    window.session.undo()
    QTest.mousePress(picture, HAND, pos=found[0])
    QTest.mouseMove(picture, found[1])
    picture.setFocus()
    QTest.keyClick(picture, Qt.Key.Key_Escape)
    QTest.mouseRelease(picture, HAND, pos=found[1])
    assert source(window) == before


def test_what_is_born_on_the_character_has_no_such_place(window, hand):
    button = window.sheet("effects").source.move_it
    assert button.isVisible()
    effect, layer = window.session.project.layer(LAYER)
    window.session.edit("Source", lambda p: with_layer(p, effect.id, layer.evolve(source=SkinSource())), final=True)
    assert not button.isVisible()
    assert hand.placed is None
    window.session.undo()
    assert hand.placed == source(window)
    QTest.mouseClick(button, HAND)
    assert hand.placed is None
