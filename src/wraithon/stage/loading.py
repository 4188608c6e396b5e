"""Opening a project with the characters it uses, or a bare character as a new project."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

from wraithon.character.gltf import read_gltf
from wraithon.errors import CharacterError, ProjectError
from wraithon.project.character import CharacterUse
from wraithon.project.files import PROJECT_FILE, open_project
from wraithon.project.findings import CharacterFacts, Finding, Level, check, inside
from wraithon.project.project import Cue, Project, Stage
from wraithon.stage.fitness import fitness_findings

if TYPE_CHECKING:
    from wraithon.character.model import Character

__all__ = ["CHARACTER_ENDINGS", "Loaded", "load", "load_characters", "project_of_character"]

CHARACTER_ENDINGS = frozenset({".glb", ".gltf"})


@dataclass(frozen=True)
class Loaded:
    """A project in memory with what its files hold."""

    project: Project
    folder: Path | None
    """None for a project that is not saved yet."""
    characters: dict[str, Character] = field(default_factory=dict)
    findings: tuple[Finding, ...] = ()
    """What was noticed while reading; the checks of the project itself are apart."""

    @property
    def facts(self) -> dict[str, CharacterFacts]:
        """Character id to what its file holds."""
        return {key: character.facts for key, character in self.characters.items()}

    def check(self, textures: frozenset[str] | None = None) -> list[Finding]:
        """Return what was noticed while reading, and all findings of the project."""
        fitness = fitness_findings(self.project, self.characters)
        return [*self.findings, *check(self.project, self.facts, textures), *fitness]


def load(path: Path) -> Loaded:
    """Open a project folder, its project.json, or a character file as a new project.

    Raises
    ------
    wraithon.errors.WraithonError
        When nothing can be opened; a project whose character is broken opens without it.
    """
    if path.suffix.lower() in CHARACTER_ENDINGS:
        character = read_gltf(path)
        project = project_of_character(character, path)
        return Loaded(project, None, {project.characters[0].id: character}, _notes(character))
    if path.is_file() and path.name != PROJECT_FILE:
        raise ProjectError(f"{path}: neither a project folder nor a .glb or .gltf character; choose another")
    opened = open_project(path)
    folder = path.parent if path.name == PROJECT_FILE else path
    characters, findings = load_characters(opened.project, folder)
    return Loaded(opened.project, folder, characters, (*opened.findings, *findings))


def load_characters(project: Project, folder: Path | None) -> tuple[dict[str, Character], tuple[Finding, ...]]:
    """Read the character files of a project; those that cannot be read are found, not raised."""
    characters: dict[str, Character] = {}
    findings: list[Finding] = []
    for use in project.characters:
        place = f'character "{use.name}"'
        if folder is not None and not inside(use.file):
            message = f'its file "{use.file}" lies outside the project folder and is not read; copy it inside'
            findings.append(Finding(Level.ERROR, place, message, use.id))
            continue
        try:
            character = read_gltf(folder / use.file if folder else Path(use.file))
        except CharacterError as error:
            findings.append(Finding(Level.ERROR, place, str(error), use.id))
            continue
        characters[use.id] = character
        findings += _notes(character)
    return characters, tuple(findings)


def _notes(character: Character) -> tuple[Finding, ...]:
    return tuple(Finding(Level.WARNING, f'character file "{character.name}"', note) for note in character.notes)


def project_of_character(character: Character, path: Path) -> Project:
    """Return a new project with one character, playing its first clip."""
    use = CharacterUse(name=character.name, file=str(path))
    order = (Cue(clip=character.clips[0].name),) if character.clips else ()
    return Project(name=character.name, characters=(use,), stage=Stage(order=order, ground="plain"))
