"""Rehearse's sheet: how the character is driven, its own signals, or the selected block."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLabel, QVBoxLayout, QWidget

from wraithon.desktop.picture.block_gizmo import BlockGizmo
from wraithon.desktop.theme.colours import LINE, RAISED
from wraithon.desktop.theme.theme import figures_font, icon
from wraithon.desktop.widgets.ahead import polished
from wraithon.desktop.widgets.basics import Button, heading, soft
from wraithon.desktop.widgets.form import Choice, Colour, Form, Number, Row, Text, Tick
from wraithon.desktop.widgets.list_form import ListForm, Tupled
from wraithon.desktop.widgets.offers import clip_names, grounds, textures_or
from wraithon.desktop.widgets.panels import Sheet
from wraithon.project.edit import fresh_name
from wraithon.project.project import Stage
from wraithon.project.staging.driving import ROLES, Driving
from wraithon.project.staging.ground import MAX_OWN, Block, OwnGround
from wraithon.stage.driving.moves import guessed_roles
from wraithon.stage.overlays import Overlay

if TYPE_CHECKING:
    from collections.abc import Iterator

    from wraithon.desktop.desk import Desk
    from wraithon.desktop.engine.rendered_frame import RenderedFrame
    from wraithon.desktop.picture.picture_tools import PictureTool
    from wraithon.desktop.session.session import Session


KEYS = (
    ("W A S D", "walk"), ("Shift", "run"), ("Space", "leap"), ("J", "strike"), ("Backspace", "fall"), ("R", "get up"),
    ("Click", "hit"),
)  # fmt: skip


def _clips(role: str) -> object:
    def offer(session: Session) -> list[tuple[str, object]]:
        character, use = session.character, session.project.character
        if character is None or use is None:
            return [("no clip", "")]
        unset = use.evolve(driving=use.driving.evolve(**{role: ""}))
        found = guessed_roles(character, unset).get(role)  # type: ignore[call-overload]  # a role's name
        nothing = "blended, without a clip" if role == "rise" else "no clip found"
        return [(f"{found} (found)" if found else nothing, ""), *clip_names(session)]

    return offer


ROLE_ROWS = tuple(
    Row(
        role,
        Choice(role, choices=_clips(role)),
        width=92,
        undo=f"Clip to {role}",
    )
    for role in ROLES
)
HANDLING_ROWS = (
    Row(
        "turn rate",
        Number("turning"),
        width=92,
    ),
    Row(
        "acceleration",
        Number("quickening"),
        width=92,
    ),
)
STAGE_ROWS = (
    Row("ground", Choice("ground", "Ground of the stage", choices=grounds), width=92),
    Row(
        "background",
        Colour("sky.top"),
        Colour("sky.haze"),
        width=92,
        undo="Background",
    ),
    Row(
        "light",
        Number("light"),
        Number("bloom", lead="glow"),
        width=92,
        undo="Light of the stage",
    ),
)
OWN_GROUNDS = Tupled(
    "grounds",
    lambda _ground: (
        Row("name", Text("name"), width=92, undo="Rename ground"),
        Row(
            "colour",
            Colour("colour"),
            Number("gloss", lead="gloss"),
            width=92,
            undo="Colour of ground",
        ),
        Row(
            "picture",
            Choice("picture", choices=textures_or("none")),
            Number("across", lead="each", idle=lambda block: "" if block.picture else "it has no picture"),
            width=92,
            undo="Picture of ground",
        ),
    ),
    lambda block: block.name,
)
BLOCK_ROWS = (
    Row("name", Text("name"), width=92, undo="Rename block"),
    Row(
        "of",
        Choice("kind", choices=grounds),
        Tick("round", text="round"),
        width=92,
        undo="Kind of ground",
    ),
    Row(
        "middle",
        Number("place.0", lead="x"),
        Number("place.1", lead="z"),
        width=92,
        undo="Move block",
    ),
    Row(
        "size",
        Number("size.0", "Width", lead="wide"),
        Number("size.1", "Depth", lead="deep"),
        width=92,
        undo="Size of ground",
    ),
    Row(
        "rotation",
        Number("turn"),
        width=92,
        undo="Turn block",
    ),
    Row(
        "height",
        Number("height"),
        width=92,
        undo="Height of ground",
    ),
    Row(
        "rises by",
        Number("rise"),
        width=92,
        undo="Slope",
    ),
)
SIGNALS = Tupled(
    "signals",
    lambda _signal: (
        Row("name", Text("name"), width=92, undo="Rename signal"),
        Row(
            "from",
            Number("low"),
            Number("high", lead="to"),
            width=92,
            undo="Range of the signal",
        ),
        Row(
            "begins at",
            Number("value"),
            width=92,
            undo="Signal's beginning",
        ),
    ),
    lambda signal: signal.name,
)


def _key_caps() -> QWidget:
    """Return the keys that drive, and what each does."""
    box = QWidget()
    box.setObjectName("panel")
    grid = QGridLayout(box)
    grid.setContentsMargins(0, 2, 0, 6)
    grid.setHorizontalSpacing(8)
    grid.setVerticalSpacing(4)
    for number, (key, does) in enumerate(KEYS):
        cap = QLabel(key)
        cap.setAlignment(Qt.AlignmentFlag.AlignCenter)
        cap.setFont(figures_font(11))
        cap.setStyleSheet(f"background: {RAISED}; border: 1px solid {LINE}; border-radius: 4px; padding: 2px 6px;")
        row, column = divmod(number, 3)
        grid.addWidget(cap, row, 2 * column)
        grid.addWidget(soft(does), row, 2 * column + 1)
        grid.setColumnStretch(2 * column + 1, 1)
    return box


class RehearseSheet(Sheet):
    """How the character is driven, or the selected block."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, self._session, self._made = desk, desk.session, False
        self._hand = BlockGizmo(desk.session)
        self._drive, self._drive_column = self.box()
        self._piece_box, self._piece_column = self.box()
        self.body.addStretch(1)
        self.listen_to(desk.session, late=True)

    def _build(self, column: QVBoxLayout) -> None:
        desk, session = self._desk, self._session
        self.state = soft("")
        column.addWidget(self.state)
        column.addWidget(_key_caps())
        again = Button(icon("arrow-counter-clockwise"), "From the beginning")
        again.setToolTip("Starts again where the character first stood, and clears the recorded inputs (Shift+Home)")
        again.clicked.connect(desk.restart)
        column.addWidget(again, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(heading("Clip roles"))
        self.roles = Form(session, "character", "driving", Driving, ROLE_ROWS)
        column.addWidget(self.roles)
        column.addWidget(heading("How it moves"))
        self.handling = Form(session, "character", "driving", Driving, HANDLING_ROWS)
        column.addWidget(self.handling)
        column.addWidget(heading("Stage"))
        self.stage = Form(session, "stage", "", Stage, STAGE_ROWS)
        column.addWidget(self.stage)
        self.grounds = ListForm(session, "stage", OWN_GROUNDS.entries, OWN_GROUNDS.without, 6)
        column.addWidget(self.grounds)
        more = Button(icon("plus"), "Ground of your own")
        more.setToolTip("A kind of ground with a colour or a picture, for the stage, its blocks and for triggers")
        more.clicked.connect(self.add_ground)
        column.addWidget(more, 0, Qt.AlignmentFlag.AlignLeft)
        self._own = heading("Signals of your own")
        column.addWidget(self._own)
        self.signals = ListForm(session, "project", SIGNALS.entries, SIGNALS.without, 6)
        column.addWidget(self.signals)
        column = self._piece_column
        self.piece = Form(session, "block", "", Block, BLOCK_ROWS)
        column.addWidget(self.piece)
        column.addWidget(
            soft("Drag it in the picture by its middle; its corner sizes it, the dot beyond its end turns it.")
        )

    def ahead(self) -> Iterator[object]:
        """Make what it shows, once."""
        if not self._made:
            self._made = True
            self._build(self._drive_column)
            yield polished(self)

    def refresh(self) -> None:
        """Show what is selected, or how the character is driven."""
        for _ in self.ahead():
            pass
        project, (kind, what) = self._session.project, self._session.selection
        use = project.character
        piece = next((p for p in project.stage.pieces if p.id == what), None) if kind == "block" else None
        self._piece_box.setVisible(piece is not None)
        self._drive.setVisible(piece is None)
        there = use is not None and self._session.character is not None
        self.show_message(
            "" if there or piece else "Import a character first: drop a .glb or .gltf file on the window."
        )
        if piece is not None:
            self.title.setText(piece.name)
            self.piece.show_model(piece, piece.id)
            return
        self.title.setText("Rehearse")
        self.stage.show_model(project.stage)
        self.grounds.show_model(project.stage, "")
        self.signals.show_model(project, "")
        self._own.setVisible(bool(project.signals))
        for form in (self.roles, self.handling):
            form.setVisible(there)
            if use is not None and there:
                form.show_model(use.driving)

    def add_ground(self) -> None:
        """Make another kind of ground of the artist's own."""
        stage = self._session.project.stage
        if len(stage.grounds) >= MAX_OWN:
            self._session.said.emit(f"There are {MAX_OWN} kinds of ground already; change or remove one", "warning")
            return
        made = OwnGround(name=fresh_name("own ground", stage.ground_kinds.values()))
        self._session.set_value("stage", "", "grounds", (*stage.grounds, made), "New kind of ground")

    def show_rendered(self, rendered: RenderedFrame) -> None:
        """Show what the character is at."""
        if not self._made:
            return
        speed = rendered.signals.get("speed", 0.0)
        text = (
            f"{rendered.state}, {speed:.1f} m/s"
            if rendered.driven and rendered.state
            else "Click the picture, and drive."
        )
        if text != self.state.text():
            self.state.setText(text)

    @property
    def hands(self) -> list[PictureTool]:
        """What moves the selected block."""
        return [self._hand]

    def overlay(self) -> Overlay:
        """Ready the handles for what is selected."""
        kind, what = self._session.selection
        self._hand.what = what if kind == "block" else ""
        return Overlay()
