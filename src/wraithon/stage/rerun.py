"""Making a paused show exact after an edit by running only the changed layers again.

Layers do not touch each other, and what lives of a layer hangs only on births that could still live. So it is
enough to run the changed ones from their longest lifetime before now, where nothing is refused: what a
limit refuses hangs on all that lived before.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from wraithon.numeric.chance import firing_key
from wraithon.particles.columns import OFFSPRING, SKIN
from wraithon.particles.emission import births_between
from wraithon.particles.pool import Pool, living_by_firing
from wraithon.particles.program import runs_alike
from wraithon.project.emission import MAX_ALIVE, MAX_LIVING
from wraithon.stage.firing import Firing
from wraithon.stage.show import MAX_FIRINGS, Show

if TYPE_CHECKING:
    from collections.abc import Iterable

    from numpy.typing import NDArray

    from wraithon.particles.program import LayerProgram
    from wraithon.project.emission import Emission
    from wraithon.stage.compiled_project import CompiledProject


SPARE_STEPS = 2


def changed_layers(before: CompiledProject, after: CompiledProject) -> frozenset[str] | None:
    """Return the layers that an edit makes run otherwise, gone and new ones, too; None when more has changed."""
    a, b = before.project, after.project
    if a.step_rate != b.step_rate or a.triggers != b.triggers or a.character != b.character:
        return None
    if before.terrain is not after.terrain or a.signals != b.signals:
        return None
    if before.performance is not after.performance or list(before.effects) != list(after.effects):
        return None
    changed = set(before.programs.keys() ^ after.programs.keys())
    for key in before.programs.keys() & after.programs.keys():
        alike = before.ends[key] == after.ends[key] and runs_alike(before.programs[key], after.programs[key])
        if not alike:
            changed.add(key)
    for one, two in zip(before.effects.values(), after.effects.values(), strict=True):
        if one.length != two.length or {x.id for x in one.layers} != {x.id for x in two.layers}:
            changed |= {layer.id for layer in (*one.layers, *two.layers)}
    return frozenset(changed)


def rerun(show: Show, changed: frozenset[str]) -> bool:
    """Run layers again up to now; return False, and change nothing, where only a run from the start can tell.

    The show is one that was exact before its cast was edited. Afterwards all that lives is what a fresh run would
    have; how many lived at once in the past, and when what is over ended, is left as it was.
    """
    compiled = show.compiled
    begun = _all_firings(show)
    acts = show.actor is not None and show.actor.acts
    acts = acts or bool(show.signal_values.keys() & compiled.dials.keys())  # layers were something else before
    limits = sum(p.limit for p in compiled.programs.values())
    if acts or begun is None or show.refused_firings or show.stopped or limits > MAX_ALIVE:
        return False
    again = {key: compiled.programs[key] for key in changed if key in compiled.programs}
    if any(
        p.wants_moments or p.kind == OFFSPRING or _hangs_on_more(p.layer.emission) or p.ends_oldest
        for p in again.values()
    ):
        return False  # what is born hangs on all that was before
    if any(
        p.border or (p.sampler is None) != (p.kind < SKIN) or (p.sampler and p.sampler.empty) for p in again.values()
    ):
        return False
    if _max_at_once(compiled, begun.values()) > MAX_FIRINGS:
        return False
    born = {key: _births(compiled, key, begun.values(), show.time) for key in again}
    if any(b is None or _max_alive(b, _longest(compiled, key)) > again[key].limit for key, b in born.items()):
        return False
    fresh = _run_again(show, frozenset(again), begun)
    for key in changed:
        show.pools.pop(key, None)
    for key, moments in born.items():
        if moments is not None and len(moments):
            pool = show.pools[key] = fresh.pools.get(key) or Pool()
            pool.born, pool.refused = len(moments), 0
    _restore_firings(show, begun)
    return True


def _hangs_on_more(emission: Emission) -> bool:
    """Return whether births hang on more than how old a firing is: its way, or what was before it."""
    return bool(emission.per_metre or emission.warm_up)


def _all_firings(show: Show) -> dict[int, Firing] | None:
    """Return all firings there ever were, by their place, as at their beginning; None when some are forgotten."""
    if len(show.records) + len(show.firings) != show.fired:
        return None
    found = dict(show.firings)
    for record in show.records:
        if record.begun is None:
            return None
        begun = record.begun
        found[begun.position] = Firing(
            record.effect, record.number, record.trigger, record.start, begun.anchor, begun.follow, begun.pinned,
            peak=record.peak, base=record.base,
        )  # fmt: skip
    return {position: found[position].copy() for position in sorted(found)}


def _longest(compiled: CompiledProject, layer: str) -> float:
    """Return the seconds that a particle of a layer may live, and a little."""
    program, effect = compiled.programs[layer], compiled.effect(compiled.owners[layer])
    longest = float(max(program.birth.lifetime))
    if program.layer.hold is not None and effect is not None:
        longest = program.layer.longest_life(effect.length)
    return longest + SPARE_STEPS / compiled.project.step_rate


def _births(
    compiled: CompiledProject, layer: str, firings: Iterable[Firing], now: float
) -> NDArray[np.float64] | None:
    """Return the moments of all births of a layer so far, refused or not, in order; None when they are too many."""
    emission, moments, total = compiled.programs[layer].layer.emission, [np.zeros(0)], 0
    for firing in firings:
        effect = compiled.effect(firing.effect)
        if effect is not None and now > firing.start and any(each.id == layer for each in effect.layers):
            key = _key(compiled.programs[layer], firing)
            ages, count = births_between(emission, effect.length, 0.0, now - firing.start, key=key)
            total += count
            if count > len(ages) or total > MAX_LIVING:
                return None
            moments.append(ages + firing.start)
    return np.sort(np.concatenate(moments))


def _max_alive(births: NDArray[np.float64], longest: float) -> int:
    """Return how many may live at once, at most."""
    if not len(births):
        return 0
    return int((np.arange(1, len(births) + 1) - np.searchsorted(births, births - longest)).max())


def _max_at_once(compiled: CompiledProject, firings: Iterable[Firing]) -> int:
    """Return how many firings may be alive at once, at most."""
    spans = {}
    for effect in compiled.effects.values():
        lasting = [compiled.ends[x.id] + _longest(compiled, x.id) for x in effect.layers if x.id in compiled.programs]
        spans[effect.id] = max(lasting, default=0.0) + SPARE_STEPS / compiled.project.step_rate
    starts = np.array([firing.start for firing in firings])
    ends = np.sort([firing.start + spans.get(firing.effect, 0.0) for firing in firings])
    starts.sort()
    return int((np.arange(1, len(starts) + 1) - np.searchsorted(ends, starts)).max()) if len(starts) else 0


def _run_again(show: Show, layers: frozenset[str], begun: dict[int, Firing]) -> Show:
    """Return a show of some layers alone, which ran from their longest lifetime before now."""
    compiled = show.compiled
    alone = replace(
        compiled, listeners={}, programs={key: compiled.programs[key] for key in layers},
        ends={key: compiled.ends[key] for key in layers},
    )  # fmt: skip
    fresh, longest = Show(alone), max((_longest(compiled, key) for key in layers), default=0.0)
    fresh.step_number = max(0, int(max(0.0, show.time - longest) * show.rate) - SPARE_STEPS)
    if not layers:
        return fresh
    for position, firing in begun.items():
        effect = compiled.effect(firing.effect)
        mine = [layer for layer in effect.layers if layer.id in layers] if effect else []
        if effect and mine and fresh.time - firing.start <= max(compiled.ends[layer.id] for layer in mine):
            fresh.firings[position] = firing.copy()
            fresh.firings[position].serials = _serials(fresh, firing)
    while fresh.step_number < show.step_number:
        fresh.advance()
    return fresh


def _key(program: LayerProgram, firing: Firing) -> int:
    """Return what the chance of a firing's births of a layer hangs on."""
    return int(firing_key(program.key, firing.number))


def _serials(show: Show, firing: Firing) -> dict[str, int]:
    """Return how many births each layer of a firing has had by a show's moment, refused ones included."""
    effect, age = show.compiled.effect(firing.effect), show.time - firing.start
    if effect is None or age <= 0:
        return {}
    programs = show.compiled.programs
    counts = {
        layer.id: births_between(layer.emission, effect.length, 0.0, age, 0, _key(programs[layer.id], firing))[1]
        for layer in effect.layers
        if layer.id in programs
    }
    return {layer: count for layer, count in counts.items() if count}


def _restore_firings(show: Show, begun: dict[int, Firing]) -> None:
    """Sort firings into those that are alive and those that are over."""
    positions = np.fromiter(begun, np.int32, len(begun))
    alive = living_by_firing(show.pools.values(), positions)
    over = {record.begun.position: record for record in show.records if record.begun}
    show.firings.clear()
    for position, living in zip(positions.tolist(), alive.tolist(), strict=True):
        firing = begun[position]
        firing.alive, firing.peak = living, max(firing.peak, living)
        if living or not show.spent(firing):
            over.pop(position, None)
            firing.serials = _serials(show, firing)
            show.firings[position] = firing
        elif position not in over:
            over[position] = firing.record(show.time, position)
    show.records[:] = over.values()
