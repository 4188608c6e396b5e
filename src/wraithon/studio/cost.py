"""What a show costs, and each layer of it: particles, time to step and to draw, and pixels laid.

The show is played as the window plays it, live, and its dearest picture found. There each layer is stepped and drawn
alone; what they take so is scaled to what they take together, so that all parts add up to the whole.
"""

from __future__ import annotations

import time
from dataclasses import dataclass, replace
from statistics import median
from typing import TYPE_CHECKING, Any, NamedTuple

from wraithon.picture.raster import RasterRenderer
from wraithon.picture.shipped import TextureShelf
from wraithon.stage.cast import with_only
from wraithon.stage.frame import frame_of
from wraithon.stage.player import Player
from wraithon.stage.sampler_shelf import SamplerShelf
from wraithon.stage.show import Show
from wraithon.studio.slices import outcome

if TYPE_CHECKING:
    from collections.abc import Callable, Collection, Generator, Mapping
    from pathlib import Path

    from wraithon.character.model import Character
    from wraithon.picture.renderer import Renderer
    from wraithon.project.project import Project
    from wraithon.stage.cast import Cast
    from wraithon.stage.copies import ShowCopy

__all__ = ["Cost", "LayerCost", "measured", "measuring", "summary"]

PICTURES = 30
"""Pictures a second that the window is to show."""
STEPS, TURNS = 6, 5
"""Steps that are timed in a row, and how often that and a drawing are repeated."""
SURE = 1.02
"""How much dearer than the dearest picture so far one has to be to take its place."""


@dataclass(frozen=True)
class LayerCost:
    """What one layer costs at the dearest moment; `most` and `refused` are of the whole time.

    Milliseconds are for one step and one picture; pixels those that its squares cover, over and over.
    """

    effect: str
    layer: str
    alive: int
    most: int
    refused: int
    step_ms: float
    draw_ms: float
    pixels: int


@dataclass(frozen=True)
class Cost:
    """What a show costs at its dearest moment, in seconds of the show, and how quickly it plays."""

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
    """How many times over the whole picture is laid with what is transparent, at the dearest moment."""


class _Dearest(NamedTuple):
    seconds: float
    held: ShowCopy
    number: int


def measuring(
    project: Project,
    characters: Mapping[str, Character],
    samplers: SamplerShelf,
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
    player = Player(project, characters, samplers)
    steps = max(1, round(player.show.rate / PICTURES))
    pictures = max(1, round(until * player.show.rate / steps))
    took: list[float] = []
    most = dict.fromkeys(player.cast.programs, 0)
    dearest: _Dearest | None = None
    for number in range(pictures):
        began = time.perf_counter()
        for _ in range(steps):
            player.step()
        renderer.draw(player.frame(), project.view, *size, live=True)
        seconds = time.perf_counter() - began
        if number:
            took.append(seconds)
        for layer, pool in player.show.pools.items():
            most[layer] = max(most.get(layer, 0), pool.count)
        # One that stalls says little: two in a row have to be as dear.
        lasting = min(seconds, took[-2]) if len(took) > 1 else 0.0
        if dearest is None or lasting > dearest.seconds * SURE:
            dearest = _Dearest(lasting, player.show.copy(), player.show.step_number)
        yield 0.6 * (number + 1) / pictures
    assert dearest is not None  # there is a picture at least
    refused = {layer: pool.refused for layer, pool in player.show.pools.items()}
    bench = _Bench(player.cast, dearest.held, renderer, size)
    step_whole, draw_whole, pixels = bench.together
    step_stage, draw_stage, _ = bench.measured(())
    alone: dict[str, tuple[float, float, int]] = {}
    counts = {layer: len(pool.columns.triangle) for layer, pool in dearest.held.pools.items()}
    living = [layer for layer, count in counts.items() if count]
    for number, layer in enumerate(living):
        alone[layer] = bench.alone(layer, (step_stage, draw_stage))
        yield 0.6 + 0.4 * (number + 1) / len(living)
    step_parts, draw_parts = (sum(each[k] for each in alone.values()) for k in (0, 1))
    step_share = max(0.0, step_whole - step_stage) / step_parts if step_parts else 0.0
    draw_share = max(0.0, draw_whole - draw_stage) / draw_parts if draw_parts else 0.0
    owners = player.cast.owners
    found = {layer: alone.get(layer, (0.0, 0.0, 0)) for layer in most}
    parts = tuple(
        LayerCost(
            player.cast.bases.get(owners[layer], owners[layer]), layer,
            counts.get(layer, 0), most[layer], refused.get(layer, 0),
            found[layer][0] * step_share * 1000, found[layer][1] * draw_share * 1000, found[layer][2],
        )
        for layer in most if most[layer] or refused.get(layer, 0)
    )  # fmt: skip
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
        layers=parts,
        frames_a_second=len(took) / sum(took) if took else 0.0,
        slowest=run / fewest if fewest else 0.0,
        overdraw=pixels / (size[0] * size[1]),
    )


def measured(
    project: Project,
    characters: Mapping[str, Character],
    folder: Path | None,
    until: float,
    size: tuple[int, int],
    tell: Callable[[float], object],
) -> Cost:
    """Measure a project in a folder from its beginning, and tell how far that is (see `measuring`)."""
    shelf = TextureShelf(folder)
    renderer = RasterRenderer(shelf.read, shelf.pieces.read)
    return outcome(measuring(project, characters, SamplerShelf(shelf.read), renderer, until, size), tell)


def summary(cost: Cost, project: Project) -> dict[str, Any]:
    """Return what was measured as plain data, the dearest layers first."""
    layers = []
    for part in sorted(cost.layers, key=lambda part: -(part.draw_ms + part.step_ms)):
        effect, found = project.effect(part.effect), project.layer(part.layer)
        layers.append({
            "effect": effect.name if effect else part.effect, "layer": found[1].name if found else part.layer,
            "look": found[1].look.kind if found else "", "alive": part.alive, "most": part.most,
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
    """Steps and draws some layers of a moment, again and again."""

    def __init__(self, cast: Cast, held: ShowCopy, renderer: Renderer, size: tuple[int, int]) -> None:
        self._cast, self._held, self._renderer, self._size = cast, held, renderer, size

    @property
    def together(self) -> tuple[float, float, int]:
        """Seconds of a step and a picture of all layers, and the pixels they lay."""
        return self.measured(self._cast.programs)

    def alone(self, layer: str, stage: tuple[float, float]) -> tuple[float, float, int]:
        """Return what a layer takes beyond the stage; of one that others bear, beyond those as well."""
        effect = self._cast.effects[self._cast.owners[layer]]
        parents = {bearer.id for bearer in effect.bearers(self._cast.programs[layer].layer)}
        step, draw, pixels = self.measured({layer, *parents})
        if parents:
            step_less, draw_less, pixels_less = self.measured(parents)
        else:
            (step_less, draw_less), pixels_less = stage, 0
        return max(step - step_less, 1e-7), max(draw - draw_less, 1e-7), max(pixels - pixels_less, 0)

    def measured(self, layers: Collection[str]) -> tuple[float, float, int]:
        """Return seconds of a step and of a picture of some layers, and the pixels that they lay."""
        cast = with_only(self._cast, layers)
        held = replace(self._held, pools={key: pool for key, pool in self._held.pools.items() if key in layers})
        show = Show(cast)
        show.restore(held)
        draws, laid = [], 0
        for _ in range(TURNS):
            began = time.perf_counter()
            picture = self._renderer.draw(frame_of(show), self._cast.project.view, *self._size, live=True)
            draws.append(time.perf_counter() - began)
            laid = picture.laid.pixels
        return _step_seconds(show, held), median(draws), laid


def _step_seconds(show: Show, held: ShowCopy) -> float:
    """Return the seconds that a step takes from a moment on."""
    steps = []
    for _ in range(TURNS):
        show.restore(held)
        began = time.perf_counter()
        for _ in range(STEPS):
            show.advance()
        steps.append((time.perf_counter() - began) / STEPS)
    return median(steps)
