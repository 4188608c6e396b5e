"""One field that finds everything: what the sheet shows, things of the project, and commands."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import partial
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtCore import QPoint, QSize, Qt
from PySide6.QtGui import QAction, QColor, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QApplication,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from wraithon.desktop.theme.colours import INK, SOFT
from wraithon.desktop.theme.theme import icon, text_font
from wraithon.desktop.widgets.basics import soft
from wraithon.desktop.widgets.panels import Sheet, label_of
from wraithon.desktop.widgets.popup import Popup, keys_text
from wraithon.studio.places import best_first, places_of

if TYPE_CHECKING:
    from PySide6.QtCore import QModelIndex, QPersistentModelIndex

    from wraithon.desktop.session.session import Session


MAXIMUM = 200
WIDTH, HEIGHT = 460, 380
WHERE = Qt.ItemDataRole.UserRole
ICONS = {
    "effect": "sparkle", "layer": "stack-simple", "trigger": "lightning", "event": "flag", "anchor": "anchor-simple",
    "mask": "paint-brush", "clip": "film-strip", "part": "polygon", "joint": "circle",
    "field": "sliders-horizontal", "command": "terminal-window",
}  # fmt: skip
"""Kind of what is found to its icon."""


class Found(NamedTuple):
    """Something that can be chosen."""

    kind: str
    name: str
    where: str
    choose: Callable[[], object]


class _Lines(QStyledItemDelegate):
    """Draws the name, and at the right end where it is."""

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        super().paint(painter, option, index)
        painter.save()
        painter.setFont(text_font(11))
        painter.setPen(QColor(SOFT))
        name = painter.fontMetrics().horizontalAdvance(str(index.data()))
        box = option.rect.adjusted(44 + int(name * 1.2), 0, -8, 0)
        text = painter.fontMetrics().elidedText(str(index.data(WHERE)), Qt.TextElideMode.ElideRight, box.width())
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)
        painter.restore()


class Finder(Popup):
    """A line to type in over a list of what it finds; Enter goes there, Escape or a click elsewhere closes it."""

    def __init__(self, window: QWidget, session: Session, go_to: Callable[[str, str], object]) -> None:
        super().__init__(window, WIDTH, HEIGHT)
        self._window, self._session, self._go_to = window, session, go_to
        self._actions: list[QAction] = []
        self._entries: list[Found] = []
        self.line = QLineEdit()
        self.line.textChanged.connect(self._typed)
        self.listed = QListWidget()
        self.listed.setAccessibleName("What was found")
        self.listed.setItemDelegate(_Lines(self.listed))
        self.listed.setIconSize(QSize(15, 15))
        self.listed.setUniformItemSizes(True)
        self.listed.itemActivated.connect(lambda _item: self.choose())
        self.listed.itemClicked.connect(lambda _item: self.choose())
        self.listed.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._nothing = soft("Nothing is called so. Try the beginning of one word.")
        for widget in (self.line, self.listed, self._nothing):
            self.column.addWidget(widget)

    def set_commands(self, actions: Iterable[QAction]) -> None:
        """Find these commands."""
        self._actions = [action for action in actions if action.text()]

    def open_for_all(self, sheet: Sheet) -> None:
        """Find fields of a sheet, things of the project, and commands."""
        self._open(
            "Find a setting, layer, joint, clip, command ...",
            [*self._fields(sheet), *self._things(), *self._commands()],
        )

    def open_for_commands(self) -> None:
        """Find commands alone."""
        self._open("Run a command ...", list(self._commands()))

    def _open(self, prompt: str, entries: list[Found]) -> None:
        self._entries = entries
        self.line.setPlaceholderText(prompt)
        self.line.setAccessibleName(prompt)
        self.line.clear()
        self._typed("")
        left = (self._window.width() - self.width()) // 2
        self.move(self._window.mapToGlobal(QPoint(left, 40)))
        self.show()
        self.line.setFocus()

    # ---- what there is --------------------------------------------------------------------------

    def _fields(self, sheet: Sheet) -> list[Found]:
        found: dict[tuple[str, str], Found] = {}
        for widget, section in sheet.fields():
            name, where = label_of(widget), section or sheet.title.text()
            found.setdefault((name, where), Found("field", name, where, partial(_focus, sheet, widget)))
        return list(found.values())

    def _things(self) -> list[Found]:
        session = self._session
        return [
            Found(place.kind, place.name, place.where, partial(self._go_to, place.kind, place.what))
            for place in places_of(session.project, session.character)
        ]

    def _commands(self) -> Iterable[Found]:
        for action in self._actions:
            if action.isEnabled():
                yield Found("command", action.text(), keys_text(action.shortcuts()), action.trigger)

    # ---- finding --------------------------------------------------------------------------------

    def _typed(self, text: str) -> None:
        order = best_first(text, ((entry.name, entry.where) for entry in self._entries), MAXIMUM)
        self.listed.clear()
        for number in order:
            entry = self._entries[number]
            item = QListWidgetItem(icon(ICONS[entry.kind]), entry.name)
            item.setData(WHERE, entry.where)
            item.setData(WHERE + 1, number)
            item.setForeground(QColor(INK if entry.kind != "command" else SOFT))
            self.listed.addItem(item)
        self.listed.setCurrentRow(0)
        self.listed.setVisible(bool(order))
        self._nothing.setVisible(not order)

    def choose(self) -> None:
        """Go to what is marked in the list, or run it."""
        item = self.listed.currentItem()
        if item is None:
            return
        entry = self._entries[item.data(WHERE + 1)]
        self.hide()
        entry.choose()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            self.choose()
        elif event.key() in {Qt.Key.Key_Down, Qt.Key.Key_Up, Qt.Key.Key_PageDown, Qt.Key.Key_PageUp}:
            self.listed.keyPressEvent(event)
        else:
            super().keyPressEvent(event)


def _focus(sheet: Sheet, widget: QWidget) -> None:
    sheet.reveal(widget)
    QApplication.processEvents()
    widget.setFocus(Qt.FocusReason.ShortcutFocusReason)
