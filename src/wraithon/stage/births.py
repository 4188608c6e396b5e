"""Births within a step: from emissions, and from what happens to other particles."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Protocol

import numpy as np

from wraithon.numeric.chance import firing_key, mix
from wraithon.particles.columns import BIRTH_RECORD, GIVEN, PX, PZ, VX, VZ, AnchorTransforms
from wraithon.particles.emission import Moved, births_between, drawn_counts, emits_nothing, moved_within, warmed
from wraithon.particles.endings import FiringEnds
from wraithon.particles.looks.batch import drawn_from
from wraithon.particles.particle_moments import Happening
from wraithon.particles.pool import Line, Pool
from wraithon.particles.program import MAX_OFFSPRING
from wraithon.project.emission import MAX_ALIVE
from wraithon.project.source import Occasion, OffspringSource

if TYPE_CHECKING:
    from collections.abc import Mapping

    from numpy.typing import NDArray

    from wraithon.particles.particle_moments import ParticleMoments
    from wraithon.particles.program import LayerProgram
    from wraithon.particles.rules import TickContext
    from wraithon.project.effect import Effect, Layer
    from wraithon.stage.anchor_paths import AnchorPaths
    from wraithon.stage.compiled_project import CompiledProject
    from wraithon.stage.firing import Firing


MAX_WORK, FEWEST_STEPS = 12_000_000, 8
"""Steps of single particles that warm-ups may take within a step, before theirs get longer; and theirs at least."""
OCCASIONS = {
    Occasion.BIRTH: Happening.BIRTH, Occasion.CONTACT: Happening.CONTACT, Occasion.DEATH: Happening.DEATH,
    Occasion.PASSING: Happening.PASSING,
}  # fmt: skip


class BirthContext(Protocol):
    """What of a show births hang on."""

    compiled: CompiledProject
    pools: dict[str, Pool]
    firings: dict[int, Firing]
    ways: AnchorPaths

    @property
    def alive(self) -> int:
        """Particles that live now."""


class Births:
    """Bears a show's particles, step by step.

    Parameters
    ----------
    show
        Whose particles they are.
    """

    def __init__(self, show: BirthContext) -> None:
        self._show = show
        self._living, self._work = 0, 0

    def emit_all(self, start: float, end: float, around: TickContext) -> None:
        """Emit the particles of all firings in a step."""
        show = self._show
        self._living, self._work = show.alive, MAX_WORK
        ends = show.compiled.ends
        for position, firing in show.firings.items():
            effect = show.compiled.effect(firing.effect)
            age, last = start - firing.start, min(end, firing.until)
            for layer in effect.layers if effect else ():
                warm = layer.emission.warm_up
                if warm and effect and start <= firing.start < end:
                    self._warm_up(effect, layer, firing, position, start, around)
                if last <= start or emits_nothing(layer.emission, age + warm, last - firing.start + warm):
                    continue
                if effect and age <= ends.get(layer.id, -1.0):
                    self._emit(effect, layer, firing, position, (start, end), around)

    def _emit(
        self,
        effect: Effect,
        layer: Layer,
        firing: Firing,
        position: int,
        step: tuple[float, float],
        around: TickContext,
    ) -> None:
        show, (start, end) = self._show, step
        program = show.compiled.programs.get(layer.id)
        if program is None or isinstance(layer.source, OffspringSource):
            return
        warm, length = layer.emission.warm_up, warmed(layer.emission, effect.length)
        last = min(end, firing.until)
        positions, ages = None, (max(0.0, start - firing.start) + warm, last - firing.start + warm)
        moved = Moved()
        if layer.emission.per_metre:
            positions = show.ways.of_program(firing, program)
            moved = Moved(
                firing.moved.get(layer.id, 0.0), float(np.linalg.norm(positions.now[0] - positions.before[0]))
            )
            counted = moved_within(layer.emission, length, *ages, moved.now)
            firing.moved[layer.id] = moved.before + counted
        key = firing_key(program.key, firing.number)
        found, total = births_between(
            layer.emission, length, *ages, self._room(program), int(key), moved
        )  # fmt: skip
        if not total:
            return
        emission_offsets = np.minimum(np.maximum(found + (firing.start - warm - start), 0.0), end - start).astype(
            np.float32
        )
        serial = firing.serials.get(layer.id, 0)
        firing.serials[layer.id] = serial + total
        positions = positions or show.ways.of_program(firing, program)
        line = Line(key, serial, position)
        pool = self._pool(layer.id)
        self._living += pool.emit(program, line, emission_offsets, end - start, around, positions, total)

    def _warm_up(
        self, effect: Effect, layer: Layer, firing: Firing, position: int, start: float, around: TickContext
    ) -> None:
        """Put there what a firing that begins in this step would have, had it gone on before in the same place."""
        show = self._show
        program = show.compiled.programs.get(layer.id)
        if program is None or isinstance(layer.source, OffspringSource):
            return
        around, positions = around.still, show.ways.of_program(firing, program).still
        points, anchor_transforms = show.ways.points(program)[:, [0, 0]], AnchorTransforms.of(position, positions)
        warm, rate = layer.emission.warm_up, show.compiled.project.step_rate
        length, key, pool = warmed(layer.emission, effect.length), firing_key(program.key, firing.number), Pool()
        # What was born before could not live any more.
        longest = warm if layer.hold is not None else float(program.birth.lifetime.max())
        begin = max(0, math.floor((warm - longest) * rate) - 1) / rate
        serial = births_between(layer.emission, length, 0.0, begin, 0, int(key))[1] if begin else 0
        room = self._room(program)
        maximum = min(room, births_between(layer.emission, length, begin, warm, 0, int(key))[1])
        steps = max(1, min(round((warm - begin) * rate), max(FEWEST_STEPS, self._work // max(maximum, 1))))
        dt, self._work = (warm - begin) / steps, max(0, self._work - steps * maximum)
        ends = FiringEnds.of([(position, math.inf, layer.ending)]) if program.ends_with_firing else None
        for step in range(steps):
            age = begin + step * dt
            ages, total = births_between(layer.emission, length, age, age + dt, room, int(key))
            emission_offsets = np.clip(ages - age, 0.0, dt).astype(np.float32)
            pool.emit(program, Line(key, serial, position), emission_offsets, dt, around, positions, total)
            pool.step(
                program, dt, start - warm + age, around, points, anchor_transforms, wants_moments=False, ends=ends
            )
            serial += total
        firing.serials[layer.id] = serial
        self._living += self._pool(layer.id).join(pool, program, room, 1 / rate, firing.start - start)

    def _pool(self, layer: str) -> Pool:
        """Return a layer's pool, made when there is none yet."""
        pool = self._show.pools.get(layer)
        if pool is None:
            pool = self._show.pools[layer] = Pool()
        return pool

    def _room(self, program: LayerProgram) -> int:
        """Return how many more of a layer may live."""
        left = MAX_ALIVE - self._living
        if program.ends_oldest:
            return max(0, min(program.limit, left))
        pool = self._show.pools.get(program.layer.id)
        return max(0, min(program.limit - (pool.count if pool else 0), left))

    def offspring(self, happened: Mapping[str, ParticleMoments], dt: float, around: TickContext) -> None:
        """Emit offspring of what `happened` to the particles of layers, at the end of a step of `dt` seconds."""
        show = self._show
        for parent, children in show.compiled.children.items():
            if parent in happened:
                for child in children:
                    self._offspring(show.compiled.programs[parent], child, happened[parent], dt, around)

    def _offspring(
        self, parent: LayerProgram, child: LayerProgram, happened: ParticleMoments, dt: float, around: TickContext
    ) -> None:
        source = child.layer.source
        assert isinstance(source, OffspringSource)  # the compiled project has looked
        wanted = int(OCCASIONS[source.occasion])
        if source.occasion is Occasion.PASSING:
            wanted += parent.spacings.index(source.every)
        happened = happened.part(happened.kinds == wanted)
        for position in np.unique(happened.firings).tolist():
            firing = self._show.firings.get(position)
            if firing is not None:
                mine = happened.part(happened.firings == position)
                self._of_firing(parent, child, firing, mine, dt, around)

    def _of_firing(
        self,
        parent: LayerProgram,
        child: LayerProgram,
        firing: Firing,
        happened: ParticleMoments,
        dt: float,
        around: TickContext,
    ) -> None:
        source, layer = child.layer.source, child.layer.id
        assert isinstance(source, OffspringSource)
        counts = _counts(source, happened)
        total, serial = int(counts.sum()), firing.serials.get(layer, 0)
        if not total:
            return
        firing.serials[layer] = serial + total
        room = min(MAX_OFFSPRING, self._room(child))
        counts -= np.minimum(counts, np.maximum(np.cumsum(counts) - room, 0))
        rows = np.repeat(np.arange(len(counts)), counts)
        birth_records = _birth_records(source, happened, parent)[rows]
        line = Line(firing_key(child.key, firing.number), serial, int(happened.firings[0]))
        pool = self._pool(layer)
        # What is born at the end of a step has the next one for itself.
        emission_offsets, positions = np.zeros(len(rows), np.float32), self._show.ways.of(firing, None)
        self._living += pool.emit(child, line, emission_offsets, dt, around, positions, total, birth_records)


def _counts(source: OffspringSource, happened: ParticleMoments) -> NDArray[np.int64]:
    """Return how many are born (M,) at each; what happens to a particle twice is left to chance each time."""
    drawn = mix.py_func(happened.identities + mix.py_func(happened.moments.view(np.uint64)))
    which, happens = (((drawn >> np.uint64(bit)) & np.uint64(0xFFFF)) / 65536.0 for bit in (8, 24))
    return drawn_counts(source, happens, which)


def _birth_records(source: OffspringSource, happened: ParticleMoments, parent: LayerProgram) -> NDArray[np.float32]:
    """Return where and how offspring of each happening is born (M, BIRTH_RECORD)."""
    many = len(happened.kinds)
    birth_records = np.ones((many, BIRTH_RECORD), np.float32)
    birth_records[:, PX : PZ + 1], birth_records[:, VX : VZ + 1] = happened.positions, happened.velocities
    if source.tint or source.grown:
        drawn = drawn_from(happened.particles, many, parent)
        bright = np.maximum(drawn.colours[:, :3].max(axis=1, keepdims=True), 1e-9)
        hue = drawn.colours[:, :3] / np.maximum(bright, 1.0)
        birth_records[:, GIVEN : GIVEN + 3] = 1 + np.float32(source.tint) * (hue - 1)
        if source.grown:
            birth_records[:, GIVEN + 3] = drawn.sizes / np.float32(max(parent.layer.size.ends[1], 1e-9))
    return birth_records
