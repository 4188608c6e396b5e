"""Where textures come from: the project's own first, then those that come with the program."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from wraithon.errors import RenderError
from wraithon.picture.textures import read_texture
from wraithon.project.findings import inside

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

__all__ = ["SHIPPED", "TextureShelf"]

SHIPPED = Path(__file__).parent / "sprites"
ENDINGS = frozenset({".png", ".jpg", ".jpeg", ".webp"})


class TextureShelf:
    """The textures a project may use, by file name.

    Parameters
    ----------
    folder
        The project's folder; None for one that is not saved yet.
    """

    def __init__(self, folder: Path | None) -> None:
        self._places = [folder / "textures", SHIPPED] if folder else [SHIPPED]

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
