"""Arrays that take long to make of the program's own files alone, stored on disk from one start to the next."""

from __future__ import annotations

import contextlib
import hashlib
import tempfile
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from wraithon.support.places import derived_folder

Number = TypeVar("Number", bound=np.generic)


def cached_array(name: str, made_by: Iterable[str], make: Callable[[], NDArray[Number]]) -> NDArray[Number]:
    """Return an array from disk, or make it and store it there.

    Where nothing can be stored it is made again at each start.

    Parameters
    ----------
    name
        What the array is; part of a file's name.
    made_by
        Paths of the sources that `make` depends on: with another state of them it is made anew.
    """
    digest = hashlib.blake2b(np.__version__.encode(), digest_size=8)
    for source in made_by:
        digest.update(Path(source).read_bytes())
    folder = derived_folder() / "arrays"
    file = folder / f"{name}-{digest.hexdigest()}.npy"
    with contextlib.suppress(OSError, ValueError, EOFError):
        # Pages of it are read when they are looked at; what is written to them stays in memory.
        return cast("NDArray[Number]", np.load(file, mmap_mode="c", allow_pickle=False).view(np.ndarray))
    made = make()
    with contextlib.suppress(OSError):
        _store(made, file)
    return made


def _store(made: NDArray[np.generic], file: Path) -> None:
    file.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=file.parent, delete=False) as temporary:
        try:
            np.save(temporary, made, allow_pickle=False)
        except OSError:
            Path(temporary.name).unlink(missing_ok=True)
            raise
    Path(temporary.name).replace(file)
    for old in file.parent.glob(f"{file.name.rpartition('-')[0]}-{'?' * 16}.npy"):
        if old != file:
            old.unlink(missing_ok=True)
