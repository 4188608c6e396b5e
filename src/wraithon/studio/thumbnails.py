"""Small pictures of effects by themselves, made by playing them."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.particles.columns import PX, PZ
from wraithon.project.life import Attribute
from wraithon.project.project import Stage, View
from wraithon.project.source import LineSource, SkinSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.player import Player

if TYPE_CHECKING:
    from collections.abc import Mapping

    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.picture.renderer import Renderer
    from wraithon.project.effect import Effect, Layer
    from wraithon.project.project import Project
    from wraithon.stage.sampler_cache import SamplerCache


SIZE = (168, 112)
MOMENTS = (0.07, 0.17, 0.4, 0.9)
"""Seconds after its beginning at which an effect is looked at."""
NEAR = View(azimuth=24, elevation=20, follow=False)
WHOLE = View(target=(0.0, 0.85, 0.0), azimuth=24, elevation=8, distance=2.9, follow=False)
WORN = frozenset({"shell", "afterimage", "ribbon"})
NEAREST, FARTHEST = 0.6, 4.0


def thumbnail(
    effect: Effect,
    project: Project,
    characters: Mapping[str, Character],
    samplers: SamplerCache,
    renderer: Renderer,
    size: tuple[int, int] = SIZE,
) -> NDArray[np.uint8]:
    """Return a picture (H, W, 4) of an effect alone at the moment when most of it is seen; for the engine thread.

    The character is on stage where the effect is born on her, or has to be moved to be seen: then it is fired at her
    first anchor.
    """
    worn = any(isinstance(layer.source, SkinSource) or layer.look.kind in WORN for layer in effect.layers)
    use = project.character if worn else None
    anchors = [anchor.id for anchor in use.anchors] if use else []
    layers = (_between(layer, anchors[-1] if anchors else None) for layer in effect.layers)
    effect = effect.evolve(layers=tuple(layers), masters=effect.masters)
    step = StartEffect(effect=effect.id, anchor=anchors[0] if anchors else None)
    alone = project.evolve(
        effects=(effect,),
        triggers=(Trigger(when=AtStart(), response=(step,)),),
        characters=(use,) if use else (),
        stage=project.stage.evolve(ground="plain") if use else Stage(ground="plain"),
        presets=(),
    )
    player = Player(alone, characters if use else {}, samplers, partial=True)
    best, maximum = None, -1.0
    nothing = frozenset(layer.id for layer in effect.layers)
    for moment in MOMENTS:
        player.seek(moment)
        view = _around(player, _whole(player, size) if use else _near(player))
        picture = renderer.draw(player.frame(), view, *size).pixels.copy()
        bare = renderer.draw(player.frame(nothing), view, *size).pixels
        shown = float(np.abs(picture[..., :3].astype(np.int32) - bare[..., :3]).sum())
        if shown > maximum:
            best, maximum = picture, shown
    assert best is not None  # there are moments
    return best


def _between(layer: Layer, anchor: str | None) -> Layer:
    """Return a layer whose line has another end."""
    source = layer.source
    if isinstance(source, LineSource) and source.to is None:
        return layer.evolve(source=source.evolve(to=anchor))
    return layer


def _whole(player: Player, size: tuple[int, int]) -> View:
    """Return a view that holds all of the character."""
    frame = player.frame()
    if frame.body is None:
        return WHOLE
    positions = frame.body.positions - np.array(frame.centre, np.float32)
    low, high = (
        np.nan_to_num(end, posinf=FARTHEST, neginf=-FARTHEST)
        for end in (positions.min(axis=0), positions.max(axis=0))
    )
    return WHOLE.around(low.tolist(), high.tolist(), size[0] / size[1]).evolve(follow=False)


def _near(player: Player) -> View:
    """Return a view that holds most of what lives."""
    positions = [pool.columns.state[PX : PZ + 1, : pool.count].T for pool in player.show.pools.values() if pool.count]
    sizes = [program.layer.size.ends[1] for program in player.compiled.programs.values()]
    if not positions:
        return NEAR.evolve(target=(0.0, 0.2, 0.0), distance=1.5)
    every = np.concatenate(positions).astype(np.float64)
    middle = np.median(every, axis=0)
    reach = float(np.percentile(np.linalg.norm(every - middle, axis=1), 80)) + max(sizes, default=0.0) / 2
    x, y, z = (float(value) for value in np.clip(middle, -FARTHEST, FARTHEST))
    return NEAR.evolve(target=(x, y, z), distance=min(max(2.3 * reach, NEAREST), FARTHEST))


def _around(player: Player, view: View) -> View:
    """Return a view from where the character stands."""
    centre = player.frame().centre
    return view.evolve(target=tuple(a + b for a, b in zip(view.target, centre, strict=True)))


def with_parents(effect: Effect, layer: Layer) -> tuple[Layer, ...]:
    """Return a layer with those of its effect that bear it, unseen; whether it is left out does not matter."""
    unseen = {"disabled": False, "intensity": Attribute.of(0.0), "opacity": Attribute.of(0.0)}
    return (*(emitter.evolve(**unseen) for emitter in reversed(effect.emitters(layer))), layer.evolve(disabled=False))
