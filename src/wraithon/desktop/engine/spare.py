"""Memory that nothing uses any more."""

from __future__ import annotations

import ctypes
import linecache
import mmap
from contextlib import suppress
from pathlib import Path

COMPILER = "libllvmlite"
"""What the file of the compiler's own code is called."""


def give_back() -> None:
    """Give the system memory that nothing uses.

    That is what the allocator has free, the sources that imports have read (Qt's bindings read that of each module,
    about 18 MB), and the compiler's own code, about 50 MB: it is read from its file again where it is run.
    """
    linecache.clearcache()
    library = ctypes.CDLL(None)
    trim, advise = getattr(library, "malloc_trim", None), getattr(library, "madvise", None)
    if trim is not None:  # glibc's alone
        trim(0)
    if advise is not None:
        for first, size in _code_of(COMPILER):
            advise(ctypes.c_void_p(first), ctypes.c_size_t(size), mmap.MADV_DONTNEED)


def _code_of(name: str) -> list[tuple[int, int]]:
    """Return address and size of what a library has in memory of code that is as its file has it."""
    found = []
    with suppress(OSError):
        for line in Path("/proc/self/maps").read_text().splitlines():
            span, rights, *_, file = line.split(maxsplit=5)
            if rights == "r-xp" and Path(file).name.startswith(name):
                first, _, end = span.partition("-")
                found.append((int(first, 16), int(end, 16) - int(first, 16)))
    return found
