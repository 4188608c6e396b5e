"""Wraithon: particle effects born on skinned characters and fired from their animation."""

from importlib.metadata import PackageNotFoundError, version

try:
    __version__ = version("wraithon")
except PackageNotFoundError:  # run from a bare source tree
    __version__ = "0.0.0"

__all__ = ["__version__"]
