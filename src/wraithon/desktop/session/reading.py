"""Reading files beside the window: small ones at once, large ones on a thread with progress and cancel."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Qt, Signal

from wraithon.errors import Stopped, WraithonError
from wraithon.project.files import PROJECT_FILE

__all__ = ["Reading"]

log = logging.getLogger(__name__)

AT_ONCE, TEXT_AT_ONCE = 6 * 2**20, 2**18
"""Bytes up to which a file is read before the window goes on; of numbers in text, which take longer."""

Job = Callable[[Callable[[float], None]], Any]


class Reading(QObject):
    """Reads one thing at a time.

    Signals
    -------
    progressed
        Words and the share done; empty words when it is over.
    failed
        Words that say what went wrong.
    over
        What was being read is read, refused or given up; nothing is being read now.
    """

    progressed = Signal(str, float)
    failed = Signal(str)
    over = Signal()
    _done = Signal(int, object)

    def __init__(self) -> None:
        super().__init__()
        self._number = 0
        self._then: Callable[[Any], None] | None = None
        self._thread: threading.Thread | None = None
        self._done.connect(self._finished, Qt.ConnectionType.QueuedConnection)

    @property
    def busy(self) -> bool:
        """Whether something is being read."""
        return self._then is not None

    def read(self, path: Path, job: Job, then: Callable[[Any], None]) -> None:
        """Run `job` and hand what it returns to `then`, on the window's thread; what was being read is dropped."""
        self.cancel()
        size = _size(path)
        if size <= (TEXT_AT_ONCE if path.suffix.lower() == ".bvh" else AT_ONCE):
            try:
                found = job(lambda _share: None)
            except WraithonError as error:
                self.failed.emit(str(error))
            else:
                then(found)
            self.over.emit()
            return
        self._then = then
        number = self._number
        words = f"Reading {path.name} ({size / 2**20:.0f} MB)"
        self.progressed.emit(words, 0.0)
        self._thread = threading.Thread(target=self._run, args=(number, job, words), name="reading", daemon=True)
        self._thread.start()

    def cancel(self) -> None:
        """Give up what is being read; nothing of it is kept."""
        self._number += 1
        if self._then is not None:
            self._then = None
            self.progressed.emit("", 1.0)
            self.over.emit()

    def wait(self) -> None:
        """Cancel, and wait until the thread has ended."""
        self.cancel()
        if self._thread is not None:
            self._thread.join(timeout=30)

    def _run(self, number: int, job: Job, words: str) -> None:
        def tell(share: float) -> None:
            if number != self._number:
                raise Stopped
            self.progressed.emit(words, share)

        try:
            found: object = job(tell)
        except Stopped:
            return
        except WraithonError as error:
            found = error
        except Exception as error:
            log.exception("reading")
            found = WraithonError(f"The file could not be read ({error}); the log says more")
        self._done.emit(number, found)

    def _finished(self, number: int, found: object) -> None:
        then = self._then
        if number != self._number or then is None:
            return
        self._then = None
        self.progressed.emit("", 1.0)
        if isinstance(found, WraithonError):
            self.failed.emit(str(found))
        else:
            then(found)
        self.over.emit()


def _size(path: Path) -> int:
    """Return the bytes of a file, or of the characters of a project folder."""
    try:
        if path.is_dir():
            files = [path / PROJECT_FILE, *(path / "characters").glob("*")]
            return sum(file.stat().st_size for file in files if file.is_file())
        return path.stat().st_size
    except OSError:
        return 0
