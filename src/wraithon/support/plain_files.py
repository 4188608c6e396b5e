"""Reading files that a project or a user names: plain ones only, no larger than is sensible.

`path_inside` is the one place that decides what lies in a folder: every read and every write by a name out of a
file asks it.
"""

from __future__ import annotations

import errno
import os
import shutil
import stat
from pathlib import Path, PurePosixPath

LONGEST_PATH = 1024
"""Characters of a name within a folder."""
OWN_PREFIX = ".wraithon-"
"""How the folders of saves under way begin: no file of a project may be called so."""
LEADS_OUT = "it is a link that leads out of its folder; put the file itself there"


def is_inside(name: str) -> bool:
    """Return whether a name out of a file can stand for something within a folder, whatever is on the disk."""
    path = PurePosixPath(name.replace("\\", "/"))
    return (
        0 < len(name) <= LONGEST_PATH
        and bool(path.parts)
        and not path.is_absolute()
        and not any(part == ".." or part.startswith(OWN_PREFIX) for part in path.parts)
        and not any(character == ":" or ord(character) < ord(" ") for character in name)
    )


def file_name(name: str) -> str:
    """Return a file's name as one that a project may hold: without what no other system takes."""
    whole = name.encode(errors="replace").decode()
    return "".join(" " if c in ":\\" or ord(c) < ord(" ") else c for c in whole)


def is_within(path: Path, folder: Path) -> bool:
    """Return whether a path, links followed, lies in a folder."""
    try:
        return path.resolve().is_relative_to(folder.resolve())
    except (OSError, RuntimeError, ValueError):  # links that go round in circles, or a name no file can have
        return False


def path_inside(folder: Path, name: str) -> Path:
    """Return the path that a name out of a file stands for within a folder.

    Raises
    ------
    OSError
        When it would lie elsewhere, by what it says or by links; its `strerror` says so in words.
    """
    if not is_inside(name):
        raise OSError(errno.EPERM, "it lies outside the folder; put the file itself there", name)
    path = folder / name
    if not is_within(path, folder):
        raise OSError(errno.EPERM, LEADS_OUT, str(path))
    return path


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
        raise OSError(errno.EPERM, LEADS_OUT, str(path))
    handle, size = _opened(path, largest)
    with os.fdopen(handle, "rb") as file:
        return file.read(size)  # one that grows meanwhile is read as it was


def copy_plain(source: Path, target: Path, largest: int) -> None:
    """Copy a plain file.

    Raises
    ------
    OSError
        As of `read_plain`, or when the target cannot be written.
    """
    handle, _ = _opened(source, largest)
    os.close(handle)
    shutil.copyfile(source, target)


def check_output(path: Path) -> None:
    """Check that nothing but a plain file would be replaced by one that is written at a path.

    Raises
    ------
    OSError
        When a folder, a pipe or a device is there.
    """
    if path.exists() and not path.is_file():
        raise OSError(errno.EINVAL, "a folder, a pipe or a device is there; only plain files are written", str(path))


def _opened(path: Path, largest: int) -> tuple[int, int]:
    """Return a handle of a plain file, and its size in bytes."""
    try:
        _check(path.stat(), path, largest)
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    except ValueError as error:  # a NUL, or half of a character
        raise OSError(errno.EINVAL, "no file can have that name", repr(path)) from error
    try:
        facts = os.fstat(handle)
        _check(facts, path, largest)
    except BaseException:
        os.close(handle)
        raise
    return handle, facts.st_size


def _check(facts: os.stat_result, path: Path, largest: int) -> None:
    if not stat.S_ISREG(facts.st_mode):
        raise OSError(errno.EINVAL, "it is a folder, a pipe or a device; only plain files are read", str(path))
    if facts.st_size > largest:
        raise OSError(errno.EFBIG, f"it is larger than the {largest >> 20} MiB that are read", str(path))
