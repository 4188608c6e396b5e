"""Reading files beside the window: small ones at once, others on a thread, with progress and cancel when it lasts."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from wraithon.project.files import PROJECT_FILE
from wraithon.support.errors import Stopped, WraithonError

log = logging.getLogger(__name__)

AT_ONCE = 2**16
"""Bytes up to which a file is read before the window goes on."""
SOON = 0.25
"""Seconds of reading before its progress is shown: what is over sooner would only flash."""

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
        self._shown = False
        """Whether the progress of what is being read is shown."""
        self._done.connect(self._finished, Qt.ConnectionType.QueuedConnection)

    @property
    def busy(self) -> bool:
        """Whether something is being read."""
        return self._then is not None

    def read(self, path: Path, job: Job, then: Callable[[Any], None]) -> None:
        """Run `job` and hand what it returns to `then`, on the window's thread; what was being read is dropped."""
        self.cancel()
        size = _size(path)
        if size <= AT_ONCE:
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
        text = f"Reading {path.name} ({size / 2**20:.{1 if size < 10 * 2**20 else 0}f} MB)"
        QTimer.singleShot(int(SOON * 1000), self, lambda: self._begun(number, text))
        self._thread = threading.Thread(target=self._run, args=(number, job, text), name="reading", daemon=True)
        self._thread.start()

    def cancel(self) -> None:
        """Cancel what is being read; nothing of it is kept."""
        self._number += 1
        if self._then is not None:
            self._then = None
            self._shown_no_more()
            self.over.emit()

    def wait(self) -> None:
        """Cancel, and wait until the thread has ended."""
        self.cancel()
        if self._thread is not None:
            self._thread.join(timeout=30)

    def _begun(self, number: int, text: str) -> None:
        """Show from now on how far what is being read is."""
        if number == self._number and self._then is not None:
            self._shown = True
            self.progressed.emit(text, 0.0)

    def _shown_no_more(self) -> None:
        if self._shown:
            self._shown = False
            self.progressed.emit("", 1.0)

    def _run(self, number: int, job: Job, text: str) -> None:
        def report(share: float) -> None:
            if number != self._number:
                raise Stopped
            if self._shown:
                self.progressed.emit(text, share)

        try:
            found: object = job(report)
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
        self._shown_no_more()
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
