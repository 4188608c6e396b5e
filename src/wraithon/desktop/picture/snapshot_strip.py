"""The strip of kept pictures above the picture: pick one, compare, go back to it."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QScrollArea, QSizePolicy, QWidget

from wraithon.desktop.picture.comparing import Comparing, Way
from wraithon.desktop.widgets.basics import Button, column_of, tool
from wraithon.desktop.widgets.naming import NameLine
from wraithon.studio.difference import difference

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session


THUMB = QSize(84, 48)
MAX_LINES = 24
"""Differences that the tool tip lists."""
WAYS = (
    (Way.WIPE, "columns", "Wipe"),
    (Way.FLIP, "swap", "Flip"),
    (Way.BESIDE, "squares-four", "Side by side"),
)


class SnapshotStrip(QWidget):
    """Shows the kept pictures; hidden while there are none.

    Signals
    -------
    wanted
        Number of a picture whose moment is to be seen, as it was.
    """

    wanted = Signal(int)

    def __init__(self, session: Session, comparing: Comparing) -> None:
        super().__init__()
        self._session, self._comparing = session, comparing
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = column_of(self, 2)
        column.setContentsMargins(6, 4, 6, 2)
        row = QHBoxLayout()
        row.setSpacing(4)
        panel = QWidget()
        panel.setObjectName("panel")
        self._row = QHBoxLayout(panel)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(4)
        self._row.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFixedHeight(THUMB.height() + 26)
        scroll.setWidget(panel)
        row.addWidget(scroll, 1)
        self.ways: dict[Way, QPushButton] = {}
        for way, picture, text in WAYS:
            button = tool(picture, f"{text}: the snapshot and now", partial(self._compare, way))
            button.setCheckable(True)
            self.ways[way] = button
            row.addWidget(button)
        self.back = tool("arrow-counter-clockwise", "Restore the settings of the snapshot", self.go_back)
        row.addWidget(self.back)
        self.rename = tool("pencil-simple", "Rename the kept picture", self._ask_name)
        row.addWidget(self.rename)
        row.addWidget(tool("trash", "Keep it no longer", comparing.drop))
        column.addLayout(row)
        self.text = QLabel("")
        self.text.setObjectName("soft")
        self.text.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        column.addWidget(self.text)
        self.line = NameLine("Name of the snapshot")
        column.addWidget(self.line)
        self.buttons: list[Button] = []
        comparing.changed.connect(self.refresh)
        session.changed.connect(self._report)
        self.refresh()

    def refresh(self) -> None:
        """Show what is kept, and what is compared."""
        comparing = self._comparing
        names = [snapshot.name for snapshot in comparing.snapshots]
        if names != [button.accessibleName() for button in self.buttons]:
            for button in self.buttons:
                self._row.removeWidget(button)
                button.hide()
                button.deleteLater()
            self.buttons = [self._button(number) for number in range(len(names))]
            for number, button in enumerate(self.buttons):
                self._row.insertWidget(number, button)
        for number, button in enumerate(self.buttons):
            button.setChecked(number == comparing.at)
        for way, tool_button in self.ways.items():
            tool_button.setChecked(way is comparing.way)
        self.setVisible(bool(names))
        self._report()

    def _button(self, number: int) -> Button:
        snapshot = self._comparing.snapshots[number]
        button = Button()
        button.setObjectName("plain")
        button.setCheckable(True)
        button.setAccessibleName(snapshot.name)
        small = snapshot.image.scaled(
            THUMB, Qt.AspectRatioMode.KeepAspectRatioByExpanding, Qt.TransformationMode.SmoothTransformation
        )
        left, top = (small.width() - THUMB.width()) // 2, (small.height() - THUMB.height()) // 2
        button.setIcon(QIcon(QPixmap.fromImage(small.copy(left, top, THUMB.width(), THUMB.height()))))
        button.setIconSize(THUMB)
        button.setFixedSize(THUMB.width() + 10, THUMB.height() + 10)
        button.setToolTip(f"{snapshot.name}, at {snapshot.moment:.2f} s: press to see its moment beside now")
        button.clicked.connect(partial(self._pick, number))
        return button

    def _pick(self, number: int, _on: bool = False) -> None:
        self._comparing.choose(number)
        self.wanted.emit(number)

    def _compare(self, way: Way) -> None:
        self._comparing.compare(Way.NONE if self._comparing.way is way else way)

    def _report(self) -> None:
        """Show what is set otherwise than in the chosen picture."""
        snapshot = self._comparing.chosen
        if snapshot is None or not self.isVisible():
            return
        changes = difference(snapshot.project, self._session.project)
        self.back.setEnabled(bool(changes))
        if not changes:
            self.text.setText(f"{snapshot.name}: the settings are the same as now")
            self.text.setToolTip("")
            return
        more = f" (and {len(changes) - 1} more)" if len(changes) > 1 else ""
        self.text.setText(f"Since {snapshot.name}: {changes[0]}{more}")
        self.text.setToolTip("\n".join(changes[:MAX_LINES]))

    def go_back(self) -> None:
        """Take up the settings of the chosen picture, as one step of undo."""
        snapshot = self._comparing.chosen
        if snapshot is not None:
            view = self._session.project.view
            self._session.edit(
                f"Go back to {snapshot.name}", lambda _project: snapshot.project.evolve(view=view), final=True
            )

    def _ask_name(self) -> None:
        snapshot = self._comparing.chosen
        if snapshot is not None:
            self.line.ask(snapshot.name, partial(self._comparing.rename, self._comparing.at))
