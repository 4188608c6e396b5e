"""Variants: what is played of an effect that is started with master values, or dials, of its own."""

from __future__ import annotations

import hashlib
from typing import TYPE_CHECKING, NamedTuple

from wraithon.project.edit import with_ids
from wraithon.project.resolving.mastering import mastered

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Mapping

    from wraithon.project.binding import Masters
    from wraithon.project.effect import Effect, Layer


MAX_VARIANTS = 256
"""Variants of effects in a project; what would need more of them is started as it is."""
STEM = 40


class Wanted(NamedTuple):
    """What is started: an effect by its id, master values, and what dials of it are set to, by theirs."""

    effect: str
    masters: Masters
    settings: tuple[tuple[str, float], ...] = ()
    without: tuple[str, ...] = ()
    """Layers that are left out."""
    texture: str = ""
    """What is drawn in the place of its layers' own textures, if anything."""

    @property
    def plain(self) -> bool:
        """Whether it is just the effect."""
        return self.masters.neutral and not any(self[2:])


Variants = dict[Wanted, "Effect"]


def variants_of(
    wanted: Iterable[Wanted],
    effects: Mapping[str, Effect],
    set_so: Callable[[str, Mapping[str, float]], Effect] | None = None,
    before: Mapping[Wanted, Effect] | None = None,
) -> Variants:
    """Return what is started that is not just an effect of `effects` (by id).

    Parameters
    ----------
    wanted
        What is started.
    effects
        Effects as they are played.
    set_so
        Returns an effect, by its id, as it is played with dials set so, of ids and values; None: dials count for
        nothing.
    kept
        Variants that are there already, and have not changed.
    """
    found: Variants = {}
    for key in wanted:
        effect = effects.get(key.effect)
        if effect is not None and not key.plain and key not in found and len(found) < MAX_VARIANTS:
            if key.settings and set_so is not None:
                effect = set_so(key.effect, dict(key.settings))
            found[key] = (before or {}).get(key) or _variant(effect, key)
    return found


def _variant(effect: Effect, key: Wanted) -> Effect:
    """Return an effect with master values, under ids of its own that hang on what is wanted alone."""
    masters = key.masters
    more = f" {key[2:]}" if any(key[2:]) else ""
    text = f"{effect.id} {masters.model_dump_json()}{more}".encode(errors="backslashreplace")
    digest = hashlib.blake2b(text, digest_size=6)
    if key.without or key.texture:
        left = (layer for layer in effect.layers if layer.id not in key.without)
        effect = effect.evolve(layers=tuple(_textured(layer, key.texture) for layer in left))
    mark = f"~{digest.hexdigest()}"
    ids = {layer.id: f"{layer.id[:STEM]}{mark}{number}" for number, layer in enumerate(effect.layers)}
    changed = with_ids(mastered(effect, masters), ids)
    return changed.evolve(id=f"{effect.id[:STEM]}{mark}", dials=(), bindings=())


def _textured(layer: Layer, texture: str) -> Layer:
    """Return a layer with another texture, where it has one at all."""
    has = bool(texture) and "texture" in type(layer.look).model_fields
    return layer.evolve(look=layer.look.evolve(texture=texture)) if has else layer
