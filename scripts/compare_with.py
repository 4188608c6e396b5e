"""Compares this tree with an earlier commit: particles must be the same to the bit, and pictures within two levels.

Run as `.venv/bin/python scripts/compare_with.py [COMMIT]`; the commit is checked out beside, in a folder of its own.
"""

from __future__ import annotations

import json
import sys
import tempfile
from pathlib import Path

import numpy as np
from earlier import FIRST, HERE, earlier, running
from numpy.typing import NDArray

LEVELS = 2
"""By how many of 255 levels a picture may differ."""

PROBE = r"""
kept, out = Path(sys.argv[1]), sys.argv[2]
def particles(show):
    # In the order of their identity: that in which they lie was another once.
    found = hashlib.blake2b(f"{show.step_number} {sorted(show.counts.items())}".encode())
    for layer in sorted(show.pools):
        pool = show.pools[layer]
        columns, count = getattr(pool, "columns", pool), pool.count
        order = np.argsort(columns.identity[:count])
        found.update(f"{layer} {pool.count} {pool.born} {pool.refused}".encode())
        for column in (columns.state[:, order], columns.triangle[order], columns.identity[order]):
            found.update(np.ascontiguousarray(column).tobytes())
    return found.hexdigest()
fall = demo.project.evolve(stage=demo.project.stage.evolve(order=({"clip": "fall"},)))
shows = {
    "demo": (demo.project, demo, (0.4, 1.7, 2.85, 2.95, 3.2, 4.6, 6.1)),
    "fall": (fall, demo, (0.9, 1.6)),
    "crowd": (crowd(20_000), demo, (2.9,)),
}
for folder in sorted(p for p in kept.iterdir() if p.is_dir() and p.name != "halcyon"):
    loaded = load(folder)
    shows[folder.name] = (loaded.project, loaded, (0.25, 0.7, 1.3, 2.45))
told, pictures = {}, {}
for name, (project, loaded, moments) in shows.items():
    library = TextureLibrary(loaded.folder)
    player, renderer = Player(project, loaded.characters, SamplerCache(library.read)), Renderer(library.read)
    renderer._budget = 1.2e6  # what a tree may lay at full size is no part of how it draws
    for moment in moments:
        player.seek(moment)
        told[f"{name} at {moment} s: particles"] = particles(player.show)
        near, behind = project.view.evolve(distance=1.2, elevation=40), project.view.evolve(azimuth=200, elevation=-3)
        for k, view in enumerate((project.view, near, behind)):
            for live in (False, True):
                key = f"{name} at {moment} s: view {k}{', live' if live else ''}"
                pictures[key] = renderer.draw(player.frame(), view, 301 + 64 * k, 222, live=live).pixels
np.savez(out, **pictures)
print(json.dumps(told))
"""


def probe(tree: Path, pictures: Path) -> dict[str, str]:
    """Return digests of what a tree's own program makes of the demo and of the kept projects; keep its pictures."""
    process = running(tree, PROBE, str(HERE / "tests" / "kept"), str(pictures))
    told, _ = process.communicate()
    if process.returncode:
        sys.exit("a tree could not play")
    found: dict[str, str] = json.loads(told)
    return found


def _apart(one: NDArray[np.uint8], two: NDArray[np.uint8]) -> int:
    """Return by how many levels two pictures differ, but for one pixel in 10,000.

    A pixel in between two levels of detail may go either way.
    """
    worst = np.sort(np.abs(one.astype(int) - two).max(axis=-1), axis=None)
    return int(worst[-1 - len(worst) // 10_000])


def main() -> None:
    """Print each difference, and how much was compared; exit with 1 when anything differs."""
    commit = sys.argv[1] if len(sys.argv) > 1 else FIRST
    with earlier(commit) as tree, tempfile.TemporaryDirectory() as folder:
        kept = [Path(folder) / f"{name}.npz" for name in ("before", "now")]
        before, now = probe(tree, kept[0]), probe(HERE, kept[1])
        pictures = [np.load(path) for path in kept]
        apart = {key: _apart(pictures[0][key], pictures[1][key]) for key in pictures[0].files}
    differing = [key for key in before if before[key] != now.get(key)]
    differing += [key for key, levels in apart.items() if levels > LEVELS]
    for key in differing:
        print(f"differs: {key}")
    text = f"{len(before)} moments and {len(apart)} pictures compared with {commit}"
    print(f"{text}: {len(differing)} differ, levels at most {max(apart.values())}")
    sys.exit(bool(differing))


if __name__ == "__main__":
    main()
