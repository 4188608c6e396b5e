"""What was worked out of a character and its clips, kept by what they are made of: another name changes nothing."""

from __future__ import annotations

from collections import OrderedDict
from functools import wraps
from itertools import chain
from threading import Lock
from typing import TYPE_CHECKING, TypeVar

if TYPE_CHECKING:
    from collections.abc import Callable

    from wraithon.character.model import Character, Clip

__all__ = ["kept_by_content"]

T = TypeVar("T")


def kept_by_content(maxsize: int) -> Callable[[Callable[..., T]], Callable[..., T]]:
    """Return what has a function of a character, and of a clip, keep what it returned for so many of them.

    It must not hang on the names of clips, nor on which others there are. A character whose clips are called
    otherwise, or that has more of them, is made of the same mesh and skeleton, and a clip of the same tracks.
    """

    def keep(function: Callable[..., T]) -> Callable[..., T]:
        known: OrderedDict[tuple[object, ...], tuple[tuple[object, ...], T]] = OrderedDict()
        lock = Lock()

        @wraps(function)
        def call(character: Character, *clips: Clip, **named: object) -> T:
            parts = _parts(character, clips)
            lengths = tuple(clip.seconds for clip in clips)
            key = (character.root_node, lengths, *map(id, parts), *sorted(named.items()))
            with lock:
                if key in known:
                    known.move_to_end(key)
                    return known[key][1]
            made = function(character, *clips, **named)
            with lock:
                known[key] = parts, made  # what it is made of is held, so that nothing else can be where it was
                while len(known) > maxsize:
                    known.popitem(last=False)
            return made

        return call

    return keep


def _parts(character: Character, clips: tuple[Clip, ...]) -> tuple[object, ...]:
    own = (character.parts, character.mesh, character.skeleton, character.materials)
    tracks = [(clip.heads, clip.value_heads, clip.times, clip.values, clip.shaping) for clip in clips]
    return (*own, *chain.from_iterable(tracks))
