"""The rows that edit each look: one module a look, found by its kind."""

from __future__ import annotations

from collections.abc import Sequence
from importlib import import_module

from wraithon.desktop.widgets.form import Row

__all__ = ["called", "rows_of"]


def rows_of(kind: str) -> Sequence[Row]:
    """Return the rows of a look's form."""
    rows: Sequence[Row] = import_module(f"{__name__}.{kind}").ROWS
    return rows


def called(kind: str) -> str:
    """Return what a look is called where it is picked."""
    text: str = import_module(f"{__name__}.{kind}").CALLED
    return text
