"""Files that projects name: those of the project, of the program, and those the user brought in."""

from __future__ import annotations

import stat
from pathlib import Path
from typing import TYPE_CHECKING

from wraithon.project.files import write_atomic
from wraithon.support.errors import RenderError
from wraithon.support.plain_files import file_name, is_inside, read_plain

if TYPE_CHECKING:
    from collections.abc import Sequence


class FileLibrary:
    """The files of one kind that a project may use, by name.

    Parameters
    ----------
    positions
        Folders, those looked into first before others; the last one holds what the user brought in.
    endings
        Endings of the files that count, in small letters.
    """

    def __init__(self, positions: Sequence[Path], endings: frozenset[str]) -> None:
        self._places, self._endings = positions, endings
        self._listed: tuple[tuple[int, ...], list[str]] = (), []
        """When the folders were changed last, and the names that were in them then."""

    @property
    def own(self) -> Path:
        """The folder of what the user brought in."""
        return self._places[-1]

    def names(self) -> list[str]:
        """Return all names there are, in order of the alphabet."""
        stamps = tuple(_stamp(position) for position in self._places)
        if stamps != self._listed[0]:
            found: set[str] = set()
            for position, stamp in zip(self._places, stamps, strict=True):
                if stamp:
                    found.update(path.name for path in position.iterdir() if path.suffix.lower() in self._endings)
            self._listed = stamps, sorted(found)
        return list(self._listed[1])

    def path(self, name: str) -> Path | None:
        """Return the file of a name, or None when there is none."""
        if not is_inside(name):
            return None
        return next((position / name for position in self._places if (position / name).is_file()), None)

    def file(self, name: str, what: str, hint: str = "pick another") -> Path:
        """Return the file of a name; `what` it is and the `hint` are for the message where there is none.

        Raises
        ------
        wraithon.support.errors.RenderError
            When there is none of that name.
        """
        path = self.path(name)
        if path is None:
            raise RenderError(f"{name}: there is no such {what} in the project; {hint}")
        return path

    def store(self, path: Path, data: bytes) -> str:
        """Put bytes among what the user brought in, called as a path is; return their name there.

        Those that are there already are found again; a name that is taken gets a number.

        Raises
        ------
        wraithon.support.errors.WraithonError
            When they cannot be written.
        """
        wanted = file_name(path.name)
        name, number = wanted, 2
        while there := self.path(name):
            if there.stat().st_size == len(data) and read_plain(there, len(data)) == data:
                return name
            name = str(Path(wanted).with_stem(f"{Path(wanted).stem} {number}"))
            number += 1
        write_atomic(self.own / name, data)
        return name


def _stamp(folder: Path) -> int:
    """Return when what a folder lists was changed last, in nanoseconds; 0 where there is none."""
    try:
        facts = folder.stat()
    except OSError:
        return 0
    return facts.st_mtime_ns if stat.S_ISDIR(facts.st_mode) else 0
