"""A gamepad, as the kernel tells of it: its left stick, and buttons that do what keys do."""

from __future__ import annotations

import logging
import os
import struct
from pathlib import Path

from PySide6.QtCore import QObject, QSocketNotifier, QTimer, Signal

log = logging.getLogger(__name__)

EVENT = struct.Struct("<IhBB")
"""Milliseconds, value, kind and number, as in the kernel's joystick.h."""
BUTTON, AXIS, FIRST = 1, 2, 0x80
FULL = 32_767
DEAD = 0.18
"""Share of its way that a stick may be off without meaning anything."""
ACTS = {0: "leap", 1: "fall", 2: "strike", 3: "rise"}
"""Button to what the character does once."""
RUNS = frozenset({4, 5, 6, 7})
"""Shoulder buttons: it runs while one is held."""
EVERY = 2000
"""Milliseconds between looks for a gamepad that is plugged in."""


class Gamepad(QObject):
    """The first gamepad there is; it may come and go.

    Signals
    -------
    steered
        Where the stick is, to the right and away, up to 1 long; and whether the character is to run.
    acted
        What the character is to do once.
    """

    steered = Signal(float, float, bool)
    acted = Signal(str)

    def __init__(self, folder: Path = Path("/dev/input"), parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._folder = folder
        self._handle = -1
        self._notifier: QSocketNotifier | None = None
        self._axes, self._down = [0.0, 0.0], set[int]()
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY)
        self._timer.timeout.connect(self.look)

    @property
    def there(self) -> bool:
        """Whether there is one."""
        return self._handle >= 0

    def start(self) -> None:
        """Begin to listen, and to look for one."""
        self.look()
        self._timer.start()

    def stop(self) -> None:
        """Listen no more."""
        self._timer.stop()
        self._leave()

    def look(self) -> None:
        """Listen to the first gamepad there is, unless one is listened to."""
        if self.there:
            return
        for path in sorted(self._folder.glob("js*")):
            try:
                self._handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK)
            except OSError as error:
                log.info("gamepad %s: %s", path, error)
                continue
            self._notifier = QSocketNotifier(self._handle, QSocketNotifier.Type.Read, self)
            self._notifier.activated.connect(self.read)
            return

    def read(self) -> None:
        """Take over what has happened since."""
        try:
            data = os.read(self._handle, EVENT.size * 64)
        except BlockingIOError:
            return
        except OSError:
            data = b""
        if not data:
            self._leave()
            return
        before = self._axes.copy(), self._runs
        for _, value, kind, number in EVENT.iter_unpack(data[: len(data) // EVENT.size * EVENT.size]):
            self._take_event(value, kind, number)
        if (self._axes, self._runs) != before:
            self._report()

    @property
    def _runs(self) -> bool:
        return bool(self._down & RUNS)

    def _take_event(self, value: int, kind: int, number: int) -> None:
        if kind & ~FIRST == AXIS and number < len(self._axes):
            self._axes[number] = max(-1.0, value / FULL)
        elif kind & ~FIRST == BUTTON:
            (self._down.add if value else self._down.discard)(number)
            if value and not kind & FIRST and number in ACTS:
                self.acted.emit(ACTS[number])

    def _report(self) -> None:
        right, down = self._axes
        far = (right**2 + down**2) ** 0.5
        if far < DEAD:
            self.steered.emit(0.0, 0.0, self._runs)
            return
        # From nothing at the end of the dead zone to all at the stick's end.
        size = min(1.0, (far - DEAD) / (1 - DEAD)) / far
        self.steered.emit(right * size, -down * size, self._runs)

    def _leave(self) -> None:
        """Close the gamepad, and of all that is held on it."""
        if self._notifier is not None:
            self._notifier.setEnabled(False)
            self._notifier.deleteLater()
            self._notifier = None
        if self._handle >= 0:
            os.close(self._handle)
            self._handle = -1
            self._axes, self._down = [0.0, 0.0], set()
            self.steered.emit(0.0, 0.0, False)
