"""The joint table: each bone's own share, size and speed within one layer."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QMenu, QWidget

from wraithon.character.presets import PRESETS, preset_joints
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of, labelled, soft
from wraithon.desktop.widgets.form import Number, Row
from wraithon.desktop.widgets.list_form import ListForm, Tupled
from wraithon.project.source import JointRow, SkinSource

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session
    from wraithon.project.effect import Layer


LABEL = 128


def _rows(row: JointRow) -> tuple[Row, ...]:
    return (
        Row(
            row.joint,
            Number("share", f"Share of births at {row.joint}"),
            Number("size", f"Size at {row.joint}"),
            Number("speed", f"Speed at {row.joint}"),
            width=LABEL,
            undo="Joint table",
        ),
    )


LISTED = Tupled("source.table", _rows, lambda row: row.joint)


class JointTable(QWidget):
    """Edits the joint table of a layer on the character.

    Signals
    -------
    picking
        Joints clicked in the picture are to be added, or no longer.
    """

    picking = Signal(bool)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._layer = ""
        self._rows: tuple[JointRow, ...] = ()
        column = column_of(self)
        self._hint = soft("")
        column.addWidget(self._hint)
        self._head = Heads()
        column.addWidget(self._head)
        self.list = ListForm(session, "layer", LISTED.entries, LISTED.without, spacing=2)
        column.addWidget(self.list)
        self.pick = Button(icon("hand-pointing"), "Pick in the picture")
        self.pick.setCheckable(True)
        self.pick.setToolTip("Click joints in the picture to add or remove them")
        self.pick.toggled.connect(self.picking)
        self._presets = Button(icon("list-dashes"), "Fill with")
        menu = QMenu(self)
        for name in PRESETS:
            menu.addAction(name, lambda name=name: self.fill(name))
        menu.addSeparator()
        menu.addAction("no joints (births everywhere)", lambda: self._change("Clear joint table", ()))
        self._presets.setMenu(menu)
        foot = QHBoxLayout()
        foot.setSpacing(4)
        foot.addWidget(self.pick)
        foot.addWidget(self._presets)
        foot.addStretch(1)
        column.addLayout(foot)

    def show_layer(self, layer: Layer) -> None:
        """Show the table of a layer on the character; nothing is edited."""
        assert isinstance(layer.source, SkinSource)  # only those have one
        self._layer, rows = layer.id, layer.source.table
        self._rows = rows
        self.list.show_model(layer, layer.id)
        self._head.setVisible(bool(rows))
        self._hint.setText(
            "A row covers all joints below it that have no row of their own; only these emit."
            if rows
            else "No joints in the table: particles are born wherever the filters allow."
        )
        total = sum(row.share for row in rows)
        there = set(self._session.character.skeleton.names) if self._session.character else set()
        for row, form in zip(rows, self.list.forms, strict=True):
            share = f"{row.share / total:.0%}" if total else "0%"
            form.set_label(f"{row.joint}  {share}" if row.joint in there else f"{row.joint} (missing)")

    # ---- doing ----------------------------------------------------------------------------------

    def toggle(self, joint: str) -> None:
        """Add a joint to the table, or take it out."""
        others = tuple(row for row in self._rows if row.joint != joint)
        if len(others) == len(self._rows):
            others = (*others, JointRow(joint=joint))
        self._change(f"Joint {joint}", others)

    def fill(self, preset: str) -> None:
        """Fill the table with the joints of a preset that the character has."""
        character = self._session.character
        joints = preset_joints(character, preset) if character else ()
        self._change(f"Joint table: {preset}", tuple(JointRow(joint=joint) for joint in joints))

    def _change(self, text: str, rows: tuple[JointRow, ...]) -> None:
        self._session.set_value("layer", self._layer, "source.table", rows, text)


class Heads(QWidget):
    """What the columns of the table are."""

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 30, 0)
        row.setSpacing(6)
        row.addWidget(labelled("joint", width=LABEL))
        for text in ("share", "size", "speed"):
            row.addWidget(soft(text), 1)
