"""Faults of the program itself: caught in one place, logged, told once, and the window goes on."""

from __future__ import annotations

import faulthandler
import logging
import sys
import threading
import traceback
from collections import Counter
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt, Signal

from wraithon.support.places import crash_file, log_file

if TYPE_CHECKING:
    from types import TracebackType
    from typing import TextIO


log = logging.getLogger(__name__)


class Catcher(QObject):
    """Hears of whatever a handler, slot, timer or thread raises and nobody catches.

    Qt calls handlers from C++, which knows no exceptions: Python hands them to `sys.excepthook`, so this takes its
    place. A fault is told once for each place that it comes from, however often it comes.

    Signals
    -------
    told
        Words for the user; emitted on the thread that the catcher belongs to.
    """

    fault_found = Signal(str)
    _caught = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._seen: Counter[tuple[str, str]] = Counter()
        self._before = sys.excepthook, threading.excepthook
        self._caught.connect(self.fault_found.emit, Qt.ConnectionType.QueuedConnection)

    def install(self) -> None:
        """Catch faults from now on."""
        self._before = sys.excepthook, threading.excepthook
        sys.excepthook = self.catch
        threading.excepthook = self._catch_in_thread

    def remove(self) -> None:
        """Catch no more faults."""
        sys.excepthook, threading.excepthook = self._before

    def catch(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        """Log a fault, and tell the user of it the first time; interrupts go their usual way."""
        if not issubclass(kind, Exception):
            self._before[0](kind, error, trace)
            return
        last = traceback.extract_tb(trace)[-1:]
        position = (kind.__name__, f"{last[0].filename}:{last[0].lineno}" if last else "")
        self._seen[position] += 1
        if (times := self._seen[position]) > 1:
            if not times & (times - 1):  # one that comes with every frame would fill the log
                log.error("for the %dth time: %s: %s at %s", times, kind.__name__, error, position[1])
            return
        log.error("a fault of the program", exc_info=(kind, error, trace))
        what = str(error).rpartition("): ")[2]  # what Qt puts before it tells which handlers it came through
        self._caught.emit(
            f"A fault of the program: {kind.__name__}{': ' if what else ''}{what}. Your work is kept; details are in"
            f" {log_file()}"
        )

    def _catch_in_thread(self, arguments: threading.ExceptHookArgs) -> None:
        if arguments.exc_value is not None:
            self.catch(arguments.exc_type, arguments.exc_value, arguments.exc_traceback)


def watch_for_crashes() -> TextIO | None:
    """Write a crash of the whole program into a file beside the log; None where it cannot be."""
    try:
        path = crash_file()
        path.parent.mkdir(parents=True, exist_ok=True)
        file = path.open("a", encoding="utf-8")
    except OSError as error:
        log.warning("crashes are not written down: %s", error)
        return None
    faulthandler.enable(file)
    return file


def stop_watching(file: TextIO | None) -> None:
    """Stop writing crashes down."""
    if file is not None:
        faulthandler.disable()
        file.close()


def crashed_before() -> str:
    """Return where it is written how the program crashed before, empty where it did not; it is told once."""
    path = crash_file()
    earlier = path.with_suffix(".last.log")
    try:
        if not path.stat().st_size:
            return ""
        path.replace(earlier)
    except OSError:
        return ""
    log.error("the program crashed before; see %s", earlier)
    return str(earlier)
