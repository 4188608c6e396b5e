"""Where textures come from: the project's own, those that come with the program, those the user brought in."""

from __future__ import annotations

import io
from pathlib import Path
from typing import TYPE_CHECKING

from PIL import Image

from wraithon.picture.library import FileLibrary
from wraithon.picture.making.importing import cleared, guessed_sheet
from wraithon.picture.making.recipe import recipe_in
from wraithon.picture.solid.mesh_library import MeshLibrary
from wraithon.picture.textures import decoded, read_texture, texture_bytes
from wraithon.sounds import SoundLibrary
from wraithon.support.places import texture_folder

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray


SHIPPED = Path(__file__).parent / "sprites"
ENDINGS = frozenset({".png", ".jpg", ".jpeg", ".webp"})
"""Endings of pictures that can be textures."""


class TextureLibrary(FileLibrary):
    """The textures a project may use, by file name.

    Parameters
    ----------
    folder
        The project's folder; None for one that is not saved yet.
    """

    def __init__(self, folder: Path | None) -> None:
        super().__init__([*([folder / "textures"] if folder else []), SHIPPED, texture_folder()], ENDINGS)
        self.pieces = MeshLibrary(folder)
        """The shapes a project may use."""
        self.sounds = SoundLibrary(folder)
        """The sounds a project may use."""

    def keep(self, path: Path) -> str:
        """Copy a picture into the user's own textures, a plain background made clear; return its name there.

        One that is there already is found again; one of a name that is taken gets a number.

        Raises
        ------
        wraithon.support.errors.WraithonError
            When it cannot be read, or not be written.
        """
        data = texture_bytes(path)
        picture = decoded(data, path.name)
        mended = cleared(picture)
        if mended is not picture:
            out = io.BytesIO()
            Image.fromarray(mended).save(out, "PNG")
            data, path = out.getvalue(), path.with_suffix(".png")
        return self.store(path, data)

    def frames(self, name: str) -> tuple[int, int]:
        """Return into how many columns and rows a texture is cut: as it was painted here, or else as it seems.

        Raises
        ------
        wraithon.support.errors.RenderError
            When there is none of that name, or it cannot be read.
        """
        recipe = recipe_in(self.file(name, "texture"))
        return (recipe.columns, recipe.rows) if recipe is not None else guessed_sheet(self.read(name))

    def read(self, name: str) -> NDArray[np.uint8]:
        """Return a texture's picture (H, W, 4) uint8.

        Raises
        ------
        wraithon.support.errors.RenderError
            When there is none of that name, or it cannot be read.
        """
        path = self.file(name, "texture")
        return read_texture(path, path.parent.parent)
