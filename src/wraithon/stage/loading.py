"""Opening a project with the characters it uses, or a bare character as a new project."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TYPE_CHECKING

from wraithon.character.reading.bvh import Capture, read_bvh
from wraithon.character.reading.gltf import read_gltf
from wraithon.character.retarget import retargeted
from wraithon.errors import CharacterError, ProjectError
from wraithon.project.character import CharacterUse
from wraithon.project.files import PROJECT_FILE, open_project
from wraithon.project.findings import CharacterFacts, Finding, Level, check, inside
from wraithon.project.project import Cue, Project, Stage
from wraithon.stage.fitness import fitness_findings

if TYPE_CHECKING:
    from wraithon.character.model import Character

__all__ = ["CAPTURE_ENDINGS", "CHARACTER_ENDINGS", "Loaded", "dressed", "load", "project_of_character", "read_files"]

CHARACTER_ENDINGS = frozenset({".glb", ".gltf"})
CAPTURE_ENDINGS = frozenset({".bvh"})

Progress = Callable[[float], None] | None


@dataclass(frozen=True)
class Loaded:
    """A project in memory with what its files hold."""

    project: Project
    folder: Path | None
    """None for a project that is not saved yet."""
    characters: dict[str, Character] = field(default_factory=dict)
    findings: tuple[Finding, ...] = ()
    files: dict[str, Character] = field(default_factory=dict)
    """What was read from each character file, by the name the project gives it, without added motions."""
    captures: dict[str, Capture] = field(default_factory=dict)
    """What was read from each motion file."""
    """What was noticed while reading; the checks of the project itself are apart."""

    @property
    def facts(self) -> dict[str, CharacterFacts]:
        """Character id to what its file holds."""
        return {key: character.facts for key, character in self.characters.items()}

    def check(self, textures: frozenset[str] | None = None) -> list[Finding]:
        """Return what was noticed while reading, and all findings of the project."""
        fitness = fitness_findings(self.project, self.characters)
        return [*self.findings, *check(self.project, self.facts, textures), *fitness]


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
    wraithon.errors.WraithonError
        When nothing can be opened; a project whose character is broken opens without it.
    """
    if path.suffix.lower() in CHARACTER_ENDINGS:
        character = read_gltf(path, progress)
        project = project_of_character(character, path)
        use = project.characters[0]
        return Loaded(project, None, {use.id: character}, _notes(character), {use.file: character})
    if path.is_file() and path.name != PROJECT_FILE:
        raise ProjectError(f"{path}: neither a project folder nor a .glb or .gltf character; choose another")
    opened = open_project(path)
    folder = path.parent if path.name == PROJECT_FILE else path
    files, captures, findings = read_files(opened.project, folder, progress)
    characters, more = dressed(opened.project, files, captures)
    return Loaded(opened.project, folder, characters, (*opened.findings, *findings, *more), files, captures)


def read_files(
    project: Project, folder: Path | None, progress: Progress = None
) -> tuple[dict[str, Character], dict[str, Capture], list[Finding]]:
    """Read the character and motion files of a project; those that cannot be read are found, not raised."""
    files: dict[str, Character] = {}
    captures: dict[str, Capture] = {}
    findings: list[Finding] = []
    for use in project.characters:
        place = f'character "{use.name}"'
        for name in (use.file, *(capture.file for capture in use.captures)):
            if name in files or name in captures:
                continue
            if folder is not None and not inside(name):
                message = f'its file "{name}" lies outside the project folder and is not read; copy it inside'
                findings.append(Finding(Level.ERROR, place, message, use.id))
                continue
            path = folder / name if folder else Path(name)
            try:
                if path.suffix.lower() in CAPTURE_ENDINGS:
                    captures[name] = read_bvh(path, folder)
                else:
                    files[name] = read_gltf(path, progress, folder)
            except CharacterError as error:
                findings.append(Finding(Level.ERROR, place, str(error), use.id))
    for character in files.values():
        findings += _notes(character)
    return files, captures, findings


def dressed(
    project: Project, files: Mapping[str, Character], captures: Mapping[str, Capture]
) -> tuple[dict[str, Character], list[Finding]]:
    """Return the characters of a project with the motions put on them as clips, and what did not fit."""
    characters: dict[str, Character] = {}
    findings: list[Finding] = []
    for use in project.characters:
        character = files.get(use.file)
        if character is None:
            continue
        for capture in use.captures:
            held = captures.get(capture.file)
            place = f'character "{use.name}", motion "{capture.name}"'
            if held is None:
                message = f'its file "{capture.file}" was not read; bring it in again'
                findings.append(Finding(Level.ERROR, place, message, use.id))
                continue
            known = dict(capture.matches)
            matches = {
                joint: match
                for joint, match in known.items()
                if joint in held.joints and match in character.skeleton.index
            }
            if not matches:
                message = "none of its joints is matched with the character's; pick matches"
                findings.append(Finding(Level.ERROR, place, message, use.id))
                continue
            clip = retargeted(held, character, matches, capture.unit, capture.name)
            character = replace(character, clips=(*character.clips, clip))
        characters[use.id] = character
    return characters, findings


def _notes(character: Character) -> tuple[Finding, ...]:
    return tuple(Finding(Level.WARNING, f'character file "{character.name}"', note) for note in character.notes)


def project_of_character(character: Character, path: Path) -> Project:
    """Return a new project with one character, playing its first clip."""
    use = CharacterUse(name=character.name, file=str(path))
    order = (Cue(clip=character.clips[0].name),) if character.clips else ()
    return Project(name=character.name, characters=(use,), stage=Stage(order=order, ground="plain"))
