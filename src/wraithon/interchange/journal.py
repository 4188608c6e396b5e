"""The journal: unsaved work is written down as it happens, and offered back after a crash.

Each window keeps one, named after the real path of what is open, and holds a lock beside it while it runs: what
nobody holds was left behind, whatever process numbers have been given out since.
"""

from __future__ import annotations

import hashlib
import json
import logging
import os
import re
import secrets
import time
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from wraithon.project.files import LARGEST, from_text, to_text, write_atomic
from wraithon.support.errors import WraithonError
from wraithon.support.places import state_folder
from wraithon.support.plain_files import read_plain
from wraithon.support.saving import locked

if TYPE_CHECKING:
    from collections.abc import Iterator

    from wraithon.project.project import Project


log = logging.getLogger(__name__)

HEAD = re.compile(rb'\{"sequence": (\d{1,15}),')
"""How a journal begins."""
STALE = 86_400.0
"""Seconds after which a lock that nobody holds is cleared away."""


@dataclass(frozen=True)
class Left:
    """Unsaved work that a program which is gone has left behind."""

    path: Path
    project: Project
    opened: str
    """What was open then: the real path of a folder or character file, or empty for a new project."""
    written: float
    """When, in seconds since the epoch."""
    sequence: int = 0
    """Of two journals of the same thing the later one has the larger number, whatever the clock said."""

    def discard(self) -> None:
        """Throw it away."""
        self.path.unlink(missing_ok=True)
        self.path.with_suffix(".lock").unlink(missing_ok=True)


class Journal:
    """Writes one project's unsaved work into the XDG state folder.

    Parameters
    ----------
    opened
        The folder or file the work belongs to; empty for a new project.
    folder
        Where journals are kept; the state folder's own by default.
    """

    def __init__(self, opened: str, folder: Path | None = None) -> None:
        self._opened = os.path.realpath(opened) if opened else ""
        self._folder = folder or state_folder() / "journal"
        stem = hashlib.blake2b(os.fsencode(self._opened), digest_size=8).hexdigest()
        self._stem = stem
        self._path = self._folder / f"{stem}.{os.getpid()}-{secrets.token_hex(4)}.json"
        self._lock: int | None = None
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            self._folder.chmod(0o700)  # what is in work is nobody else's business
            self._lock = _locked(self._path.with_suffix(".lock"), make=True)
        except OSError as error:
            log.warning("journal: %s", error)

    def write(self, project: Project) -> bool:
        """Write the project down; return whether it was. A full disk must not stop the work: it is logged."""
        sequence = 1 + max(map(_sequence, self._folder.glob(f"{self._stem}.*.json")), default=0)
        data = {"sequence": sequence, "pid": os.getpid(), "opened": self._opened, "project": to_text(project)}
        try:
            write_atomic(self._path, json.dumps(data).encode(), mode=0o600)
        except WraithonError as error:
            log.warning("journal: %s", error)
            return False
        return True

    def clear(self) -> None:
        """Forget what was written: the work is saved, or given up."""
        self._path.unlink(missing_ok=True)

    def close(self) -> None:
        """Forget what was written, and that the project is open here."""
        self.clear()
        if self._lock is not None:
            self._path.with_suffix(".lock").unlink(missing_ok=True)
            os.close(self._lock)
            self._lock = None

    def open_elsewhere(self) -> bool:
        """Return whether another window works on the same thing."""
        own = self._path.with_suffix(".lock")
        return bool(self._opened) and any(
            path != own and _is_locked(path) for path in self._folder.glob(f"{self._stem}.*.lock")
        )

    def left_behind(self) -> Left | None:
        """Return the latest work on the same thing that no running window holds, of what can be read."""
        return next(iter(self.all_left_behind()), None)

    def all_left_behind(self) -> list[Left]:
        """Return all such work, the latest first."""
        return sorted(self._left(), key=lambda left: (left.sequence, left.written), reverse=True)

    def _left(self) -> Iterator[Left]:
        for path in sorted(self._folder.glob(f"{self._stem}.*.json")):
            if path != self._path and not _is_locked(path.with_suffix(".lock")):
                left = _read(path)
                if left is not None and left.opened == self._opened:
                    yield left


def _locked(path: Path, *, make: bool = False) -> int | None:
    """Return a handle that holds a lock; None where another holds it, or there is none."""
    try:
        handle = os.open(path, os.O_RDWR | os.O_CLOEXEC | (os.O_CREAT if make else 0), 0o600)
    except FileNotFoundError:
        return None
    return locked(handle)


def _is_locked(path: Path) -> bool:
    """Return whether a running window holds a lock; an old one that nobody holds is cleared away."""
    if not path.exists():
        return False
    handle = _locked(path)
    if handle is None:
        return True
    if time.time() - os.fstat(handle).st_mtime > STALE:
        path.unlink(missing_ok=True)
    os.close(handle)
    return False


def _sequence(path: Path) -> int:
    """Return a journal's number; 0 where it has none."""
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        try:
            head = HEAD.match(os.read(handle, 64))
        finally:
            os.close(handle)
    except OSError:
        return 0
    return int(head[1]) if head else 0


def _read(path: Path) -> Left | None:
    try:
        data = json.loads(read_plain(path, 2 * LARGEST))
        project = from_text(data["project"], path.name).project
        return Left(path, project, str(data["opened"]), path.stat().st_mtime, _sequence(path))
    except (OSError, ValueError, KeyError, TypeError, RecursionError, WraithonError) as error:
        log.warning("journal %s cannot be read: %s", path.name, error)
        return None
