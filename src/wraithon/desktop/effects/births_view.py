"""How births fall: a small chart by part and joint against what area would give."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from wraithon.character.fairness import Tally
from wraithon.desktop.theme.colours import INK, LINE, RUST, SOFT, TEAL
from wraithon.desktop.theme.theme import figures_font, text_font

LINE_HIGH, NAME = 17, 106


class BirthsChart(QWidget):
    """Bars of births, each with a tick where area alone would put it."""

    def __init__(self) -> None:
        super().__init__()
        self._groups: tuple[tuple[str, list[Tally]], ...] = ()
        self._bones = False
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Births by part and joint against what area would give")

    def show_tallies(self, parts: list[Tally], joints: list[Tally], *, bones: bool) -> None:
        """Show test births by part and by joint."""
        self._bones = bones
        self._groups = tuple((name, rows) for name, rows in (("parts", parts), ("joints", joints)) if rows)
        lines = sum(len(rows) + 1 for _, rows in self._groups)
        self.setFixedHeight(max(LINE_HIGH * 2, lines * LINE_HIGH + LINE_HIGH + 4))
        worst = [
            f"{row.name}: {row.births:.1%} of births, {row.fair:.1%} by {'length' if bones else 'area'}"
            for _, rows in self._groups
            for row in rows
        ]
        self.setToolTip("\n".join(worst))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            if not self._groups:
                painter.setPen(QColor(SOFT))
                painter.setFont(text_font(12))
                painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, "Nothing gives birth here.")
                return
            y = 0.0
            maximum = max(max(row.births, row.fair) for _, rows in self._groups for row in rows)
            for title, rows in self._groups:
                painter.setFont(text_font(11))
                painter.setPen(QColor(SOFT))
                painter.drawText(QRectF(0, y, self.width(), LINE_HIGH), Qt.AlignmentFlag.AlignVCenter, title)
                y += LINE_HIGH
                for row in rows:
                    self._paint_row(painter, y, row, maximum)
                    y += LINE_HIGH
            painter.setFont(text_font(11))
            painter.setPen(QColor(SOFT))
            text = f"bar: births   tick: what {'length' if self._bones else 'area'} would give"
            painter.drawText(QRectF(NAME, y, self.width() - NAME, LINE_HIGH), Qt.AlignmentFlag.AlignVCenter, text)

    def _paint_row(self, painter: QPainter, y: float, row: Tally, maximum: float) -> None:
        room = self.width() - NAME - 46
        painter.setFont(text_font(12))
        painter.setPen(QColor(INK))
        name = painter.fontMetrics().elidedText(row.name, Qt.TextElideMode.ElideRight, NAME - 8)
        painter.drawText(QRectF(0, y, NAME, LINE_HIGH), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setPen(Qt.PenStyle.NoPen)
        # More than half as much again, or less than two thirds, is more than chance does.
        off = row.fair > 0.01 and not 0.66 < row.births / row.fair < 1.5
        painter.setBrush(QColor(RUST if off else TEAL))
        painter.drawRoundedRect(QRectF(NAME, y + 4, max(1.0, row.births / maximum * room), LINE_HIGH - 8), 2, 2)
        painter.setPen(QPen(QColor(INK), 1.5))
        x = NAME + row.fair / maximum * room
        painter.drawLine(int(x), int(y + 2), int(x), int(y + LINE_HIGH - 3))
        painter.setFont(figures_font(10))
        painter.setPen(QColor(RUST if off else SOFT))
        painter.drawText(
            QRectF(self.width() - 44, y, 44, LINE_HIGH),
            Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
            f"{row.births:.1%}",
        )
        painter.setPen(QPen(QColor(LINE), 1))
