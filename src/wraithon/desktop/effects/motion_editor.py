"""What moves a layer's free particles: a list of forces, the ground, and the character."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QWidget

from wraithon.desktop.widgets.basics import column_of, soft
from wraithon.desktop.widgets.fields import ChoiceField
from wraithon.desktop.widgets.form import Choice, Course, Form, Number, Row, Switch, Tick
from wraithon.desktop.widgets.list_form import ListForm, Tupled
from wraithon.desktop.widgets.offers import anchors_or
from wraithon.project.life import Curve
from wraithon.project.motion import (
    Attraction,
    BodyCollision,
    Collision,
    Curl,
    Drag,
    Gravity,
    GroundCollision,
    Hold,
    Lift,
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
    what: str, text: str, choices: tuple[tuple[str, Collision], ...], kept: str, lost: str
) -> tuple[Row, ...]:
    """Return the rows of a collision: what happens there, and which shares of the speed are `kept` and `lost`."""
    contact = Choice("contact", text, choices=choices)
    bounce = Number("bounce", kept, unit="%", factor=100, step=1, decimals=0, shows=_bounces)
    friction = Number("grip", lost, unit="%", factor=100, step=1, decimals=0, shows=_rubs)
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
    return force.course is not None


SETS_IN = Curve.through((0, 0), (0.3, 0), (0.6, 1), (1, 1))
"""The course that a force gets first: it hangs, and sets in later."""
FELT = (
    Row(
        "varies",
        Number("spread", "Random variation of the force per particle", unit="%", factor=100, step=5, decimals=0),
        Tick("off", "Disables the force and keeps it", text="disabled"),
        Switch("course", "Varies the force over a particle's age", text="curve over age", on=SETS_IN),
        width=44,
        undo="Force over age",
    ),
    Row("", Course("course", "Share of the force over a particle's age", shows=_has_curve), undo="Force over age"),
)
"""What all forces have."""
FORCES: dict[type[Force], tuple[str, tuple[Row, ...]]] = {
    Gravity: (
        "pulls down",
        _row("gravity", Number("pull", "Acceleration downwards; negative rises", unit="m/s²")),
    ),
    Drag: ("drag", _row("drag", Number("rate", "Drag: at 1 /s, 37 % of the speed is left after 1 s", unit="/s"))),
    Wind: (
        "pushes one way, in gusts or each particle its own",
        (
            *_row("wind", *(Number(f"push.{k}", f"Push along {a} in m/s²", unit=a) for k, a in enumerate("xyz"))),
            *_row(
                "gusts",
                Number(
                    "gust", "By how much gusts strengthen and weaken it", unit="%", factor=100, step=5, decimals=0
                ),
                Number("pace", "Frequency of the gusts", lead="freq.", unit="/s", step=0.05, idle=_calm),
            ),
            *_row("scatter", Number("scatter", "Random acceleration of each particle", unit="m/s²")),
        ),
    ),
    Curl: (
        "swirls",
        (
            *_row(
                "curl",
                Choice(
                    "swirl", "Whether eddies accelerate particles or carry them along", choices=SWIRLS, undo="Swirl"
                ),
            ),
            Row(
                "",
                Number("strength", "Acceleration by the eddies", unit="m/s²", shows=_pushes),
                Number("speed", "Speed of the eddies", unit="m/s", step=0.05, shows=_carries),
                Number(
                    "grip",
                    "Rate at which particles take on the speed of the eddies",
                    lead="follow",
                    unit="/s",
                    shows=_carries,
                ),
                width=44,
                undo="Swirl",
            ),
            *_row(
                "eddies",
                Number("scale", "Size of the eddies", unit="m", step=0.05),
                Number("change", "Frequency at which the eddies change", lead="freq.", unit="/s", step=0.05),
            ),
        ),
    ),
    Vortex: (
        "turns around an anchor",
        (
            *_row(
                "vortex",
                Number("strength", "Tangential acceleration at the reach; negative reverses it", unit="m/s²"),
                Number("inward", "Inward acceleration at the reach; negative is outward", lead="in", unit="m/s²"),
            ),
            *_row(
                "reach", Number("reach", "Distance from the axis of the largest acceleration", unit="m", step=0.05)
            ),
            *_around("Axis of the vortex"),
        ),
    ),
    Attraction: (
        "draws to an anchor or the skin, or away",
        (
            *_row(
                "pull",
                Number("strength", "Acceleration at the reach, where it is largest; negative repels", unit="m/s²"),
                Number("reach", "Distance of the largest acceleration", lead="at", unit="m", step=0.05),
            ),
            *_row("to", Choice("towards", "Target of the attraction", choices=GOALS)),
            *_around("Anchor of the attraction", lambda force: force.towards is Towards.ANCHOR),
        ),
    ),
    Lift: (
        "drives off what bore it",
        _row("lift", Number("strength", "Acceleration along the normal at birth; negative is inward", unit="m/s²")),
    ),
    Hold: (
        "keeps near an anchor",
        (
            *_row(
                "within",
                Number("radius", "Largest distance from the anchor", unit="m", step=0.05),
                Number(
                    "strength",
                    "Acceleration back, from a quarter of the radius beyond it",
                    lead="by",
                    unit="m/s²",
                    step=1,
                ),
            ),
            *_around("Anchor that particles stay near"),
        ),
    ),
}
"""Force to what it does, in a word or two, and its rows."""
LISTED = Tupled("motion.forces", lambda force: (*FORCES[type(force)][1], *FELT), lambda force: str(force.kind))


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
        offered = [(f"{kind().kind}: {text}", kind) for kind, (text, _) in FORCES.items()]
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
        """Tell whether a widget edits how particles meet the character, or are drawn to it, and they do."""
        if widget is None or self._layer is None:
            return False
        meets = self._layer.motion.body.contact is not Collision.PASS and self.body.isAncestorOf(widget)
        return meets or getattr(self.force_of(widget), "towards", None) is Towards.SKIN

    def _add_force(self, kind: type[Force] | None, _final: bool) -> None:
        self.add.set_value(None)
        if kind is not None and self._layer is not None:
            self._session.set_value("layer", self._layer.id, *LISTED.with_another(self._layer, kind()))
