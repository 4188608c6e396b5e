"""Measures the live picture against an earlier commit: both draw the same moments in turn, pass by pass.

Run as `.venv/bin/python scripts/measure_picture.py [COMMIT]`. Prints how many times quicker each pass is, and
how far the pictures are apart. `WRAITHON_EARLIER` may name a folder that holds the commit already.
"""

from __future__ import annotations

import json
import statistics
import sys
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
from earlier import FIRST, HERE, earlier, running

ROUNDS, TURNS = 15, 6
GROUPS = {
    "sprites": ("place sprites", "lay sprites"),
    "opaque pass": ("raster", "triangles", "shadow", "tick_context", "shade", "body"),
    "finish": ("finish",),
}

PROBE = r"""
scenes = {}
library = TextureLibrary(demo.folder)
for name, project, moment in (
    ("quiet", demo.project, 1.2), ("strike", demo.project, 2.95), ("20,000", crowd(20_000), 3.2),
    ("50,000", crowd(50_000), 3.2),
):
    player = Player(project, demo.characters, SamplerCache(library.read))
    player.seek(moment)
    renderer = Renderer(library.read)
    renderer._budget = math.inf
    scenes[name] = renderer, player.frame(), project.view, player.show.alive
def draw(name, live=True):
    renderer, frame, view, _ = scenes[name]
    return renderer.draw(frame, view, 588, 598, live=live)
for name in scenes:
    for live in (False, True):
        np.save(f"{sys.argv[1]}/{name}-{live}.npy", draw(name, live).pixels)
print(json.dumps({name: scene[3] for name, scene in scenes.items()}), flush=True)
for line in sys.stdin:
    name, turns = json.loads(line)
    found = []
    for _ in range(turns):
        found.append(draw(name).seconds)
    print(json.dumps({key: min(each[key] for each in found) for key in found[0]}), flush=True)
"""


class Probe:
    """A process that draws with one tree's program, when it is told to."""

    def __init__(self, tree: Path, out: Path) -> None:
        out.mkdir()
        self.out = out
        self._process = running(tree, PROBE, str(out), talking=True)
        self.living: dict[str, int] = self._read()

    def _read(self) -> Any:
        assert self._process.stdout is not None
        line = self._process.stdout.readline()
        if not line:
            sys.exit("a tree could not draw")
        return json.loads(line)

    def draw(self, scene: str) -> dict[str, float]:
        """Return the least seconds of each pass of some turns, by group."""
        assert self._process.stdin is not None
        self._process.stdin.write(json.dumps([scene, TURNS]) + "\n")
        self._process.stdin.flush()
        passes: dict[str, float] = self._read()
        groups = {name: sum(passes.get(key, 0) for key in keys) for name, keys in GROUPS.items()}
        return {"all": sum(passes.values()), **groups, **{f"  {key}": value for key, value in passes.items()}}

    def end(self) -> None:
        """Let it go."""
        assert self._process.stdin is not None
        self._process.stdin.close()
        self._process.wait()


def _apart(one: Path, two: Path) -> str:
    text = []
    for path in sorted(one.glob("*.npy")):
        gap = np.abs(np.load(path).astype(int) - np.load(two / path.name))
        text.append(f"{path.stem} {gap.max()} ({(gap > 0).mean():.2%} of bytes differ)")
    return "\n  ".join(text)


def main() -> None:
    """Print the figures."""
    commit = sys.argv[1] if len(sys.argv) > 1 else FIRST
    with earlier(commit) as tree, tempfile.TemporaryDirectory() as folder:
        before, now = Probe(tree, Path(folder) / "before"), Probe(HERE, Path(folder) / "now")
        for scene, living in now.living.items():
            rounds = [(before.draw(scene), now.draw(scene)) for _ in range(ROUNDS)]
            print(f"{scene}: {living} alive")
            for name in rounds[0][1]:
                was = statistics.median(old.get(name, 0) for old, _ in rounds)
                here = statistics.median(new[name] for _, new in rounds)
                times = statistics.median(old.get(name, 0) / max(new[name], 1e-9) for old, new in rounds)
                print(f"  {name:16} {1000 * was:6.2f} -> {1000 * here:6.2f} ms, {times:4.2f} times quicker")
        before.end()
        now.end()
        print("largest difference of a level, 0 to 255:\n  " + _apart(before.out, now.out))


if __name__ == "__main__":
    main()
