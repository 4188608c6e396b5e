"""Wraithon: particle effects born on skinned characters and fired from their animation."""

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
