"""What an effect or a layer costs against the whole and the budget, and what makes it cheaper."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QWidget

from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of, grouped, soft
from wraithon.desktop.widgets.form import Form, Number, Row
from wraithon.project.edit import with_layer
from wraithon.project.project import Project
from wraithon.project.resolving.mastering import traded
from wraithon.studio.survey import MAX_OVER

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session
    from wraithon.project.effect import Effect, Layer
    from wraithon.studio.cost import Cost, LayerCost


STEPS_A_PICTURE = 2
"""Steps that come with a picture, at 60 a second and 30 pictures."""
ROWS = (
    Row(
        "budget",
        Number("budget", "Milliseconds that all layers may take at the most expensive frame, steps included",
               unit="ms", step=0.5),
        width=92, undo="Budget",
    ),
)  # fmt: skip


class CostView(QWidget):
    """Says what was measured, and trades count for size.

    Signals
    -------
    wanted
        The cost is to be measured.
    crowded
        Eight more of the character are to stand on the stage, or no longer.
    """

    wanted = Signal()
    crowded = Signal(bool)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._cost: Cost | None = None
        self._of: Project | None = None
        self._layer = ""
        column = column_of(self)
        self._text = soft("")
        self.form = Form(session, "project", "", Project, ROWS)
        self.measure = Button(icon("gauge"), "Measure the cost")
        self.measure.setToolTip("Play the show from its start and measure its most expensive frame, layer by layer")
        self.measure.clicked.connect(self.wanted)
        self.trade = Button(icon("scales"), "Half as many, larger")
        self.trade.setToolTip("Emits half as many, each larger, to cover as much")
        self.trade.clicked.connect(self.trade_count)
        self.crowd = Button(icon("users-three"), "Eight more")
        self.crowd.setCheckable(True)
        self.crowd.setToolTip("Put eight more of the character on the stage, each with all of its effects; no edit")
        self.crowd.toggled.connect(self.crowded)
        buttons = QHBoxLayout()
        buttons.addWidget(self.measure)
        buttons.addWidget(self.crowd)
        buttons.addStretch(1)
        column.addWidget(self._text)
        column.addWidget(self.form)
        column.addLayout(buttons)
        column.addWidget(self.trade, 0, Qt.AlignmentFlag.AlignLeft)

    @property
    def parts(self) -> dict[str, LayerCost]:
        """Layer id to what it costs."""
        return {part.layer: part for part in self._cost.layers} if self._cost else {}

    def take(self, cost: Cost) -> None:
        """Take what was measured."""
        self._cost, self._of = cost, self._session.project

    def text(self) -> str:
        """Return what is said."""
        return self._text.text()

    def show_effect(self, effect: Effect) -> None:
        """Show an effect's cost."""
        self._layer = ""
        self.trade.hide()
        self._show_cost([layer.id for layer in effect.layers], "this effect")

    def show_layer(self, layer: Layer) -> None:
        """Show a layer's cost."""
        self._layer = layer.id
        self.trade.setVisible(bool(layer.emission.rate or layer.emission.bursts or layer.emission.per_metre))
        self._show_cost([layer.id], "this layer")

    def _show_cost(self, layers: list[str], what: str) -> None:
        self.form.show_model(self._session.project, "")
        cost, parts = self._cost, self.parts
        if cost is None:
            self._text.setText("Not measured yet: the most expensive frame is searched from the show's start.")
            return
        mine = [parts[layer] for layer in layers if layer in parts]
        takes = sum(part.draw_ms + STEPS_A_PICTURE * part.step_ms for part in mine)
        whole = sum(part.draw_ms + STEPS_A_PICTURE * part.step_ms for part in parts.values())
        budget = self._session.project.budget
        alive, pixels = sum(part.alive for part in mine), sum(part.pixels for part in mine)
        stage = cost.stage_draw_ms + STEPS_A_PICTURE * cost.stage_step_ms
        refused = sum(part.refused for part in mine)
        live = f"Played live: {cost.frames_a_second:.0f} pictures a second, {cost.slowest:.0f} in the slowest one."
        if not alive:
            maximum = sum(part.maximum for part in mine)
            lives = (
                f"up to {grouped(maximum)} of it live at other times" if maximum else "it never has living particles"
            )
            self._text.setText(
                f"The most expensive frame is at {cost.moment:.2f} s: nothing of {what} lives then, {lives}.\n"
                f"All layers take {whole:.1f} ms of it, the stage {stage:.1f} ms.\n{live}"
            )
            return
        text = [
            f"At {cost.moment:.2f} s, the most expensive frame, {what} takes {takes:.1f} ms of a picture.",
            f"That is {takes / budget:.0%} of the budget and {_share(takes, whole)} of all layers' {whole:.1f} ms.",
            f"The stage takes {stage:.1f} ms.",
            f"{grouped(alive)} of {grouped(cost.alive)} live, {grouped(refused)} births were refused.",
            f"{grouped(pixels)} of {grouped(cost.pixels)} pixels are drawn.",
            live,
        ]
        if cost.overdraw > MAX_OVER:
            over = f"Overdraw is {cost.overdraw:.1f}:"
            text.append(f"{over} fewer or smaller sprites, or pictures with less air around them, would be quicker.")
        if whole > budget:
            text.append(f"All layers together are {whole - budget:.1f} ms above the budget.")
        if self._of is not self._session.project:
            text.append("The project has changed since; measure again.")
        self._text.setText("\n".join(text))

    def trade_count(self) -> None:
        """Halve how many are born of the layer, and make them larger, so that they cover as much."""
        found = self._session.project.layer(self._layer)
        if found is not None:
            effect, layer = found
            self._session.edit("Half as many, larger", lambda p: with_layer(p, effect.id, traded(layer, 0.5)))


def _share(part: float, whole: float) -> str:
    return f"{part / whole:.0%}" if whole else "all"
