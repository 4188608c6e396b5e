"""What a character can do: which of its clips plays which role, and what is known of these."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.checkup import height_of
from wraithon.character.measures import runs_of
from wraithon.character.moments.contacts import find_contacts, sole_heights
from wraithon.character.pose import clip_locals, clip_poses, root_position
from wraithon.character.remembering import cached_by_identity
from wraithon.project.staging.driving import ROLES

if TYPE_CHECKING:
    from collections.abc import Mapping

    from numpy.typing import NDArray

    from wraithon.character.model import Character, Clip
    from wraithon.project.character import CharacterUse, ClipUse
    from wraithon.project.staging.driving import Role


WORDS: dict[Role, tuple[str, ...]] = {
    "idle": ("idle", "stand", "standing", "breathe", "wait", "rest", "stay"),
    "walk": ("walk", "walking", "stroll", "march", "step"),
    "run": ("run", "running", "jog", "jogging", "sprint", "dash", "gallop", "trot"),
    "leap": ("leap", "jump", "jumping", "hop", "vault", "bound"),
    "strike": ("strike", "attack", "slash", "hit", "punch", "swing", "kick", "stab", "bite", "cast", "shoot"),
    "rise": ("rise", "rising", "getup", "standup", "recover", "up"),
    "fall": ("fall", "falling", "die", "death", "dead", "collapse", "knockdown", "defeat", "down"),
}
"""Words in the names of clips that play a role, the surest first."""
WALKS, RUNS = 0.25, 1.5
"""Heights of the character a second from which it walks, and from which it runs."""
LEAPS = 0.08
"""Share of the height that feet are off the ground in a leap."""
LIES = 0.6
"""Share of their height at rest that joints are below, on the whole, once a character has fallen."""
MIN_PACE = 0.2
RATE = 120
"""Moments a second at which a leap is measured."""
HANG = 0.3
"""Share of a leap's height at which it is held where the ground is lower than where it began."""


@dataclass(frozen=True)
class PlayedClip:
    """A clip and how it is played."""

    clip: Clip
    use: ClipUse


@dataclass(frozen=True)
class Gait(PlayedClip):
    """A clip that goes round and round."""

    pace: float
    """Metres a second it carries the character over the ground."""
    stride: float
    """Metres it comes in a round."""
    first: float
    """The share of a round after which its first foot comes down."""


@dataclass(frozen=True)
class Leap(PlayedClip):
    """A clip that leaves the ground and comes down again; seconds of the clip."""

    off: float
    top: float
    hang: float
    """When it is held while the ground is still to come."""
    land: float
    heights: NDArray[np.float64]
    """How high the lowest foot is from `off` on, RATE times a second, in metres."""

    def height(self, time: float) -> float:
        """Return how high its lowest foot is at a moment of the clip; none while it stands."""
        if not self.off < time < self.land:
            return 0.0
        return max(0.0, float(np.interp((time - self.off) * RATE, np.arange(len(self.heights)), self.heights)))

    def climbing(self, time: float) -> float:
        """Return how fast that grows at a moment, in metres a second."""
        return (self.height(time + 1 / RATE) - self.height(time - 1 / RATE)) * RATE / 2


@dataclass(frozen=True)
class Moves:
    """What a character can do; None where it has no clip for it."""

    idle: PlayedClip | None
    walk: Gait | None
    run: Gait | None
    leap: Leap | None
    strike: PlayedClip | None
    fall: PlayedClip | None
    rise: PlayedClip | None


def guessed_roles(character: Character, use: CharacterUse) -> dict[Role, str]:
    """Return the clip for each role: the chosen one, or one of that name, or one that does such a thing.

    Roles that nothing is found for are left out.
    """
    shown = [clip.name for clip in character.clips if not use.clip(clip.name).hidden]
    found = {role: chosen for role in ROLES if (chosen := use.driving.clip_of(role)) and character.clip(chosen)}
    for role, text in WORDS.items():
        if role not in found:
            named = _named(text, [name for name in shown if name not in found.values()])
            if named:
                found[role] = named
    for name in shown:
        clip = character.clip(name)
        if (
            clip is not None
            and name not in found.values()
            and (role := _does(character, clip, use.clip(name))) != "idle"
        ):
            found.setdefault(role, name)
    left = [name for name in shown if name not in found.values()]
    if "idle" not in found and left:
        found["idle"] = min(left, key=lambda name: _pace(character, character.clip(name), use.clip(name)))
    return found


def _named(text: tuple[str, ...], names: list[str]) -> str:
    """Return the first of the names that has one of the words in it, the surest word first, the shortest name."""
    for word in text:
        having = [name for name in names if word in re.findall(r"[a-z]+", _apart(name).lower())]
        if having:
            return min(having, key=len)
    return ""


def _apart(name: str) -> str:
    """Return a name with its words apart that are told only by their capitals."""
    return re.sub(r"(?<=[a-z])(?=[A-Z])", " ", name)


@cached_by_identity(maxsize=256)
def _does(character: Character, clip: Clip, use: ClipUse) -> Role:
    """Return the role that a clip plays by what it does."""
    tall = height_of(character)
    pace = _pace(character, clip, use) / tall
    joints = [character.skeleton.index[name] for name in character.skeleton.joint_names]
    begins, ends = (m[joints, 1, 3].mean() for m in clip_poses(character, clip, (0.0, clip.seconds)))
    if ends < LIES * begins:
        return "fall"
    if begins < LIES * ends:
        return "rise"
    leap = _leap(character, clip, use, 1.0)
    if leap is not None and leap.heights.max(initial=0.0) > LEAPS * tall and pace < RUNS:
        return "leap"
    if pace >= WALKS:
        return "run" if pace >= RUNS else "walk"
    return "idle"


def _pace(character: Character, clip: Clip | None, use: ClipUse) -> float:
    """Return the metres a second at which a clip goes over the ground, unscaled, by its root or under its feet."""
    if clip is None or clip.seconds <= 0:
        return 0.0
    positions = [root_position(character, clip_locals(character, clip, time)) for time in (0.0, clip.seconds)]
    x, _, z = positions[1] - positions[0]
    moved = max(math.hypot(x, z) / clip.seconds, math.hypot(*use.goes))
    minimum = MIN_PACE * height_of(character)
    return moved if moved > minimum else max(moved, math.hypot(*find_contacts(character, clip, loops=True).pace))


@cached_by_identity(maxsize=64)
def moves_of(character: Character, use: CharacterUse) -> Moves:
    """Return what a character can do with its clips."""
    plays: Mapping[Role, PlayedClip] = {
        role: PlayedClip(clip, use.clip(name))
        for role, name in guessed_roles(character, use).items()
        if (clip := character.clip(name)) is not None
    }
    walk, run = (_gait(character, use, plays.get(role)) for role in ("walk", "run"))
    if walk is not None and run is not None and walk.pace > run.pace:
        walk, run = run, walk
    play = plays.get("leap")
    leap = _leap(character, play.clip, play.use, use.scale) if play else None
    return Moves(
        plays.get("idle"), walk or run, run or walk, leap,
        plays.get("strike"), plays.get("fall"), plays.get("rise"),
    )  # fmt: skip


def _gait(character: Character, use: CharacterUse, play: PlayedClip | None) -> Gait | None:
    if play is None or play.clip.seconds <= 0:
        return None
    pace = max(_pace(character, play.clip, play.use), MIN_PACE * height_of(character)) * use.scale
    contacts = find_contacts(character, play.clip, loops=True).contacts
    feet = sorted({contact.joint for contact in contacts})
    starts = [contact.start for contact in contacts if contact.joint == feet[0]]
    first = (min(starts) / play.clip.seconds) % 1.0 if starts else 0.0
    return Gait(play.clip, play.use, pace, pace * play.clip.seconds, first)


@cached_by_identity(maxsize=64)
def _leap(character: Character, clip: Clip, use: ClipUse, scale: float) -> Leap | None:
    """Return a clip as a leap; None where its feet never leave the ground."""
    times = np.arange(0, max(2, round(clip.seconds * RATE))) / RATE
    heights = sole_heights(character, clip, times)
    heights = (heights - np.quantile(heights, 0.1)) * scale
    floor = 0.012 * height_of(character) * scale
    edges = runs_of(heights > floor)
    if not len(edges):
        return None
    first, last = edges[np.argmax(edges[:, 1] - edges[:, 0])].tolist()
    span = heights[first:last]
    top = first + int(np.argmax(span))
    low = np.flatnonzero(heights[top:last] < HANG * span.max())
    hang = top + int(low[0]) if len(low) else (top + last) // 2
    return Leap(clip, use, first / RATE, top / RATE, hang / RATE, last / RATE, span)
