"""What the trees of indexes share."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import QHeaderView, QTreeWidget, QTreeWidgetItem

__all__ = ["KEY", "KIND", "items_of", "tree_of"]

KIND, KEY = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1
"""Where an item holds what kind of thing it stands for, and its id."""


def tree_of(name: str, indentation: int) -> QTreeWidget:
    """Return an empty tree of two columns, the first as wide as there is room."""
    tree = QTreeWidget()
    tree.setHeaderHidden(True)
    tree.setColumnCount(2)
    tree.header().setStretchLastSection(False)
    tree.header().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
    tree.header().setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
    tree.setIndentation(indentation)
    tree.setIconSize(QSize(15, 15))
    tree.setAccessibleName(name)
    return tree


def items_of(tree: QTreeWidget) -> Iterator[QTreeWidgetItem]:
    """Yield all items of a tree, parents before children."""
    stack = [tree.topLevelItem(k) for k in reversed(range(tree.topLevelItemCount()))]
    while stack:
        item = stack.pop()
        yield item
        stack.extend(item.child(k) for k in reversed(range(item.childCount())))
