"""Keys that drive the character while the picture has the keyboard in Rehearse."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent

from wraithon.project.staging.whens import OnKey
from wraithon.stage.driving.moves import guessed_roles

if TYPE_CHECKING:
    from wraithon.desktop.desk import Desk
    from wraithon.project.project import View
    from wraithon.project.staging.driving import Role

__all__ = ["ACTS", "WAYS", "DrivingKeys"]

WAYS = {
    Qt.Key.Key_W: (0, 1), Qt.Key.Key_S: (0, -1), Qt.Key.Key_A: (-1, 0), Qt.Key.Key_D: (1, 0),
}  # fmt: skip
"""Key to the way it leads as the camera sees it: to the right, and away."""
ACTS = {Qt.Key.Key_Space: "leap", Qt.Key.Key_J: "strike", Qt.Key.Key_L: "fall", Qt.Key.Key_R: "rise"}
"""Key to what the character does once."""


MUST: dict[Qt.Key, Role] = {Qt.Key.Key_Space: "leap", Qt.Key.Key_J: "strike", Qt.Key.Key_L: "fall"}
"""Key to the role that it does nothing without."""


class DrivingKeys(QObject):
    """Takes keys from the picture, and tells the engine what they mean."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, self.on = desk, False
        self._held: set[Qt.Key] = set()
        self._fast = False
        self._told = (0.0, 0.0, False)
        desk.picture.installEventFilter(self)
        desk.picture.view_changed.connect(self._turned)

    def switch(self, *, on: bool) -> None:
        """Begin, or stop, taking keys."""
        self.on = on
        self.let_go()

    def let_go(self) -> None:
        """Hear that no key is held any more."""
        self._held.clear()
        self._fast = False
        self._tell()

    def eventFilter(self, _watched: QObject, event: QEvent) -> bool:
        """Take the keys that drive before the window's shortcuts do."""
        if not self.on:
            return False
        if event.type() == QEvent.Type.FocusOut:
            self.let_go()
        if not isinstance(event, QKeyEvent) or not self._takes(event):
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
        elif not event.isAutoRepeat():
            self._hear(event)
        return True

    def _takes(self, event: QKeyEvent) -> bool:
        """Tell whether a key is one that drives, or one that a trigger waits for."""
        others = (
            Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.MetaModifier
        )
        if event.modifiers() & others:
            # What is let go of counts even so, or it would be held for ever.
            return event.type() == QEvent.Type.KeyRelease and event.key() in self._held
        key = event.key()
        return key in WAYS or key in ACTS or key == Qt.Key.Key_Shift or _name(key) in self._waited()

    def _waited(self) -> set[str]:
        return {t.when.key for t in self._desk.session.project.triggers if isinstance(t.when, OnKey)}

    def _hear(self, event: QKeyEvent) -> None:
        pressed = event.type() == QEvent.Type.KeyPress
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Shift:
            self._fast = pressed
        elif key in WAYS:
            (self._held.add if pressed else self._held.discard)(key)
        engine = self._desk.engine
        if pressed and key in ACTS:
            engine.give("act", ACTS[key])
        if pressed and (missing := self._missing(key)):
            words = f"No clip to {missing}: choose one under “Which clip plays what”"
            self._desk.session.said.emit(words, "warning")
        if pressed and _name(key) in self._waited():
            engine.give("key", _name(key))
        if pressed:
            self._desk.play_on()
        self._tell()

    def _missing(self, key: Qt.Key) -> str:
        """Return the role that a key asks for and no clip plays, or nothing."""
        session = self._desk.session
        use, character = session.project.character, session.character
        role: Role | None = "walk" if key in WAYS else MUST.get(key)
        if role is None or use is None or character is None:
            return ""
        found = guessed_roles(character, use)
        return "" if role in found or (role == "walk" and "run" in found) else role

    def _turned(self, _view: View) -> None:
        if self.on and self._held:
            self._tell()

    def _tell(self) -> None:
        """Tell the engine the way over the ground that the held keys mean from where the camera looks."""
        right = sum(WAYS[key][0] for key in self._held)
        away = sum(WAYS[key][1] for key in self._held)
        turn = math.radians(self._desk.picture.view.azimuth)
        x = right * math.cos(turn) - away * math.sin(turn)
        z = -right * math.sin(turn) - away * math.cos(turn)
        size = math.hypot(x, z) or 1.0
        told = (x / size, z / size, self._fast)
        if told != self._told:
            self._told = told
            self._desk.engine.give("steer", told[0], told[1], fast=told[2])


def _name(key: int) -> str:
    """Return the letter or digit of a key; empty for others."""
    return chr(key) if ord("0") <= key <= ord("9") or ord("A") <= key <= ord("Z") else ""
