"""Characters as a project has them: their files' clips under the project's names, and motions put on as clips."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from wraithon.character.retarget import retargeted
from wraithon.project.checks.finding import Finding, Level

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from wraithon.character.model import Character, Clip
    from wraithon.character.reading.bvh import Capture
    from wraithon.project.character import CaptureUse, CharacterUse
    from wraithon.project.project import Project


MAX_SPARE = 2**27
"""Bytes of clips that no character wears any more and that are kept, for when an edit is taken back."""

CaptureKey = tuple[str, str]
"""What a motion is read from: a file, and the name of the clip in it; empty in a file that holds but one."""


class RetargetCache:
    """Puts motions on characters, each once for the same matches and unit: any thread may."""

    def __init__(self) -> None:
        self._clips: dict[tuple[object, ...], Clip] = {}

    def work(self, project: Project, files: Mapping[str, Character], captures: Mapping[CaptureKey, Capture]) -> int:
        """Return how many turns of joints `with_motions` would have to work out first."""
        work = 0
        for use, character in _worn(project, files):
            for capture, motion, matches in _motions(use, character, captures):
                if motion and matches and (motion, character, matches, capture.unit) not in self._clips:
                    work += len(motion.positions) * (len(motion.joints) + len(character.skeleton.names))
        return work

    def with_motions(
        self, project: Project, files: Mapping[str, Character], captures: Mapping[CaptureKey, Capture]
    ) -> tuple[dict[str, Character], list[Finding]]:
        """Return the characters of a project by their ids, and which motions do not fit."""
        characters: dict[str, Character] = {}
        findings: list[Finding] = []
        wanted: dict[tuple[object, ...], Clip] = {}
        for use, character in _worn(project, files):
            names = {clip.file_name: clip.name for clip in use.clips if clip.file_name}
            clips = [_called(clip, names.get(clip.name, clip.name)) for clip in character.clips]
            for capture, motion, matches in _motions(use, character, captures):
                if motion is None or not matches:
                    message = (
                        f'its file "{capture.file}" was not read; bring it in again'
                        if motion is None
                        else "none of its joints is matched with the character's; pick matches"
                    )
                    location = f'character "{use.name}", motion "{capture.name}"'
                    findings.append(Finding(Level.ERROR, location, message, use.id))
                    continue
                key = (motion, character, matches, capture.unit)
                made = wanted.get(key) or self._clips.get(key)
                wanted[key] = made or retargeted(motion, character, dict(matches), capture.unit)
                clips.append(_called(wanted[key], capture.name))
                if not wanted[key].moves:
                    message = (
                        "its travel has nowhere to go: no joint of the character is above all that are matched;"
                        " match its hips"
                    )
                    location = f'character "{use.name}", motion "{capture.name}"'
                    findings.append(Finding(Level.WARNING, location, message, use.id))
            characters[use.id] = (
                character if clips == list(character.clips) else replace(character, clips=tuple(clips))
            )
        self._clips = _with_spare(wanted, self._clips)
        return characters, findings


def _with_spare(
    wanted: dict[tuple[object, ...], Clip], before: dict[tuple[object, ...], Clip]
) -> dict[tuple[object, ...], Clip]:
    """Return the clips that are worn, behind as many of those before as are kept, the latest last."""
    spare: dict[tuple[object, ...], Clip] = {}
    room = MAX_SPARE
    for key, clip in reversed(before.items()):
        room -= 0 if key in wanted else clip.times.nbytes + clip.values.nbytes
        if key not in wanted and room >= 0:
            spare[key] = clip
    return dict(reversed(spare.items())) | wanted


def _worn(project: Project, files: Mapping[str, Character]) -> Iterator[tuple[CharacterUse, Character]]:
    """Yield the characters whose files were read."""
    for use in project.characters:
        if use.file in files:
            yield use, files[use.file]


def _motions(
    use: CharacterUse, character: Character, captures: Mapping[CaptureKey, Capture]
) -> Iterator[tuple[CaptureUse, Capture | None, tuple[tuple[str, str], ...]]]:
    """Yield a character's motions, what was read of each, and which of its joints move which of the character's."""
    ours = character.skeleton.index
    for capture in use.captures:
        motion = captures.get((capture.file, capture.clip))
        joints = set(motion.joints) if motion else set()
        matches = dict(capture.matches).items()
        yield capture, motion, tuple((joint, match) for joint, match in matches if joint in joints and match in ours)


def _called(clip: Clip, name: str) -> Clip:
    return clip if clip.name == name else replace(clip, name=name)
