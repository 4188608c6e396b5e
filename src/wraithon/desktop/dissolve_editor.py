"""The dissolve of the character on stage: how much is gone, when, and the glow of its border."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from wraithon.character.model import Character
from wraithon.desktop.colours import ColourPicker, Swatch
from wraithon.desktop.fields import Check, ChoiceField, NumberField, labelled, soft
from wraithon.project.dissolve import Dissolve

__all__ = ["DissolveEditor"]


class DissolveEditor(QWidget):
    """Edits a dissolve.

    Signals
    -------
    edited
        What changed in words, the dissolve, and whether the gesture is over.
    """

    edited = Signal(str, object, bool)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._dissolve = Dissolve()
        self._materials: dict[str, Check] = {}
        self.amount = NumberField("%", low=0, high=100, step=1, decimals=0, name="How much of the skin is gone")
        self.clip = ChoiceField(name="When it happens")
        self._begin = NumberField("s", low=0, high=1e4, step=0.05, name="Begins at this moment of the clip")
        self._end = NumberField("s", low=0, high=1e4, step=0.05, name="All is gone at this moment of the clip")
        self._scale = NumberField("cm", low=0.1, high=1e4, step=0.5, decimals=1, name="Size of the blotches")
        self._width = NumberField("%", low=0, high=100, step=1, decimals=0, name="How wide the border glows")
        self._intensity = NumberField("×", low=0, high=1000, step=0.1, decimals=1, name="How brightly it glows")
        for field, key, share in (
            (self.amount, "amount", 100), (self._begin, "begin", 1), (self._end, "end", 1),
            (self._scale, "scale", 100), (self._width, "width", 100), (self._intensity, "intensity", 1),
        ):  # fmt: skip
            field.edited.connect(lambda v, f, key=key, share=share: self._change(f, **{key: v / share}))
        self.clip.chosen.connect(lambda v: self._change(True, clip=v))
        self._two_sided = Check("the inside shows through the holes")
        self._two_sided.clicked.connect(lambda on: self._change(True, two_sided=on))
        self._swatch = Swatch("Colour of the border")
        self._swatch.clicked.connect(lambda: self._picker.setVisible(not self._picker.isVisible()))
        self._picker = ColourPicker()
        self._picker.edited.connect(lambda colour, final: self._change(final, colour=colour))
        self._picker.hide()
        self._box = QVBoxLayout()
        self._box.setSpacing(2)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(labelled("gone", self.amount))
        column.addWidget(labelled("when", self.clip))
        self._span = labelled("from, to", self._begin, self._end)
        column.addWidget(self._span)
        column.addWidget(labelled("blotches", self._scale))
        column.addWidget(labelled("border", self._swatch, self._width, self._intensity))
        column.addWidget(self._picker)
        column.addWidget(self._two_sided)
        column.addWidget(soft("materials: none ticked means all of them"))
        column.addLayout(self._box)
        column.addWidget(
            soft("Layers born on the character can keep to its border: “Only where ...”, “on the border”.")
        )

    def show_dissolve(self, dissolve: Dissolve, character: Character | None) -> None:
        """Show a dissolve; nothing is signalled."""
        self._dissolve = dissolve
        clips = [clip.name for clip in character.clips] if character else []
        extra = [dissolve.clip] if dissolve.clip and dissolve.clip not in clips else []
        choices = [("always", ""), *((f"while {name} plays", name) for name in clips)]
        self.clip.set_choices([*choices, *((f"while {name} plays (missing)", name) for name in extra)])
        self.clip.set_value(dissolve.clip)
        self._span.setVisible(bool(dissolve.clip))
        self.amount.set_value(round(dissolve.amount * 100, 3))
        self._begin.set_value(dissolve.begin)
        self._end.set_value(dissolve.end)
        self._scale.set_value(round(dissolve.scale * 100, 3))
        self._width.set_value(round(dissolve.width * 100, 3))
        self._intensity.set_value(dissolve.intensity)
        self._swatch.set_colour(dissolve.colour)
        self._picker.set_colour(dissolve.colour)
        self._two_sided.setChecked(dissolve.two_sided)
        used = {part.material for part in character.parts} if character else set()
        names = [m.name for k, m in enumerate(character.materials) if k in used] if character else []
        names = list(dict.fromkeys([*names, *dissolve.materials]))
        if names != list(self._materials):
            for check in self._materials.values():
                self._box.removeWidget(check)
                check.hide()
                check.deleteLater()
            self._materials = {}
            for name in names:
                check = Check(name)
                check.clicked.connect(self._ticked)
                self._materials[name] = check
                self._box.addWidget(check)
        for name, check in self._materials.items():
            check.setChecked(name in dissolve.materials)

    def _ticked(self) -> None:
        ticked = tuple(name for name, check in self._materials.items() if check.isChecked())
        self._change(True, materials=ticked)

    def _change(self, final: bool, **changes: object) -> None:
        self._dissolve = self._dissolve.but(**changes)
        self.edited.emit("Dissolve", self._dissolve, final)
