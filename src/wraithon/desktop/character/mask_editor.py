"""The selected painted mask: its name, the brush, and what uses it."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QWidget

from wraithon.character.masks import pack_mask, unpack_mask
from wraithon.desktop.widgets.basics import Button, column_of, heading, labelled, soft
from wraithon.desktop.widgets.fields import Check, NumberField
from wraithon.desktop.widgets.form import Form, Row, Text
from wraithon.project.character import CharacterUse, PaintedMask
from wraithon.project.edit import fresh_name, replace_by_id, with_character
from wraithon.project.source import SkinSource

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session


ROWS = (Row("name", Text("name"), width=92, undo="Rename mask"),)
ALL: dict[str, Callable[[np.ndarray], np.ndarray]] = {
    "Fill": np.ones_like,
    "Clear": np.zeros_like,
    "Invert": lambda densities: 1 - densities,
}
"""What may be done to the whole of a mask."""


def set_mask(session: Session, text: str, mask: PaintedMask, *, final: bool = True, merge: str = "") -> None:
    """Add a painted mask to the character on stage, or replace the one with its id."""

    def change(use: CharacterUse) -> CharacterUse:
        return use.evolve(masks=replace_by_id(use.masks, mask))

    session.edit(text, lambda p: with_character(p, change), merge=merge, final=final)


def new_mask(session: Session) -> None:
    """Add a mask to paint and select it."""
    character, use = session.character, session.project.character
    if character is None or use is None:
        session.said.emit("Import a character first: masks are painted on its skin", "warning")
        return
    name = fresh_name("mask", (m.name for m in use.masks))
    mask = PaintedMask(name=name, vertices=len(character.mesh.positions))
    set_mask(session, "New mask", mask)
    session.select("mask", mask.id)


class MaskEditor(QWidget):
    """Edits the selected mask and sets the brush.

    Signals
    -------
    brush
        Radius in metres, strength from 0 to 1, and whether it wipes out.
    """

    brush = Signal(float, float, bool)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = column_of(self)
        self.form = Form(session, "mask", "", PaintedMask, ROWS)
        column.addWidget(self.form)
        column.addWidget(heading("Brush"))
        self.radius = NumberField("cm", low=0.2, high=500, step=0.5, decimals=1, name="Radius of the brush")
        self.strength = NumberField("%", low=1, high=100, step=5, decimals=0, name="What one dab adds")
        self.wiping = Check("erases (or hold Alt)")
        self.radius.set_value(6)
        self.strength.set_value(60)
        for field in (self.radius, self.strength, self.wiping):
            field.edited.connect(self._report)
        column.addWidget(labelled("radius", self.radius))
        column.addWidget(labelled("strength", self.strength))
        column.addWidget(self.wiping)
        row = QHBoxLayout()
        row.setSpacing(4)
        for text in ALL:
            button = Button(text)
            button.clicked.connect(partial(self.paint_all, text))
            row.addWidget(button)
        row.addStretch(1)
        column.addLayout(row)
        self._hint = soft(
            "Drag over the skin in the picture to paint; Shift or the right button moves the camera. Layers emitted "
            "from the character use it with the filter “where a mask is painted”."
        )
        column.addWidget(self._hint)
        self._users = soft("")
        column.addWidget(self._users)

    def _mask(self) -> PaintedMask | None:
        use, what = self._session.project.character, self._session.selection[1]
        return next((mask for mask in use.masks if mask.id == what), None) if use else None

    def show_mask(self, mask: PaintedMask) -> None:
        """Show a mask; nothing is edited."""
        self.form.show_model(mask, mask.id)
        users = [
            layer.name
            for effect in self._session.project.effects
            for layer in effect.layers
            if isinstance(layer.source, SkinSource) and layer.source.painted == mask.id
        ]
        character = self._session.character
        text = "Used by: " + ", ".join(users) if users else "No layer uses it yet."
        if character is not None and mask.values:
            densities = unpack_mask(mask)
            if len(densities) != len(character.mesh.positions):
                text += " It was painted on another mesh and is left out: paint it again."
            else:
                text += f" {float((densities > 0.02).mean()):.0%} of the vertices are painted."
        self._users.setText(text)

    def _report(self) -> None:
        self.brush.emit(self.radius.value / 100, self.strength.value / 100, self.wiping.isChecked())

    def paint_all(self, text: str) -> None:
        """Fill, clear or invert the whole mask."""
        mask, character = self._mask(), self._session.character
        if mask is None or character is None:
            return
        densities, count = unpack_mask(mask), len(character.mesh.positions)
        densities = densities if len(densities) == count else np.zeros(count, np.float32)
        set_mask(self._session, f"{text} mask", pack_mask(mask, ALL[text](densities)))
