"""Saving a folder whole or not at all: files are staged beside their places, synced, and then put there.

A save writes into a folder `.wraithon-saving-…` within the project's own. Once all of it is on the disk that folder
is renamed to `.wraithon-ready-…`, and from then on the save has happened: what is killed while the files go to their
places is finished by whoever opens or saves the project next. What is killed before leaves nothing but a folder to
clear away.
"""

from __future__ import annotations

import errno
import fcntl
import logging
import os
import shutil
import tempfile
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, BinaryIO, Self

from wraithon.support.errors import ProjectError
from wraithon.support.plain_files import OWN_PREFIX, check_output, copy_plain, is_within, path_inside

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator
    from types import TracebackType


log = logging.getLogger(__name__)

SAVING, READY = f"{OWN_PREFIX}saving-", f"{OWN_PREFIX}ready-"


def sync_folder(folder: Path) -> None:
    """Flush a folder's list of files to the disk."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def move_into_place(made: Path, path: Path) -> None:
    """Move a finished file to its path, at once; where that is a link, to what it leads to, so that it stays one."""
    real = path.resolve() if path.is_symlink() else path
    try:
        made.replace(real)
    except OSError as error:
        if error.errno != errno.EXDEV:
            raise
        # The link leads to another disk: finish the file there first.
        handle, name = tempfile.mkstemp(prefix=f".{real.name}.", dir=real.parent)
        os.close(handle)
        shutil.copyfile(made, name)
        Path(name).chmod(0o644)
        Path(name).replace(real)
        made.unlink()
    sync_folder(real.parent)


def make_folder(folder: Path) -> None:
    """Make a folder and those above it, below one that is there and is not the root of all: that is a slip.

    Raises
    ------
    OSError
        When it cannot be made.
    """
    above = next((each for each in folder.absolute().parents if each.exists()), None)
    if not folder.exists() and above is not None and above == above.parent:
        raise FileNotFoundError(errno.ENOENT, "there is no such folder; make it first", str(folder))
    folder.mkdir(parents=True, exist_ok=True)


@contextmanager
def replacing(path: Path, mode: int = 0o644) -> Iterator[BinaryIO]:
    """Give a file to write that takes the place of `path` once all of it is written; else nothing of it is left.

    Raises
    ------
    OSError
        When the folder cannot be written, or a folder, a pipe or a device is in the file's place.
    """
    check_output(path)
    make_folder(path.parent)
    handle, name = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
    try:
        with os.fdopen(handle, "wb") as file:
            yield file
            file.flush()
            os.fsync(file.fileno())
        Path(name).chmod(mode)
        move_into_place(Path(name), path)
    except BaseException:
        Path(name).unlink(missing_ok=True)
        raise


def locked(handle: int) -> int | None:
    """Take hold of an open file or folder until its handle is closed; close it and return None when another does."""
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(handle)
        return None
    return handle


class Staging:
    """A save in the making, to be used in a `with`: nothing shows in the folder until `commit`.

    Parameters
    ----------
    folder
        Where the files go.
    through
        The name of the one file that may be a link out of the folder, and is then written where that leads.

    Raises
    ------
    wraithon.support.errors.ProjectError
        From any of its parts, when the folder cannot be written; then it is as it was.
    """

    def __init__(self, folder: Path, through: str = "") -> None:
        self.folder = folder
        self._through = through

    def __enter__(self) -> Self:
        """Clear away what killed saves have left, and make room beside the files."""
        try:
            settle(self.folder)
            self._here = Path(tempfile.mkdtemp(prefix=SAVING, dir=self.folder))
            self._lock = _locked(self._here)
        except OSError as error:
            raise _unwritable(self.folder, error) from error
        return self

    def __exit__(
        self, _kind: type[BaseException] | None, error: BaseException | None, _trace: TracebackType | None
    ) -> None:
        """Throw away what was not committed."""
        shutil.rmtree(self._here, ignore_errors=True)
        if self._lock is not None:
            os.close(self._lock)
        if isinstance(error, OSError):
            raise _unwritable(self.folder, error) from error

    def write(self, name: str, data: bytes) -> None:
        """Stage a file by its name within the folder."""
        self._stage(name, lambda path: path.write_bytes(data))

    def copy(self, name: str, source: Path, largest: int) -> None:
        """Stage a copy of a plain file of so many bytes at most."""
        self._stage(name, lambda path: copy_plain(source, path, largest))

    def _stage(self, name: str, fill: Callable[[Path], object]) -> None:
        if name != self._through:
            path_inside(self.folder, name)
        path = self._here / name
        path.parent.mkdir(parents=True, exist_ok=True)
        fill(path)
        path.chmod(0o644)
        handle = os.open(path, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)

    def commit(self) -> None:
        """Make the save happen: all of it, from here on, whatever comes."""
        for folder in {path.parent for path in _files(self._here)}:
            sync_folder(folder)
        ready = self._here.with_name(self._here.name.replace(SAVING, READY))
        self._here.rename(ready)
        self._here = ready
        sync_folder(self.folder)
        _finish(ready, self.folder, links=True)


def settle(folder: Path) -> None:
    """Finish what a killed save had made ready in a folder, and clear away what it had not."""
    if not folder.is_dir():
        return
    for left in sorted(folder.glob(f"{READY}*")) + sorted(folder.glob(f"{SAVING}*")):
        lock = _locked(left) if left.is_dir() and not left.is_symlink() else None
        if lock is None:
            continue  # somebody is at it, or it is none of ours
        try:
            if left.name.startswith(READY):
                # What a folder from elsewhere brings along must not write through its links.
                _finish(left, folder, links=False)
            shutil.rmtree(left, ignore_errors=True)
        except OSError as error:
            log.warning("%s: a save cannot be finished: %s", folder, error)
        finally:
            os.close(lock)


def _locked(folder: Path) -> int | None:
    """Take hold of a folder until the handle is closed; None when another does."""
    return locked(os.open(folder, os.O_RDONLY | os.O_CLOEXEC))


def _files(here: Path) -> Iterator[Path]:
    """Yield the staged files, the project's own last: it names the others."""
    found = [path for path in here.rglob("*") if path.is_file() and not path.is_symlink()]
    yield from sorted(found, key=lambda path: (path.parent == here, path.as_posix()))


def _finish(ready: Path, folder: Path, *, links: bool) -> None:
    for made in list(_files(ready)):
        path = folder / made.relative_to(ready)
        if is_within(path.parent, folder) and (links or not path.is_symlink()):
            path.parent.mkdir(parents=True, exist_ok=True)
            move_into_place(made, path)


def _unwritable(folder: Path, error: OSError) -> ProjectError:
    return ProjectError(f"{folder}: cannot be written ({error.strerror or error}); save somewhere else")
