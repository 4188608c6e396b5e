"""When feet stand on the ground, as plain data."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wraithon.character.checkup import loops_well
from wraithon.character.moments.contacts import find_contacts
from wraithon.character.reading.bvh import read_bvh
from wraithon.character.reading.gltf import read_gltf
from wraithon.character.retarget import guess_unit, propose_matches, retargeted
from wraithon.stage.loading import CHARACTER_ENDINGS, load
from wraithon.support.errors import ProjectError

if TYPE_CHECKING:
    from pathlib import Path

    from wraithon.character.model import Character, Clip


def danced(path: Path, motion: Path | None) -> tuple[Character, dict[str, bool]]:
    """Return a file's or a project's character, and which of its clips are said to loop.

    With a `motion` file, that is the only clip it has.

    Raises
    ------
    ProjectError
        When the project has no character on stage.
    """
    if path.suffix.lower() in CHARACTER_ENDINGS:
        character, loops = read_gltf(path), {}
    else:
        loaded = load(path)
        use = loaded.project.character
        if use is None or use.id not in loaded.characters:
            raise ProjectError(f"{path}: there is no character on stage; bring one in")
        character, loops = loaded.characters[use.id], {clip.name: clip.loop for clip in use.clips}
    if motion is None:
        return character, loops
    capture = read_bvh(motion)
    matches = propose_matches(capture, character)
    clip = retargeted(capture, character, matches, guess_unit(capture, character, matches))
    return replace(character, clips=(clip,)), {}


def contacts_of(character: Character, clip: Clip, *, loops: bool | None) -> list[dict[str, Any]]:
    """Return a clip's contacts as plain data; whether it loops is seen from its ends where nobody says."""
    footing = find_contacts(character, clip, loops=loops_well(character, clip) if loops is None else loops)
    return [
        {"clip": clip.name, "joint": c.joint, "start": c.start, "end": c.end, "confidence": c.confidence}
        for c in footing.contacts
    ]
