"""Project folders: saving a project with the files that it uses."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING
from urllib.parse import unquote

from wraithon.character.reading.gltf_file import GltfFile
from wraithon.errors import ProjectError
from wraithon.picture.shipped import TextureShelf
from wraithon.project.edit import pieces_of, sounds_of, textures_of
from wraithon.project.files import PROJECT_FILE, to_text
from wraithon.saving import Staging
from wraithon.sounds import SoundShelf

if TYPE_CHECKING:
    from collections.abc import Iterable

    from wraithon.picture.shelf import Shelf
    from wraithon.project.project import Project

__all__ = ["save_whole"]


def save_whole(project: Project, home: Path | None, folder: Path) -> tuple[Project, dict[str, str]]:
    """Save a project into a folder with the files it uses: all of that, or nothing.

    Parameters
    ----------
    project
        The project.
    home
        The folder its files are in now; None where it names them by their own paths.
    folder
        Where they go; made when there is none, unless it is its home.

    Returns
    -------
    Project, dict
        The project as it names its files there, and each old name with the new one.

    Raises
    ------
    wraithon.errors.ProjectError
        When a file is missing, the home is gone, or the folder cannot be written.
    """
    same = home is not None and home.resolve() == folder.resolve()
    if same and not folder.is_dir():
        raise ProjectError(f"{folder}: the folder is gone; save somewhere else")
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise ProjectError(f"{folder}: cannot be made ({error.strerror}); save somewhere else") from error
    with Staging(folder) as staging:
        bringing = _Bringing(home, folder, staging)
        changed = project if same and not _from_elsewhere(project) else bringing.bring(project)
        bringing.bring_textures(project)
        staging.write(PROJECT_FILE, to_text(changed).encode())
        staging.commit()
    return changed, bringing.renamed


def _from_elsewhere(project: Project) -> bool:
    names = [use.file for use in project.characters] + [c.file for u in project.characters for c in u.captures]
    return any(Path(name).is_absolute() for name in names)


class _Bringing:
    """Stages the files of a project."""

    def __init__(self, home: Path | None, folder: Path, staging: Staging) -> None:
        self._home, self._folder, self._staging = home, folder, staging
        self._taken: dict[str, Path] = {}
        """Names that are staged, and of which file."""
        self.renamed: dict[str, str] = {}

    def bring(self, project: Project) -> Project:
        """Stage all files; return the project as it names them."""
        uses = []
        for use in project.characters:
            source = self._brought(use.file)
            for companion in _companions(source):
                there = Path(self.renamed[use.file]).parent / companion.relative_to(source.parent)
                self._copy(companion, there.as_posix())
            for capture in use.captures:
                self._brought(capture.file)
            captures = tuple(capture.but(file=self.renamed[capture.file]) for capture in use.captures)
            uses.append(use.but(file=self.renamed[use.file], captures=captures))
        for kind in ("textures", "pieces", "sounds"):
            if self._home is not None and (self._home / kind).is_dir():
                for file in sorted((self._home / kind).iterdir()):
                    if file.is_file():
                        self._copy(file, f"{kind}/{file.name}")
        return project.but(characters=tuple(uses))

    def bring_textures(self, project: Project) -> None:
        """Stage those of the user's own pictures, pieces and sounds that the project names."""
        textures = TextureShelf(self._home)
        wanted: tuple[tuple[str, Shelf, Iterable[str]], ...] = (
            ("textures", textures, textures_of(project)), ("pieces", textures.pieces, pieces_of(project)),
            ("sounds", SoundShelf(self._home), sounds_of(project)),
        )  # fmt: skip
        for kind, shelf, names in wanted:
            for name in names:
                path = shelf.path(name)
                if path is not None and path.parent == shelf.own:
                    self._copy(path, f"{kind}/{name}")

    def _brought(self, name: str) -> Path:
        """Stage a file of a character; return where it was."""
        source = (self._home / name) if self._home else Path(name)
        inside = self._home is not None and not Path(name).is_absolute()
        there = name if inside else f"characters/{source.name}"
        if source.is_file() and not inside:
            there = self._unused(there, source)
        self._copy(source, there)
        self.renamed[name] = there
        return source

    def _unused(self, wanted: str, source: Path) -> str:
        """Return a name that is free, or that already holds the same file."""
        name, number = wanted, 2
        while not self._may_be(name, source):
            name = Path(wanted).with_stem(f"{Path(wanted).stem} {number}").as_posix()
            number += 1
        return name

    def _may_be(self, name: str, source: Path) -> bool:
        held = self._taken.get(name, self._folder / name)
        return not held.is_file() or held.samefile(source) or held.read_bytes() == source.read_bytes()

    def _copy(self, source: Path, there: str) -> None:
        if not source.is_file():
            raise ProjectError(f"{source}: this file of the project is missing, so it cannot be copied along")
        target = self._folder / there
        if not (target.is_file() and target.samefile(source)):
            self._taken[there] = source
            self._staging.copy(there, source)


def _companions(source: Path) -> list[Path]:
    """Return the files a .gltf refers to, which must travel with it."""
    if source.suffix.lower() != ".gltf" or not source.is_file():
        return []
    file = GltfFile(source)
    uris = [entry.get("uri") for key in ("buffers", "images") for entry in file.items(key)]
    names = [unquote(uri) for uri in uris if isinstance(uri, str) and not uri.startswith("data:")]
    paths = [source.parent / name for name in names]
    return [path for path in paths if path.resolve().is_relative_to(source.parent.resolve()) and path.is_file()]
