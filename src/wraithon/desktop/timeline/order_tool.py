"""What is done to the running order in the timeline: entries reordered, repeated, removed."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt

from wraithon.project.edit import move_clip_run, remove_clip_run, repeat_clip_run

if TYPE_CHECKING:
    from collections.abc import Callable

    from PySide6.QtGui import QKeyEvent
    from PySide6.QtWidgets import QMenu

    from wraithon.desktop.session.session import Session


class OrderTool:
    """Edits the selected entry of the running order."""

    def __init__(self, session: Session) -> None:
        self._session = session

    @property
    def selected(self) -> int:
        """The number of the selected entry; -1 when none is."""
        kind, what = self._session.selection
        return int(what) if kind == "clip run" else -1

    def select(self, number: int) -> None:
        """Select an entry by its number."""
        self._session.select("clip run", str(number))

    def shift(self, by: int) -> None:
        """Play the selected entry earlier or later."""
        number = self.selected
        if self._session.edit("Reorder clips", lambda p: move_clip_run(p, number, by)):
            self.select(number + by)

    def repeat(self, by: int) -> None:
        """Play the selected entry once more or less."""
        number = self.selected
        self._session.edit("Repeat clip", lambda p: repeat_clip_run(p, number, by))

    def remove(self) -> None:
        """Take the selected entry out."""
        number = self.selected
        self._session.edit("Remove from the running order", lambda p: remove_clip_run(p, number))
        self._session.select("", "")

    def key(self, event: QKeyEvent) -> bool:
        """Do what a key does to the selected entry; return whether it does anything."""
        if self.selected < 0:
            return False
        keys, ctrl = Qt.Key, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        acts: dict[Qt.Key, Callable[[], None]] = {
            keys.Key_Delete: self.remove,
            keys.Key_Backspace: self.remove,
            keys.Key_Asterisk: partial(self.repeat, 1),
            keys.Key_Slash: partial(self.repeat, -1),
        }
        if ctrl:
            acts = {keys.Key_Left: partial(self.shift, -1), keys.Key_Right: partial(self.shift, 1)}
        act = acts.get(keys(event.key()))
        if act is not None:
            act()
        return act is not None

    def fill(self, menu: QMenu) -> None:
        """Offer what can be done to the selected entry."""
        menu.addAction("Play it once more\t*", partial(self.repeat, 1))
        menu.addAction("Play it once less\t/", partial(self.repeat, -1))
        menu.addAction("Play it earlier\tCtrl+Left", partial(self.shift, -1))
        menu.addAction("Play it later\tCtrl+Right", partial(self.shift, 1))
        menu.addAction("Remove it from the order\tDel", self.remove)
