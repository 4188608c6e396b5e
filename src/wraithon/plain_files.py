"""Reading files that a project or a user names: plain ones only, no larger than is sensible."""

from __future__ import annotations

import errno
import os
import stat
from pathlib import Path

__all__ = ["is_within", "read_plain"]


def is_within(path: Path, folder: Path) -> bool:
    """Tell whether a path, links followed, lies in a folder."""
    try:
        return path.resolve().is_relative_to(folder.resolve())
    except (OSError, RuntimeError, ValueError):  # links that go round in circles, or a name no file can have
        return False


def read_plain(path: Path, largest: int, within: Path | None = None) -> bytes:
    """Return what a plain file holds.

    Parameters
    ----------
    path
        The file.
    largest
        Bytes it may have at most.
    within
        The folder that links must not lead out of; None lets them lead anywhere.

    Raises
    ------
    OSError
        When there is none, or it is a pipe, a device, a folder, too large, or led to by a link from
        elsewhere; its `strerror` says so in words.
    """
    if within is not None and not is_within(path, within):
        raise OSError(errno.EPERM, "it is a link that leads out of its folder; put the file itself there", str(path))
    try:
        _check(path.stat(), path, largest)
        with os.fdopen(os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC), "rb") as file:
            facts = os.fstat(file.fileno())
            _check(facts, path, largest)
            return file.read(facts.st_size)  # one that grows meanwhile is read as it was
    except ValueError as error:  # a NUL, or half of a character
        raise OSError(errno.EINVAL, "no file can have that name", repr(path)) from error


def _check(facts: os.stat_result, path: Path, largest: int) -> None:
    if not stat.S_ISREG(facts.st_mode):
        raise OSError(errno.EINVAL, "it is a folder, a pipe or a device; only plain files are read", str(path))
    if facts.st_size > largest:
        raise OSError(errno.EFBIG, f"it is larger than the {largest >> 20} MiB that are read", str(path))
