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
    from wraithon.project.trigger import Trigger

__all__ = ["MOST_VARIANTS", "Variants", "variants_of"]

MOST_VARIANTS = 256
"""Variants of effects in a project; what would need more of them is started as it is."""
STEM = 40

Variants = dict[tuple[str, "Masters"], "Effect"]
"""Id of an effect and master values to what is played."""


def variants_of(triggers: Iterable[Trigger], effects: Mapping[str, Effect]) -> Variants:
    """Return what the steps of triggers start that is not just an effect of `effects` (by id)."""
    found: Variants = {}
    for trigger in triggers:
        for step in trigger.starts:
            effect = effects.get(step.effect or "")
            if effect is None or step.masters.neutral or len(found) >= MOST_VARIANTS:
                continue
            key = effect.id, step.masters
            if key not in found:
                found[key] = _variant(effect, step.masters)
    return found


def _variant(effect: Effect, masters: Masters) -> Effect:
    """Return an effect with master values, under ids of its own that hang on both alone."""
    told = f"{effect.id} {masters.model_dump_json()}".encode(errors="backslashreplace")
    digest = hashlib.blake2b(told, digest_size=6)
    mark = f"~{digest.hexdigest()}"
    ids = {layer.id: f"{layer.id[:STEM]}{mark}{number}" for number, layer in enumerate(effect.layers)}
    changed = with_ids(mastered(effect, masters), ids)
    return changed.but(id=f"{effect.id[:STEM]}{mark}", dials=(), bindings=())
