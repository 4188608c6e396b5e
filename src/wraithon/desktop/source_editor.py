"""Where a layer's particles are born, which way they set out, and whether they ride on the skin."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from wraithon.character.fairness import Tally
from wraithon.character.model import Character
from wraithon.desktop.births_view import BirthsChart
from wraithon.desktop.fields import Button, ChoiceField, NumberField, heading, labelled
from wraithon.desktop.joint_table import JointTable
from wraithon.desktop.outline import character_outline
from wraithon.desktop.source_filters import Filters
from wraithon.desktop.theme import GROUND, INK, LINE, RUST, SOFT, TEAL, icon, text_font
from wraithon.project.character import CharacterUse
from wraithon.project.source import (
    MOST_EVEN,
    Heading,
    Mode,
    PointSource,
    RingSource,
    SkinSource,
    Spacing,
    SphereSource,
)

__all__ = ["SourceEditor"]

KINDS = (
    ("the anchor itself", "point"),
    ("a ball around the anchor", "sphere"),
    ("a level ring around the anchor", "ring"),
    ("the character", "skin"),
)
CLASSES = {"point": PointSource, "sphere": SphereSource, "ring": RingSource, "skin": SkinSource}
MODES = (
    ("its surface, even by area", Mode.SURFACE),
    ("its edges, even by length", Mode.EDGES),
    ("its vertices, each alike", Mode.VERTICES),
    ("its bones, even by length", Mode.BONES),
)
SPACINGS = (("by chance", Spacing.RANDOM), ("evenly", Spacing.EVEN))
HEADINGS = (("outward", Heading.OUTWARD), ("up", Heading.UP), ("the anchor's forward", Heading.FORWARD))


class SourceEditor(QWidget):
    """Edits a source.

    Signals
    -------
    edited
        What changed in words, the source, and whether the gesture is over.
    density_wanted
        How births fall is to be shown, or no longer.
    picking
        Joints clicked in the picture go into the joint table, or no longer.
    masks_wanted
        A painted mask was asked for, and there is none yet.
    """

    edited = Signal(str, object, bool)
    density_wanted = Signal(bool)
    picking = Signal(bool)
    masks_wanted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._source: PointSource | SphereSource | RingSource | SkinSource = PointSource()
        self._kind = ChoiceField(KINDS, name="Where particles are born")
        self._kind.chosen.connect(self._kind_chosen)
        self._radius = NumberField("m", low=0, high=1000, step=0.01, name="Radius")
        self._shell = NumberField("", low=0, high=1, step=0.05, name="0 fills the ball, 1 keeps to its surface")
        self._thickness = NumberField("m", low=0, high=1000, step=0.01, name="Thickness of the ring")
        self._lift = NumberField("cm", low=-1e4, high=1e4, step=0.5, name="Distance from the skin")
        self._heading = ChoiceField(HEADINGS, name="Which way they set out")
        self._spread = NumberField("°", low=0, high=180, step=1, decimals=1, name="How far they may stray from it")
        self._ride = NumberField("%", low=0, high=100, step=1, decimals=0, name="Share of the life spent riding")
        self._keep = NumberField(
            "%", low=-200, high=200, step=5, decimals=0, name="Share of the source's own speed kept"
        )
        self._radius.edited.connect(lambda v, f: self._change("Radius", f, radius=v))
        self._shell.edited.connect(lambda v, f: self._change("Shell", f, shell=v))
        self._thickness.edited.connect(lambda v, f: self._change("Thickness", f, thickness=v))
        self._lift.edited.connect(lambda v, f: self._change("Lift", f, lift=v / 100))
        self._heading.chosen.connect(lambda v: self._change("Heading", True, aim=self._source.aim.but(heading=v)))
        self._spread.edited.connect(lambda v, f: self._change("Spread", f, aim=self._source.aim.but(spread=v)))
        self._ride.edited.connect(lambda v, f: self._riding("Riding", f, share=v / 100))
        self._keep.edited.connect(lambda v, f: self._riding("Keep", f, keep=v / 100))
        self._diagram = _Diagram()
        self._mode = ChoiceField(MODES, name="What on the character gives birth")
        self._mode.chosen.connect(lambda v: self._change("Born on", True, mode=v))
        self._bone_radius = NumberField("cm", low=0, high=1e5, step=0.5, name="Births lie within this of the bone")
        self._bone_radius.edited.connect(lambda v, f: self._change("Radius", f, radius=v / 100))
        self._spacing = ChoiceField(SPACINGS, name="How places are chosen")
        self._spacing.chosen.connect(lambda v: self._change("Spacing", True, spacing=v))
        self._pieces = NumberField(
            "places", low=1, high=MOST_EVEN, step=10, decimals=0, name="Places set out; births take one after another"
        )
        self._pieces.edited.connect(lambda v, f: self._change("Places", f, pieces=round(v)) if f else None)
        self.filters = Filters()
        self.filters.edited.connect(self._filtered)
        self.filters.masks_wanted.connect(self.masks_wanted)
        self.table = JointTable()
        self.table.edited.connect(lambda words, rows, final: self._change(words, final, table=rows))
        self.table.picking.connect(self.picking)
        self.density = Button(icon("chart-bar"), "Show how births fall")
        self.density.setCheckable(True)
        self.density.setToolTip("Colours the skin by how dense births are, and counts test births below")
        self.density.toggled.connect(self._density_toggled)
        self.chart = BirthsChart()
        self.chart.hide()
        self._rows = {
            "shape": labelled("radius", self._radius, width=60),
            "shell": labelled("shell", self._shell, width=60),
            "thickness": labelled("thickness", self._thickness, width=60),
            "lift": labelled("lift", self._lift, width=60),
            "bone": labelled("radius", self._bone_radius, width=60),
            "ride": labelled("riding", self._ride, width=60),
        }
        column = QVBoxLayout()
        column.setSpacing(4)
        for row in self._rows.values():
            column.addWidget(row)
        column.addWidget(labelled("heading", self._heading, width=60))
        column.addWidget(labelled("spread", self._spread, width=60))
        self._keep_row = labelled("keep", self._keep, width=60)
        column.addWidget(self._keep_row)
        column.addStretch(1)
        side = QHBoxLayout()
        side.addWidget(self._diagram)
        side.addLayout(column, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(self._kind)
        layout.addWidget(self._mode)
        layout.addLayout(side)
        self._spacing_row = labelled("places", self._spacing, self._pieces, width=60)
        self._skin_only: list[QWidget] = [
            self._mode, self._spacing_row, heading("Where on it"), self.filters, heading("Joint table"), self.table,
            self.density,
        ]  # fmt: skip
        for widget in self._skin_only[1:]:
            layout.addWidget(widget)
        layout.addWidget(self.chart)

    def show_source(
        self,
        source: PointSource | SphereSource | RingSource | SkinSource,
        character: Character | None,
        use: CharacterUse | None = None,
        textures: list[str] | None = None,
    ) -> None:
        """Show a source; nothing is signalled."""
        self._source = source
        kind = source.kind
        self._kind.set_value(kind)
        for name, kinds in (("shape", "sphere ring"), ("shell", "sphere"), ("thickness", "ring")):
            self._rows[name].setVisible(kind in kinds.split())
        for widget in (self._rows["lift"], self._rows["ride"], *self._skin_only):
            widget.setVisible(kind == "skin")
        bones = isinstance(source, SkinSource) and source.mode is Mode.BONES
        self._rows["bone"].setVisible(bones)
        if isinstance(source, SphereSource | RingSource):
            self._radius.set_value(source.radius)
        if isinstance(source, SphereSource):
            self._shell.set_value(source.shell)
        if isinstance(source, RingSource):
            self._thickness.set_value(source.thickness)
        if isinstance(source, SkinSource):
            self._show_skin(source, character, use, textures or [])
        elif self.density.isChecked():
            self.density.setChecked(False)
        self._heading.set_value(source.aim.heading)
        self._spread.set_value(source.aim.spread)
        self._ride.set_value(round(source.riding.share * 100, 3))
        self._keep.set_value(round(source.riding.keep * 100, 3))
        whole = kind == "skin" and source.riding.share >= 1
        self._keep.setEnabled(not whole)
        self._diagram.show_source(source, character)

    def _show_skin(
        self, source: SkinSource, character: Character | None, use: CharacterUse | None, textures: list[str]
    ) -> None:
        self._mode.set_value(source.mode)
        self._lift.set_value(round(source.lift * 100, 4))
        self._bone_radius.set_value(round(source.radius * 100, 4))
        self._spacing.set_value(source.spacing)
        self._pieces.set_value(source.pieces)
        self._pieces.setVisible(source.spacing is Spacing.EVEN)
        self.filters.show_source(source, character, use, textures)
        self.table.show_rows(source.table, character)

    def show_births(self, births: tuple[list[Tally], list[Tally]] | None) -> None:
        """Show test births by part and joint, once they are counted."""
        if births is not None and self.density.isChecked() and isinstance(self._source, SkinSource):
            self.chart.show_tallies(*births, bones=self._source.mode is Mode.BONES)
            self.chart.show()

    def _density_toggled(self, on: bool) -> None:
        self.chart.setVisible(False)
        self.density_wanted.emit(on)

    def _filtered(self, words: str, changes: dict[str, object], final: bool) -> None:
        self._change(words, final, **changes)

    def _change(self, words: str, final: bool, **changes: object) -> None:
        self._source = self._source.but(**changes)
        self.edited.emit(words, self._source, final)

    def _riding(self, words: str, final: bool, **changes: object) -> None:
        self._change(words, final, riding=self._source.riding.but(**changes))

    def _kind_chosen(self, kind: object) -> None:
        if kind != self._source.kind:
            self._source = CLASSES[str(kind)](aim=self._source.aim, riding=self._source.riding)
            self.edited.emit("Source", self._source, True)


class _Diagram(QWidget):
    """The source drawn on the character's own outline."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(112, 168)
        self._source: object = PointSource()
        self._outline: tuple[QImage, QImage] | None = None
        self.setToolTip("Where on the character particles are born")

    def show_source(self, source: object, character: Character | None) -> None:
        parts = source.parts if isinstance(source, SkinSource) else ("",)
        self._source = source
        self._outline = character_outline(character, parts, 104, 160) if character else None
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(LINE), 1))
        painter.setBrush(QColor(GROUND))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)
        if self._outline is None:
            painter.setPen(QColor(SOFT))
            painter.setFont(text_font(11))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.rect().adjusted(8, 8, -8, -8), flags, "no character yet")
            return
        body, chosen = self._outline
        painter.drawImage(4, 4, body)
        if isinstance(self._source, SkinSource):
            painter.drawImage(4, 4, chosen)
            return
        middle = QPointF(self.width() / 2, self.height() * 0.62)
        painter.setPen(QPen(QColor(TEAL), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if isinstance(self._source, SphereSource):
            painter.drawEllipse(middle, 22, 22)
        elif isinstance(self._source, RingSource):
            painter.drawEllipse(middle, 30, 9)
        painter.setPen(QPen(QColor(INK), 1))
        painter.setBrush(QColor(RUST))
        painter.drawEllipse(middle, 3.5, 3.5)
        self._arrow(painter, middle)

    def _arrow(self, painter: QPainter, start: QPointF) -> None:
        heading = getattr(self._source, "aim").heading  # noqa: B009  # any of the sources
        tips = {
            Heading.UP: [QPointF(0, -34)],
            Heading.FORWARD: [QPointF(26, 12)],
            Heading.OUTWARD: [QPointF(34, 0), QPointF(-34, 0), QPointF(0, -30)],
        }[heading]
        painter.setPen(QPen(QColor(RUST), 1.5))
        for tip in tips:
            path = QPainterPath(start + tip * 0.35)
            path.lineTo(start + tip)
            painter.drawPath(path)
            painter.drawEllipse(start + tip, 1.5, 1.5)
