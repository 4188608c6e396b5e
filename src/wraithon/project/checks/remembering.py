"""What was found of an effect, kept while it is the same one: an edit looks only at what it has changed."""

from __future__ import annotations

from typing import TYPE_CHECKING, Generic, TypeVar

if TYPE_CHECKING:
    from collections.abc import Callable

    from wraithon.project.effect import Effect


T = TypeVar("T")
MAX_KNOWN = 2048
"""Effects of which it is remembered what was found."""


class PerEffect(Generic[T]):
    """Remembers what was worked out of each effect, and what else that hangs on."""

    def __init__(self) -> None:
        # By the effect's address, with the effect itself, so that no other can be there.
        self._known: dict[int, tuple[Effect, tuple[object, ...], T]] = {}

    def of(self, effect: Effect, around: tuple[object, ...], make: Callable[[], T]) -> T:
        """Return what was made of an effect, or make it, where the effect or what is `around` it has changed."""
        known = self._known.get(id(effect))
        if known is None or known[0] is not effect or not _same(known[1], around):
            if len(self._known) >= MAX_KNOWN:
                self._known.clear()
            known = self._known[id(effect)] = effect, around, make()
        return known[2]


def _same(one: tuple[object, ...], two: tuple[object, ...]) -> bool:
    return len(one) == len(two) and all(a is b or a == b for a, b in zip(one, two, strict=True))
