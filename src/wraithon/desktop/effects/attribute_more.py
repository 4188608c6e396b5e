"""What else a number of a particle may have: values to choose from, what its curve runs over, and wobble."""

from __future__ import annotations

import re

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from wraithon.desktop.effects.units import unit_of
from wraithon.desktop.widgets.basics import column_of, labelled, shown
from wraithon.desktop.widgets.fields import ChoiceField, NumberField, TextField
from wraithon.project.life import Attribute, By, Over, WeightedChoice, Wobble
from wraithon.project.paths import bounds_at

LABEL = 70
MAXIMUM = 16
DRAWN = frozenset({"size", "stretch", "intensity", "opacity", "turn"})
"""What is worked out when it is drawn, and may wobble and run over the speed."""
ONE = re.compile(r"([-+]?[\d.]+(?:[eE][-+]?\d+)?)\s*(?:[x×*]\s*([\d.]+))?")
BYS = (("random", By.CHANCE), ("distance, up to", By.DISTANCE))
OVERS = (("age", Over.AGE), ("speed, up to", Over.SPEED))


def texts_for(choices: tuple[WeightedChoice, ...], factor: float) -> str:
    """Return values in words, each with its weight where that is not 1."""
    return ", ".join(
        shown(c.value * factor, 4) + (f" ×{shown(c.weight, 3)}" if c.weight != 1 else "") for c in choices
    )


def choices_in(text: str, factor: float) -> tuple[WeightedChoice, ...] | None:
    """Return the values that words like "2, 5 ×3" say; None where they say nothing of the kind."""
    found = []
    for part in filter(None, (piece.strip() for piece in text.replace(";", ",").split(","))):
        match = ONE.fullmatch(part)
        try:
            value, weight = (float(match[1]), float(match[2] or 1)) if match else (None, None)
            if value is None or weight is None:
                return None
            found.append(WeightedChoice(value=value / factor, weight=weight))
        except ValueError:  # beyond what a value may be, too
            return None
    return tuple(found) if len(found) <= MAXIMUM else None


class AttributeMore(QWidget):
    """Edits what is less often needed of an attribute.

    Signals
    -------
    edited
        What is to change of the attribute, by name, and whether the gesture is over.
    said
        Why something that was typed was not taken.
    """

    edited = Signal(dict, bool)
    said = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("raised")
        self._name, self._attribute = "size", Attribute()
        column = column_of(self)
        self.by = ChoiceField(BYS, "What the value at birth is chosen by: random, or distance from the anchor")
        self.by.edited.connect(lambda by, final: self.edited.emit({"by": by}, final))
        far = bounds_at(Attribute, "far")
        self.far = NumberField("m", low=far.low, high=far.high, step=0.1, name="Distance of the highest value")
        self.far.edited.connect(lambda far, final: self.edited.emit({"far": far}, final))
        text = "Weighted choices at birth, as in 2, 5 ×3; empty uses the range"
        self.choices = TextField(text, may_be_empty=True)
        self.choices.setToolTip(text)
        self.choices.setPlaceholderText("2, 5 ×3: replaces the range")
        self.choices.edited.connect(self._choices_typed)
        self.over = ChoiceField(OVERS, "Input of the curve")
        self.over.edited.connect(lambda over, final: self.edited.emit({"over": over}, final))
        bounds = bounds_at(Attribute, "top")
        self.top = NumberField(
            "m/s", low=bounds.low, high=bounds.high, step=0.5, name="Speed at the end of the curve"
        )
        self.top.edited.connect(lambda top, final: self.edited.emit({"top": top}, final))
        self.wobble = NumberField(name="Amplitude of the wobble")
        self.wobble.edited.connect(self._wobbled)
        self.pace = NumberField("/s", low=0, high=60, step=0.25, name="Frequency of the wobble")
        self.pace.edited.connect(lambda pace, final: self._change_wobble(final, pace=pace))
        self._over_row = labelled("over", self.over, self.top, width=LABEL)
        self._wobble_row = labelled("wobble", self.wobble, self.pace, width=LABEL)
        column.addWidget(labelled("chosen by", self.by, self.far, width=LABEL))
        for row in (labelled("choices", self.choices, width=LABEL), self._over_row, self._wobble_row):
            column.addWidget(row)

    def show_attribute(self, name: str, attribute: Attribute) -> None:
        """Show an attribute; nothing is signalled."""
        self._name, self._attribute = name, attribute
        unit, angle = unit_of(name), name == "turn"
        self.choices.set_value(texts_for(attribute.choices, unit.factor))
        self.by.set_value(attribute.by)
        self.far.setVisible(attribute.by is By.DISTANCE)
        self.far.set_value(attribute.far)
        self._over_row.setVisible(name in DRAWN and attribute.life is not None)
        self._wobble_row.setVisible(name in DRAWN)
        self.over.set_value(attribute.over)
        self.top.setVisible(attribute.over is Over.SPEED)
        self.top.set_value(attribute.top)
        self.wobble.set_measure("°" if angle else "%", 1 if angle else 5, 1, 0, 1e6 if angle else 1e4)
        self.wobble.set_value(round(attribute.wobble.size * (1 if angle else 100), 4))
        self.pace.set_value(attribute.wobble.pace)
        self.pace.set_idle("" if attribute.wobble.size else "the wobble is 0")

    def _choices_typed(self, text: str, final: bool) -> None:
        factor = unit_of(self._name).factor
        found = choices_in(text, factor)
        if found is None:
            self.choices.set_value(texts_for(self._attribute.choices, factor))
            self.said.emit("Choices are numbers separated by commas, with weights as in 5 ×3")
        elif found != self._attribute.choices:
            self.edited.emit({"choices": found}, final)

    def _wobbled(self, size: float, final: bool) -> None:
        self._change_wobble(final, size=size / (1 if self._name == "turn" else 100))

    def _change_wobble(self, final: bool, **changes: float) -> None:
        wobble = self._attribute.wobble
        self.edited.emit({"wobble": Wobble(**{"size": wobble.size, "pace": wobble.pace, **changes})}, final)
