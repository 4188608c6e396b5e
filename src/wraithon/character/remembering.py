"""What was worked out of a character and its clips, kept for as long as they are there.

What is kept holds no character: one that was replaced is gone with all that was worked out of it.
"""

from __future__ import annotations

from collections import OrderedDict
from functools import wraps
from threading import RLock
from typing import TYPE_CHECKING, Any, Generic, NamedTuple, TypeVar
from weakref import ref

if TYPE_CHECKING:
    from collections.abc import Callable

    from wraithon.character.model import Character, Clip


T = TypeVar("T")


def cached_by_content(maxsize: int) -> Callable[[Callable[..., T]], Callable[..., T]]:
    """Return what has a function of a character, and of clips, keep what it returned for so many of them.

    It must not hang on the names of clips, nor on which others there are. A character whose clips are called
    otherwise, or that has more of them, is made of the same mesh and skeleton, and a clip of the same tracks.
    """
    return _keeping(maxsize, _made_of)


def cached_by_identity(maxsize: int) -> Callable[[Callable[..., T]], Callable[..., T]]:
    """Return what has a function of a character keep what it returned for that very character.

    Its other arguments may be whatever can be looked up; they are held while what was made of them is.
    """
    return _keeping(maxsize, lambda character, others: ((character,), others))


class _Cached(NamedTuple, Generic[T]):
    made: T
    parts: tuple[object, ...]
    ends: tuple[ref[Any], ...]
    """Each forgets this, once what it is of is there no more."""


def _keeping(
    maxsize: int,
    parts_of: Callable[[Character, tuple[Any, ...]], tuple[tuple[object, ...], tuple[object, ...]]],
) -> Callable[[Callable[..., T]], Callable[..., T]]:
    """Keep what a function returns by `parts_of` its arguments: those that may come to an end, and others."""

    def keep(function: Callable[..., T]) -> Callable[..., T]:
        known: OrderedDict[tuple[object, ...], _Cached[T]] = OrderedDict()
        lock = RLock()  # what ends while something is put down tells of it there and then

        @wraps(function)
        def call(character: Character, *others: object, **named: object) -> T:
            ends, parts = parts_of(character, others)
            key = (*map(id, ends), *parts, *sorted(named.items()))
            with lock:
                if key in known:
                    known.move_to_end(key)
                    return known[key].made

            def forget(_ended: object) -> None:
                with lock:
                    known.pop(key, None)

            made = function(character, *others, **named)
            with lock:
                # Nothing else can be where it was: what ends takes with it what was worked out of it.
                known[key] = _Cached(made, parts, tuple(ref(thing, forget) for thing in ends))
                while len(known) > maxsize:
                    known.popitem(last=False)
            return made

        return call

    return keep


class _Same:
    """Something that is looked up by what it is, not by what it holds."""

    __slots__ = ("thing",)

    def __init__(self, thing: object) -> None:
        self.thing = thing

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.thing is self.thing

    def __hash__(self) -> int:
        return id(self.thing)


def _made_of(character: Character, clips: tuple[Clip, ...]) -> tuple[tuple[object, ...], tuple[object, ...]]:
    """Return what a character and clips are made of: what may come to an end, and what ends with that."""
    ends: list[object] = [character.mesh, character.skeleton]
    parts: list[object] = [character.root_node, _Same(character.parts), _Same(character.materials)]
    for clip in clips:
        ends += (clip.heads, clip.value_heads, clip.times, clip.values)
        parts += (clip.seconds, _Same(clip.shaping))
    return tuple(ends), tuple(parts)
