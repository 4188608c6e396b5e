"""All commands of the window: what the menu calls them, their keys, and what they do."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QIcon, QKeySequence
from PySide6.QtWidgets import QMenu

from wraithon.desktop.compares import FIRST_KEY, LAST_KEY
from wraithon.desktop.preferences_sheet import USUAL_KEYS
from wraithon.desktop.session.recents import recent_projects
from wraithon.desktop.stations import STATIONS

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from wraithon.desktop.desk import Desk
    from wraithon.desktop.stations import Station
    from wraithon.desktop.widgets.panels import Command


RECENT_AT = 2
"""Where in the menu recent projects are."""
SIDES = (("front", (0, 4)), ("left", (90, 4)), ("above", (0, 88)), ("back", (180, 4)))
"""Where the camera may stand at once, with its azimuth and elevation in degrees."""


def key_groups(desk: Desk, station: Station) -> list[tuple[str, tuple[Command, ...]]]:
    """Return the commands of a station, and those that work everywhere, each group under a title."""
    own = tuple(desk.index(station.key).commands())
    others = {command[0] for each in STATIONS for command in desk.index(each.key).commands()}
    everywhere = tuple(command for group in _groups(desk) for command in group if command[0] not in others)
    return [(station.title, own), ("Everywhere", (*_stations(desk), *everywhere))]


def _stations(desk: Desk) -> tuple[Command, ...]:
    """Return the commands that show a station: keys alone, the rail has buttons for them."""
    return tuple(
        (f"Go to {station.title}", f"Ctrl+{k}", partial(desk.enter, station.key))
        for k, station in enumerate(STATIONS, 1)
    )


def _groups(desk: Desk) -> tuple[tuple[Command, ...], ...]:
    keeper, session, picture = desk.keeper, desk.session, desk.picture
    sides = [
        (f"From {'the ' if side != 'above' else ''}{side}", f"Alt+{k}", partial(picture.look_from, *way))
        for k, (side, way) in enumerate(SIDES, 1)
    ]
    return (
        (
            ("New project", "Ctrl+N", keeper.new_project),
            ("Open a project folder ...", "Ctrl+O", keeper.choose_project),
            ("Open the demo", "", keeper.open_demo),
            ("Import a character ...", "Ctrl+I", keeper.bringing.choose),
            ("Import a texture for the layer ...", "", keeper.pictures.choose),
            ("Import a mesh for the layer ...", "", keeper.pictures.choose_piece),
            ("Save", "Ctrl+S", keeper.save),
            ("Save as ...", "Ctrl+Shift+S", keeper.save_as),
            ("Save pictures ...", "Ctrl+E", desk.export),
        ),
        (
            ("Undo", "Ctrl+Z", session.undo),
            ("Redo", "Ctrl+Shift+Z; Ctrl+Y", session.redo),
            ("Undo list ...", "Ctrl+Alt+Z", desk.list_edits),
            ("Duplicate", "Ctrl+D", desk.duplicate),
            ("Delete", "Del", desk.delete),
            ("Find ...", "Ctrl+F", desk.find_anything),
            ("Run a command ...", "Ctrl+Shift+P", desk.run_command),
            ("Preferences ...", "Ctrl+Alt+P", desk.prefer),
        ),
        (
            ("Play or pause", "Space", desk.toggle_play),
            ("Slower: half, a quarter, an eighth", "Alt+,", desk.slower),
            ("Faster, up to full speed", "Alt+.", desk.faster),
            ("Rewind", "Home", desk.rewind),
            ("Loop the clip at the playhead, or play on", "O", desk.timeline.play_round),
            ("One step back", ",", desk.step_back),
            ("One step on", ".", desk.step_on),
            ("Mark event at the playhead", "E", desk.timeline.mark_here),
            ("Fit the timeline", "Shift+F", desk.timeline.fit),
            ("Zoom the timeline in", "Alt+=; Alt++", desk.timeline.zoom_in),
            ("Zoom the timeline out", "Alt+-", desk.timeline.zoom_out),
            *(command for station in STATIONS for command in desk.index(station.key).commands()),
        ),
        (
            ("Frame what is selected, or the character", "F", desk.frame),
            *sides,
            ("Store this view", "Alt+K", desk.keep_view),
            *(
                (f"Kept view {k - FIRST_KEY + 1}", f"Alt+{k}", partial(desk.see_view, k - FIRST_KEY))
                for k in range(FIRST_KEY, LAST_KEY + 1)
            ),
            ("Only the picture", "F9", desk.toggle_panels),
            ("Collapse the list", "F7", desk.fold_index),
            ("Collapse the timeline", "F8", desk.fold_timeline),
            ("Next area", "F6", desk.next_area),
            ("Store a snapshot: picture and settings", "K", desk.keep_picture),
            ("Wipe between the snapshot and now", "Shift+K", desk.compare),
        ),
        (("Help", "F1", desk.help), ("About Wraithon", "", desk.about), ("Quit", "Ctrl+Q", desk.close)),
    )


def menu_of(desk: Desk, window: QWidget) -> QMenu:
    """Return the menu of all commands; their keys work wherever the focus is in the window."""
    menu = QMenu(window)
    for k, group in enumerate(_groups(desk)):
        if k:
            menu.addSeparator()
        for command in group:
            menu.addAction(_action(window, *command))
    lately = QMenu("Open recent", menu)
    lately.aboutToShow.connect(partial(_list_recents, lately, desk))
    menu.insertMenu(menu.actions()[RECENT_AT], lately)
    for command in _stations(desk):
        _action(window, *command)
    return menu


def _list_recents(menu: QMenu, desk: Desk) -> None:
    """Offer the projects that were open lately."""
    menu.clear()
    for recent in recent_projects():
        entry = menu.addAction(QIcon(str(recent.picture)), f"{recent.name}  ({recent.folder})")
        entry.triggered.connect(partial(_without_arguments, partial(desk.open_recent, recent.folder)))
    if menu.isEmpty():
        menu.addAction("No project was saved yet").setEnabled(False)


def _action(window: QWidget, text: str, keys: str, action: Callable[[], object]) -> QAction:
    entry = QAction(text, window)
    entry.setProperty(USUAL_KEYS, keys)
    if keys:
        entry.setShortcuts(QKeySequence.listFromString(keys))
        entry.setShortcutContext(Qt.ShortcutContext.WindowShortcut)
    entry.triggered.connect(partial(_without_arguments, action))
    window.addAction(entry)
    return entry


def _without_arguments(action: Callable[[], object], *_given: object) -> None:
    """Do something that takes nothing, whatever a signal brings along."""
    action()
