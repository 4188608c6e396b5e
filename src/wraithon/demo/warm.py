"""Compiling every kernel once, so that nobody waits for it while working."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from wraithon.demo import DEMO_FOLDER
from wraithon.picture.renderer import Renderer
from wraithon.picture.shipped import TextureShelf
from wraithon.picture.sprite_kernels import COLUMNS, coarsen
from wraithon.stage.loading import Loaded, load
from wraithon.stage.player import Player

__all__ = ["STAGES", "warm_up"]

STAGES = ("skin", "particles", "sprites", "picture")


def warm_up(report: Callable[[int, str], None], loaded: Loaded | None = None) -> None:
    """Run a moment of the demo through every kernel.

    Parameters
    ----------
    report
        Hears the number and name of each stage.
    loaded
        The demo, when it has been read already.
    """
    report(0, STAGES[0])
    loaded = loaded or load(DEMO_FOLDER)
    player = Player(loaded.project, loaded.characters)
    player.show.posed(0)
    report(1, STAGES[1])
    player.seek(0.1)
    report(2, STAGES[2])
    frame = player.frame()
    report(3, STAGES[3])
    renderer = Renderer(TextureShelf(loaded.folder).read)
    renderer.draw(frame, loaded.project.view, 64, 48)
    coarsen(np.ones((1, COLUMNS), np.float32), np.zeros(1, np.int64), np.float32(2))
