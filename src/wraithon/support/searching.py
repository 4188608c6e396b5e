"""Finding things by what is typed: by the beginnings of words, in whatever number."""

from __future__ import annotations

import re
from collections.abc import Iterable


def found_by(text: str, names: Iterable[str]) -> bool:
    """Return whether each word of a text begins a word of some names, singular or plural; no text finds all."""
    own = {_singular(word) for name in names for word in words_of(name)}
    return all(any(word.startswith(_singular(wanted)) for word in own) for wanted in text.casefold().split())


def words_of(text: str) -> list[str]:
    """Return the words of a text in lower case: runs of letters and digits."""
    return re.findall(r"[^\W_]+", text.casefold())


def _singular(word: str) -> str:
    return word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word
