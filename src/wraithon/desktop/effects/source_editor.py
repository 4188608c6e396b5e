"""Where a layer's particles are born, which way they set out, and whether they ride on the skin."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from wraithon.desktop.effects.births_view import BirthsChart
from wraithon.desktop.effects.joint_table import JointTable
from wraithon.desktop.effects.source_diagram import SourceDiagram
from wraithon.desktop.effects.source_filters import Filters
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of, heading, soft
from wraithon.desktop.widgets.form import Choice, Form, KindChoice, Names, Number, Row, Switch, Tick
from wraithon.desktop.widgets.offers import anchors_or, parts, siblings, textures_or
from wraithon.desktop.widgets.on_demand import OnDemand
from wraithon.project.source import (
    SOURCES,
    AimFrame,
    Heading,
    Mode,
    Occasion,
    OffspringSource,
    PointSource,
    SkinSource,
    Spacing,
)

if TYPE_CHECKING:
    from wraithon.character.fairness import Tally
    from wraithon.desktop.session.session import Session
    from wraithon.project.effect import Layer
    from wraithon.project.source import Source


KINDS = (
    ("the anchor itself", "point"),
    ("a sphere around the anchor", "sphere"),
    ("a level ring around the anchor", "ring"),
    ("a box around the anchor", "box"),
    ("a cone ahead of the anchor", "cone"),
    ("a picture at the anchor", "picture"),
    ("the line to another anchor", "line"),
    ("the character", "skin"),
    ("another layer's particles", "offspring"),
)
MODES = (
    ("surface, uniform by area", Mode.SURFACE),
    ("edges, uniform by length", Mode.EDGES),
    ("vertices, all alike", Mode.VERTICES),
    ("bones, uniform by length", Mode.BONES),
)
SPACINGS = (("random", Spacing.RANDOM), ("even", Spacing.EVEN))
OCCASIONS = (
    ("death", Occasion.DEATH),
    ("ground contact", Occasion.CONTACT),
    ("birth", Occasion.BIRTH),
    ("per distance moved", Occasion.PASSING),
)
HEADINGS = (
    ("outward", Heading.OUTWARD),
    ("up", Heading.UP),
    ("the anchor's forward", Heading.FORWARD),
    ("axis by axis", Heading.AXES),
)
FRAMES = (
    ("of the world", AimFrame.WORLD),
    ("of the anchor", AimFrame.ANCHOR),
    ("with y outward", AimFrame.OUTWARD),
)


def _by_axes(source: Source) -> bool:
    return source.aim.heading is Heading.AXES


def _by_heading(source: Source) -> bool:
    return not _by_axes(source)


def _axis(k: int, name: str) -> Row:
    """Return the row of what is drawn along an axis."""
    low = Number(f"aim.low.{k}", f"Lowest share of the direction along {name}", shows=_by_axes)
    high = Number(f"aim.high.{k}", f"Highest share along {name}", lead="to", shows=_by_axes)
    return Row(name, low, high, undo="Direction")


def _on_its_way(source: OffspringSource) -> bool:
    return source.occasion is Occasion.PASSING


def _on_bones(source: SkinSource) -> bool:
    return source.mode is Mode.BONES


def _rides_on(source: Source) -> str:
    whole = source.riding.share >= 1
    return "particles stay attached for their whole lifetime" if whole else ""


RIDING = Number("riding.share")
RIDE_ROWS = (Row("attached", RIDING, Tick("riding.turning", text="rotating")),)
AWAY_ROWS = (
    Row(
        "offset",
        *(Number(f"offset.{k}", f"Offset from the anchor along its {axis} axis") for k, axis in enumerate("xyz")),
        undo="Offset from the anchor",
    ),
    Row(
        "rotation",
        *(
            Number(f"turn.{k}", f"Rotation about the anchor's {axis} axis", unit="°", step=5, decimals=1)
            for k, axis in enumerate("xyz")
        ),
        undo="Rotation from the anchor",
    ),
)
RADIUS = Row("radius", Number("radius"))
AIM_ROWS = (
    Row(
        "heading",
        Choice("aim.heading", choices=HEADINGS),
        Choice("aim.frame", choices=FRAMES, shows=_by_axes),
    ),
    *(_axis(k, name) for k, name in enumerate("xyz")),
    Row(
        "spread",
        Number("aim.spread", shows=_by_heading),
    ),
    Row(
        "inherited",
        Number("riding.keep", idle=_rides_on),
    ),
)
ROWS: dict[str, tuple[Row, ...]] = {
    "point": (*RIDE_ROWS, *AIM_ROWS),
    "sphere": (
        RADIUS,
        Row("hollow", Number("shell")),
        *RIDE_ROWS,
        *AIM_ROWS,
    ),
    "ring": (
        RADIUS,
        Row("thickness", Number("thickness")),
        *RIDE_ROWS,
        *AIM_ROWS,
    ),
    "box": (
        *(
            Row(side, Number(f"size.{axis}", f"{side.capitalize()} of the box"))
            for axis, side in enumerate(("width", "height", "depth"))
        ),
        *RIDE_ROWS,
        *AIM_ROWS,
    ),
    "cone": (
        Row("length", Number("length")),
        Row("angle", Number("angle")),
        *RIDE_ROWS,
        *AIM_ROWS,
    ),
    "picture": (
        Row(
            "picture",
            Choice("texture", "Texture whose bright areas emit", choices=textures_or("even all over")),
            Tick("invert", text="inverted"),
        ),
        *(
            Row(side, Number(f"size.{axis}", f"{side.capitalize()} of the picture"))
            for axis, side in enumerate(("width", "height"))
        ),
        *RIDE_ROWS,
        *AIM_ROWS,
    ),
    "line": (
        Row("to", Choice("to", "Anchor at the end of the line", choices=anchors_or("no anchor yet"))),
        Row("thickness", Number("thickness")),
        *RIDE_ROWS,
        *AIM_ROWS,
    ),
    "skin": (
        Row("lift", Number("lift")),
        Row("radius", Number("radius", shows=_on_bones)),
        Row("attached", RIDING),
        *AIM_ROWS,
    ),
    "offspring": (
        Row("of", Choice("layer", "Parent layer", choices=siblings), undo="Parent layer"),
        Row("at", Choice("occasion", "Moment of the parent at which it emits", choices=OCCASIONS), undo="Occasion"),
        Row("every", Number("every", shows=_on_its_way)),
        Row(
            "births",
            Number("count"),
            Switch("most", "Varies the count by chance", text="up to", on=8, stretch=0),
            Number("most"),
            undo="Births",
        ),
        Row("chance", Number("chance")),
        Row(
            "takes",
            Number("tint", lead="tint"),
            Tick("grown", "Scales by the parent's size", text="size"),
            undo="What is taken along",
        ),
        *AIM_ROWS,
    ),
}
MODE_ROWS = (Row("", Choice("mode", choices=MODES), undo="Emit from"),)
SKIN_ROWS = (
    Row(
        "spacing",
        Choice("spacing", choices=SPACINGS, undo="Spacing"),
        Number("pieces", late=True, shows=lambda source: source.spacing is Spacing.EVEN),
    ),
)  # fmt: skip
PART_ROWS = (
    Row(
        "", Names("parts", choices=parts, undo="Source parts", shows=lambda source: not _on_bones(source))
    ),
)  # fmt: skip


def anchored(source: Source) -> bool:
    """Return whether births are placed by the anchor they are fired at."""
    return not isinstance(source, SkinSource | OffspringSource)


class SourceEditor(QWidget):
    """Edits a layer's source.

    Signals
    -------
    density_wanted
        How births fall is to be shown, or no longer.
    placing
        Where they are is to be moved in the picture, or no longer.
    """

    density_wanted = Signal(bool)
    placing = Signal(bool)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._source: object = PointSource()
        column = column_of(self)
        self.kind = KindChoice(session, "layer", "source", SOURCES, KINDS, "Where particles are emitted", "Source")
        self.mode = Form(session, "layer", "source", SkinSource, MODE_ROWS)
        self._diagram = SourceDiagram()
        self.forms = OnDemand(self._form_of)
        self.skin = Form(session, "layer", "source", SkinSource, SKIN_ROWS)
        self.parts = Form(session, "layer", "source", SkinSource, PART_ROWS)
        self.filters, self.table = Filters(session), JointTable(session)
        self._parts_hint = soft("parts: none ticked means all of them")
        self.density = Button(icon("chart-bar"), "Show birth density")
        self.density.setCheckable(True)
        self.density.setToolTip("Colours the skin by birth density and counts test births below")
        self.density.toggled.connect(self._density_toggled)
        self.chart = BirthsChart()
        self.chart.hide()
        self._skin_only: list[QWidget] = [
            self.skin, heading("Where on it"), self._parts_hint, self.parts, self.filters, heading("Joint table"),
            self.table, self.density,
        ]  # fmt: skip
        column.addWidget(self.kind)
        column.addWidget(self.mode)
        column.addLayout(self._side())
        self.away = Form(session, "layer", "source", PointSource, AWAY_ROWS)
        self.move_it = Button(icon("arrows-out-cardinal"), "Edit in the viewport")
        self.move_it.setCheckable(True)
        self.move_it.setToolTip(
            "Drag an arrow or the middle to move it, a ring to turn it; Ctrl snaps to 1 cm and 15°"
        )
        self.move_it.toggled.connect(self.placing)
        session.loaded.connect(lambda: self.move_it.setChecked(False))
        column.addWidget(self.away)
        column.addWidget(self.move_it)
        for widget in (*self._skin_only, self.chart):
            column.addWidget(widget)
        self._skin_only.append(self.mode)

    def _side(self) -> QHBoxLayout:
        """Return the diagram with the forms of all kinds beside it."""
        rows = self._rows = QVBoxLayout()
        rows.setSpacing(4)
        rows.addStretch(1)
        side = QHBoxLayout()
        side.addWidget(self._diagram)
        side.addLayout(rows, 1)
        return side

    def _form_of(self, kind: str) -> Form:
        """Return the form of a kind of source, unseen."""
        form = Form(self._session, "layer", "source", SOURCES[kind], ROWS[kind])
        form.hide()
        self._rows.insertWidget(self._rows.count() - 1, form)
        return form

    def show_layer(self, layer: Layer) -> None:
        """Show a layer's source; nothing is edited."""
        source = self._source = layer.source
        self.kind.show_model(source, layer.id)
        shown = self.forms[source.kind]
        for kind, form in self.forms.items():
            form.setVisible(kind == source.kind)
        shown.show_model(source, layer.id)
        self.away.setVisible(anchored(source))
        self.move_it.setVisible(anchored(source))
        self.away.show_model(source, layer.id)
        for widget in self._skin_only:
            widget.setVisible(isinstance(source, SkinSource))
        if isinstance(source, SkinSource):
            self._show_skin(layer, source)
        elif self.density.isChecked():
            self.density.setChecked(False)
        self._diagram.show_source(source, self._session.character)

    def _show_skin(self, layer: Layer, source: SkinSource) -> None:
        for form in (self.mode, self.skin, self.parts):
            form.show_model(source, layer.id)
        self._parts_hint.setVisible(not _on_bones(source))
        self.filters.show_layer(layer)
        self.table.show_layer(layer)

    def show_births(self, births: tuple[list[Tally], list[Tally]] | None) -> None:
        """Show test births by part and joint, once they are counted."""
        if births is not None and self.density.isChecked() and isinstance(self._source, SkinSource):
            self.chart.show_tallies(*births, bones=_on_bones(self._source))
            self.chart.show()

    def _density_toggled(self, on: bool) -> None:
        self.chart.setVisible(False)
        self.density_wanted.emit(on)
