"""Where textures come from: the project's own, those that come with the program, those the user brought in."""

from __future__ import annotations

import io
from pathlib import Path
from typing import TYPE_CHECKING

from PIL import Image

from wraithon.errors import RenderError
from wraithon.picture.making.importing import cleared
from wraithon.picture.solid.piece_shelf import PieceShelf
from wraithon.picture.textures import decoded, read_texture, texture_bytes
from wraithon.places import texture_folder
from wraithon.project.files import write_atomic
from wraithon.project.findings import inside

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

__all__ = ["ENDINGS", "SHIPPED", "TextureShelf"]

SHIPPED = Path(__file__).parent / "sprites"
ENDINGS = frozenset({".png", ".jpg", ".jpeg", ".webp"})
"""Endings of pictures that can be textures."""


class TextureShelf:
    """The textures a project may use, by file name.

    Parameters
    ----------
    folder
        The project's folder; None for one that is not saved yet.
    """

    def __init__(self, folder: Path | None) -> None:
        self._places = [*([folder / "textures"] if folder else []), SHIPPED, texture_folder()]
        self.pieces = PieceShelf(folder)
        """The shapes a project may use."""

    def names(self) -> list[str]:
        """Return all names there are, in order of the alphabet."""
        found: set[str] = set()
        for place in self._places:
            if place.is_dir():
                found.update(p.name for p in place.iterdir() if p.suffix.lower() in ENDINGS)
        return sorted(found)

    def path(self, name: str) -> Path | None:
        """Return the file of a texture, or None when there is none of that name."""
        if not inside(name):
            return None
        return next((place / name for place in self._places if (place / name).is_file()), None)

    def keep(self, path: Path) -> str:
        """Copy a picture into the user's own textures, a plain background made clear; return its name there.

        One that is there already is found again; one of a name that is taken gets a number.

        Raises
        ------
        wraithon.errors.WraithonError
            When it cannot be read, or not be written.
        """
        data = texture_bytes(path)
        picture = decoded(data, path.name)
        mended = cleared(picture)
        if mended is not picture:
            out = io.BytesIO()
            Image.fromarray(mended).save(out, "PNG")
            data, path = out.getvalue(), path.with_suffix(".png")
        return self.put(path, data)

    def put(self, path: Path, data: bytes) -> str:
        """Put a picture's bytes among the user's own textures, called as a path is; return its name there.

        Raises
        ------
        wraithon.errors.WraithonError
            When it cannot be written.
        """
        wanted = path.name.encode(errors="replace").decode().replace(":", " ")
        name, number = wanted, 2
        while there := self.path(name):
            if there.stat().st_size == len(data) and there.read_bytes() == data:
                return name
            name = str(Path(wanted).with_stem(f"{Path(wanted).stem} {number}"))
            number += 1
        write_atomic(self._places[-1] / name, data)
        return name

    def read(self, name: str) -> NDArray[np.uint8]:
        """Return a texture's picture (H, W, 4) uint8.

        Raises
        ------
        wraithon.errors.RenderError
            When there is none of that name, or it cannot be read.
        """
        path = self.path(name)
        if path is None:
            raise RenderError(f"{name}: there is no such texture in the project; pick another")
        return read_texture(path, path.parent.parent)
