"""An earlier commit of the project, checked out beside it, to compare with."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterator


FIRST = "119f004"
HERE = Path(__file__).resolve().parent.parent
PRELUDE = r"""
import hashlib, json, math, sys
from dataclasses import replace
from pathlib import Path
import numpy as np
from wraithon.demo import DEMO_FOLDER
try:
    from demo_maker.crowd import crowded_demo
except ImportError:  # where it was before
    from wraithon.demo.crowd import crowded_demo
from wraithon.project import edit
from wraithon.project.base import Model
from wraithon.stage.loading import load
from wraithon.stage.player import Player
try:
    from wraithon.picture.shipped import TextureLibrary
    from wraithon.stage.sampler_cache import SamplerCache
except ImportError:  # what earlier trees call them
    from wraithon.picture.shipped import TextureShelf as TextureLibrary
    from wraithon.stage.sampler_shelf import SamplerShelf as SamplerCache
if not hasattr(Model, "evolve"):
    Model.evolve = Model.but
with_layer = getattr(edit, "with_layer", None) or edit.put_layer
try:
    from wraithon.picture.raster import RasterRenderer as Renderer
except ImportError:
    from wraithon.picture.renderer import Renderer
demo = load(DEMO_FOLDER)
def sprites(project):  # what both trees can draw
    def kept(effect):
        sprites_only = (layer for layer in effect.layers if type(layer.look).__name__ == "SpriteLook")
        return effect.evolve(layers=tuple(sprites_only))
    return project.evolve(effects=tuple(kept(effect) for effect in project.effects))
demo = replace(demo, project=sprites(demo.project))
def crowd(living):
    project = sprites(crowded_demo(living))
    effect, glints = project.layer("plume-glints")
    size = glints.size.evolve(birth=glints.size.birth.evolve(low=0.02, high=0.04))
    return with_layer(project, effect.id, glints.evolve(size=size))
"""
"""What a program begins with that is to run in any tree, old or new."""


def running(tree: Path, program: str, *arguments: str, talking: bool = False) -> subprocess.Popen[str]:
    """Start a program with a tree's own package; it prints into a pipe, and hears from one when `talking`."""
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join([str(tree / "src"), str(tree / "scripts")])}
    command = [sys.executable, "-c", PRELUDE + program, *arguments]
    told = subprocess.PIPE if talking else None
    return subprocess.Popen(command, env=environment, cwd=tree, stdin=told, stdout=subprocess.PIPE, text=True)


@contextmanager
def earlier(commit: str) -> Iterator[Path]:
    """Check a commit out for a while; `WRAITHON_EARLIER` may name a folder that holds it already."""
    given = os.environ.get("WRAITHON_EARLIER")
    if given:
        yield Path(given)
        return
    with tempfile.TemporaryDirectory() as folder:
        tree, git = Path(folder) / "earlier", ["git", "-C", str(HERE), "worktree"]
        subprocess.run([*git, "add", "--detach", str(tree), commit], check=True, capture_output=True)
        try:
            yield tree
        finally:
            subprocess.run([*git, "remove", "--force", str(tree)], check=True, capture_output=True)
