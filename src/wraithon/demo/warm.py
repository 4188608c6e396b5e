"""Compiling every kernel once, so that nobody waits for it while working."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Iterator

import numpy as np

from wraithon.character.fairness import density_heat, tallies
from wraithon.character.sampler import BorderSampler
from wraithon.character.sampling import sampler_of
from wraithon.demo import DEMO_FOLDER
from wraithon.numeric.compiled import all_compiled, compiling_all, compiling_both
from wraithon.particles.few import MINIMUM
from wraithon.picture.camera import camera_of
from wraithon.picture.enlarging import enlarged
from wraithon.picture.looks.drawer import Scene, SpriteTextures
from wraithon.picture.raster import RasterRenderer
from wraithon.picture.renderer import Buffers, PassTimes
from wraithon.picture.shipped import TextureLibrary
from wraithon.picture.transparent import draw_transparent
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Emission
from wraithon.project.look import (
    SHAPES,
    AfterimageLook,
    DecalLook,
    Facing,
    Figure,
    LightLook,
    Look,
    MeshLook,
    RibbonLook,
    ShellLook,
    SpriteLook,
    Through,
)
from wraithon.project.project import Project
from wraithon.project.source import LineSource, Mode, PointSource, SkinSource, Source, Spacing
from wraithon.stage.loading import Loaded, load
from wraithon.stage.player import Player

SIZES = (3, 48, 64), (48, 64)
BESIDE = {"picture": "warm_particles", "particles": "warm_looks"}
"""Stage to what another process compiles while it and those after it last."""
STAGES = ("skin", "picture", "particles", "sprites", "looks", "places")


def warm_up(loaded: Loaded | None = None) -> Iterator[str]:
    """Run a moment of the demo through every kernel that a first picture needs.

    As long as not every kernel has been compiled once, all that are left are compiled too.

    Parameters
    ----------
    loaded
        The demo, when it has been read already.

    Yields
    ------
    str
        The name of each stage, before it begins.
    """
    loaded = loaded or load(DEMO_FOLDER)
    if all_compiled():
        yield from _first_picture(loaded)
        return
    with compiling_all():
        yield from _first_picture(loaded)
        _coarse_sprites(loaded)
        yield STAGES[4]
        _looks(loaded)
        _few()
        yield STAGES[5]
        _places(loaded)


def warm_up_by_two() -> Iterator[str]:
    """Do what `warm_up` does; another process compiles what moves particles, then their looks, this one the rest."""
    beside, needed = None, not all_compiled() and len(os.sched_getaffinity(0)) > 1
    try:
        for name in warm_up():
            if beside is not None and name in {"particles", "looks"}:
                beside.wait()  # whatever became of it: what it has not compiled is compiled now
            if needed and name in BESIDE:
                text = [sys.executable, "-c", f"from wraithon.demo import warm; warm.{BESIDE[name]}()"]
                beside = subprocess.Popen(text)  # noqa: S603  # ourselves
            yield name
    finally:
        if beside is not None and beside.poll() is None:
            beside.terminate()


def warm_particles() -> None:
    """Compile what moves particles and samples characters, beside another that compiles the picture."""
    loaded = load(DEMO_FOLDER)
    with compiling_both():
        Player(loaded.project, loaded.characters).seek(0.1)
        _few()
        _places(loaded)


def warm_looks() -> None:
    """Compile what draws the looks, beside another that compiles sprites."""
    with compiling_both():
        _looks(load(DEMO_FOLDER))


def _first_picture(loaded: Loaded) -> Iterator[str]:
    yield STAGES[0]
    player = Player(loaded.project, loaded.characters)
    player.show.posed(0)
    yield STAGES[1]
    renderer = RasterRenderer(TextureLibrary(loaded.folder).read)
    renderer.draw(player.frame(), loaded.project.view, 64, 48)
    yield STAGES[2]
    player.seek(0.1)
    yield STAGES[3]
    enlarged(renderer.draw(player.frame(), loaded.project.view, 64, 48).pixels, 80, 60)


def _coarse_sprites(loaded: Loaded) -> None:
    """Lay sprites as coarsely as live pictures may."""
    player, textures = Player(loaded.project, loaded.characters), SpriteTextures(TextureLibrary(loaded.folder).read)
    player.seek(0.1)
    frame = player.frame()
    camera, light, depth = camera_of(loaded.project.view, frame.centre), *(np.zeros(s, np.float32) for s in SIZES)
    draw_transparent(frame, Scene(camera, light, depth, textures), Buffers(), PassTimes(), 0.0)


def _looks(loaded: Loaded) -> None:
    """Draw every look that the demo's first moment does not show, each way it is drawn."""
    sweep = LineSource(to="left-fan-tip")
    looks: list[tuple[Look, Source]] = [
        (DecalLook(), PointSource()), (LightLook(), PointSource()), (MeshLook(shapes=SHAPES), PointSource()),
        (RibbonLook(), PointSource()), (RibbonLook(through=Through.PAST), PointSource()),
        (RibbonLook(through=Through.SWEEP), sweep), (SpriteLook(facing=Facing.FLAT), PointSource()),
        (ShellLook(bend=0.1, swell=0.1), PointSource()), (ShellLook(figure=Figure.SKIN), PointSource()),
        (AfterimageLook(), PointSource()),
    ]  # fmt: skip
    layers = tuple(
        Layer(name=look.kind, emission=Emission(rate=120), source=source, look=look) for look, source in looks
    )
    effect = Effect(id="looks", layers=layers)
    player = Player(loaded.project.evolve(effects=(effect,), triggers=()), loaded.characters)
    player.show.start(player.show.compiled.effects["looks"], None, 0.0)
    for _ in range(3):
        player.show.advance()
    renderer = RasterRenderer(TextureLibrary(loaded.folder).read)
    for live in (False, True):
        renderer.draw(player.frame(), loaded.project.view, 64, 48, live=live)


def _few() -> None:
    """Take many small pools a step further."""
    layers = [Layer(emission=Emission(rate=1000)) for _ in range(MINIMUM)]
    show = Player(Project(effects=(Effect(id="few", layers=tuple(layers)),)), {}).show
    show.start(show.compiled.effects["few"], None, 0.0)
    show.advance()


def _places(loaded: Loaded) -> None:
    """Run what samples characters and measures how fair that is."""
    for character in loaded.characters.values():
        for mode in Mode:
            sampler = sampler_of(character, SkinSource(mode=mode, spacing=Spacing.EVEN, pieces=40))
            density_heat(character, sampler)
            tallies(character, sampler)
        BorderSampler(sampler_of(character, SkinSource()), 8.0).within(0.4, 0.5)
