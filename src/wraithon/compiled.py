"""How kernels are compiled: cached, and on a thread-safe threading layer.

`kernel` makes an ordinary kernel that any thread may call; `parallel_kernel` one that only the engine
thread calls. Parallel kernels split their work into blocks of a fixed size, so that the arithmetic a
number goes through does not depend on how many threads there are.
"""

from __future__ import annotations

import os
from typing import Any

# Waiting threads of the OpenMP layer spin; a long spin starves the window on a small machine.
os.environ.setdefault("GOMP_SPINCOUNT", "5000")

import numba  # after the setting above, which is read once

numba.config.THREADING_LAYER = "omp"

BLOCK = 1024
"""Rows a thread takes at a time."""


def kernel(function: Any) -> Any:
    """Compile `function` for the calling thread alone.

    It keeps the interpreter lock: such kernels are over in well under a millisecond, and asking for the
    lock again would take longer while the window paints.
    """
    return numba.njit(function, cache=True, error_model="numpy")


def parallel_kernel(function: Any) -> Any:
    """Compile `function` so that its `prange` loops run on all threads, without the interpreter lock.

    For the engine thread only.
    """
    return numba.njit(function, cache=True, nogil=True, error_model="numpy", parallel=True)


def inlined(function: Any) -> Any:
    """Compile a small helper into every kernel that calls it."""
    return numba.njit(function, cache=True, nogil=True, error_model="numpy", inline="always")
