"""How kernels are compiled: when they are first called, kept on disk, and on a thread-safe threading layer.

`kernel` makes an ordinary kernel that any thread may call; `parallel_kernel` one that only the engine
thread calls. Parallel kernels split their work into blocks of a fixed size, so that the arithmetic a
number goes through does not depend on how many threads there are.
"""

from __future__ import annotations

import functools
import importlib
import os
import re
import shutil
import sys
import types
from collections.abc import Iterator
from contextlib import contextmanager
from importlib.metadata import version
from pathlib import Path
from threading import RLock
from typing import Any

from wraithon.support.places import PACKAGE, derived_folder, state_of

HELPERS = (
    "numeric/compiled.py", "numeric/chance.py", "numeric/meeting.py", "numeric/noise.py", "numeric/srgb.py",
    "numeric/vectors.py", "numeric/vector_memory.py", "numeric/work_queue.py", "particles/columns.py",
    "picture/kernels/columns.py", "picture/light.py",
)  # fmt: skip
"""Files besides those of kernels that hold what is compiled into them."""
BLOCK = 1024
"""Rows a thread takes at a time."""
LOOSE = {"contract", "arcp", "reassoc", "nsz", "afn"}
"""How arithmetic of the picture may be changed; no number and infinity keep their meaning."""
FEW = 1024
"""Rows up to which one thread is quicker than all."""


def prange(count: int) -> range:
    """Return the loop that parallel kernels share out among the threads; the compiler's own replaces it there."""
    return range(count)


_compiling = RLock()


@functools.cache
def compiler() -> types.ModuleType:
    """Return the compiler, set up: importing it takes as long as all else that reading a project needs."""
    # Waiting threads of the OpenMP layer would spin, and starve the window on a small machine.
    os.environ.setdefault("GOMP_SPINCOUNT", "0")
    import numba

    numba.config.THREADING_LAYER = "omp"  # type: ignore[attr-defined]
    from wraithon.numeric.machine_code import load_lean

    load_lean()
    return numba


@functools.cache
def _import_array_functions() -> None:
    """Let what is compiled find NumPy's functions without SciPy's BLAS: no kernel needs it, and importing is slow."""
    if "scipy.linalg" not in sys.modules:
        sys.modules["scipy.linalg"] = None  # type: ignore[assignment]  # what importing it would find
        try:
            importlib.import_module("numba.np.arraymath")
        except ImportError:
            pass  # another numba: it will look for it on its own
        finally:
            del sys.modules["scipy.linalg"]


class Kernel:
    """A function that is compiled when it is first called, and so is what it calls.

    Parameters
    ----------
    function
        What is compiled. It may call other kernels by the names of its module.
    options
        The compiler's.
    """

    def __init__(self, function: Any, **options: Any) -> None:
        functools.update_wrapper(self, function)
        self.py_func = function
        """The function as it was written: what it does in plain arithmetic."""
        self._options = options
        self._dispatcher: Any = None
        self._named = False

    def __call__(self, *arguments: Any) -> Any:
        """Run it."""
        try:
            return (self._dispatcher or self._fetching())(*arguments)
        except compiler().TypingError:
            pass  # it is not in the cache, and what it calls has no compiled name yet
        return self.compiled()(*arguments)

    def compiled(self) -> Any:
        """Return its dispatcher, which compiles it for each kind of arguments."""
        with _compiling:
            if not self._named:
                self._named = True
                _import_array_functions()
                self._dispatcher = self._made_dispatcher()
                self._name_compiled(self.py_func.__code__, compiler().prange)
            return self._dispatcher

    def compile_for(self, *arguments: Any) -> None:
        """Compile it for the kinds of these arguments, without running it."""
        self.compiled().compile(tuple(map(compiler().typeof, arguments)))

    def _fetching(self) -> Any:
        """Return a dispatcher that finds it in the cache; what it calls is compiled into it there."""
        with _compiling:
            if self._dispatcher is None:
                self._dispatcher = self._made_dispatcher()
            return self._dispatcher

    def _made_dispatcher(self) -> Any:
        numba = compiler()
        # Where it is kept is read as the dispatcher is made.
        numba.config.CACHE_DIR = str(_cache_folder(Path(self.py_func.__code__.co_filename)))
        return numba.njit(self.py_func, cache=True, error_model="numpy", **self._options)

    def _name_compiled(self, code: types.CodeType, shared_loop: Any) -> None:
        """Let the function's module name what is compiled of other kernels, which is what the compiler looks up."""
        names = self.py_func.__globals__
        for name in code.co_names:
            found = names.get(name)
            if isinstance(found, Kernel):
                names[name] = found.compiled()
            elif found is prange and name == "prange":
                names[name] = shared_loop
        for inner in code.co_consts:
            if isinstance(inner, types.CodeType):
                self._name_compiled(inner, shared_loop)


def kernel(function: Any) -> Any:
    """Compile `function` for the calling thread alone.

    It keeps the interpreter lock: such kernels are over in well under a millisecond, and asking for the
    lock again would take longer while the window paints.
    """
    return Kernel(function)


def parallel_kernel(function: Any) -> Any:
    """Compile `function` so that its `prange` loops run on all threads, without the interpreter lock.

    For the engine thread only.
    """
    return Kernel(function, nogil=True, parallel=True)


def drawing_kernel(function: Any) -> Any:
    """Compile a parallel kernel of the picture, which may round differently from plain arithmetic.

    Each row is one thread's work from end to end, so pictures still come out the same at any thread
    count. NaN and infinity keep their meaning: the guards against them must work.
    """
    return Kernel(function, nogil=True, parallel=True, fastmath=LOOSE)


def drawing_helper(function: Any) -> Any:
    """Compile a helper of drawing kernels, which rounds as they do; it is compiled once, and called."""
    return Kernel(function, nogil=True, fastmath=LOOSE)


def drawing_inlined(function: Any) -> Any:
    """Compile a small helper of drawing kernels into each that calls it."""
    return Kernel(function, nogil=True, fastmath=LOOSE, inline="always")


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
            beside = self._large if rows <= FEW else self.small
            beside.compile_for(*arguments)
        return (self.small if rows <= FEW else self._large)(*arguments)


def inlined(function: Any) -> Any:
    """Compile a small helper into every kernel that calls it."""
    return Kernel(function, nogil=True, inline="always")


def called(function: Any) -> Any:
    """Compile a helper once, to be called by kernels where a call's few nanoseconds do not matter.

    A helper that is inlined into several kernels is compiled again in each of them.
    """
    return Kernel(function, nogil=True)


def all_compiled() -> bool:
    """Return whether every kernel has been compiled and kept, in this state of the sources."""
    return _complete().exists()


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
    current = {_cache_folder(path) for path in _sources()}
    for old in _caches().glob("*-*"):
        if old not in current:
            shutil.rmtree(old, ignore_errors=True) if old.is_dir() else old.unlink(missing_ok=True)
    if _caches().is_dir():
        _complete().touch()


def _sources() -> list[Path]:
    """Return every file that holds what is compiled."""
    return sorted([*PACKAGE.rglob("*kernels.py"), *(PACKAGE / name for name in HELPERS)])


def _caches() -> Path:
    """Return the folder in which compiled kernels are kept."""
    return derived_folder() / "kernels"


def _complete() -> Path:
    """Return the file that stands where every kernel of this state of the sources has been kept."""
    return _caches() / f"complete-{state_of(_sources(), version('numba'))}"


@functools.lru_cache(maxsize=256)
def _cache_folder(path: Path) -> Path:
    """Return the folder for what is compiled of a file: one for its state and that of all it imports.

    The compiler looks at a kernel's own file alone, though helpers of other files are compiled into it.
    """
    return _caches() / f"{path.stem}-{state_of(sorted(_compiled_into(path)), version('numba'))}"


def _compiled_into(path: Path) -> set[Path]:
    """Return a file, and the project's own files that it and they import as they begin."""
    found, ahead = {PACKAGE / "numeric" / "compiled.py"}, [path]
    while ahead:
        part = ahead.pop()
        if part not in found:
            found.add(part)
            ahead += _imported_by(part)
    return found


@functools.lru_cache(maxsize=256)
def _imported_by(path: Path) -> list[Path]:
    """Return the project's own files that one imports as it begins."""
    text = path.read_text(encoding="utf-8")
    files = []
    for module, names in re.findall(r"^from wraithon\.([\w.]+) import (\([^)]*\)|.*)$", text, re.MULTILINE):
        folder = PACKAGE.joinpath(*module.split("."))
        files += [folder.with_suffix(".py"), *(folder / f"{name}.py" for name in re.findall(r"\w+", names))]
    return [file for file in files if file.exists()]
