"""Parts of the window that are made as they are first asked for: most are never seen in a sitting."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TypeVar

T = TypeVar("T")


class OnDemand(dict[str, T]):
    """Kind to what is made for it, by a function of the kind, when it is first asked for."""

    def __init__(self, make: Callable[[str], T]) -> None:
        super().__init__()
        self._make = make

    def ahead(self, *kinds: str) -> Iterator[object]:
        """Make, one at each turn, what there is not yet for some kinds."""
        for kind in kinds:
            if kind not in self:
                yield self[kind]

    def __missing__(self, kind: str) -> T:
        made = self[kind] = self._make(kind)
        return made
