"""What the artist wishes to see for now: layers that are muted, or shown alone. No part of the project."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from wraithon.project.binding import Masters
from wraithon.project.resolving.mastering import mastered

if TYPE_CHECKING:
    from collections.abc import Collection

    from wraithon.project.effect import Effect
    from wraithon.project.project import Project


@dataclass(frozen=True)
class ViewOverrides:
    """Ids of layers that are muted, and of those that are shown alone of their effect."""

    muted: frozenset[str] = frozenset()
    alone: frozenset[str] = frozenset()
    quality: str = ""
    """The level of quality that effects are seen at which have it; empty: as they are."""

    def silent(self, effect: Effect) -> frozenset[str]:
        """Return the ids of an effect's layers that are not to be seen now, besides those it leaves out itself."""
        ids = frozenset(layer.id for layer in effect.layers)
        return ids - self.alone if ids & self.alone else ids & self.muted

    def seen_of(self, effect: Effect) -> dict[str, str]:
        """Return how each layer of an effect is seen, by its id: "" as usual, "alone", "muted" or "disabled"."""
        silent = self.silent(effect)
        return {
            layer.id: "disabled" if layer.disabled else "muted" if layer.id in silent
            else "alone" if layer.id in self.alone else ""
            for layer in effect.layers
        }  # fmt: skip

    def muting(self, layers: Collection[str]) -> ViewOverrides:
        """Return the wishes with layers muted; with them heard again when all of them are muted already."""
        chosen = frozenset(layers)
        return replace(self, muted=self.muted - chosen if chosen <= self.muted else self.muted | chosen)

    def soloing(self, effect: Effect, layers: Collection[str]) -> ViewOverrides:
        """Return the wishes with only some layers of an effect to be seen; all again when that is so already."""
        ids = frozenset(layer.id for layer in effect.layers)
        chosen = frozenset(layers) & ids
        ends = self.alone & ids == chosen
        return replace(self, alone=(self.alone - ids) | (frozenset() if ends else chosen))

    def played(self, project: Project) -> Project:
        """Return a project as it is to be played: itself where nothing is wished for."""
        if not self.muted and not self.alone and not self.quality:
            return project
        effects = tuple(self._heard(effect) for effect in project.effects)
        same = all(a is b for a, b in zip(effects, project.effects, strict=True))
        return project if same else project.evolve(effects=effects)

    def _heard(self, effect: Effect) -> Effect:
        silent = self.silent(effect)
        level = next((each for each in effect.qualities if each.name == self.quality), None)
        if level is not None:
            silent |= {layer.id for layer in effect.layers if layer.look.kind in level.without}
            effect = mastered(effect, Masters(amount=level.amount))
        if not silent:
            return effect
        layers = (x.evolve(disabled=True) if x.id in silent else x for x in effect.layers)
        return effect.evolve(layers=tuple(layers))
