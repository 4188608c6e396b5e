"""The force that is edited is drawn in the picture."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QApplication

from wraithon.character.bones import capsules_at, capsules_of
from wraithon.desktop.effects.motion_editor import FORCE_ROWS
from wraithon.desktop.picture.force_gizmo import DRAWN, LONGEST, USUAL, CapsuleGizmo, ForceGizmo, marks_of
from wraithon.project.motion import FORCES, Attraction, Collision, Curl, Drag, Gravity, Hold, Lift, Vortex, Wind


def arrows(force):
    return [points[1] - points[0] for points, tipped in marks_of(force) if tipped]


def rings(force):
    return [points for points, tipped in marks_of(force) if not tipped]


@pytest.mark.parametrize(
    ("force", "way"),
    [
        (Gravity(pull=USUAL), (0, -LONGEST / 2, 0)),
        (Gravity(pull=-USUAL), (0, LONGEST / 2, 0)),
        (Wind(push=(USUAL, 0, 0)), (LONGEST / 2, 0, 0)),
        (Gravity(pull=1e6), (0, -LONGEST, 0)),
    ],
)
def test_an_arrow_points_where_the_force_pushes(force, way):
    (found,) = arrows(force)
    np.testing.assert_allclose(found, way, atol=1e-6)


def test_rings_are_as_large_as_the_force_reaches():
    for force, radius in (
        (Curl(scale=0.6), 0.3),
        (Hold(radius=1.5), 1.5),
        (Attraction(reach=0.7), 0.7),
        (Vortex(reach=0.4), 0.4),
    ):
        for ring in rings(force):
            np.testing.assert_allclose(np.linalg.norm(ring, axis=1), radius, atol=1e-9)


def test_a_vortex_turns_as_it_does_and_an_attraction_draws_inward():
    for points, tipped in marks_of(Vortex(strength=USUAL, reach=1.0)):
        if tipped:  # counterclockwise seen from above, as tests/test_forces.py has particles go
            start, way = points[0], points[1] - points[0]
            np.testing.assert_allclose(np.cross(start, way)[1], LONGEST / 2, atol=1e-6)
    for points, tipped in marks_of(Attraction(strength=USUAL, reach=1.0)):
        if tipped:
            assert (points[1] - points[0]) @ points[0] < 0


def test_what_has_no_way_is_not_drawn():
    assert marks_of(Drag()) == []
    assert arrows(Wind()) == []
    assert len(arrows(Wind(scatter=3))) == 5
    assert len(arrows(Lift())) == 5


def test_the_force_whose_field_has_the_focus_is_drawn_where_it_acts(qtbot, window):
    window.station("effects")
    window.session.select("layer", "plume-feathers")
    window.session.set_value("layer", "plume-feathers", "motion.forces", (Gravity(), Hold(anchor="heart")), "Forces")
    QApplication.processEvents()
    sheet = window.sheet("effects")
    hand = next(hand for hand in window.picture.hands if isinstance(hand, ForceGizmo))
    assert hand.force is None
    window.activateWindow()
    for number, kind in enumerate(("gravity", "hold")):
        field = next(iter(sheet.motion.forces.forms[number].widgets.values()))
        field.setFocus()
        qtbot.waitUntil(lambda k=kind: hand.force is not None and hand.force.kind == k, timeout=5000)
        before = window.picture.grab().toImage()
        held, hand.force = hand.force, None
        without = window.picture.grab().toImage()
        hand.force = held
        assert before != without
    np.testing.assert_allclose(hand._place(window.picture), window.picture.rendered.positions["heart"][:3, 3])
    window.picture.setFocus()
    qtbot.waitUntil(lambda: hand.force is None, timeout=5000)


def test_the_capsules_that_particles_meet_are_drawn_while_that_is_edited(qtbot, window):
    window.station("effects")
    window.session.select("layer", "plume-feathers")
    window.activateWindow()
    sheet = window.sheet("effects")
    hand = next(hand for hand in window.picture.hands if isinstance(hand, CapsuleGizmo))
    sheet.motion.body.widgets["contact"].setFocus()
    QApplication.processEvents()
    assert hand.outlines(window.picture) == []  # they pass through her
    window.session.set_value("layer", "plume-feathers", "motion.body.contact", Collision.BOUNCE, "Contact")
    sheet.motion.body.widgets["bounce"].setFocus()
    qtbot.waitUntil(lambda: hand.shown, timeout=5000)
    character, rendered = window.session.character, window.picture.rendered
    outlines = hand.outlines(window.picture)
    assert len(outlines) == len(capsules_of(character).bones) > 20
    for outline, capsule in zip(outlines, capsules_at(character, rendered.joints), strict=True):
        for middle in window.picture.project(capsule[:6].reshape(2, 3)):
            assert outline.containsPoint(QPointF(middle[0], middle[1]), Qt.FillRule.WindingFill)
    before = window.picture.grab().toImage()
    hand.shown = False
    assert before != window.picture.grab().toImage()
    hand.shown = True
    window.picture.setFocus()
    qtbot.waitUntil(lambda: not hand.shown, timeout=5000)


@pytest.mark.parametrize("kind", FORCES)
def test_every_kind_of_force_has_its_rows_and_its_marks(kind):
    assert FORCE_ROWS[kind]
    assert kind in DRAWN
    shown = {field.path.partition(".")[0] for row in FORCE_ROWS[kind] for field in row.fields}
    assert shown == set(kind.model_fields) - {"kind", "disabled", "spread", "curve"}
