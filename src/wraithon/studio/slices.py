"""Long work that is done a slice at a time, done at once."""

from __future__ import annotations

from typing import TYPE_CHECKING, TypeVar

if TYPE_CHECKING:
    from collections.abc import Callable, Generator


Y = TypeVar("Y")
T = TypeVar("T")


def outcome(work: Generator[Y, None, T], report: Callable[[Y], object] = lambda _slice: None) -> T:
    """Return what work comes to; what it yields meanwhile is told."""
    while True:
        try:
            report(next(work))
        except StopIteration as over:
            found: T = over.value
            return found
