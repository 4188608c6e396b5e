"""Project folders: saving a project with the files that it uses."""

from __future__ import annotations

import filecmp
from os.path import normpath
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple
from urllib.parse import unquote

from wraithon.character.reading.gltf_file import LARGEST_FILE, GltfFile
from wraithon.picture.shipped import TextureLibrary
from wraithon.project.edit import pieces_of, sounds_of, textures_of
from wraithon.project.files import PROJECT_FILE, to_text
from wraithon.sounds import SoundLibrary
from wraithon.support.errors import CharacterError, ProjectError
from wraithon.support.plain_files import file_name, is_inside, path_inside
from wraithon.support.saving import Staging, make_folder

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable

    from wraithon.picture.library import FileLibrary
    from wraithon.project.project import Project


KINDS = ("textures", "pieces", "sounds")
"""Folders of a project that hold what its names stand for, besides its characters."""


class Saved(NamedTuple):
    """A project that was saved into a folder."""

    project: Project
    """The project as it names its files there."""
    renamed: dict[str, str]
    """Each old name of a file with the new one."""
    left_out: tuple[str, ...] = ()
    """Files that could not come along, each with the reason; the project still names them."""


def save_whole(project: Project, home: Path | None, folder: Path, brought: Collection[str] = ()) -> Saved:
    """Save a project into a folder with the files it uses: all of that, or nothing.

    What is gone, or lies outside its home, is left out and named: the work in memory is saved all the same.

    Parameters
    ----------
    project
        The project.
    home
        The folder its files are in now; None where it names them by their own paths.
    folder
        Where they go; made when there is none, unless it is its home.
    brought
        Names of files from elsewhere that the user brought in since the project was opened. No other absolute
        name is followed: the project may come from somebody else.

    Raises
    ------
    wraithon.support.errors.ProjectError
        When the folder cannot be written, or is the home and gone.
    """
    same = home is not None and home.resolve() == folder.resolve()
    if same and not folder.is_dir():
        raise ProjectError(f"{folder}: the folder is gone; save somewhere else")
    try:
        make_folder(folder)
    except OSError as error:
        raise ProjectError(f"{folder}: cannot be made ({error.strerror}); save somewhere else") from error
    with Staging(folder, through=PROJECT_FILE if same else "") as staging:
        bringing = _Bringing(home, folder, staging, brought)
        changed = project if same and not _from_elsewhere(project) else bringing.bring(project)
        bringing.bring_libraries(project)
        staging.write(PROJECT_FILE, to_text(changed).encode())
        staging.commit()
    return Saved(changed, bringing.renamed, tuple(bringing.left_out.values()))


def _from_elsewhere(project: Project) -> bool:
    names = [use.file for use in project.characters] + [c.file for u in project.characters for c in u.captures]
    return any(Path(name).is_absolute() for name in names)


class _Bringing:
    """Stages the files of a project."""

    def __init__(self, home: Path | None, folder: Path, staging: Staging, brought: Collection[str]) -> None:
        self._home, self._folder, self._staging, self._brought = home, folder, staging, brought
        self._taken: dict[str, Path] = {}
        """Names that are staged, and of which file."""
        self.renamed: dict[str, str] = {}
        self.left_out: dict[str, str] = {}
        """Names that are not staged, and what to tell of each."""

    def bring(self, project: Project) -> Project:
        """Stage all files; return the project as it names them."""
        uses = []
        for use in project.characters:
            self._bring_file(use.file)
            for capture in use.captures:
                self._bring_file(capture.file)
            captures = tuple(capture.evolve(file=self._now(capture.file)) for capture in use.captures)
            uses.append(use.evolve(file=self._now(use.file), captures=captures))
        for kind in KINDS:
            self._bring_folder(kind)
        return project.evolve(characters=tuple(uses))

    def bring_libraries(self, project: Project) -> None:
        """Stage those of the user's own pictures, pieces and sounds that the project names."""
        textures = TextureLibrary(self._home)
        wanted: tuple[tuple[str, FileLibrary, Iterable[str]], ...] = (
            ("textures", textures, textures_of(project)), ("pieces", textures.pieces, pieces_of(project)),
            ("sounds", SoundLibrary(self._home), sounds_of(project)),
        )  # fmt: skip
        for kind, library, names in wanted:
            for name in sorted(names):
                path = library.path(name)
                if path is not None and path.parent == library.own:
                    self._copy(path, f"{kind}/{name}")
                elif path is None:
                    self._leave_out(f"{kind}/{name}", "it is missing")

    def _now(self, name: str) -> str:
        return self.renamed.get(name, name)

    def _leave_out(self, name: str, why: str) -> None:
        self.left_out.setdefault(name, f"{name} ({why})")

    def _bring_file(self, name: str) -> None:
        """Stage a file of a character, and what it refers to."""
        if name in self.renamed:
            return
        try:
            source = self._source(name)
        except OSError as error:
            self._leave_out(name, error.strerror or str(error))
            return
        companions = _companions(source, self._home if is_inside(name) else None)
        there = name
        if self._home is None or Path(name).is_absolute():
            there = self._unused(file_name(source.name), source, companions)
        self.renamed[name] = there
        self._copy(source, there)
        for beside, path in companions.items():
            self._copy(path, (Path(there).parent / beside).as_posix())

    def _source(self, name: str) -> Path:
        """Return the file that a name stands for.

        Raises
        ------
        OSError
            When it is missing, or lies where the project has no business.
        """
        by_path = self._home is None or (Path(name).is_absolute() and name in self._brought)
        source = Path(name) if self._home is None or by_path else path_inside(self._home, name)
        if not source.is_file():
            raise FileNotFoundError(2, "it is missing", name)
        return source

    def _bring_folder(self, kind: str) -> None:
        """Stage all of a folder of the home."""
        if self._home is None or not (self._home / kind).is_dir():
            return
        for name in sorted(file.name for file in (self._home / kind).iterdir()):
            try:
                file = path_inside(self._home, f"{kind}/{name}")
            except OSError as error:
                self._leave_out(f"{kind}/{name}", error.strerror or str(error))
            else:
                if file.is_file():
                    self._copy(file, f"{kind}/{name}")

    def _unused(self, wanted: str, source: Path, companions: dict[str, Path]) -> str:
        """Return a name among the characters that is free, or that already holds the same files."""
        name, number = f"characters/{wanted}", 2
        while not self._may_be(name, source, companions):
            stem = f"{Path(wanted).stem} {number}"
            # What refers to others by their names needs a folder of its own where those are taken.
            name = f"characters/{stem}/{wanted}" if companions else f"characters/{stem}{Path(wanted).suffix}"
            number += 1
        return name

    def _may_be(self, name: str, source: Path, companions: dict[str, Path]) -> bool:
        folder = Path(name).parent
        return self._free_for(name, source) and all(
            self._free_for((folder / beside).as_posix(), path) for beside, path in companions.items()
        )

    def _free_for(self, name: str, source: Path) -> bool:
        path = self._taken.get(name, self._folder / name)
        return not path.is_file() or path.samefile(source) or filecmp.cmp(path, source, shallow=False)

    def _copy(self, source: Path, there: str) -> None:
        target = self._folder / there
        if not (target.is_file() and target.samefile(source)):
            self._taken[there] = source
            self._staging.copy(there, source, LARGEST_FILE)


def _companions(source: Path, home: Path | None) -> dict[str, Path]:
    """Return the files a .gltf refers to, which must travel with it, by their names beside it."""
    if source.suffix.lower() != ".gltf":
        return {}
    try:
        file = GltfFile(source, home)
        uris = [entry.get("uri") for key in ("buffers", "images") for entry in file.items(key)]
    except CharacterError:  # it is brought along as it is: whoever reads it is told
        return {}
    found: dict[str, Path] = {}
    for uri in uris:
        if isinstance(uri, str) and uri and not uri.startswith("data:"):
            name = normpath(unquote(uri))
            try:
                path = path_inside(source.parent, name)
            except OSError:
                continue
            if path.is_file():
                found[name] = path
    return found
