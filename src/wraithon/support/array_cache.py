"""Arrays that take long to make of the program's own files alone, stored on disk from one start to the next."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from wraithon.support.places import derived_folder, state_of
from wraithon.support.saving import replacing

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
    file = derived_folder() / "arrays" / f"{name}-{state_of(map(Path, made_by), np.__version__)}.npy"
    with contextlib.suppress(OSError, ValueError, EOFError):
        # Pages of it are read when they are looked at; what is written to them stays in memory.
        return cast("NDArray[Number]", np.load(file, mmap_mode="c", allow_pickle=False).view(np.ndarray))
    made = make()
    with contextlib.suppress(OSError):
        _store(made, file)
    return made


def _store(made: NDArray[np.generic], file: Path) -> None:
    with replacing(file) as out:
        np.save(out, made, allow_pickle=False)
    for old in file.parent.glob(f"{file.name.rpartition('-')[0]}-{'?' * 16}.npy"):
        if old != file:
            old.unlink(missing_ok=True)
