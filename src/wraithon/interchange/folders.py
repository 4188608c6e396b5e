"""Project folders: bringing along the files that a project uses."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import TYPE_CHECKING
from urllib.parse import unquote

from wraithon.character.reading.gltf_file import GltfFile
from wraithon.errors import ProjectError

if TYPE_CHECKING:
    from wraithon.project.project import Project

__all__ = ["bring_files"]


def bring_files(project: Project, home: Path | None, folder: Path) -> tuple[Project, dict[str, str]]:
    """Copy the files a project uses into a folder.

    Parameters
    ----------
    project
        The project.
    home
        The folder its files are in now; None where it names them by their own paths.
    folder
        Where they go.

    Returns
    -------
    Project, dict
        The project as it names them there, and each old name with the new one.

    Raises
    ------
    wraithon.errors.ProjectError
        When a file is missing.
    """
    names = [use.file for use in project.characters] + [c.file for u in project.characters for c in u.captures]
    same = home is not None and home.resolve() == folder.resolve()
    if same and not any(Path(name).is_absolute() for name in names):
        return project, {}
    renamed: dict[str, str] = {}
    uses = []
    for use in project.characters:
        source, renamed[use.file] = _brought(use.file, home, folder)
        for companion in _companions(source):
            _copy(companion, (folder / renamed[use.file]).parent / companion.relative_to(source.parent))
        for capture in use.captures:
            _, renamed[capture.file] = _brought(capture.file, home, folder)
        captures = tuple(capture.but(file=renamed[capture.file]) for capture in use.captures)
        uses.append(use.but(file=renamed[use.file], captures=captures))
    if home is not None and (home / "textures").is_dir():
        for texture in sorted((home / "textures").iterdir()):
            if texture.is_file():
                _copy(texture, folder / "textures" / texture.name)
    return project.but(characters=tuple(uses)), renamed


def _brought(name: str, home: Path | None, folder: Path) -> tuple[Path, str]:
    """Copy a file of a character into a project folder; return where it was, and its name there."""
    source = (home / name) if home else Path(name)
    inside = home is not None and not Path(name).is_absolute()
    there = name if inside else f"characters/{source.name}"
    if source.is_file() and not inside:
        there = _unused(there, source, folder)
    _copy(source, folder / there)
    return source, there


def _unused(wanted: str, source: Path, folder: Path) -> str:
    """Return a name in the folder that is free, or that already holds the same file."""
    name, number = Path(wanted), 2
    while (folder / name).is_file() and not (folder / name).samefile(source):
        if (folder / name).read_bytes() == source.read_bytes():
            break
        name = Path(wanted).with_stem(f"{Path(wanted).stem} {number}")
        number += 1
    return name.as_posix()


def _copy(source: Path, target: Path) -> None:
    if not source.is_file():
        raise ProjectError(f"{source}: this file of the project is missing, so it cannot be copied along")
    if source.resolve() != target.resolve():
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(source, target)


def _companions(source: Path) -> list[Path]:
    """Return the files a .gltf refers to, which must travel with it."""
    if source.suffix.lower() != ".gltf" or not source.is_file():
        return []
    file = GltfFile(source)
    uris = [entry.get("uri") for key in ("buffers", "images") for entry in file.items(key)]
    names = [unquote(uri) for uri in uris if isinstance(uri, str) and not uri.startswith("data:")]
    paths = [source.parent / name for name in names]
    return [path for path in paths if path.resolve().is_relative_to(source.parent.resolve()) and path.is_file()]
