"""Surveys: one firing of an effect, for how far it reaches and how often it lays the picture over."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wraithon.picture.raster import RasterRenderer
from wraithon.project.checks.finding import Change, Finding, Level, Remedy
from wraithon.project.effect import EffectBounds
from wraithon.project.look import Facing, SpriteLook
from wraithon.project.project import ClipRun
from wraithon.project.source import OffspringSource
from wraithon.project.things import anchor_for
from wraithon.stage.compiled_project import compile_project
from wraithon.stage.frame import batches_of, frame_of
from wraithon.stage.sampler_cache import SamplerCache
from wraithon.stage.show import Show
from wraithon.studio.audition import AuditionWish, next_moment, position_of, starting_events
from wraithon.studio.slices import outcome

if TYPE_CHECKING:
    from collections.abc import Generator, Mapping

    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.picture.renderer import Renderer
    from wraithon.picture.shipped import TextureLibrary
    from wraithon.project.base import Vec3
    from wraithon.project.effect import Effect, Layer
    from wraithon.project.project import Project, View


MAX_OVER = 3.0
"""Times that a picture may be laid over before that is told."""
LONGEST, ENDLESS = 8.0, 4.0
"""Seconds that a firing is followed at most: one that ends, and one that does not."""
LOOKS, SIZE = 9, (320, 180)
"""Steps from one look at the picture to the next, and its pixels, wide and high."""
MAX_WORK = 24e6
"""Work that all surveys of a project may take together, in particles that are stepped; one alone a quarter of it."""
STEP_WORK, DRAW_WORK, PIXELS = 400.0, 60_000.0, 40.0
"""What a step takes for each layer, and a picture, in such particles; and pixels that take as long as one."""
SLACK = 0.001
"""Metres that bounds may be left by."""
SPARE = 0.9
"""Share of what is allowed that what is mended keeps to."""
NEARER = 2.0
"""How many times nearer than the view's distance what is drawn may be, where that is guessed."""
FILMS, SIDES = frozenset({"shell", "afterimage"}), 2
"""Looks that may lie over the whole picture, and how many times."""
AXES = (("to the right", "to the left"), ("downwards", "upwards"), ("backwards", "ahead"))


@dataclass(frozen=True)
class Survey:
    """What one firing of an effect was seen to do."""

    effect: Effect
    """The effect as it was."""
    low: Vec3 | None
    high: Vec3 | None
    """Corners of the box it stayed within (see `EffectBounds`); None where nothing was seen."""
    over: float
    """The highest overdraw: how many times over the picture is drawn."""
    moment: float
    """Seconds of the firing when that is."""


def surveying(
    effect: Effect,
    project: Project,
    characters: Mapping[str, Character],
    samplers: SamplerCache,
    renderer: Renderer | None = None,
) -> Generator[float, None, Survey]:
    """Fire an effect once, where and when its first trigger would, and look at it step by step.

    It yields how much was done for each step, in particles.

    Parameters
    ----------
    effect
        The effect; it need not be the project's.
    project, characters, samplers
        What it is fired in, as a player takes it.
    renderer
        Draws it from the project's view, for how often the picture is laid over; None leaves that out.
    """
    alone = _with_its_clip(project, effect.id).evolve(effects=(effect,), triggers=(), presets=())
    compiled = compile_project(alone, characters, samplers)
    show = Show(compiled)
    moment = next_moment(project, compiled.performance, effect.id, 0.0) if compiled.performance is not None else None
    show.step_number = round((moment or 0.0) * show.rate)
    anchor, follow = position_of(project, AuditionWish(effect.id, anchor_for(project, effect.id)))
    fired = compiled.effects[effect.id]
    show.start(fired, anchor, show.time, follow=follow)
    ends = [compiled.ends[layer.id] for layer in fired.layers if layer.id in compiled.ends]
    endless = math.isinf(max(ends, default=0.0))
    origin = show.anchor_at(anchor, show.step_number)[:3, 3].astype(np.float64)
    low, high = np.full(3, np.inf), np.full(3, -np.inf)
    worst = (0.0, 0.0)
    for step in range(round((ENDLESS if endless else LONGEST) * show.rate)):
        show.advance()
        if endless:
            origin = show.anchor_at(anchor, show.step_number)[:3, 3].astype(np.float64)
        _widen(show, origin, low, high)
        done = show.alive + STEP_WORK * (1 + len(show.pools))
        if renderer is not None and step % LOOKS == 0 and show.alive:
            picture = renderer.draw(frame_of(show), project.view, *SIZE)
            over = picture.coverage.pixels / (SIZE[0] * SIZE[1])
            worst = (over, step / show.rate) if over > worst[0] else worst
            done += DRAW_WORK + picture.coverage.pixels / PIXELS
        yield done
        if not show.firings:
            break
    found = bool((low <= high).all())
    return Survey(effect, _corner(low) if found else None, _corner(high) if found else None, *worst)


def _with_its_clip(project: Project, effect_id: str) -> Project:
    """Return a project that plays a clip with the event that starts an effect, if its own order has none of these."""
    use, waited = project.character, starting_events(project, effect_id)
    clips = [clip.name for clip in use.clips if any(mark.event in waited for mark in clip.marks)] if use else []
    if not clips or any(clip_run.clip in clips for clip_run in project.stage.order):
        return project
    return project.evolve(stage=project.stage.evolve(order=(ClipRun(clip=clips[0]),)))


def _widen(show: Show, origin: NDArray[np.float64], low: NDArray[np.float64], high: NDArray[np.float64]) -> None:
    """Widen corners to hold what is seen at a moment."""
    for batch in batches_of(show):
        positions, halves = batch.reach()
        near, far = positions - halves, positions + halves
        whole = np.isfinite(near).all(axis=1) & np.isfinite(far).all(axis=1)
        if whole.any():
            np.minimum(low, near[whole].min(axis=0) - origin, out=low)
            np.maximum(high, far[whole].max(axis=0) - origin, out=high)


def _corner(values: NDArray[np.float64]) -> Vec3:
    x, y, z = (float(value) for value in np.clip(np.round(values, 4), -1e6, 1e6))
    return x, y, z


def surveyed(
    effect: Effect,
    project: Project,
    characters: Mapping[str, Character],
    samplers: SamplerCache,
    renderer: Renderer | None = None,
) -> Survey:
    """Return what one firing of an effect does, all at once (see `surveying`)."""
    return outcome(surveying(effect, project, characters, samplers, renderer))


# ---- findings -------------------------------------------------------------------------------------


def survey_findings(survey: Survey) -> list[Finding]:
    """Return what a survey has to tell."""
    effect, here = survey.effect, f'effect "{survey.effect.name}"'
    found = []
    out = _beyond(effect.bounds, survey)
    if out is not None and effect.bounds is not None:
        text = f"its bounds are smaller than it: a firing reaches {out[0]:.2f} m beyond them {out[1]}"
        value = effect.bounds.evolve(low=survey.low, high=survey.high)
        remedy = Remedy("Bounds as measured", (Change("effect", effect.id, "bounds", value),))
        found.append(Finding(Level.WARNING, here, text, effect.id, remedy))
    if survey.over > MAX_OVER:
        text = (
            f"{survey.moment:.2f} s after it is fired overdraw is {survey.over:.1f}, more than {MAX_OVER:g}: fewer or"
            " smaller sprites, or pictures with less air around them, would be quicker"
        )
        amount = effect.masters.amount * MAX_OVER / survey.over * SPARE
        change = Change("effect", effect.id, "masters.amount", round(amount, 4))
        fewer = any(layer.look.kind in {"sprite", "ribbon"} for layer in effect.layers if not layer.disabled)
        remedy_of = Remedy(f"Bear {MAX_OVER / survey.over * SPARE:.0%} as many", (change,)) if fewer else None
        found.append(Finding(Level.WARNING, here, text, effect.id, remedy_of))
    return found


def fired_findings(project: Project, characters: Mapping[str, Character], library: TextureLibrary) -> list[Finding]:
    """Return what firings of a project's effects have to tell, of those that may have something to.

    Together they may take so much work and no more; which were left out is told.
    """
    samplers, renderer = SamplerCache(library.read), RasterRenderer(library.read, library.pieces.read)
    found: list[Finding] = []
    left, left_out = MAX_WORK, 0
    for effect in project.effects:
        if not worth_surveying(effect, project.view):
            continue
        survey, done = _within(surveying(effect, project, characters, samplers, renderer), min(left, MAX_WORK / 4))
        left -= done
        left_out += survey is None
        found += survey_findings(survey) if survey is not None else ()
    if left_out:
        text = (
            f"{left_out} of {len(project.effects)} effects were not fired to be looked at: that would take more than"
            f" {MAX_WORK / 1e6:g} million particle steps; lower their births or the step rate, or look at each in the"
            " window"
        )
        found.append(Finding(Level.WARNING, "effects", text))
    return found


def _within(work: Generator[float, None, Survey], maximum: float) -> tuple[Survey | None, float]:
    """Return what a survey finds and the work that takes; nothing where it is more than so much."""
    done = 0.0
    while done < maximum:
        try:
            done += next(work)
        except StopIteration as over:
            survey: Survey = over.value
            return survey, done
    work.close()
    return None, done


def worth_surveying(effect: Effect, view: View) -> bool:
    """Return whether a survey may have something to tell: bounds are fixed, or much may be laid over the picture.

    The latter is guessed from above: all that may live at once, as large as it gets, at half the view's distance.
    """
    if effect.bounds is not None:
        return True
    high = view.metres_high / NEARER
    films = sum(layer.look.kind in FILMS for layer in effect.layers)
    squares = sum(_square(layer, effect) for layer in effect.layers) * effect.masters.amount * effect.masters.size**2
    return films * SIDES + squares / (high * high * SIZE[0] / SIZE[1]) > MAX_OVER


def _square(layer: Layer, effect: Effect) -> float:
    """Return the square metres that a layer's particles have at most, all together."""
    life = max((y for _, y in layer.size.life.points), default=1.0) if layer.size.life else 1.0
    width, tall = layer.size.ends[1] * max(life, 1.0), max(layer.stretch.ends[1], 1.0)
    if isinstance(layer.look, SpriteLook) and layer.look.facing is Facing.VELOCITY and width > 0:
        longer = 1 + layer.look.stretch * layer.speed.ends[1] / width
        tall = max(tall, min(longer, layer.look.longest))
    lifetime, length = layer.longest_life(effect.length), effect.length
    count = layer.emission.bound(lifetime, length)
    if not isinstance(layer.source, OffspringSource):
        count = min(count, layer.emission.max_alive(lifetime, length))
    return count * width * width * tall


def _beyond(bounds: EffectBounds | None, survey: Survey) -> tuple[float, str] | None:
    """Return by how many metres a firing leaves bounds, and where most; None where it does not."""
    if bounds is None or survey.low is None or survey.high is None:
        return None
    low, high = bounds.with_margin
    by = [(low[k] - survey.low[k], AXES[k][0]) for k in range(3)]
    by += [(survey.high[k] - high[k], AXES[k][1]) for k in range(3)]
    maximum = max(by)
    return maximum if maximum[0] > SLACK else None
