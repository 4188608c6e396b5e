"""Whether the characters of a project play right, as findings."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING

from wraithon.character.checkup import check_clip, check_mesh
from wraithon.project.findings import Finding, Level

if TYPE_CHECKING:
    from wraithon.character.model import Character
    from wraithon.project.character import CharacterUse
    from wraithon.project.project import Project

__all__ = ["fitness_findings"]

MOST = 12
"""Findings of a character's clips that are listed."""


def fitness_findings(project: Project, characters: Mapping[str, Character]) -> list[Finding]:
    """Return what is odd about the characters' meshes and clips, as they are played."""
    found: list[Finding] = []
    for use in project.characters:
        character = characters.get(use.id)
        if character is not None:
            found += _of(use, character)
    return found


def _of(use: CharacterUse, character: Character) -> Iterator[Finding]:
    parts = {part.name for part in character.parts}
    for oddity in check_mesh(character):
        kind = "part" if oddity.about in parts else "joint"
        place = f'character "{use.name}", {kind} "{oddity.about}"'
        yield Finding(Level.WARNING, place, oddity.message, use.id)
    listed = 0
    for clip in character.clips:
        how = use.clip(clip.name)
        raised = use.height
        for oddity in check_clip(character, clip, loops=how.loop, scale=use.scale, raised=raised):
            if {"x", "z"} & set(how.in_place) and "slides" in oddity.message:
                continue  # on the spot, feet run over the ground by design
            listed += 1
            if listed <= MOST:
                yield Finding(Level.WARNING, f'character "{use.name}", clip "{clip.name}"', oddity.message, use.id)
