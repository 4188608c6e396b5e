"""An index that is a tree of things: it selects what is picked in it, and shows what is selected."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import TYPE_CHECKING

from PySide6.QtCore import QMimeData, QSize, Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTreeWidget, QTreeWidgetItem

from wraithon.desktop.widgets.panels import Index

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session


KIND, KEY = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1
GROUP = "group"
"""The kind of items that only hold others."""


def kind_of(item: QTreeWidgetItem) -> str:
    """Return the kind of thing an item stands for."""
    return str(item.data(0, KIND))


def key_of(item: QTreeWidgetItem) -> str:
    """Return the id of the thing an item stands for."""
    return str(item.data(0, KEY))


THING = "application/x-wraithon-thing"
"""What is dragged, as kind and id with a space between."""


def dragged_thing(data: QMimeData) -> tuple[str, str]:
    """Return kind and id of what is dragged; both empty where it is none of the program's things."""
    kind, _, key = bytes(data.data(THING).data()).decode(errors="replace").partition(" ")
    return kind, key


ATTRIBUTE = "application/x-wraithon-attribute"
"""An attribute of a layer that is dragged, as the layer's id and the attribute's name with a space between."""


def attribute_data(layer: str, name: str) -> QMimeData:
    """Return what is dragged of a layer's attribute."""
    data = QMimeData()
    data.setData(ATTRIBUTE, f"{layer} {name}".encode())
    return data


class Tree(QTreeWidget):
    """A tree whose items can be dragged, when they are let: whoever listens does the moving.

    Signals
    -------
    dropped
        What was dragged, the item it was dropped on, and whether below its middle.
    attribute_dropped
        An attribute: its layer, its name, and the item it was dropped on.
    """

    dropped = Signal(object, object, bool)
    attribute_dropped = Signal(str, str, object)

    def let_drag(self) -> None:
        """Let items be dragged to other places of the tree."""
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)

    def let_choose_several(self) -> None:
        """Let several items be selected, by Ctrl and Shift."""
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)

    def mimeData(self, items: Sequence[QTreeWidgetItem]) -> QMimeData:
        """Return what is dragged, with what the first of it stands for."""
        data = super().mimeData(items)
        if items:
            data.setData(THING, f"{kind_of(items[0])} {key_of(items[0])}".encode())
        return data

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(ATTRIBUTE):
            event.acceptProposedAction()
        else:
            super().dragEnterEvent(event)

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        if not event.mimeData().hasFormat(ATTRIBUTE):
            super().dragMoveEvent(event)
            return
        onto = self.itemAt(event.position().toPoint())
        event.setAccepted(onto is not None and kind_of(onto) == "layer")

    def dropEvent(self, event: QDropEvent) -> None:
        at = event.position().toPoint()
        if event.mimeData().hasFormat(ATTRIBUTE):
            layer, _, name = bytes(event.mimeData().data(ATTRIBUTE).data()).decode(errors="replace").partition(" ")
            event.accept()
            self.attribute_dropped.emit(layer, name, self.itemAt(at))
            return
        dragged, onto = self.currentItem(), self.itemAt(at)
        # Nothing, as far as the view knows: after a move it would take what was dragged away by itself.
        event.setDropAction(Qt.DropAction.IgnoreAction)
        event.accept()
        if dragged is not None and onto is not None and onto is not dragged:
            self.dropped.emit(dragged, onto, at.y() > self.visualItemRect(onto).center().y())


class TreeIndex(Index):
    """A tree of two columns, the first as wide as there is room."""

    def __init__(self, session: Session, title: str, name: str, indentation: int) -> None:
        super().__init__(title)
        self._session = session
        self._filling = False
        self.tree = Tree()
        self.tree.setHeaderHidden(True)
        self.tree.setColumnCount(2)
        self.tree.header().setStretchLastSection(False)
        self.tree.header().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.tree.header().setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self.tree.setIndentation(indentation)
        self.tree.setIconSize(QSize(15, 15))
        self.tree.setAccessibleName(name)
        self.tree.itemSelectionChanged.connect(self._picked)
        self.tree.itemClicked.connect(self._clicked)

    def clicked(self, item: QTreeWidgetItem, column: int) -> None:
        """Do what a click on an item does besides selecting it."""

    def _clicked(self, item: QTreeWidgetItem, column: int) -> None:
        # What is highlighted already may be selected no longer.
        self._picked()
        self.clicked(item, column)

    @contextmanager
    def filling(self) -> Iterator[None]:
        """Change the tree without that selecting anything."""
        before, self._filling = self._filling, True
        try:
            yield
        finally:
            self._filling = before

    def add(self, parent: QTreeWidgetItem | None, kind: str, key: str, *texts: str) -> QTreeWidgetItem:
        """Add an item for a thing."""
        item = self.made(kind, key, *texts)
        if parent is None:
            self.tree.addTopLevelItem(item)
        else:
            parent.addChild(item)
        return item

    @staticmethod
    def made(kind: str, key: str, *texts: str) -> QTreeWidgetItem:
        """Return an item for a thing, in no tree yet."""
        item = QTreeWidgetItem(list(texts))
        item.setData(0, KIND, kind)
        item.setData(0, KEY, key)
        item.setForeground(1, Qt.GlobalColor.gray)
        return item

    def items(self) -> Iterator[QTreeWidgetItem]:
        """Yield all items, parents before children."""
        stack = [self.tree.topLevelItem(k) for k in reversed(range(self.tree.topLevelItemCount()))]
        while stack:
            item = stack.pop()
            yield item
            stack.extend(item.child(k) for k in reversed(range(item.childCount())))

    def follow(self, kind: str, what: str) -> None:
        """Show what is selected, as far as the tree holds it."""
        found = {key: item for key in self._session.chosen if (item := self.item(kind, key)) is not None}
        first, picked = found.get(what), self.tree.selectedItems()
        if self.tree.currentItem() is first and {key_of(item) for item in picked} == found.keys():
            return
        with self.filling():
            self.tree.setCurrentItem(first)  # or none
            for item in self.tree.selectedItems():
                item.setSelected(kind_of(item) == kind and key_of(item) in found)
            for item in found.values():
                item.setSelected(True)

    def item(self, kind: str, key: str) -> QTreeWidgetItem | None:
        """Return the item of a thing, or None."""
        return next((item for item in self.items() if kind_of(item) == kind and key_of(item) == key), None)

    def _picked(self) -> None:
        """Select what is picked in the tree: the current item, and those of its kind that are selected with it."""
        current, picked = self.tree.currentItem(), self.tree.selectedItems()
        if self._filling:
            return
        if not picked:
            if self.tree.selectionMode() == QAbstractItemView.SelectionMode.ExtendedSelection:
                self._session.select("", "")
            return
        first = current if current is not None and current in picked else picked[-1]
        others = (key_of(item) for item in picked if kind_of(item) == kind_of(first))
        self._session.select(kind_of(first), key_of(first), *others)
        self.follow(*self._session.selection)
