"""What moves a layer's free particles: a list of forces, the ground, and the character."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QWidget

from wraithon.desktop.widgets.basics import column_of, soft
from wraithon.desktop.widgets.fields import ChoiceField
from wraithon.desktop.widgets.form import Choice, CurveField, Form, Number, Row, Switch, Tick
from wraithon.desktop.widgets.list_form import ListForm, Tupled
from wraithon.desktop.widgets.offers import anchors_or
from wraithon.project.life import Curve
from wraithon.project.motion import (
    FORCES,
    Attraction,
    BodyCollision,
    Collision,
    Curl,
    Drag,
    Gravity,
    GroundCollision,
    Hold,
    Lift,
    Orbit,
    Swirl,
    Towards,
    Vortex,
    Wind,
)

if TYPE_CHECKING:
    from collections.abc import Callable

    from wraithon.desktop.session.session import Session
    from wraithon.project.effect import Layer
    from wraithon.project.motion import Force


CONTACTS = (
    ("none", Collision.PASS),
    ("bounce", Collision.BOUNCE),
    ("slide", Collision.SLIDE),
    ("stick", Collision.STICK),
    ("kill", Collision.DIE),
)


def _bounces(met: GroundCollision | BodyCollision) -> bool:
    return met.contact is Collision.BOUNCE


def _rubs(met: GroundCollision | BodyCollision) -> bool:
    return met.contact in {Collision.BOUNCE, Collision.SLIDE}


COLLISION = 104
"""Pixels of the labels of collisions."""


def _collision(
    what: str, text: str, choices: tuple[tuple[str, Collision], ...], surviving: str, lost: str
) -> tuple[Row, ...]:
    """Return the rows of a collision: what happens there, and which shares of the speed are `kept` and `lost`."""
    contact = Choice("contact", text, choices=choices)
    bounce = Number("bounce", surviving, shows=_bounces)
    friction = Number("grip", lost, shows=_rubs)
    return (
        Row(f"{what} collision", contact, width=COLLISION, undo=f"{what.capitalize()} collision"),
        Row("bounce", bounce, width=COLLISION),
        Row("friction", friction, width=COLLISION),
    )


UNSTUCK = tuple(entry for entry in CONTACTS if entry[1] is not Collision.STICK)
GROUND_ROWS = _collision(
    "ground", "What happens at the ground", CONTACTS, "Vertical speed kept", "Horizontal speed lost"
)
BODY_ROWS = _collision(
    "body", "What happens at the character, from outside", UNSTUCK, "Speed along the normal kept",
    "Speed along the skin lost",
)  # fmt: skip


def _calm(wind: Wind) -> str:
    return "" if wind.gust else "the wind has no gusts"


def _row(name: str, *fields: Number | Choice) -> tuple[Row, ...]:
    return (Row(name, *fields, width=44),)


def _around(text: str, shows: Callable[[Any], bool] = lambda _force: True) -> tuple[Row, ...]:
    offered = anchors_or("where the character stands")
    return _row("around", Choice("anchor", text, choices=offered, shows=shows))


def _pushes(curl: Curl) -> bool:
    return curl.swirl is Swirl.PUSH


def _carries(curl: Curl) -> bool:
    return curl.swirl is Swirl.CARRY


SWIRLS = (("push", Swirl.PUSH), ("carry along", Swirl.CARRY))
GOALS = (("an anchor", Towards.ANCHOR), ("the nearest skin", Towards.SKIN))


def _has_curve(force: Force) -> bool:
    return force.curve is not None


SETS_IN = Curve.through((0, 0), (0.3, 0), (0.6, 1), (1, 1))
"""The curve that a force gets first: it hangs, and sets in later."""
FELT = (
    Row(
        "varies",
        Number("spread"),
        Tick("disabled", text="disabled"),
        Switch("curve", "Varies the force over a particle's age", text="curve over age", on=SETS_IN),
        width=44,
        undo="Force over age",
    ),
    Row("", CurveField("curve", shows=_has_curve), undo="Force over age"),
)
"""What all forces have."""
FORCE_ROWS: dict[type[Force], tuple[Row, ...]] = {
    Gravity: _row("gravity", Number("pull")),
    Drag: _row("drag", Number("rate")),
    Wind: (
        *_row("wind", *(Number(f"push.{k}", f"Push along {a} in m/s²", unit=a) for k, a in enumerate("xyz"))),
        *_row(
            "gusts",
            Number("gust"),
            Number("pace", lead="freq.", idle=_calm),
        ),
        *_row("scatter", Number("scatter")),
    ),
    Curl: (
        *_row(
            "curl",
            Choice("swirl", choices=SWIRLS, undo="Swirl"),
        ),
        Row(
            "",
            Number("strength", shows=_pushes),
            Number("speed", shows=_carries),
            Number("grip", lead="follow", shows=_carries),
            width=44,
            undo="Swirl",
        ),
        *_row(
            "eddies",
            Number("scale"),
            Number("change", lead="freq."),
        ),
    ),
    Vortex: (
        *_row(
            "vortex",
            Number("strength"),
            Number("inward", lead="in"),
        ),
        *_row("reach", Number("reach")),
        *_around("Axis of the vortex"),
    ),
    Attraction: (
        *_row(
            "pull",
            Number("strength"),
            Number("reach", lead="at"),
        ),
        *_row("to", Choice("towards", choices=GOALS)),
        *_around("Anchor of the attraction", lambda force: force.towards is Towards.ANCHOR),
    ),
    Lift: _row("lift", Number("strength")),
    Hold: (
        *_row(
            "within",
            Number("radius"),
            Number("strength", lead="by"),
        ),
        *_around("Anchor that particles stay near"),
    ),
    Orbit: (
        *_row("orbit", Number("speed"), Number("radius", lead="at")),
        *_row("follow", Number("follow")),
        *_around("Axis of the orbit"),
    ),
}
"""Force to its rows."""
LISTED = Tupled("motion.forces", lambda force: (*FORCE_ROWS[type(force)], *FELT), lambda force: str(force.kind))


class MotionEditor(QWidget):
    """Edits a layer's motion."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._layer: Layer | None = None
        column = column_of(self)
        self._nothing = soft("No forces: particles keep their velocity.")
        self.forces = ListForm(session, "layer", LISTED.entries, LISTED.without, spacing=10)
        self.add = ChoiceField(name="Add a force")
        offered = [(f"{kind().kind}: {kind.does}", kind) for kind in FORCES]
        self.add.set_choices([("add a force ...", None), *offered])
        self.add.set_value(None)
        self.add.edited.connect(self._add_force)
        self.ground = Form(session, "layer", "motion.ground", GroundCollision, GROUND_ROWS)
        self.body = Form(session, "layer", "motion.body", BodyCollision, BODY_ROWS)
        for widget in (self._nothing, self.forces, self.add, self.ground, self.body):
            column.addWidget(widget)

    def show_layer(self, layer: Layer) -> None:
        """Show a layer's motion; nothing is edited."""
        self._layer = layer
        self.forces.show_model(layer, layer.id)
        self.ground.show_model(layer.motion.ground, layer.id)
        self.body.show_model(layer.motion.body, layer.id)
        self._nothing.setVisible(not layer.motion.forces)

    def force_of(self, widget: QWidget | None) -> Force | None:
        """Return the force whose form holds a widget, or None."""
        if widget is None or self._layer is None:
            return None
        rows = zip(self.forces.forms, self._layer.motion.forces, strict=False)
        return next((force for form, force in rows if form.isAncestorOf(widget)), None)

    def edits_body(self, widget: QWidget | None) -> bool:
        """Return whether a widget edits how particles meet the character, or are drawn to it, and they do."""
        if widget is None or self._layer is None:
            return False
        meets = self._layer.motion.body.contact is not Collision.PASS and self.body.isAncestorOf(widget)
        return meets or getattr(self.force_of(widget), "towards", None) is Towards.SKIN

    def _add_force(self, kind: type[Force] | None, _final: bool) -> None:
        self.add.set_value(None)
        if kind is not None and self._layer is not None:
            self._session.set_value("layer", self._layer.id, *LISTED.with_another(self._layer, kind()))
