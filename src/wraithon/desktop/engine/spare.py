"""Memory that nothing uses any more."""

from __future__ import annotations

import ctypes
import linecache


def give_back() -> None:
    """Give the system memory that nothing uses: what the allocator holds, and the sources that imports have read.

    Qt's bindings read the source of each module that is imported, which is about 18 MB; what needs it reads it again.
    """
    linecache.clearcache()
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)  # glibc's alone
    if trim is not None:
        trim(0)
