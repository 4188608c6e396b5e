"""Where the shapes of pieces come from: the program, the project's own files, those the user brought in."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.character.reading.gltf import read_gltf
from wraithon.picture.library import FileLibrary
from wraithon.picture.solid.shapes import ParticleMesh, shape_of, shipped_shape
from wraithon.project.look import SHAPES
from wraithon.support.errors import CharacterError, RenderError
from wraithon.support.places import piece_folder
from wraithon.support.plain_files import read_plain

if TYPE_CHECKING:
    from pathlib import Path


MAX_TRIANGLES = 20_000
"""Triangles of one mesh; it is drawn many times."""
LARGEST_FILE = 64 * 2**20
ENDINGS = frozenset({".glb"})


class MeshLibrary(FileLibrary):
    """The shapes a project may use, by name: those of the program, or names of .glb files.

    Parameters
    ----------
    folder
        The project's folder; None for one that is not saved yet.
    """

    def __init__(self, folder: Path | None) -> None:
        super().__init__([*([folder / "pieces"] if folder else []), piece_folder()], ENDINGS)

    def names(self) -> list[str]:
        """Return all names there are: the program's, then files in order of the alphabet."""
        return [*SHAPES, *super().names()]

    def keep(self, path: Path) -> str:
        """Copy a file into the user's own pieces; return its name there.

        Raises
        ------
        wraithon.support.errors.WraithonError
            When it cannot be read as a shape, or not be written.
        """
        _shape_in(path)
        return self.store(path, read_plain(path, LARGEST_FILE))

    def read(self, name: str) -> ParticleMesh:
        """Return a shape.

        Raises
        ------
        wraithon.support.errors.RenderError
            When there is none of that name, or it cannot be read.
        """
        found = shipped_shape(name)
        if found is not None:
            return found
        path = self.file(name, "mesh")
        return _shape_in(path, path.parent.parent)


def _shape_in(path: Path, within: Path | None = None) -> ParticleMesh:
    try:
        character = read_gltf(path, None, within)
    except CharacterError as error:
        raise RenderError(f"{path.name}: cannot be a mesh of a look ({error})") from error
    count = len(character.mesh.triangles)
    if not 0 < count <= MAX_TRIANGLES:
        raise RenderError(f"{path.name}: {count} triangles cannot be a mesh of a look; use 1 to {MAX_TRIANGLES}")
    return shape_of(character)
