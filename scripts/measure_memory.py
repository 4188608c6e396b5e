"""Measures how much memory crowds take beyond what the same window's engine holds with nothing alive.

Run as `.venv/bin/python scripts/measure_memory.py [sprites] [ribbons]`, by how many there are of each.
"""

from __future__ import annotations

import gc
import os
import sys
from pathlib import Path

from wraithon.demo import DEMO_FOLDER
from wraithon.picture.raster import RasterRenderer
from wraithon.picture.shipped import TextureLibrary
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute
from wraithon.project.look import Blend, RibbonLook, SpriteLook, Through
from wraithon.project.motion import Curl, Drag, Motion
from wraithon.project.source import SphereSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.loading import load
from wraithon.stage.player import Player

SECONDS, SIZE = 6.0, (602, 598)
SWIRL = Motion(forces=(Drag(rate=0.5), Curl(strength=1.5, scale=0.5)))


def held() -> float:
    """Return the megabytes of this process that are in memory."""
    gc.collect()
    pages = int(Path("/proc/self/statm").read_text(encoding="ascii").split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


def crowd(count: int, look: SpriteLook | RibbonLook) -> Layer:
    """Return a layer of so many particles that live for ever."""
    return Layer(
        id=look.kind, look=look, source=SphereSource(radius=1.0), motion=SWIRL, lifetime=Attribute.of(1000),
        size=Attribute.of(0.02, 0.04), emission=Emission(bursts=(Burst(count=count),), limit=max(count, 1)),
    )  # fmt: skip


def main() -> None:
    """Play the demo's character with nothing alive, then with crowds, and print the difference."""
    sprites, ribbons = (int(word) for word in (sys.argv[1:3] + ["100000", "1000"][len(sys.argv) - 1 :]))
    demo = load(DEMO_FOLDER)
    glow = SpriteLook(texture="glow.png", blend=Blend.ADDITIVE)
    past = RibbonLook(through=Through.PAST, past=1.05)
    idle = 0.0
    for counts in ((0, 0), (sprites, ribbons)):
        layers = (crowd(counts[0], glow), crowd(counts[1], past))
        start = Trigger(when=AtStart(), response=(StartEffect(effect="crowd"),))
        effect = Effect(id="crowd", length=None, layers=layers)
        player = Player(demo.project.evolve(effects=(effect,), triggers=(start,)), demo.characters)
        renderer = RasterRenderer(TextureLibrary(DEMO_FOLDER).read)
        for step in range(int(SECONDS * 60)):
            player.step()
            if step % 30 == 0:
                renderer.draw(player.frame(), demo.project.view, *SIZE, live=True)
        now = held()
        sys.stdout.write(f"{player.show.alive:,} alive: {now:.0f} MB, {now - (idle or now):.0f} MB above nothing\n")
        idle = now


if __name__ == "__main__":
    main()
