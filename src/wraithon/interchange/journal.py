"""The journal: unsaved work is written down as it happens, and offered back after a crash."""

from __future__ import annotations

import hashlib
import json
import logging
import os
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from wraithon.errors import WraithonError
from wraithon.places import state_folder
from wraithon.project.files import from_text, to_text, write_atomic

if TYPE_CHECKING:
    from wraithon.project.project import Project

__all__ = ["Journal", "Left"]

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Left:
    """Unsaved work that a program which is gone has left behind."""

    path: Path
    project: Project
    opened: str
    """What was open then: a folder, a character file, or empty for a new project."""
    written: float
    """When, in seconds since the epoch."""


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
        self._opened = opened
        self._folder = folder or state_folder() / "journal"
        name = hashlib.blake2b(opened.encode(), digest_size=8).hexdigest()
        self._path = self._folder / f"{name}.{os.getpid()}.json"

    def write(self, project: Project) -> None:
        """Write the project down; a full disk must not stop the work, so it is only logged."""
        data = {"pid": os.getpid(), "opened": self._opened, "project": to_text(project)}
        try:
            write_atomic(self._path, json.dumps(data).encode())
        except WraithonError as error:
            log.warning("journal: %s", error)

    def clear(self) -> None:
        """Forget what was written: the work is saved, or given up."""
        self._path.unlink(missing_ok=True)

    def left_behind(self) -> Left | None:
        """Return the latest work on the same thing whose program is no longer running."""
        stem = self._path.name.split(".")[0]
        found = []
        for path in sorted(self._folder.glob(f"{stem}.*.json")) if self._folder.is_dir() else []:
            left = _read(path)
            if left is not None:
                found.append(left)
        return max(found, key=lambda left: left.written, default=None)


def _read(path: Path) -> Left | None:
    try:
        data = json.loads(path.read_text("utf-8"))
        if _alive(int(data["pid"])):
            return None
        project = from_text(data["project"], path.name).project
        return Left(path, project, str(data["opened"]), path.stat().st_mtime)
    except (OSError, ValueError, KeyError, TypeError, OverflowError, WraithonError) as error:
        log.warning("journal %s cannot be read: %s", path.name, error)
        return None


def _alive(pid: int) -> bool:
    if pid == os.getpid():
        return True
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True
