"""One piece of work beside the window, on a thread of its own."""

from __future__ import annotations

import logging
import threading
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt, Signal

if TYPE_CHECKING:
    from collections.abc import Callable


log = logging.getLogger(__name__)


class Aside(QObject):
    """Does one job at a time.

    Signals
    -------
    done
        The job is over, told on the window's thread: empty words, or what went wrong.
    """

    done = Signal(str)
    _over = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._thread: threading.Thread | None = None
        self._over.connect(self._finished, Qt.ConnectionType.QueuedConnection)

    @property
    def busy(self) -> bool:
        """Whether a job is being done."""
        return self._thread is not None

    def start(self, job: Callable[[], object]) -> None:
        """Begin a job; nothing happens while another is being done."""
        if self._thread is None:
            self._thread = threading.Thread(target=self._run, args=(job,), name="aside", daemon=True)
            self._thread.start()

    def wait(self) -> None:
        """Wait until the job is done; nobody is told of its end any more."""
        if self._thread is not None:
            self._over.disconnect()
            self._thread.join(timeout=30)

    def _run(self, job: Callable[[], object]) -> None:
        text = ""
        try:
            job()
        except Exception as error:
            log.exception("aside")
            text = str(error) or type(error).__name__
        self._over.emit(text)

    def _finished(self, text: str) -> None:
        self._thread = None
        self.done.emit(text)
