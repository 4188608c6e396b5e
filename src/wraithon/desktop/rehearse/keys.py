"""Keys that drive the character while the picture has the keyboard in Rehearse."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent

from wraithon.desktop.rehearse.pad import Gamepad
from wraithon.project.staging.trigger_kinds import OnKey
from wraithon.stage.driving.moves import guessed_roles

if TYPE_CHECKING:
    from wraithon.desktop.desk import Desk
    from wraithon.project.project import View


WAYS = {
    Qt.Key.Key_W: (0, 1), Qt.Key.Key_S: (0, -1), Qt.Key.Key_A: (-1, 0), Qt.Key.Key_D: (1, 0),
}  # fmt: skip
"""Key to the way it leads as the camera sees it: to the right, and away."""
ACTS = {Qt.Key.Key_Space: "leap", Qt.Key.Key_J: "strike", Qt.Key.Key_Backspace: "fall", Qt.Key.Key_R: "rise"}
"""Key to what the character does once."""


class DrivingKeys(QObject):
    """Takes keys from the picture, and tells the engine what they mean."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk.picture)
        self._desk, self.on = desk, False
        self._down: set[Qt.Key] = set()
        self._fast = False
        self._stick, self._reported = (0.0, 0.0), (0.0, 0.0, False)
        self.pad = Gamepad(parent=self)
        self.pad.steered.connect(self._steered)
        self.pad.acted.connect(self._act)
        desk.picture.installEventFilter(self)
        desk.picture.view_changed.connect(self._turned)

    def switch(self, *, on: bool) -> None:
        """Begin, or stop, taking keys."""
        self.on, self._stick = on, (0.0, 0.0)
        (self.pad.start if on else self.pad.stop)()
        self.release()

    def release(self) -> None:
        """Release all keys."""
        self._down.clear()
        self._fast = False
        self._report()

    def eventFilter(self, _watched: QObject, event: QEvent) -> bool:
        """Take the keys that drive before the window's shortcuts do."""
        if event.type() == QEvent.Type.Hide:
            self.pad.stop()
        if not self.on:
            return False
        if event.type() == QEvent.Type.FocusOut:
            self.release()
        if not isinstance(event, QKeyEvent) or not self._takes(event):
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
        elif not event.isAutoRepeat():
            self._take_key(event)
        return True

    def _takes(self, event: QKeyEvent) -> bool:
        """Return whether a key is one that drives, or one that a trigger waits for."""
        others = (
            Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.MetaModifier
        )
        if event.modifiers() & others:
            # What is let go of counts even so, or it would be held for ever.
            return event.type() == QEvent.Type.KeyRelease and event.key() in self._down
        key = event.key()
        return key in WAYS or key in ACTS or key == Qt.Key.Key_Shift or _name(key) in self._waited()

    def _waited(self) -> set[str]:
        return {t.when.key for t in self._desk.session.project.triggers if isinstance(t.when, OnKey)}

    def _take_key(self, event: QKeyEvent) -> None:
        pressed = event.type() == QEvent.Type.KeyPress
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Shift:
            self._fast = pressed
        elif key in WAYS:
            (self._down.add if pressed else self._down.discard)(key)
        engine = self._desk.engine
        if pressed and key in ACTS:
            self._act(ACTS[key])
        elif pressed and key in WAYS:
            self._report_missing("walk")
        if pressed and _name(key) in self._waited():
            engine.give("key", _name(key))
        if pressed:
            self._desk.play_on()
        self._report()

    def _act(self, what: str) -> None:
        """Make the character do something once."""
        self._desk.engine.give("act", what)
        self._desk.play_on()
        if what != "rise":
            self._report_missing(what)

    def _steered(self, right: float, away: float, fast: bool) -> None:  # a signal's
        self._stick, self._fast = (right, away), fast
        if right or away:
            self._desk.play_on()
        self._report()

    def _report_missing(self, role: str) -> None:
        """Show so where no clip plays a role."""
        session = self._desk.session
        use, character = session.project.character, session.character
        if use is None or character is None:
            return
        found = guessed_roles(character, use)
        if role not in found and not (role == "walk" and "run" in found):
            text = f"No clip to {role}: choose one under “Clip roles”"
            session.said.emit(text, "warning")

    def _turned(self, _view: View) -> None:
        if self.on and (self._down or any(self._stick)):
            self._report()

    def _report(self) -> None:
        """Tell the engine the way over the ground that the held keys mean from where the camera looks."""
        right, away = self._stick
        if self._down:
            right, away = (float(sum(WAYS[key][axis] for key in self._down)) for axis in (0, 1))
        turn = math.radians(self._desk.picture.view.azimuth)
        x = right * math.cos(turn) - away * math.sin(turn)
        z = -right * math.sin(turn) - away * math.cos(turn)
        size = max(1.0, math.hypot(x, z))
        now = (x / size, z / size, self._fast)
        if now != self._reported:
            self._reported = now
            self._desk.engine.give("steer", now[0], now[1], fast=now[2])


def _name(key: int) -> str:
    """Return the letter or digit of a key; empty for others."""
    return chr(key) if ord("0") <= key <= ord("9") or ord("A") <= key <= ord("Z") else ""
