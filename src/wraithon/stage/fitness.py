"""Whether the characters of a project play right, as findings."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from statistics import median
from typing import TYPE_CHECKING
from weakref import WeakKeyDictionary

from wraithon.character.checkup import check_clip, check_mesh, height_of, measure_clip
from wraithon.character.measures import triangle_nodes
from wraithon.character.moments.contacts import find_contacts
from wraithon.character.pose import rest_skin
from wraithon.project.checks.finding import Change, Finding, Level, Remedy

if TYPE_CHECKING:
    from wraithon.character.checkup import Oddity
    from wraithon.character.model import Character, Clip
    from wraithon.project.character import CharacterUse, ClipUse
    from wraithon.project.project import Project


SMALLEST, USUAL, LARGEST = 0.1, 1.7, 20.0
"""Metres between which a character usually is tall, and how tall it mostly is."""
APART = 0.06
"""Share of its height that it may stand off the ground."""
EXACT = 0.002
"""Share of its height that feet may be off the ground once clips are put onto it."""
LOOKED_AT = 64
"""Clips that are measured for where feet stand."""
STAYS = 0.05
"""Share of its height that a character moves in a clip that was made in place, at most."""
ALIKE = 0.1
"""Share of its pace that a character may go slower or faster by."""
MAX_MEASURED = 256
"""Clips of a character that are measured, each time it changes: what is known of so many is kept."""
MAXIMUM = 12
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


def look_over(project: Project, characters: Mapping[str, Character]) -> None:
    """Measure all that findings, lists and charts will ask of characters, while nobody waits: it is kept for them.

    Also what is not asked for yet, of a character whose scale is still to be mended.
    """
    for character in characters.values():
        triangle_nodes(character)
        for clip in character.clips[:MAX_MEASURED]:
            if _stays(clip, character):
                find_contacts(character, clip, loops=True)
    fitness_findings(project, characters)


def _measured(use: CharacterUse, character: Character) -> Iterator[Finding]:
    """Yield what is odd about how large a character is and where it stands, each with what mends it."""
    tall = height_of(character) * use.scale
    location = f'character "{use.name}"'
    if tall > 0 and not SMALLEST <= tall <= LARGEST:
        power = 10.0 ** round(math.log10(USUAL / tall))
        scale = float(f"{use.scale * power:.6g}")
        message = f"it stands {tall:.3g} m tall: its file is in another unit, or very large or small indeed"
        yield Finding(Level.WARNING, location, message, use.id, _put(f"Scale it by {power:g}", "scale", scale))
        return
    if tall > 0:
        yield from _off_the_ground(use, character, tall)


def _off_the_ground(use: CharacterUse, character: Character, tall: float) -> Iterator[Finding]:
    """Yield how far a character is off the ground as its clips are played, or at rest where no foot stands in any."""
    stands = _stands(use, character)
    location, heights = f'character "{use.name}"', list(stands.values())
    if not heights:
        lowest = float(rest_skin(character).positions[:, 1].min()) * use.scale + use.height
        if abs(lowest) > APART * tall:
            message = f"at rest its lowest point is {_where(lowest)}"
            yield Finding(Level.WARNING, location, message, use.id, _raised_by(use, lowest))
    elif max(heights) - min(heights) <= APART * tall:
        middle = median(heights)
        if abs(middle) > APART * tall:
            message = f"in its clips its feet stand {_where(middle)}"
            yield Finding(Level.WARNING, location, message, use.id, _raised_by(use, middle))
    elif max(map(abs, heights)) > APART * tall:
        low, high = min(heights), max(heights)
        message = f"its feet stand {_where(low)} in one clip, and {_where(high)} in another"
        changes = tuple(
            Change("clip", clip, "height", round(use.clip(clip).height - off, 4))
            for clip, off in stands.items()
            if abs(off) > EXACT * tall
        )
        text = f"Put {len(changes)} clips on the ground" if len(changes) > 1 else "Put that clip on the ground"
        yield Finding(Level.WARNING, location, message, use.id, Remedy(text, changes))


def _stands(use: CharacterUse, character: Character) -> dict[str, float]:
    """Return how many metres above the ground feet stand in each clip that is played and in which any does."""
    found = {}
    for clip in [clip for clip in character.clips if not use.clip(clip.name).hidden][:LOOKED_AT]:
        feet = [foot.height for foot in measure_clip(character, clip).feet if foot.contact]
        if feet:
            found[clip.name] = median(feet) * use.scale + use.height + use.clip(clip.name).height
    return found


def _where(height: float) -> str:
    return f"{abs(height):.2f} m {_side(height)} the ground"


def _side(height: float) -> str:
    return "below" if height < 0 else "above"


def _raised_by(use: CharacterUse, height: float) -> Remedy:
    """Return what puts a character on the ground that is so far above it."""
    text = f"{'Raise' if height < 0 else 'Lower'} it by {abs(height):.2f} m"
    return _put(text, "height", round(use.height - height, 4))


def _put(text: str, field: str, value: float) -> Remedy:
    return Remedy(text, (Change("character", "", field, value),))


def _of(use: CharacterUse, character: Character) -> Iterator[Finding]:
    measured = list(_measured(use, character))
    yield from measured
    parts = {part.name for part in character.parts}
    for oddity in check_mesh(character):
        kind = "part" if oddity.about in parts else "joint"
        location = f'character "{use.name}", {kind} "{oddity.about}"'
        yield Finding(Level.WARNING, location, oddity.message, use.id)
    if any(change.path == "scale" for finding in measured if finding.remedy for change in finding.remedy.changes):
        return  # metres of clips mean nothing before it has its size
    listed = 0
    for clip in character.clips[:MAX_MEASURED]:
        how = use.clip(clip.name)
        raised = use.height + how.height
        location = f'character "{use.name}", clip "{clip.name}"'
        pace = _pace(clip, how, character, use.scale)
        if pace is not None:
            listed += 1
            yield Finding(Level.WARNING, location, *pace)
        for oddity in check_clip(character, clip, loops=how.loop, scale=use.scale, raised=raised):
            if "slides" in oddity.message and (pace or {"x", "z"} & set(how.in_place) or any(how.goes)):
                continue  # on the spot, feet run over the ground by design
            if measured and oddity.raises:
                continue  # that is said of the whole character already
            listed += 1
            if listed <= MAXIMUM:
                yield Finding(Level.WARNING, location, oddity.message, use.id, _raised(oddity, clip, how))


def _raised(oddity: Oddity, clip: Clip, how: ClipUse) -> Remedy | None:
    """Return what raises a character while a clip plays, where that mends what is odd."""
    if not oddity.raises:
        return None
    text = f"{'Raise' if oddity.raises > 0 else 'Lower'} it by {abs(oddity.raises) * 100:.1f} cm while it plays"
    return Remedy(text, (Change("clip", clip.name, "height", round(how.height + oddity.raises, 4)),))


def _pace(clip: Clip, how: ClipUse, character: Character, scale: float) -> tuple[str, str, Remedy] | None:
    """Return what there is to tell of a clip that was made in place and is played as if it travelled.

    What it says is as it is seen, after the character's scale; what a clip goes by is kept before it.
    """
    if not how.loop or {"x", "z"} & set(how.in_place) or not _stays(clip, character):
        return None
    made = find_contacts(character, clip, loops=True).pace
    away = math.hypot(made[0] - how.goes[0], made[1] - how.goes[1])
    if not any(made) or away < ALIKE * math.hypot(*made):
        return None
    speed = math.hypot(*made) * scale
    text = f"it was made in place: under feet that stand, the ground goes by at {speed:.2f} m/s"
    if any(how.goes):
        text += f", and the character goes at {math.hypot(*how.goes) * scale:.2f} m/s"
    value = (round(made[0], 3), round(made[1], 3))
    return text, clip.name, Remedy(f"Let it go at {speed:.2f} m/s", (Change("clip", clip.name, "goes", value),))


def _stays(clip: Clip, character: Character) -> bool:
    """Return whether a clip ends about where it began."""
    x, _, z = measure_clip(character, clip).travel
    return math.hypot(x, z) <= STAYS * height_of(character)
