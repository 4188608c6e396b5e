"""Compares this tree with an earlier commit: digests of shows and bytes of pictures must be the same.

Run as `.venv/bin/python scripts/compare_with.py [COMMIT]`; the commit is checked out beside, in a folder of its own.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path

FIRST = "119f004"
HERE = Path(__file__).resolve().parent.parent

PROBE = r"""
import hashlib, json, sys
from pathlib import Path
from wraithon.demo import DEMO_FOLDER
from wraithon.demo.crowd import crowded_demo
from wraithon.picture.shipped import TextureShelf
from wraithon.stage.loading import load
from wraithon.stage.player import Player
from wraithon.stage.sampler_shelf import SamplerShelf
try:
    from wraithon.picture.raster import RasterRenderer as Renderer
except ImportError:
    from wraithon.picture.renderer import Renderer
kept = Path(sys.argv[1])
demo = load(DEMO_FOLDER)
fall = demo.project.but(stage=demo.project.stage.but(order=({"clip": "fall"},)))
shows = {
    "demo": (demo.project, demo, (0.4, 1.7, 2.85, 2.95, 3.2, 4.6, 6.1)),
    "fall": (fall, demo, (0.9, 1.6)),
    "crowd": (crowded_demo(20_000), demo, (2.9,)),
}
for folder in sorted(p for p in kept.iterdir() if p.is_dir() and p.name != "halcyon"):
    loaded = load(folder)
    shows[folder.name] = (loaded.project, loaded, (0.25, 0.7, 1.3, 2.45))
told = {}
for name, (project, loaded, moments) in shows.items():
    shelf = TextureShelf(loaded.folder)
    player, renderer = Player(project, loaded.characters, SamplerShelf(shelf.read)), Renderer(shelf.read)
    for moment in moments:
        player.seek(moment)
        told[f"{name} at {moment} s: digest"] = player.digest()
        near, behind = project.view.but(distance=1.2, elevation=40), project.view.but(azimuth=200, elevation=-3)
        for k, view in enumerate((project.view, near, behind)):
            for live in (False, True):
                pixels = renderer.draw(player.frame(), view, 301 + 64 * k, 222, live=live).pixels
                key = f"{name} at {moment} s: view {k}{', live' if live else ''}"
                told[key] = hashlib.blake2b(pixels.tobytes(), digest_size=12).hexdigest()
print(json.dumps(told))
"""


def probe(tree: Path) -> dict[str, str]:
    """Return what a tree's own program makes of the demo and of the kept projects."""
    environment = {**os.environ, "PYTHONPATH": str(tree / "src")}
    command = [sys.executable, "-c", PROBE, str(HERE / "tests" / "kept")]
    done = subprocess.run(command, env=environment, cwd=tree, capture_output=True, text=True, check=False)
    if done.returncode:
        sys.exit(done.stderr)
    found: dict[str, str] = json.loads(done.stdout)
    return found


def main() -> None:
    """Print each difference, and how much was compared; exit with 1 when anything differs."""
    commit = sys.argv[1] if len(sys.argv) > 1 else FIRST
    given = os.environ.get("WRAITHON_EARLIER")
    if given:
        before = probe(Path(given))
    else:
        with tempfile.TemporaryDirectory() as folder:
            tree = Path(folder) / "earlier"
            git = ["git", "-C", str(HERE), "worktree"]
            subprocess.run([*git, "add", "--detach", str(tree), commit], check=True, capture_output=True)
            try:
                before = probe(tree)
            finally:
                subprocess.run([*git, "remove", "--force", str(tree)], check=True)
    now = probe(HERE)
    differing = [key for key in before if before[key] != now.get(key)]
    for key in differing:
        print(f"differs: {key}")
    print(f"{len(before) - len(differing)} of {len(before)} are the same bytes as at {commit}")
    sys.exit(bool(differing))


if __name__ == "__main__":
    main()
