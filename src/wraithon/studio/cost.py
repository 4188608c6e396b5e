"""What a show costs, and each layer of it: particles, time to step and to draw, and pixels.

The show is played as the window plays it, live, and its most expensive frame found by what is done in each:
particles stepped, pixels covered, calls made. So it is the same each time, on any machine. There each layer is
stepped and drawn alone, several times in turns with all others, and the least of it counts: what else a machine does
only adds. What they take so is scaled to what they take together, so that all parts add up to the whole.
"""

from __future__ import annotations

import time
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any, NamedTuple

from wraithon.picture.raster import RasterRenderer
from wraithon.picture.shipped import TextureLibrary
from wraithon.stage.compiled_project import with_only
from wraithon.stage.frame import frame_of
from wraithon.stage.player import Player
from wraithon.stage.sampler_cache import SamplerCache
from wraithon.stage.show import Show
from wraithon.studio.slices import outcome

if TYPE_CHECKING:
    from collections.abc import Callable, Generator, Iterator, Mapping, Sequence
    from pathlib import Path

    from wraithon.character.model import Character
    from wraithon.picture.renderer import Picture, Renderer
    from wraithon.project.project import Project
    from wraithon.stage.compiled_project import CompiledProject
    from wraithon.stage.copies import ShowCopy


PICTURES = 30
"""Pictures a second that the window is to show."""
STEPS, TURNS = 6, 7
"""Steps that are timed in a row, and how often that and a drawing are repeated."""
PARTICLE, PIXEL, CALL, FILM = 100.0, 2.0, 60_000.0, 1_500_000.0
"""Nanoseconds, about, of a particle in a picture and its steps, of a pixel, of what is done once a layer, and of a
shell or an afterimage. They weigh frames against each other; what is told is timed."""


@dataclass(frozen=True)
class LayerCost:
    """What one layer costs at the most expensive frame; `maximum` and `refused` are of the whole time.

    Milliseconds are for one step and one picture; pixels those that its squares cover, over and over.
    """

    effect: str
    layer: str
    alive: int
    maximum: int
    refused: int
    step_ms: float
    draw_ms: float
    pixels: int

    def plus(self, other: LayerCost) -> LayerCost:
        """Return what it costs together with another variant of the same layer."""
        return replace(
            self, alive=self.alive + other.alive, maximum=self.maximum + other.maximum,
            refused=self.refused + other.refused,
            step_ms=self.step_ms + other.step_ms, draw_ms=self.draw_ms + other.draw_ms,
            pixels=self.pixels + other.pixels,
        )  # fmt: skip


@dataclass(frozen=True)
class Cost:
    """What a show costs at its most expensive frame, in seconds of the show, and how quickly it plays."""

    moment: float
    alive: int
    refused: int
    step_ms: float
    draw_ms: float
    pixels: int
    stage_step_ms: float
    """What a step takes without any layer: the character's pose."""
    stage_draw_ms: float
    """What a picture takes without any layer: character, ground and finish."""
    layers: tuple[LayerCost, ...]
    frames_a_second: float
    """Pictures a second that the live path reaches on average."""
    slowest: float
    """Pictures a second in the second that is slowest."""
    overdraw: float = 0.0
    """Overdraw at the most expensive frame: how often a pixel is drawn by what is transparent, on average."""


MAX_FILMS = 32
"""Shells and afterimages that are drawn at once, about."""


class _Dearest(NamedTuple):
    work: float
    copy: ShowCopy
    number: int


def work_of(show: Show, picture: Picture) -> float:
    """Return how much is done for a picture of a show, in nanoseconds, about; the same each time it is asked."""
    living = [(show.compiled.programs[layer], pool.count) for layer, pool in show.pools.items() if pool.count]
    films = sum(count for program, count in living if program.layer.look.kind in {"shell", "afterimage"})
    alive = sum(count for _, count in living)
    return PARTICLE * alive + PIXEL * picture.coverage.pixels + CALL * len(living) + FILM * min(films, MAX_FILMS)


def measuring(
    project: Project,
    characters: Mapping[str, Character],
    samplers: SamplerCache,
    renderer: Renderer,
    until: float,
    size: tuple[int, int],
) -> Generator[float, None, Cost]:
    """Measure a show from its beginning; for the engine thread.

    Parameters
    ----------
    project, characters, samplers
        What is played, as a player takes it.
    renderer
        What draws it; its own, since the sharpness of live pictures is measured with it.
    until
        Seconds of the show.
    size
        Pixels of the picture, wide and high.

    Yields
    ------
    float
        The share of the work that is done.
    """
    player = Player(project, characters, samplers, partial=True)
    steps = max(1, round(player.show.rate / PICTURES))
    pictures = max(1, round(until * player.show.rate / steps))
    took: list[float] = []
    maximum = dict.fromkeys(player.compiled.programs, 0)
    dearest: _Dearest | None = None
    for number in range(pictures):
        began = time.perf_counter()
        for _ in range(steps):
            player.step()
        picture = renderer.draw(player.frame(), project.view, *size, live=True)
        if number:
            took.append(time.perf_counter() - began)
        for layer, pool in player.show.pools.items():
            maximum[layer] = max(maximum.get(layer, 0), pool.count)
        work = work_of(player.show, picture)
        if dearest is None or work > dearest.work:
            dearest = _Dearest(work, player.show.copy(), player.show.step_number)
        yield 0.6 * (number + 1) / pictures
    assert dearest is not None  # there is a picture at least
    refused = {layer: pool.refused for layer, pool in player.show.pools.items()}
    counts = {layer: len(pool.columns.triangle) for layer, pool in dearest.copy.pools.items()}
    living = [layer for layer, count in counts.items() if count]
    bench = _Bench(player.compiled, dearest.copy, renderer, size)
    yield from bench.measure(living, lambda share: 0.6 + 0.4 * share)
    step_whole, draw_whole, pixels = bench.minimum_of(bench.everything)
    step_stage, draw_stage, _ = bench.minimum_of(frozenset())
    alone = {layer: bench.alone(layer) for layer in living}
    step_parts, draw_parts = (sum(each[k] for each in alone.values()) for k in (0, 1))
    step_share = max(0.0, step_whole - step_stage) / step_parts if step_parts else 0.0
    draw_share = max(0.0, draw_whole - draw_stage) / draw_parts if draw_parts else 0.0
    parts: dict[str, LayerCost] = {}
    for layer, effect in _sources(player.compiled).items():
        if not maximum.get(layer, 0) and not refused.get(layer, 0):
            continue
        step, draw, drawn = alone.get(layer, (0.0, 0.0, 0))
        part = LayerCost(
            effect, layer.partition("~")[0], counts.get(layer, 0), maximum[layer], refused.get(layer, 0),
            step * step_share * 1000, draw * draw_share * 1000, drawn,
        )  # fmt: skip
        parts[part.layer] = parts[part.layer].plus(part) if part.layer in parts else part
    run = max(1, min(len(took), PICTURES))
    spans = [sum(took[k : k + run]) for k in range(max(1, len(took) - run + 1))] or [0.0]
    fewest = max(spans)
    return Cost(
        moment=dearest.number / player.show.rate,
        alive=sum(counts.values()),
        refused=player.show.refused,
        step_ms=step_whole * 1000,
        draw_ms=draw_whole * 1000,
        pixels=pixels,
        stage_step_ms=step_stage * 1000,
        stage_draw_ms=draw_stage * 1000,
        layers=tuple(parts.values()),
        frames_a_second=len(took) / sum(took) if took else 0.0,
        slowest=run / fewest if fewest else 0.0,
        overdraw=pixels / (size[0] * size[1]),
    )


def _sources(compiled: CompiledProject) -> dict[str, str]:
    """Return the id of each layer that is played, and that of the project's effect it is of."""
    return {layer: compiled.bases.get(effect, effect) for layer, effect in compiled.owners.items()}


def measured(
    project: Project,
    characters: Mapping[str, Character],
    folder: Path | None,
    until: float,
    size: tuple[int, int],
    report: Callable[[float], object],
) -> Cost:
    """Measure a project in a folder from its beginning, and tell how far that is (see `measuring`)."""
    library = TextureLibrary(folder)
    renderer = RasterRenderer(library.read, library.pieces.read)
    return outcome(measuring(project, characters, SamplerCache(library.read), renderer, until, size), report)


def summary(cost: Cost, project: Project) -> dict[str, Any]:
    """Return what was measured as plain data, the most expensive layers first."""
    layers = []
    for part in sorted(cost.layers, key=lambda part: -(part.draw_ms + part.step_ms)):
        effect, found = project.effect(part.effect), project.layer(part.layer)
        layers.append({
            "effect": effect.name if effect else part.effect, "layer": found[1].name if found else part.layer,
            "look": found[1].look.kind if found else "", "alive": part.alive, "most": part.maximum,
            "refused": part.refused, "step_ms": round(part.step_ms, 4), "draw_ms": round(part.draw_ms, 4),
            "pixels": part.pixels,
        })  # fmt: skip
    return {
        "moment": round(cost.moment, 4), "alive": cost.alive, "refused": cost.refused,
        "step_ms": round(cost.step_ms, 4), "draw_ms": round(cost.draw_ms, 4), "pixels": cost.pixels,
        "stage_step_ms": round(cost.stage_step_ms, 4), "stage_draw_ms": round(cost.stage_draw_ms, 4),
        "frames_a_second": round(cost.frames_a_second, 2), "slowest_second": round(cost.slowest, 2),
        "overdraw": round(cost.overdraw, 3), "layers": layers,
    }  # fmt: skip


class _Bench:
    """Steps and draws some layers of a moment, again and again.

    All take turns, so that a machine that gets slower or quicker meanwhile does so for all of them.
    """

    def __init__(self, compiled: CompiledProject, copy: ShowCopy, renderer: Renderer, size: tuple[int, int]) -> None:
        self._compiled, self._copy, self._renderer, self._size = compiled, copy, renderer, size
        self.everything = frozenset(compiled.programs)
        self._turns: dict[frozenset[str], list[tuple[float, float, int]]] = {}

    def _emitters(self, layer: str) -> frozenset[str]:
        """Return the layers without which one is not born."""
        effect = self._compiled.effects[self._compiled.owners[layer]]
        return frozenset(emitter.id for emitter in effect.emitters(self._compiled.programs[layer].layer))

    def measure(self, layers: Sequence[str], share: Callable[[float], float]) -> Iterator[float]:
        """Measure all together, none, and each of some layers, and yield how far that is."""
        wanted = dict.fromkeys([self.everything, frozenset()])
        for layer in layers:
            emitters = self._emitters(layer)
            wanted |= dict.fromkeys([emitters, emitters | {layer}])
        done, whole = 0, TURNS * len(wanted)
        for _ in range(TURNS):
            for some in wanted:
                self._turns.setdefault(some, []).append(self._turn(some))
                done += 1
                yield share(done / whole)

    def alone(self, layer: str) -> tuple[float, float, int]:
        """Return what a layer takes beyond the stage; of one that others bear, beyond those as well."""
        emitters = self._emitters(layer)
        step, draw, pixels = self.minimum_of(emitters | {layer})
        step_less, draw_less, pixels_less = self.minimum_of(emitters)
        return max(step - step_less, 1e-7), max(draw - draw_less, 1e-7), max(pixels - pixels_less, 0)

    def minimum_of(self, layers: frozenset[str]) -> tuple[float, float, int]:
        """Return the least seconds of a step and of a picture of some layers, and the pixels they cover."""
        steps, draws, pixels = zip(*self._turns[layers], strict=True)
        return min(steps), min(draws), pixels[0]

    def _turn(self, layers: frozenset[str]) -> tuple[float, float, int]:
        part = replace(self._copy, pools={key: pool for key, pool in self._copy.pools.items() if key in layers})
        show = Show(with_only(self._compiled, layers))
        show.restore(part)
        began = time.perf_counter()
        picture = self._renderer.draw(frame_of(show), self._compiled.project.view, *self._size, live=True)
        drawn = time.perf_counter() - began
        show.advance()  # what is fetched once is there from then on
        show.restore(part)
        began = time.perf_counter()
        for _ in range(STEPS):
            show.advance()
        return (time.perf_counter() - began) / STEPS, drawn, picture.coverage.pixels
