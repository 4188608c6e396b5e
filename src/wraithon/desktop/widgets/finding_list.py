"""Findings of what a sheet shows, each in words with a button that mends it."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from wraithon.desktop.theme.colours import BRICK, OCHRE
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of, soft

if TYPE_CHECKING:
    from collections.abc import Iterable

    from wraithon.desktop.session.session import Session
    from wraithon.project.checks.finding import Finding, Remedy


class FindingList(QWidget):
    """Shows findings; hidden while there are none.

    Parameters
    ----------
    session
        Whose project a button mends.
    positions
        Whether to say where each is, too.

    Signals
    -------
    mended
        A finding was mended by its button.
    """

    mended = Signal()

    def __init__(self, session: Session, *, positions: bool = False) -> None:
        super().__init__()
        self._session, self._places = session, positions
        self._shown: tuple[Finding, ...] = ()
        self._column = column_of(self, 4)
        self._rows: list[QWidget] = []
        self.buttons: list[Button] = []
        """Those that mend, in the order of the findings."""
        self.hide()

    def text(self) -> str:
        """Return all that is said."""
        return "\n".join(self._text(finding) for finding in self._shown)

    def show_findings(self, findings: Iterable[Finding]) -> None:
        """Show other findings."""
        found = tuple(findings)
        if found == self._shown:
            return
        self._shown = found
        for row in self._rows:
            self._column.removeWidget(row)
            row.hide()
            row.deleteLater()
        self.buttons = []
        self._rows = [self._row(finding) for finding in found]
        for row in self._rows:
            self._column.addWidget(row)
        self.setVisible(bool(found))

    def _text(self, finding: Finding) -> str:
        if self._places:
            return f"{finding.location}: {finding.message}."
        return f"{finding.message[:1].upper()}{finding.message[1:]}."

    def _row(self, finding: Finding) -> QWidget:
        row = QWidget()
        column = column_of(row, 2)
        line = QHBoxLayout()
        line.setSpacing(6)
        picture, colour = ("x-circle", BRICK) if finding.level == "error" else ("warning", OCHRE)
        sign = QLabel()
        sign.setPixmap(icon(picture, colour).pixmap(15, 15))
        text = soft(self._text(finding))
        text.setObjectName("warning")
        line.addWidget(sign, 0, Qt.AlignmentFlag.AlignTop)
        line.addWidget(text, 1)
        column.addLayout(line)
        if finding.remedy is not None:
            button = Button(icon("wrench"), finding.remedy.text)
            button.clicked.connect(partial(self._mend, finding.remedy))
            self.buttons.append(button)
            column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        return row

    def _mend(self, remedy: Remedy, _on: bool = False) -> None:
        if self._session.mend(remedy):
            self.mended.emit()
