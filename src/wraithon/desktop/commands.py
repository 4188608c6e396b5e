"""All commands of the window: what the menu calls them, their keys, and what they do."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu

from wraithon.desktop.stations import STATIONS

if TYPE_CHECKING:
    from wraithon.desktop.widgets.panels import Command
    from wraithon.desktop.window import Window

__all__ = ["menu_of"]

SIDES = (("front", (0, 4)), ("left", (90, 4)), ("above", (0, 88)), ("back", (180, 4)))
"""Where the camera may stand at once, with its azimuth and elevation in degrees."""


def _groups(window: Window) -> tuple[tuple[Command, ...], ...]:
    keeper, session, picture = window.keeper, window.session, window.picture
    sides = [
        (f"From {'the ' if side != 'above' else ''}{side}", f"Alt+{k}", partial(picture.look_from, *way))
        for k, (side, way) in enumerate(SIDES, 1)
    ]
    return (
        (
            ("New project", "Ctrl+N", keeper.new_project),
            ("Open a project folder ...", "Ctrl+O", keeper.choose_project),
            ("Open the demo", "", keeper.open_demo),
            ("Bring in a character ...", "Ctrl+I", keeper.choose_character),
            ("Save", "Ctrl+S", keeper.save),
            ("Save as ...", "Ctrl+Shift+S", keeper.save_as),
        ),
        (
            ("Undo", "Ctrl+Z", session.undo),
            ("Redo", "Ctrl+Shift+Z", session.redo),
            ("Duplicate", "Ctrl+D", window.duplicate),
            ("Delete", "Del", window.delete),
        ),
        (
            ("Play or pause", "Space", window.toggle_play),
            ("Rewind", "Home", window.rewind),
            ("One step back", ",", window.step_back),
            ("One step on", ".", window.step_on),
            ("Mark event at the playhead", "E", window.score.mark_here),
            *(command for station in STATIONS for command in window.index(station.key).commands()),
        ),
        (
            ("Frame the character", "F", picture.frame_all),
            *sides,
            ("Only the picture (Tab in the picture)", "Ctrl+Tab", window.toggle_panels),
            ("Next area", "F6", window.next_area),
            ("Keep this picture", "K", picture.keep_picture),
            ("Compare with the kept picture", "Shift+K", window.compare),
        ),
        (("About Wraithon", "", window.about), ("Quit", "Ctrl+Q", window.close)),
    )


def menu_of(window: Window) -> QMenu:
    """Return the menu of all commands; their keys work wherever the focus is in the window."""
    menu = QMenu(window)
    for k, group in enumerate(_groups(window)):
        if k:
            menu.addSeparator()
        for command in group:
            menu.addAction(_action(window, *command))
    for k, station in enumerate(STATIONS):
        _action(window, station.title, f"Ctrl+{k + 1}", partial(window.station, station.key))
    return menu


def _action(window: Window, words: str, keys: str, action: Callable[[], object]) -> QAction:
    entry = QAction(words, window)
    if keys:
        entry.setShortcut(QKeySequence(keys))
        entry.setShortcutContext(Qt.ShortcutContext.WindowShortcut)
    entry.triggered.connect(partial(_without_arguments, action))
    window.addAction(entry)
    return entry


def _without_arguments(action: Callable[[], object], *_given: object) -> None:
    """Do something that takes nothing, whatever a signal brings along."""
    action()
