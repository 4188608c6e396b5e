"""How kernels are compiled: cached, and on a thread-safe threading layer.

`kernel` makes an ordinary kernel that any thread may call; `parallel_kernel` one that only the engine
thread calls. Parallel kernels split their work into blocks of a fixed size, so that the arithmetic a
number goes through does not depend on how many threads there are.
"""

from __future__ import annotations

import hashlib
import importlib
import os
import shutil
import sys
import types
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

# Waiting threads of the OpenMP layer would spin, and starve the window on a small machine.
os.environ.setdefault("GOMP_SPINCOUNT", "0")

import numba  # after the setting above, which is read once

from wraithon.places import cache_folder


def _without_blas() -> None:
    """Let numba set itself up without SciPy's BLAS: no kernel needs it, and importing it takes long."""
    if "scipy.linalg" in sys.modules:
        return
    sys.modules["scipy.linalg"] = None  # type: ignore[assignment]  # what importing it would find
    try:
        importlib.import_module("numba.np.arraymath")
    except ImportError:
        pass  # another numba: it will look for it on its own
    finally:
        del sys.modules["scipy.linalg"]


_without_blas()

__all__ = [
    "BLOCK",
    "FEW",
    "SizedKernel",
    "all_compiled",
    "called",
    "compiling_all",
    "compiling_both",
    "drawing_helper",
    "drawing_inlined",
    "drawing_kernel",
    "inlined",
    "kernel",
    "parallel_kernel",
]

numba.config.THREADING_LAYER = "omp"  # type: ignore[attr-defined]


HELPERS = (
    "compiled.py", "chance.py", "meeting.py", "noise.py", "particles/columns.py",
    "picture/light.py", "turns.py", "vectors.py", "vector_memory.py",
)  # fmt: skip
"""Files besides those of kernels that hold what is compiled into them."""


def _cache_folder() -> Path:
    """Return where compiled kernels are kept: a folder for this state of all their sources.

    The compiler looks at a kernel's own file alone, though helpers of other files are compiled into it.
    """
    here = Path(__file__).parent
    digest = hashlib.blake2b(numba.__version__.encode(), digest_size=8)
    for path in sorted([*here.rglob("*kernels.py"), *(here / name for name in HELPERS)]):
        digest.update(path.read_bytes())
    caches = here / "__pycache__" if os.access(here, os.W_OK) else cache_folder()
    return caches / f"kernels-{digest.hexdigest()}"


CACHE = _cache_folder()
_COMPLETE = CACHE / "complete"
numba.config.CACHE_DIR = str(CACHE)  # type: ignore[attr-defined]

BLOCK = 1024
"""Rows a thread takes at a time."""
LOOSE = {"contract", "arcp", "reassoc", "nsz", "afn"}
"""How arithmetic of the picture may be changed; no number and infinity keep their meaning."""
FEW = 1024
"""Rows up to which one thread is quicker than all."""


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


def drawing_kernel(function: Any) -> Any:
    """Compile a parallel kernel of the picture, which may round differently from plain arithmetic.

    Each row is one thread's work from end to end, so pictures still come out the same at any thread
    count. NaN and infinity keep their meaning: the guards against them must work.
    """
    return numba.njit(function, cache=True, nogil=True, error_model="numpy", parallel=True, fastmath=LOOSE)


def drawing_helper(function: Any) -> Any:
    """Compile a helper of drawing kernels, which rounds as they do; it is compiled once, and called."""
    return numba.njit(function, cache=True, nogil=True, error_model="numpy", fastmath=LOOSE)


def drawing_inlined(function: Any) -> Any:
    """Compile a small helper of drawing kernels into each that calls it."""
    return numba.njit(function, cache=True, nogil=True, error_model="numpy", fastmath=LOOSE, inline="always")


class SizedKernel:
    """A kernel in two versions of the same code: for one thread, and for all of them.

    Waking the threads takes longer than a few rows of work. Which version runs depends on the number of
    rows alone, and both do the same arithmetic, so results do not depend on the choice.
    """

    thorough = False
    """Whether a call compiles the version it does not run as well."""

    def __init__(self, function: Any) -> None:
        self._large = parallel_kernel(function)
        twin = types.FunctionType(function.__code__, function.__globals__, function.__name__)
        # The cache tells functions apart by their name.
        twin.__qualname__ = f"{function.__qualname__}_small"
        twin.__module__ = function.__module__
        self.small = kernel(twin)
        """The version for one thread, for kernels to call."""
        self.py_func = function
        self.__doc__ = function.__doc__

    def __call__(self, rows: int, *arguments: Any) -> Any:
        """Run on `rows` rows; `arguments` are the function's own."""
        if SizedKernel.thorough:
            (self._large if rows <= FEW else self.small).compile(tuple(map(numba.typeof, arguments)))
        return (self.small if rows <= FEW else self._large)(*arguments)


def inlined(function: Any) -> Any:
    """Compile a small helper into every kernel that calls it."""
    return numba.njit(function, cache=True, nogil=True, error_model="numpy", inline="always")


def called(function: Any) -> Any:
    """Compile a helper once, to be called by kernels where a call's few nanoseconds do not matter.

    A helper that is inlined into several kernels is compiled again in each of them.
    """
    return numba.njit(function, cache=True, nogil=True, error_model="numpy")


def all_compiled() -> bool:
    """Return whether every kernel has been compiled and kept, in this state of the sources."""
    return _COMPLETE.exists()


@contextmanager
def compiling_both() -> Iterator[None]:
    """Compile both versions of the sized kernels that are called."""
    SizedKernel.thorough = True
    try:
        yield
    finally:
        SizedKernel.thorough = False


@contextmanager
def compiling_all() -> Iterator[None]:
    """Compile every kernel that is called, as `compiling_both` does; those of older sources are thrown away."""
    with compiling_both():
        yield
    for old in CACHE.parent.glob("kernels-*"):
        if old != CACHE:
            shutil.rmtree(old, ignore_errors=True)
    if CACHE.is_dir():
        _COMPLETE.touch()
