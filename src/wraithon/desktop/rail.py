"""The rail: the menu, the stations, and undo, redo and save."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import QMenu, QToolButton, QVBoxLayout, QWidget

from wraithon.desktop.theme.colours import GROUND, RAISED, SOFT, TEAL
from wraithon.desktop.theme.theme import icon

if TYPE_CHECKING:
    from wraithon.desktop.desk import Desk
    from wraithon.desktop.stations import Station
    from wraithon.project.history import History


class Rail(QWidget):
    """The menu, a button a station, and undo, redo and save at its foot."""

    def __init__(self, desk: Desk, stations: Iterable[Station]) -> None:
        super().__init__()
        self.setFixedWidth(56)
        self.setStyleSheet(
            f"QWidget {{ background: {GROUND}; }}"
            "QToolButton { border: none; border-radius: 4px; padding: 5px 0; font-size: 10px; width: 52px; }"
            f"QToolButton {{ color: {SOFT}; }} QToolButton:hover {{ background: {RAISED}; }}"
            f"QToolButton:checked {{ color: {TEAL}; background: {RAISED}; }}"
            f"QToolButton:focus {{ border: 1px solid {TEAL}; }}"
            "QToolButton::menu-indicator { image: none; }"
        )
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(2, 6, 2, 6)
        self._column.setSpacing(4)
        self._menu = self._button("list", "Menu", "All commands")
        self._menu.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self._column.addSpacing(6)
        self.stations: dict[str, QToolButton] = {}
        for k, station in enumerate(stations):
            button = self._button(station.icon, station.title, f"{station.title} (Ctrl+{k + 1})")
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.clicked.connect(partial(desk.station, station.key))
            self.stations[station.key] = button
        self._column.addStretch(1)
        self.undo = self._button("arrow-u-up-left", "Undo", "Undo (Ctrl+Z)")
        self.redo = self._button("arrow-u-up-right", "Redo", "Redo (Ctrl+Shift+Z)")
        self.save = self._button("floppy-disk", "Save", "Save (Ctrl+S)")
        self.undo.clicked.connect(desk.session.undo)
        self.redo.clicked.connect(desk.session.redo)
        self.save.clicked.connect(desk.keeper.save)

    def _button(self, picture: str, name: str, tip: str) -> QToolButton:
        button = QToolButton()
        button.setIcon(icon(picture))
        button.setIconSize(QSize(20, 20))
        button.setText(name)
        button.setToolTip(tip)
        button.setAccessibleName(name)
        button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self._column.addWidget(button)
        return button

    def set_menu(self, menu: QMenu) -> None:
        """Offer all commands."""
        self._menu.setMenu(menu)

    def show_history(self, history: History, *, saved_somewhere: bool) -> None:
        """Show what undo and redo would do, and whether there is anything to save."""
        for button, label, word, keys in (
            (self.undo, history.undo_label, "Undo", "Ctrl+Z"),
            (self.redo, history.redo_label, "Redo", "Ctrl+Shift+Z"),
        ):
            button.setEnabled(label is not None)
            button.setToolTip(f"{word}: {label} ({keys})" if label else f"Nothing to {word.lower()} ({keys})")
        self.save.setEnabled(history.unsaved or not saved_somewhere)
