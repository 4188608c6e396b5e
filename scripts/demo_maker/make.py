"""Makes the demo project's folder and the shipped sprite textures again: `python -m scripts.demo_maker.make`."""

from __future__ import annotations

import sys
from pathlib import Path

from wraithon.demo import DEMO_FOLDER
from wraithon.interchange.presets import write_shipped
from wraithon.picture.making.recipe import as_png
from wraithon.picture.shipped import SHIPPED
from wraithon.project.files import save_project, write_atomic

from .dance import make_clips
from .glb import write_glb
from .paint import SPRITES, paint_part
from .presets import presets
from .project import CHARACTER_FILE, demo_project
from .sculpt import make_pieces


def character_bytes() -> bytes:
    """Return Halcyon as a .glb file."""
    pieces = make_pieces()
    textures = {piece.name: paint_part(piece, 1024 if piece.name == "body" else 512) for piece in pieces}
    return write_glb(pieces, textures, make_clips())


def make(folder: Path, textures: Path) -> None:
    """Write the demo project into `folder` and the sprite textures into `textures`."""
    write_atomic(folder / CHARACTER_FILE, character_bytes())
    for name, recipe in SPRITES.items():
        write_atomic(textures / name, as_png(recipe))
    save_project(demo_project(), folder)
    write_shipped(presets())


if __name__ == "__main__":
    make(DEMO_FOLDER, SHIPPED)
    sys.stdout.write(f"written to {DEMO_FOLDER}\n")
