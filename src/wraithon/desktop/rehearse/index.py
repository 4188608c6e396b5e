"""Rehearse's index: the signals as meters, the blocks on the stage, and what responses wrote."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QMenu, QScrollArea

from wraithon.desktop.rehearse.meters import Meters
from wraithon.desktop.theme.colours import TEAL
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import line, soft, tool
from wraithon.desktop.widgets.panels import Index
from wraithon.project.base import new_id
from wraithon.project.edit import fresh_name, without_id
from wraithon.project.staging.driving import Signal
from wraithon.project.staging.ground import Block
from wraithon.project.things import THINGS, find

if TYPE_CHECKING:
    from wraithon.desktop.desk import Desk
    from wraithon.desktop.engine.rendered_frame import RenderedFrame
    from wraithon.desktop.widgets.panels import Command


KEY = Qt.ItemDataRole.UserRole
PIECES = {
    "Patch of moss": Block(name="moss", kind="moss"),
    "Puddle": Block(name="puddle", kind="puddle", round=True, size=(2.0, 1.6)),
    "Block to step on": Block(name="block", kind="slate", size=(2.0, 2.0), height=0.3),
    "Ledge to fall from": Block(name="ledge", kind="slate", size=(4.0, 3.0), height=1.5),
    "Ramp up to it": Block(name="ramp", kind="slate", size=(2.0, 4.0), rise=1.5),
}
"""What can be put on the stage."""


class RehearseIndex(Index):
    """Meters, blocks, and the log."""

    def __init__(self, desk: Desk) -> None:
        super().__init__("Signals")
        self._desk, self._session = desk, desk.session
        self._filling = False
        self.head.addWidget(tool("plus", "New signal of your own", self.add_signal))
        self.meters = Meters()
        self.meters.given.connect(lambda key, value: desk.engine.give("signal", key, value))
        area = QScrollArea()
        area.setAccessibleName("Signals and their values")
        area.setWidgetResizable(True)
        area.setWidget(self.meters)
        self.column.addWidget(area, 5)
        self.column.addWidget(line())
        self._menu = QMenu(self)
        for text, piece in PIECES.items():
            self._menu.addAction(text, lambda piece=piece: self.add_piece(piece))
        self._add = tool("plus", "Add a block to the stage", self._ask)
        buttons = (
            self._add, tool("copy", "Duplicate (Ctrl+D)", self.duplicate), tool("trash", "Delete (Del)", self.remove),
        )  # fmt: skip
        self.column.addLayout(self.bar("Stage", *buttons))
        self.pieces = QListWidget()
        self.pieces.setAccessibleName("Blocks")
        self.pieces.currentItemChanged.connect(self._picked)
        self.pieces.itemClicked.connect(lambda item: self._session.select("block", str(item.data(KEY))))
        self.column.addWidget(self.pieces, 2)
        self._none = soft("Flat. + adds patches of moss, puddles, blocks, ledges and ramps.")
        self.column.addWidget(self._none)
        self._log = soft("")
        self.column.addWidget(self._log)
        self.listen_to(desk.session, late=True)

    def commands(self) -> list[Command]:
        """Return what the menu offers of this station."""
        return [("Rehearse from the beginning", "Shift+Home", self._desk.restart)]

    # ---- showing --------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the project's signals and blocks."""
        self.meters.refresh(self._session.project)
        self._filling = True
        pieces = self._session.project.stage.pieces
        self.pieces.clear()
        for piece in pieces:
            item = QListWidgetItem(icon("cube" if piece.stands else "circle", TEAL), piece.name)
            item.setData(KEY, piece.id)
            self.pieces.addItem(item)
        self.pieces.setVisible(bool(pieces))
        self._none.setVisible(not pieces)
        self._filling = False
        self.follow(*self._session.selection)

    def follow(self, kind: str, what: str) -> None:
        """Show what is selected."""
        self._filling = True
        rows = [str(self.pieces.item(k).data(KEY)) for k in range(self.pieces.count())]
        chosen = rows.index(what) if kind == "block" and what in rows else -1
        if chosen < 0:
            self.pieces.clearSelection()
        self.pieces.setCurrentRow(chosen)
        self._filling = False

    def show_rendered(self, rendered: RenderedFrame) -> None:
        """Take over signals and log."""
        self.meters.show_rendered(rendered)
        text = "\n".join(f"{time:.2f} s  {said}" for time, said in rendered.log[-4:])
        if text != self._log.text():
            self._log.setText(text)

    def _picked(self, item: QListWidgetItem | None, _before: QListWidgetItem | None) -> None:
        if item is not None and not self._filling:
            self._session.select("block", str(item.data(KEY)))

    # ---- doing ----------------------------------------------------------------------------------

    def _ask(self) -> None:
        self._menu.popup(self._add.mapToGlobal(self._add.rect().bottomLeft()))

    def add_piece(self, piece: Block) -> None:
        """Add a block before the character, and select it."""
        rendered, stage = self._desk.picture.rendered, self._session.project.stage
        x, _, z = rendered.centre if rendered is not None else (0.0, 0.0, 0.0)
        deep = piece.size[1] / 2 + 1.0
        place = (round(x, 2), round(z + deep, 2))
        made = piece.evolve(id=new_id(), name=fresh_name(piece.name, (p.name for p in stage.pieces)), place=place)
        self._add_block(made, f"Add {made.name}")

    def _add_block(self, piece: Block, text: str) -> None:
        self._session.edit(text, lambda p: THINGS["block"].replace(p, piece.id, piece))
        self._session.select("block", piece.id)

    def duplicate(self) -> None:
        """Duplicate the selected block, beside it."""
        kind, what = self._session.selection
        project = self._session.project
        piece = find(project, kind, what) if kind == "block" else None
        if isinstance(piece, Block):
            x, z = piece.place
            name = fresh_name(piece.name, (p.name for p in project.stage.pieces))
            twin = piece.evolve(id=new_id(), name=name, place=(x + piece.size[0], z))
            self._add_block(twin, f"Duplicate {piece.name}")

    def remove(self) -> None:
        """Delete the selected block."""
        kind, what = self._session.selection
        if kind == "block":
            self._session.edit(
                "Delete block",
                lambda p: p.evolve(stage=p.stage.evolve(pieces=without_id(p.stage.pieces, what))),
            )
            self._session.select("", "")

    def add_signal(self) -> None:
        """Add a signal of the artist's own."""
        names = (signal.name for signal in self._session.project.signals)
        made = Signal(name=fresh_name("signal", names))
        self._session.edit("New signal", lambda p: p.evolve(signals=(*p.signals, made)))
