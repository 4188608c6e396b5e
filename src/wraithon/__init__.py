"""Wraithon: particle effects emitted from skinned characters and fired from their animation."""

import os

# No more threads for the small matrices here: making them takes a tenth of a second of every start.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__all__ = ["__version__"]


def __getattr__(name: str) -> str:
    """Look the version up when it is asked for: doing so at every start would take its time."""
    if name != "__version__":
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    from importlib.metadata import PackageNotFoundError, version

    try:
        return version("wraithon")
    except PackageNotFoundError:  # run from a bare source tree
        return "0.0.0"
