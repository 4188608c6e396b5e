"""Whether the characters of a project play right, as findings."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING

from wraithon.character.checkup import check_clip, check_mesh, height_of
from wraithon.character.pose import rest_skin
from wraithon.project.checks.finding import Change, Finding, Level, Remedy

if TYPE_CHECKING:
    from wraithon.character.model import Character
    from wraithon.project.character import CharacterUse
    from wraithon.project.project import Project

__all__ = ["fitness_findings"]

SMALLEST, USUAL, LARGEST = 0.1, 1.7, 20.0
"""Metres between which a character usually is tall, and how tall it mostly is."""
APART = 0.06
"""Share of its height that it may stand off the ground."""
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


def _measured(use: CharacterUse, character: Character) -> Iterator[Finding]:
    """Yield what is odd about how large a character is and where it stands, each with what mends it."""
    tall = height_of(character) * use.scale
    place = f'character "{use.name}"'
    if tall > 0 and not SMALLEST <= tall <= LARGEST:
        power = 10.0 ** round(math.log10(USUAL / tall))
        scale = float(f"{use.scale * power:.6g}")
        message = f"it stands {tall:.3g} m tall: its file is in another unit, or very large or small indeed"
        yield Finding(Level.WARNING, place, message, use.id, _put(f"Scale it by {power:g}", "scale", scale))
        return
    lowest = float(rest_skin(character).positions[:, 1].min()) * use.scale + use.height
    if tall > 0 and abs(lowest) > APART * tall:
        way = "below" if lowest < 0 else "above"
        message = f"at rest its lowest point is {abs(lowest):.2f} m {way} the ground"
        words = f"{'Raise' if lowest < 0 else 'Lower'} it by {abs(lowest):.2f} m"
        yield Finding(Level.WARNING, place, message, use.id, _put(words, "height", round(use.height - lowest, 4)))


def _put(words: str, field: str, value: float) -> Remedy:
    return Remedy(words, (Change("character", "", field, value),))


def _of(use: CharacterUse, character: Character) -> Iterator[Finding]:
    measured = list(_measured(use, character))
    yield from measured
    parts = {part.name for part in character.parts}
    for oddity in check_mesh(character):
        kind = "part" if oddity.about in parts else "joint"
        place = f'character "{use.name}", {kind} "{oddity.about}"'
        yield Finding(Level.WARNING, place, oddity.message, use.id)
    if any(change.path == "scale" for finding in measured if finding.remedy for change in finding.remedy.changes):
        return  # metres of clips mean nothing before it has its size
    listed = 0
    for clip in character.clips:
        how = use.clip(clip.name)
        raised = use.height + how.height
        for oddity in check_clip(character, clip, loops=how.loop, scale=use.scale, raised=raised):
            if {"x", "z"} & set(how.in_place) and "slides" in oddity.message:
                continue  # on the spot, feet run over the ground by design
            if measured and "the ground" in oddity.message:
                continue  # that is said of the whole character already
            listed += 1
            if listed <= MOST:
                yield Finding(Level.WARNING, f'character "{use.name}", clip "{clip.name}"', oddity.message, use.id)
