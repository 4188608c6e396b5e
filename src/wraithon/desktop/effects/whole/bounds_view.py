"""How far an effect reaches: measured over a firing, shown as a box, and fixed with a margin."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QWidget

from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of, soft
from wraithon.desktop.widgets.form import Form, Number, Row
from wraithon.project.effect import Effect, EffectBounds

if TYPE_CHECKING:
    from collections.abc import Callable

    from wraithon.desktop.session.session import Session
    from wraithon.project.base import Vec3
    from wraithon.studio.survey import Survey


WIDTH = 60
FINE = 1000
"""Bounds are fixed on whole millimetres."""


def _fixed(effect: Effect | None) -> bool:
    return effect is not None and effect.bounds is not None


def _corner(end: str, text: str) -> Row:
    fields = (
        Number(f"bounds.{end}.{k}", f"{text} along {axis}", unit="m", step=0.05, shows=_fixed)
        for k, axis in enumerate(("x, to the left", "y, upwards", "z, ahead"))
    )
    return Row("from" if end == "low" else "to", *fields, width=WIDTH, undo="Bounds")


ROWS = (
    _corner("low", "Lowest corner"),
    _corner("high", "Highest corner"),
    Row(
        "margin",
        Number("bounds.margin", shows=_fixed),
        width=WIDTH, undo="Margin of the bounds",
    ),
)  # fmt: skip


class BoundsView(QWidget):
    """Says how far an effect reaches, and fixes that.

    Signals
    -------
    shown
        The box is to be drawn in the picture, or no longer.
    """

    shown = Signal(bool)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._effect: Effect | None = None
        self.survey: Survey | None = None
        """What was measured of the effect that is shown; None until that is known."""
        column = column_of(self)
        self._text = soft("")
        self.form = Form(session, "effect", "", Effect, ROWS)
        self.box = Button(icon("cube"), "Show the box")
        self.box.setCheckable(True)
        self.box.setToolTip("Shows the measured and the fixed bounds where the effect is fired")
        self.box.toggled.connect(self.shown)
        self.fix = Button(icon("push-pin"), "Fix as measured")
        self.fix.setToolTip("Games and checks use this box; findings report what leaves it")
        self.fix.clicked.connect(self.fix_bounds)
        self.free = Button(icon("x"), "Not fixed")
        self.free.setToolTip("Have no fixed bounds")
        self.free.clicked.connect(self.free_bounds)
        row = QHBoxLayout()
        row.setSpacing(4)
        for button in (self.box, self.fix, self.free):
            row.addWidget(button)
        row.addStretch(1)
        column.addWidget(self._text)
        column.addWidget(self.form)
        column.addLayout(row)

    def text(self) -> str:
        """Return what is said."""
        return self._text.text()

    def show_effect(self, effect: Effect, survey: Survey | None) -> None:
        """Show an effect, and what was measured of it as it is; None where that is still to come."""
        self._effect, self.survey = effect, survey
        self.form.show_model(effect, effect.id)
        self.fix.setEnabled(survey is not None and survey.low is not None)
        self.free.setVisible(effect.bounds is not None)
        if survey is None:
            self._text.setText("Its reach is measured while paused.")
        elif survey.low is None or survey.high is None:
            self._text.setText("A firing showed nothing, so its reach is unknown.")
        else:
            across, up, deep = (high - low for low, high in zip(survey.low, survey.high, strict=True))
            reach = f"A firing is {across:.2f} m across, {up:.2f} m high and {deep:.2f} m deep."
            over = f" Overdraw is highest {survey.moment:.2f} s in: {survey.over:.2f}."
            self._text.setText(reach + (over if survey.over else ""))

    def fix_bounds(self) -> None:
        """Fix the bounds as they were measured; a margin that was set stays."""
        effect, survey = self._effect, self.survey
        if effect is None or survey is None or survey.low is None or survey.high is None:
            return
        low, high = _whole(survey.low, math.floor), _whole(survey.high, math.ceil)
        bounds = EffectBounds() if effect.bounds is None else effect.bounds
        self._session.set_value("effect", effect.id, "bounds", bounds.evolve(low=low, high=high), "Fix bounds")

    def free_bounds(self) -> None:
        """Remove the fixed bounds."""
        if self._effect is not None:
            self._session.set_value("effect", self._effect.id, "bounds", None, "Forget bounds")


def _whole(corner: Vec3, way: Callable[[float], int]) -> Vec3:
    x, y, z = (way(value * FINE) / FINE for value in corner)
    return x, y, z
