"""What moves a layer's free particles: a list of forces, and the ground."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from wraithon.desktop.widgets.basics import column_of, soft
from wraithon.desktop.widgets.fields import ChoiceField
from wraithon.desktop.widgets.form import Choice, Form, Number, Row
from wraithon.desktop.widgets.list_form import ListForm, Tupled
from wraithon.desktop.widgets.offers import anchors_or
from wraithon.project.motion import Contact, Curl, Drag, Gravity, Ground, Vortex, Wind

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session
    from wraithon.project.effect import Layer
    from wraithon.project.motion import Force

__all__ = ["MotionEditor"]

CONTACTS = (
    ("passes through", Contact.PASS),
    ("bounces", Contact.BOUNCE),
    ("slides", Contact.SLIDE),
    ("sticks", Contact.STICK),
    ("ends", Contact.DIE),
)
GROUND_ROWS = (
    Row("at ground", Choice("contact", "What happens there", choices=CONTACTS), width=70, undo="Ground contact"),
    Row(
        "bounce",
        Number(
            "bounce", "Share of the falling speed kept", unit="%", factor=100, step=1, decimals=0,
            shows=lambda ground: ground.contact is Contact.BOUNCE,
        ),
        width=70,
    ),
    Row(
        "grip",
        Number(
            "grip", "Share of the sideways speed taken", unit="%", factor=100, step=1, decimals=0,
            shows=lambda ground: ground.contact in {Contact.BOUNCE, Contact.SLIDE},
        ),
        width=70,
    ),
)  # fmt: skip


def _row(name: str, *fields: Number | Choice) -> tuple[Row, ...]:
    return (Row(name, *fields, width=44),)


FORCES: dict[type[Force], tuple[str, tuple[Row, ...]]] = {
    Gravity: (
        "pulls down",
        _row("gravity", Number("pull", "Pull downwards; below zero it rises", unit="m/s²")),
    ),
    Drag: ("slows", _row("drag", Number("rate", "Slowing: at 1, a second leaves 37 % of the speed", unit="/s"))),
    Wind: (
        "pushes one way",
        _row("wind", *(Number(f"push.{k}", f"Push along {a} in m/s²", unit=a) for k, a in enumerate("xyz"))),
    ),
    Curl: (
        "swirls",
        _row(
            "curl",
            Number("strength", "Strength of the swirls", unit="m/s²"),
            Number("scale", "Size of an eddy", lead="size", unit="m", step=0.05),
            Number("change", "How quickly the eddies alter", lead="pace", unit="/s", step=0.05),
        ),
    ),
    Vortex: (
        "turns around an anchor",
        (
            Row(
                "vortex",
                Number("strength", "Sideways at the reach; below zero the other way round", unit="m/s²"),
                Number("inward", "Inward at the reach; below zero outward", lead="in", unit="m/s²"),
                width=44,
            ),
            *_row("reach", Number("reach", "How far from the line it is strongest", unit="m", step=0.05)),
            *_row(
                "around", Choice("anchor", "What it turns around", choices=anchors_or("where the character stands"))
            ),
        ),
    ),
}
"""Force to what it does, in a word or two, and its row."""
LISTED = Tupled("motion.forces", lambda force: FORCES[type(force)][1], lambda force: str(force.kind))


class MotionEditor(QWidget):
    """Edits a layer's motion."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._layer: Layer | None = None
        column = column_of(self)
        self._nothing = soft("No forces: particles go straight on at their own speed.")
        self.forces = ListForm(session, "layer", LISTED.entries, LISTED.without)
        self.add = ChoiceField(name="Add a force")
        offered = [(f"{kind().kind}: {words}", kind) for kind, (words, _) in FORCES.items()]
        self.add.set_choices([("add a force ...", None), *offered])
        self.add.set_value(None)
        self.add.edited.connect(self._add_force)
        self.ground = Form(session, "layer", "motion.ground", Ground, GROUND_ROWS)
        for widget in (self._nothing, self.forces, self.add, self.ground):
            column.addWidget(widget)

    def show_layer(self, layer: Layer) -> None:
        """Show a layer's motion; nothing is edited."""
        self._layer = layer
        self.forces.show_model(layer, layer.id)
        self.ground.show_model(layer.motion.ground, layer.id)
        self._nothing.setVisible(not layer.motion.forces)

    def _add_force(self, kind: type[Force] | None, _final: bool) -> None:
        self.add.set_value(None)
        if kind is not None and self._layer is not None:
            self._session.put("layer", self._layer.id, *LISTED.with_another(self._layer, kind()))
