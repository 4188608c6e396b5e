"""Opening a project with the characters it uses, or a bare character as a new project."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.pose import rest_skin
from wraithon.character.reading.bvh import Capture, read_bvh
from wraithon.character.reading.gltf import read_gltf
from wraithon.character.reading.gltf_motions import read_motions
from wraithon.project.character import CharacterUse
from wraithon.project.checks.finding import Finding, Level
from wraithon.project.files import PROJECT_FILE, open_project
from wraithon.project.findings import CharacterFacts, check
from wraithon.project.project import FARTHEST, ClipRun, Project, Stage, View
from wraithon.stage.retarget_cache import CaptureKey, RetargetCache
from wraithon.support.errors import CharacterError, ProjectError
from wraithon.support.plain_files import is_inside

if TYPE_CHECKING:
    from wraithon.character.model import Character


CHARACTER_ENDINGS = frozenset({".glb", ".gltf"})
CAPTURE_ENDINGS = frozenset({".bvh"})
ROOM = 1.25
"""How much farther the camera is from a new character than to show it whole: effects need room."""

Progress = Callable[[float], None] | None
FilesRead = tuple[dict[str, "Character"], dict[CaptureKey, Capture], list[Finding]]
"""Character files and motions by the names a project gives them, and what was noticed."""


@dataclass(frozen=True)
class Loaded:
    """A project in memory with what its files hold."""

    project: Project
    folder: Path | None
    """None for a project that is not saved yet."""
    characters: dict[str, Character] = field(default_factory=dict)
    findings: tuple[Finding, ...] = ()
    """What was noticed while reading; the checks of the project itself are apart."""
    unfit: tuple[Finding, ...] = ()
    """Which motions could not be put on."""
    files: dict[str, Character] = field(default_factory=dict)
    """What was read from each character file, by the name the project gives it, without added motions."""
    captures: dict[CaptureKey, Capture] = field(default_factory=dict)
    """What was read from each motion file."""
    retarget_cache: RetargetCache = field(default_factory=RetargetCache)
    """What has put the motions on."""

    @property
    def facts(self) -> dict[str, CharacterFacts]:
        """Character id to what its file holds."""
        return {key: character.facts for key, character in self.characters.items()}

    def check(self, textures: frozenset[str] | None = None, sounds: frozenset[str] | None = None) -> list[Finding]:
        """Return what was noticed while reading, and all findings of the project (see `findings.check`)."""
        from wraithon.stage.fitness import fitness_findings  # what it measures with is compiled

        fitness = fitness_findings(self.project, self.characters)
        return [*self.findings, *self.unfit, *check(self.project, self.facts, textures, sounds), *fitness]


def load(path: Path, progress: Progress = None) -> Loaded:
    """Open a project folder, its project.json, or a character file as a new project.

    Parameters
    ----------
    path
        What to open.
    progress
        Told the share of a character file that is read; what it raises ends the reading.

    Raises
    ------
    wraithon.support.errors.WraithonError
        When nothing can be opened; a project whose character is broken opens without it.
    """
    if path.suffix.lower() in CHARACTER_ENDINGS:
        character = read_gltf(path, progress)
        project = project_of_character(character, path)
        use = project.characters[0]
        return Loaded(project, None, {use.id: character}, _notes(character), files={use.file: character})
    if path.is_file() and path.name != PROJECT_FILE:
        raise ProjectError(f"{path}: neither a project folder nor a .glb or .gltf character; choose another")
    opened = open_project(path)
    folder = path.parent if path.name == PROJECT_FILE else path
    files, captures, findings = read_files(opened.project, folder, progress)
    retarget_cache = RetargetCache()
    characters, unfit = retarget_cache.with_motions(opened.project, files, captures)
    noticed = (*opened.findings, *findings)
    return Loaded(opened.project, folder, characters, noticed, tuple(unfit), files, captures, retarget_cache)


def read_files(
    project: Project, folder: Path | None, progress: Progress = None, brought: Collection[str] = ()
) -> FilesRead:
    """Read the character and motion files of a project; those that cannot be read are found, not raised.

    `brought` are names of files outside the folder that the user chose: no others are read there.
    """
    files: dict[str, Character] = {}
    captures: dict[CaptureKey, Capture] = {}
    seen: set[tuple[str, bool]] = set()
    findings: list[Finding] = []
    for use in project.characters:
        location = f'character "{use.name}"'
        for name, moves in ((use.file, False), *((capture.file, True) for capture in use.captures)):
            if (name, moves) in seen:
                continue
            seen.add((name, moves))
            own = name in brought and Path(name).is_absolute()
            if folder is not None and not own and not is_inside(name):
                message = f'its file "{name}" lies outside the project folder and is not read; copy it inside'
                findings.append(Finding(Level.ERROR, location, message, use.id))
                continue
            path = folder / name if folder else Path(name)
            within = None if own else folder
            try:
                if moves:
                    captures |= {
                        (name, clip): motion for clip, motion in read_captures(path, progress, within).items()
                    }
                else:
                    files[name] = read_gltf(path, progress, within)
            except CharacterError as error:
                findings.append(Finding(Level.ERROR, location, str(error), use.id))
    for character in files.values():
        findings += _notes(character)
    return files, captures, findings


def read_captures(path: Path, progress: Progress = None, within: Path | None = None) -> dict[str, Capture]:
    """Read a motion file; return its motions by the names of their clips, a .bvh file's one by none.

    Raises
    ------
    wraithon.support.errors.CharacterError
        When it cannot be read, or moves nothing.
    """
    if path.suffix.lower() in CAPTURE_ENDINGS:
        return {"": read_bvh(path, within)}
    return read_motions(path, progress, within)


def _notes(character: Character) -> tuple[Finding, ...]:
    return tuple(Finding(Level.WARNING, f'character file "{character.name}"', note) for note in character.notes)


def project_of_character(character: Character, path: Path) -> Project:
    """Return a new project with one character, playing its first clip and seen whole with some room around it."""
    use = CharacterUse(name=character.name, file=str(path))
    order = (ClipRun(clip=character.clips[0].name),) if character.clips else ()
    stage = Stage(order=order, ground="plain")
    return Project(name=character.name, characters=(use,), stage=stage, view=seen_whole(View(), character, use))


def seen_whole(view: View, character: Character, use: CharacterUse) -> View:
    """Return a view, turned as another, of a whole character at rest with some room around it."""
    raised = np.array([0.0, use.height, 0.0])
    corners = [corner(rest_skin(character).positions, axis=0) * use.scale + raised for corner in (np.min, np.max)]
    view = view.around(*(corner.tolist() for corner in corners))
    return view.evolve(distance=min(view.distance * ROOM, FARTHEST))
