"""Memory that nothing uses any more."""

from __future__ import annotations

import ctypes

__all__ = ["give_back"]


def give_back() -> None:
    """Give the system what the allocator holds of memory that is free: after much was made, it is tens of MB."""
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)  # glibc's alone
    if trim is not None:
        trim(0)
