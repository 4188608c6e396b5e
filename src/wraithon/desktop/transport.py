"""The line above the timeline: playing, the clock, what was said, and the findings."""

from __future__ import annotations

import logging
from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPushButton, QSizePolicy, QWidget

from wraithon.desktop.desk import Desk
from wraithon.desktop.theme.colours import BRICK, MOSS, OCHRE, SOFT, TEAL
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, Readout, tool
from wraithon.desktop.widgets.fields import ChoiceField

log = logging.getLogger(__name__)

SAID_SECONDS = 6
TEMPOS = (("1 ×", 1.0), ("1/2", 0.5), ("1/4", 0.25), ("1/8", 0.125))
MAX_FINDINGS = 40
"""Findings that the menu lists."""


class Said(QLabel):
    """A line of words at the right end of its room, cut in the middle only where there is not room enough."""

    def __init__(self) -> None:
        super().__init__("")
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setPen(self.palette().color(self.foregroundRole()))
            room = self.contentsRect().adjusted(8, 0, -10, 0)
            text = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideMiddle, room.width())
            painter.drawText(room, self.alignment(), text)


class Transport(QWidget):
    """Buttons to play with, the clock, the last thing said, and a menu of findings."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, self._session, self._go_to = desk, desk.session, desk.go_to
        self.setFixedHeight(30)
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(8, 2, 8, 2)
        layout.setSpacing(2)
        layout.addWidget(tool("skip-back", "Rewind (Home)", desk.rewind))
        layout.addWidget(tool("caret-left", "One step back (comma)", desk.step_back))
        self._play = tool("play-fill", "Play or pause (Space)", desk.toggle_play)
        layout.addWidget(self._play)
        layout.addWidget(tool("caret-right", "One step on (full stop)", desk.step_on))
        self.tempo = ChoiceField(TEMPOS, "Playing speed (Alt + comma is slower, Alt + full stop faster)")
        self.tempo.setFixedWidth(58)
        self.tempo.set_value(1.0)
        self.tempo.edited.connect(self._tempo_picked)
        layout.addWidget(self.tempo)
        self.clock = Readout(170)
        layout.addWidget(self.clock)
        layout.addWidget(self._mark_button(desk.timeline.mark_here))
        self.said = Said()
        layout.addWidget(self.said, 1)
        self.findings = self._findings_button()
        layout.addWidget(self.findings)
        self.fold = tool("caret-down", "Collapse or expand the timeline (F8)", desk.fold_timeline)
        layout.addWidget(self.fold)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.said.clear)

    @staticmethod
    def _mark_button(mark: Callable[[], object]) -> QPushButton:
        button = Button(icon("flag"), "Mark event")
        button.setObjectName("plain")
        button.setToolTip("Mark the selected event, or a new one, on the clip at the playhead (E)")
        button.clicked.connect(mark)
        return button

    def _findings_button(self) -> QPushButton:
        button = Button()
        button.setObjectName("plain")
        button.setToolTip("Findings: what will not do what it seems to; choose one to go there")
        self.findings_menu = QMenu(self)
        self.findings_menu.aboutToShow.connect(self.fill_findings)
        button.setMenu(self.findings_menu)
        return button

    def _tempo_picked(self, tempo: object, _final: bool) -> None:
        if isinstance(tempo, float):
            self._desk.set_tempo(tempo)

    def shift_tempo(self, by: int) -> None:
        """Go so many entries down the list of speeds."""
        number = min(max(self.tempo.currentIndex() + by, 0), len(TEMPOS) - 1)
        self.tempo.setCurrentIndex(number)
        self._tempo_picked(TEMPOS[number][1], True)

    def stop(self) -> None:
        """Stop what would go on by itself."""
        self._timer.stop()

    def show_playing(self, playing: bool) -> None:
        """Show whether the show plays."""
        self._play.setIcon(icon("pause-fill" if playing else "play-fill", TEAL if playing else SOFT))

    def show_time(self, time: float, rate: int) -> None:
        """Show a moment, in seconds and steps."""
        self.clock.set_text(f"{time:8.3f} s  step {round(time * rate) % rate:02d}")

    def show_message(self, text: str, kind: str) -> None:
        """Show a message for a while: "fine", a "warning" or an "error"."""
        colour = {"error": "#f08a80", "warning": OCHRE}.get(kind, SOFT)
        self.said.setText(text)
        self.said.setToolTip(text)
        self.said.setStyleSheet(f"color: {colour};")
        self._timer.start(SAID_SECONDS * 1000 * (3 if kind == "error" else 1))
        if kind == "error":
            log.warning("said: %s", text)

    def show_findings(self) -> None:
        """Show how many findings there are, and how bad."""
        findings = self._session.findings()
        errors = sum(f.level == "error" for f in findings)
        if not findings:
            self.findings.setText("No findings")
            self.findings.setIcon(icon("check-circle", MOSS))
        else:
            text = "finding" if len(findings) == 1 else "findings"
            self.findings.setText(f"{len(findings)} {text}")
            self.findings.setIcon(icon("x-circle", BRICK) if errors else icon("warning", OCHRE))
        self.findings.setEnabled(bool(findings))

    def fill_findings(self) -> None:
        """List the findings."""
        self.findings_menu.clear()
        for finding in self._session.findings()[:MAX_FINDINGS]:
            colour, picture = (BRICK, "x-circle") if finding.level == "error" else (OCHRE, "warning")
            text = f"{finding.location}: {finding.message}"
            entry = self.findings_menu.addAction(icon(picture, colour), text)
            entry.triggered.connect(partial(self._go_to, finding.about))
            if finding.remedy is not None:
                mending = self.findings_menu.addAction(icon("wrench"), f"        {finding.remedy.text}")
                mending.triggered.connect(partial(self._session.mend, finding.remedy))
