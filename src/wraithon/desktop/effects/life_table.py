"""The life table: one row an attribute, with what is born, its curve, and what will really be drawn."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QDrag, QPainter, QPaintEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from wraithon.desktop.effects.attribute_editor import AttributeEditor
from wraithon.desktop.effects.lasting_rows import LASTING_ROWS
from wraithon.desktop.effects.life_row import LifeRow, columns
from wraithon.desktop.theme.colours import PANEL, SOFT
from wraithon.desktop.theme.theme import text_font
from wraithon.desktop.widgets.form import Form
from wraithon.desktop.widgets.trees import attribute_data
from wraithon.project.effect import ATTRIBUTES, Layer

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session


NEW = Layer()
"""What rows are compared with that follow no preset."""


class LifeTable(QWidget):
    """All rows of a layer, with the open one's editor under it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setObjectName("panel")
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._layout.setSpacing(1)
        self._layout.addWidget(_LifeHead())
        self.rows = {name: LifeRow(name) for name in ATTRIBUTES}
        self.editor = AttributeEditor()
        self.editor.edited.connect(self._edited)
        self.editor.said.connect(lambda text: session.said.emit(text, "warning"))
        self.open_row: str = ""
        self._layer = Layer()
        self._standard = NEW
        for row in self.rows.values():
            row.picked.connect(self.pick)
            row.taken_back.connect(self.take_back)
            row.dragged.connect(self._drag)
            self._layout.addWidget(row)
        self.editor.hide()
        self.lasting = Form(session, "layer", "", Layer, LASTING_ROWS)
        self._layout.addSpacing(4)
        self._layout.addWidget(self.lasting)

    def show_layer(self, layer: Layer, standard: Layer | None = None) -> None:
        """Show a layer's attributes, and which differ from a `standard` one's or a new one's."""
        self._layer, self._standard = layer, standard or NEW
        for name, row in self.rows.items():
            attribute = getattr(layer, name)
            usual = attribute == getattr(self._standard, name)
            row.show_attribute(attribute, standard=usual, opened=name == self.open_row)
        for name, row in self.rows.items():
            row.set_idle(layer.look.idle.get(name, ""))
        self.rows["lifetime"].set_note("" if layer.hold is None else "as the effect")
        self.lasting.show_model(layer, layer.id)
        if self.open_row:
            self.editor.show_attribute(self.open_row, getattr(layer, self.open_row), layer.id)

    def _edited(self, attribute: object, final: bool) -> None:
        name = self.open_row
        self._session.set_value(
            "layer", self._layer.id, name, attribute, name.capitalize(), final=final, each=self.editor.each
        )

    def pick(self, name: str) -> None:
        """Open a row's editor, or close it when it is open."""
        self.open_row = "" if name == self.open_row else name
        self._layout.removeWidget(self.editor)
        if self.open_row:
            self._layout.insertWidget(self._layout.indexOf(self.rows[name]) + 1, self.editor)
            self.editor.show()
        else:
            self.editor.hide()
        self.show_layer(self._layer, self._standard)

    def _drag(self, name: str) -> None:
        """Drag a row away: dropped on layers of the list, it is copied there."""
        drag = QDrag(self.rows[name])
        drag.setMimeData(attribute_data(self._layer.id, name))
        drag.setPixmap(self.rows[name].grab())
        drag.exec(Qt.DropAction.CopyAction)

    def take_back(self, name: str) -> None:
        """Reset a row to the preset's value, or to a new layer's."""
        value = getattr(self._standard, name)
        self._session.set_value("layer", self._layer.id, name, value, f"{name.capitalize()} as it was")


class _LifeHead(QWidget):
    """The columns' names."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(18)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), QColor(PANEL))
            painter.setFont(text_font(11))
            painter.setPen(QColor(SOFT))
            for (x, _), text in zip(columns(self.width()), ("at birth", "through life", "drawn"), strict=True):
                painter.drawText(QPointF(x, 13), text)
