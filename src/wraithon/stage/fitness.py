"""Whether the characters of a project play right, as findings."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING
from weakref import WeakKeyDictionary

from wraithon.character.checkup import check_clip, check_mesh, height_of, measure_clip
from wraithon.character.moments.contacts import find_contacts
from wraithon.character.pose import rest_skin
from wraithon.project.checks.finding import Change, Finding, Level, Remedy

if TYPE_CHECKING:
    from wraithon.character.checkup import Oddity
    from wraithon.character.model import Character, Clip
    from wraithon.project.character import CharacterUse, ClipUse
    from wraithon.project.project import Project

__all__ = ["fitness_findings"]

SMALLEST, USUAL, LARGEST = 0.1, 1.7, 20.0
"""Metres between which a character usually is tall, and how tall it mostly is."""
APART = 0.06
"""Share of its height that it may stand off the ground."""
STAYS = 0.05
"""Share of its height that a character moves in a clip that was made in place, at most."""
ALIKE = 0.1
"""Share of its pace that a character may go slower or faster by."""
MOST = 12
"""Findings of a character's clips that are listed."""


_known: WeakKeyDictionary[Character, tuple[CharacterUse, tuple[Finding, ...]]] = WeakKeyDictionary()
"""Of which use of a character what was found last: most edits leave that as it is."""


def fitness_findings(project: Project, characters: Mapping[str, Character]) -> list[Finding]:
    """Return what is odd about the characters' meshes and clips, as they are played."""
    found: list[Finding] = []
    for use in project.characters:
        character = characters.get(use.id)
        if character is None:
            continue
        known = _known.get(character)
        if known is None or known[0] is not use:
            known = _known[character] = use, tuple(_of(use, character))
        found += known[1]
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
        place = f'character "{use.name}", clip "{clip.name}"'
        pace = _pace(clip, how, character)
        if pace is not None:
            listed += 1
            yield Finding(Level.WARNING, place, *pace)
        for oddity in check_clip(character, clip, loops=how.loop, scale=use.scale, raised=raised):
            if "slides" in oddity.message and (pace or {"x", "z"} & set(how.in_place) or any(how.goes)):
                continue  # on the spot, feet run over the ground by design
            if measured and oddity.raises:
                continue  # that is said of the whole character already
            listed += 1
            if listed <= MOST:
                yield Finding(Level.WARNING, place, oddity.message, use.id, _raised(oddity, clip, how))


def _raised(oddity: Oddity, clip: Clip, how: ClipUse) -> Remedy | None:
    """Return what raises a character while a clip plays, where that mends what is odd."""
    if not oddity.raises:
        return None
    words = f"{'Raise' if oddity.raises > 0 else 'Lower'} it by {abs(oddity.raises) * 100:.1f} cm while it plays"
    return Remedy(words, (Change("clip", clip.name, "height", round(how.height + oddity.raises, 4)),))


def _pace(clip: Clip, how: ClipUse, character: Character) -> tuple[str, str, Remedy] | None:
    """Return what there is to tell of a clip that was made in place and is played as if it travelled."""
    facts = measure_clip(character, clip)
    tall = height_of(character)
    x, _, z = facts.travel
    if not how.loop or {"x", "z"} & set(how.in_place) or math.hypot(x, z) > STAYS * tall:
        return None
    made = find_contacts(character, clip, loops=True).pace
    away = math.hypot(made[0] - how.goes[0], made[1] - how.goes[1])
    if not any(made) or away < ALIKE * math.hypot(*made):
        return None
    speed = math.hypot(*made)
    words = f"it was made in place: under feet that stand, the ground goes by at {speed:.2f} m/s"
    if any(how.goes):
        words += f", and the character goes at {math.hypot(*how.goes):.2f} m/s"
    value = (round(made[0], 3), round(made[1], 3))
    return words, clip.name, Remedy(f"Let it go at {speed:.2f} m/s", (Change("clip", clip.name, "goes", value),))
