"""The joint table: each bone's own share, size and speed within one layer."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from wraithon.character.model import Character
from wraithon.character.presets import PRESETS, preset_joints
from wraithon.desktop.fields import Button, NumberField, soft, tool
from wraithon.desktop.theme import icon
from wraithon.project.source import JointRow

__all__ = ["JointTable"]


class JointTable(QWidget):
    """Edits the rows of a joint table.

    Signals
    -------
    edited
        What changed in words, the rows, and whether the gesture is over.
    picking
        Joints clicked in the picture are to be added, or no longer.
    """

    edited = Signal(str, object, bool)
    picking = Signal(bool)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._rows: tuple[JointRow, ...] = ()
        self._character: Character | None = None
        self._fields: list[tuple[NumberField, NumberField, NumberField]] = []
        self._names: list[QLabel] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._hint = soft("")
        column.addWidget(self._hint)
        self._box = QWidget()
        self._box.setObjectName("panel")
        self._grid = QGridLayout(self._box)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(4)
        self._grid.setVerticalSpacing(2)
        self._grid.setColumnStretch(0, 1)
        for k, words in enumerate(("joint", "share", "size", "speed")):
            self._grid.addWidget(soft(words), 0, k)
        column.addWidget(self._box)
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

    def show_rows(self, rows: tuple[JointRow, ...], character: Character | None) -> None:
        """Show a table; nothing is signalled."""
        rebuilt = [row.joint for row in rows] != [row.joint for row in self._rows]
        self._rows, self._character = rows, character
        if rebuilt:
            self._build()
        total = sum(row.share for row in rows)
        there = set(character.skeleton.names) if character else set()
        self._box.setVisible(bool(rows))
        self._hint.setText(
            "A row stands for all below its joint that has no row of its own; only these give birth."
            if rows
            else "No joints in the table: births fall everywhere the filters let them."
        )
        for row, label, fields in zip(rows, self._names, self._fields, strict=True):
            share = f"{row.share / total:.0%}" if total else "0%"
            label.setText(f"{row.joint}  {share}" if row.joint in there else f"{row.joint} (missing)")
            for field, value in zip(fields, (row.share, row.size, row.speed), strict=True):
                field.set_value(value)

    def _build(self) -> None:
        while (item := self._grid.takeAt(4)) is not None:
            item.widget().hide()
            item.widget().deleteLater()
        self._fields, self._names = [], []
        for number, row in enumerate(self._rows, 1):
            label = QLabel(row.joint)
            label.setToolTip(row.joint)
            label.setMinimumWidth(40)
            share = NumberField("", low=0, high=1e6, step=0.1, decimals=2, name=f"Share of births at {row.joint}")
            size = NumberField("×", low=0, high=1e6, step=0.05, decimals=2, name=f"Size at {row.joint}")
            speed = NumberField("×", low=-1e3, high=1e3, step=0.05, decimals=2, name=f"Speed at {row.joint}")
            for field, key in ((share, "share"), (size, "size"), (speed, "speed")):
                field.setFixedWidth(66)
                field.edited.connect(lambda v, f, n=number - 1, key=key: self._set(n, f, **{key: v}))
            remove = tool("x", f"Take {row.joint} out of the table", lambda joint=row.joint: self.toggle(joint))
            for column, widget in enumerate((label, share, size, speed, remove)):
                self._grid.addWidget(widget, number, column)
            self._fields.append((share, size, speed))
            self._names.append(label)

    # ---- doing ----------------------------------------------------------------------------------

    def toggle(self, joint: str) -> None:
        """Add a joint to the table, or take it out."""
        kept = tuple(row for row in self._rows if row.joint != joint)
        if len(kept) == len(self._rows):
            kept = (*kept, JointRow(joint=joint))
        self._change(f"Joint {joint}", kept)

    def fill(self, preset: str) -> None:
        """Fill the table with the joints of a preset that the character has."""
        joints = preset_joints(self._character, preset) if self._character else ()
        self._change(f"Joint table: {preset}", tuple(JointRow(joint=joint) for joint in joints))

    def _set(self, number: int, final: bool, **changes: object) -> None:
        rows = list(self._rows)
        rows[number] = rows[number].but(**changes)
        self._change("Joint table", tuple(rows), final)

    def _change(self, words: str, rows: tuple[JointRow, ...], final: bool = True) -> None:
        self.show_rows(rows, self._character)
        self.edited.emit(words, rows, final)
