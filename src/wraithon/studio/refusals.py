"""Findings about births that were really refused while the show played."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from wraithon.project.checks.finding import Finding, Level, layer_remedy
from wraithon.project.emission import MAX_LIVING, Full

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wraithon.project.checks.finding import Remedy
    from wraithon.project.effect import Effect, Layer
    from wraithon.project.emission import Emission
    from wraithon.project.project import Project


def refused_by_layer(living: Mapping[str, tuple[int, int]]) -> dict[str, int]:
    """Return how many births were refused of each layer that any were, whatever variant of it refused them.

    Parameters
    ----------
    living
        Layer id to how many of it live, and how many births its limit has refused.
    """
    found: dict[str, int] = {}
    for layer, (_, refused) in living.items():
        if refused:
            own = layer.partition("~")[0]
            found[own] = found.get(own, 0) + refused
    return found


class _Heard(NamedTuple):
    """How many births of a layer were refused, and how many of them before its emission was what it is."""

    emission: Emission
    before: int
    now: int


class Refusals:
    """Remembers what a show has refused while layers are edited: under other settings it counts from nothing."""

    def __init__(self) -> None:
        self._heard: dict[str, _Heard] = {}

    def count(self, project: Project, refused: Mapping[str, int]) -> bool:
        """Count the refused births of each layer; return whether the findings change."""
        refusals = self._refusals
        for layer in self._heard.keys() - refused.keys():
            del self._heard[layer]
        for layer, now in refused.items():
            found, heard = project.layer(layer), self._heard.get(layer)
            if found is None:
                continue
            emission = found[1].emission
            if heard is None or heard.emission != emission:
                heard = _Heard(emission, now if heard is not None else 0, now)
            # A show that was run again has refused fewer.
            self._heard[layer] = heard._replace(now=now, before=heard.before if now >= heard.before else 0)
        return self._refusals != refusals

    @property
    def _refusals(self) -> dict[str, int]:
        """Layers that births were refused of, and how many as a power of two: each more is no news."""
        return {layer: (heard.now - heard.before).bit_length() for layer, heard in self._heard.items()}

    def findings(self, project: Project) -> list[Finding]:
        """Return what there is to tell of the births that were refused."""
        found = []
        for key, heard in self._heard.items():
            position, count = project.layer(key), heard.now - heard.before
            if position is None or heard.emission != position[1].emission or not count:
                continue
            effect, layer = position
            if layer.emission.full is Full.REFUSE:
                text, remedy = _refused(effect, layer, count)
                where = f'effect "{effect.name}", layer "{layer.name}"'
                found.append(Finding(Level.WARNING, where, text, layer.id, remedy))
        return found


def _refused(effect: Effect, layer: Layer, count: int) -> tuple[str, Remedy]:
    """Return what to tell of a layer's refused births, and what mends it."""
    emission = layer.emission
    if emission.limit is not None:
        text = f"births refused so far: {count:,} (its limit is {emission.limit:,})"
        return text, layer_remedy("Set the limit to automatic", layer.id, emission__limit=None)
    maximum = min(MAX_LIVING, 2 * emission.bound(layer.longest_life(effect.length), effect.length))
    text = f"births refused so far: {count:,} (more firings overlap than its triggers let expect)"
    return text, layer_remedy(f"Set the limit to {maximum:,}", layer.id, emission__limit=maximum)
