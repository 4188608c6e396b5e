"""Variants: what is played of an effect that is started with master values of its own."""

from __future__ import annotations

import hashlib
from typing import TYPE_CHECKING

from wraithon.project.edit import with_ids
from wraithon.project.settling.mastering import mastered

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping

    from wraithon.project.binding import Masters
    from wraithon.project.effect import Effect

__all__ = ["MOST_VARIANTS", "Variants", "variants_of"]

MOST_VARIANTS = 256
"""Variants of effects in a project; what would need more of them is started as it is."""
STEM = 40

Variants = dict[tuple[str, "Masters"], "Effect"]
"""Id of an effect and master values to what is played."""


def variants_of(wanted: Iterable[tuple[str, Masters]], effects: Mapping[str, Effect]) -> Variants:
    """Return what is started that is not just an effect of `effects` (by id), of ids and master values."""
    found: Variants = {}
    for key in wanted:
        effect = effects.get(key[0])
        if effect is not None and not key[1].neutral and key not in found and len(found) < MOST_VARIANTS:
            found[key] = _variant(effect, key[1])
    return found


def _variant(effect: Effect, masters: Masters) -> Effect:
    """Return an effect with master values, under ids of its own that hang on both alone."""
    told = f"{effect.id} {masters.model_dump_json()}".encode(errors="backslashreplace")
    digest = hashlib.blake2b(told, digest_size=6)
    mark = f"~{digest.hexdigest()}"
    ids = {layer.id: f"{layer.id[:STEM]}{mark}{number}" for number, layer in enumerate(effect.layers)}
    changed = with_ids(mastered(effect, masters), ids)
    return changed.but(id=f"{effect.id[:STEM]}{mark}", dials=(), bindings=())
