"""The selected painted mask: its name, the brush, and what uses it."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from wraithon.character.masks import pack_mask, unpack_mask
from wraithon.desktop.fields import Button, Check, NumberField, TextField, heading, labelled, soft
from wraithon.desktop.session import Session
from wraithon.project.character import CharacterUse, PaintedMask
from wraithon.project.edit import replace_by_id, with_character
from wraithon.project.source import SkinSource

__all__ = ["MaskSheet", "put_mask"]


def put_mask(session: Session, words: str, mask: PaintedMask, *, final: bool = True, merge: str = "") -> None:
    """Add a painted mask to the character on stage, or replace the one with its id."""

    def change(use: CharacterUse) -> CharacterUse:
        return use.but(masks=replace_by_id(use.masks, mask))

    session.edit(words, lambda p: with_character(p, change), merge=merge)
    if final:
        session.history.seal()


class MaskSheet(QWidget):
    """Edits the selected mask and sets the brush.

    Signals
    -------
    brush
        Radius in metres, strength from 0 to 1, and whether it wipes out.
    """

    brush = Signal(float, float, bool)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._name = TextField("Name of the mask")
        self._name.edited.connect(lambda v: self._change("Rename mask", name=v))
        column.addWidget(labelled("name", self._name))
        column.addWidget(heading("Brush"))
        self.radius = NumberField("cm", low=0.2, high=500, step=0.5, decimals=1, name="Radius of the brush")
        self.strength = NumberField("%", low=1, high=100, step=5, decimals=0, name="What one dab adds")
        self.wiping = Check("wipes out (or hold Alt)")
        self.radius.set_value(6)
        self.strength.set_value(60)
        for field in (self.radius, self.strength):
            field.edited.connect(lambda value, _final, field=field: self._set(field, value))
        self.wiping.toggled.connect(lambda _on: self._tell())
        column.addWidget(labelled("radius", self.radius))
        column.addWidget(labelled("strength", self.strength))
        column.addWidget(self.wiping)
        row = QHBoxLayout()
        row.setSpacing(4)
        for words, change in (
            ("Fill", np.ones_like),
            ("Clear", np.zeros_like),
            ("Invert", lambda held: 1 - held),
        ):
            button = Button(words)
            button.clicked.connect(lambda _on=False, words=words, change=change: self._all(words, change))
            row.addWidget(button)
        row.addStretch(1)
        column.addLayout(row)
        self._hint = soft(
            "Drag over the skin in the picture to paint; Shift or the right button moves the camera. Layers born on "
            "the character use it with the filter “where a mask is painted”."
        )
        column.addWidget(self._hint)
        self._users = soft("")
        column.addWidget(self._users)

    def _mask(self) -> PaintedMask | None:
        use, what = self._session.project.character, self._session.selection[1]
        return next((mask for mask in use.masks if mask.id == what), None) if use else None

    def show_mask(self, mask: PaintedMask) -> None:
        """Show a mask; nothing is edited."""
        self._name.set_value(mask.name)
        users = [
            layer.name
            for effect in self._session.project.effects
            for layer in effect.layers
            if isinstance(layer.source, SkinSource) and layer.source.painted == mask.id
        ]
        character = self._session.character
        words = "Used by: " + ", ".join(users) if users else "No layer uses it yet."
        if character is not None and mask.values:
            held = unpack_mask(mask)
            if len(held) != len(character.mesh.positions):
                words += " It was painted on another mesh and is left out: paint it anew."
            else:
                words += f" {float((held > 0.02).mean()):.0%} of the vertices are painted."
        self._users.setText(words)

    def _set(self, field: NumberField, value: float) -> None:
        field.set_value(value)
        self._tell()

    def _tell(self) -> None:
        self.brush.emit(self.radius.value / 100, self.strength.value / 100, self.wiping.isChecked())

    def _change(self, words: str, **changes: object) -> None:
        mask = self._mask()
        if mask is not None:
            put_mask(self._session, words, mask.but(**changes))

    def _all(self, words: str, change: object) -> None:
        mask, character = self._mask(), self._session.character
        if mask is None or character is None:
            return
        held, count = unpack_mask(mask), len(character.mesh.positions)
        held = held if len(held) == count else np.zeros(count, np.float32)
        put_mask(self._session, f"{words} mask", pack_mask(mask, change(held)))  # type: ignore[operator]
