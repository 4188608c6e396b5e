"""Ctrl-C ends the program quietly, even where code that is not ours makes another error of it on its way."""

from __future__ import annotations

import signal
import sys
from typing import NoReturn

INTERRUPTED = 130
"""The exit code of what was interrupted: 128 and the signal's number."""
AGAIN = 2.0
"""After how many seconds an interrupt is raised once more, where a callback or a catch-all took the one before."""
_came: list[int] = []


def came() -> bool:
    """Return whether one came since they are raised."""
    return bool(_came)


def end_at_once() -> None:
    """Let interrupts end the program where it stands, while nothing is under way yet; ignored ones stay so."""
    signal.setitimer(signal.ITIMER_REAL, 0.0)
    if signal.getsignal(signal.SIGINT) is not signal.SIG_IGN:
        signal.signal(signal.SIGINT, signal.SIG_DFL)


def raise_them() -> None:
    """Let interrupts raise KeyboardInterrupt until `end_at_once` is called, and remember them."""
    if signal.getsignal(signal.SIGINT) is not signal.SIG_IGN:
        signal.signal(signal.SIGINT, _interrupt)
        signal.signal(signal.SIGALRM, _interrupt)


def _interrupt(number: int, _frame: object) -> NoReturn:
    _came.append(number)
    sys.unraisablehook = lambda _unraisable: None  # what breaks in a callback now is of no interest
    signal.setitimer(signal.ITIMER_REAL, AGAIN)
    raise KeyboardInterrupt
