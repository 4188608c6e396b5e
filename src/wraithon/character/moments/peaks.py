"""Where a joint is quickest, highest, lowest or farthest in a clip."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.checkup import height_of
from wraithon.character.moments.contacts import find_contacts
from wraithon.character.pose import clip_poses

if TYPE_CHECKING:
    from collections.abc import Callable

    from numpy.typing import NDArray

    from wraithon.character.model import Character, Clip


RATE, MAXIMUM = 120, 20_000
"""Moments a second at which clips are looked at, and how many in all at most."""
QUICK, ABOVE = 2.0, 2.5
"""A strike is a peak of so many heights a second at least, and of so many times the joint's median speed."""
APART = 0.15
"""Seconds that strikes are apart at least."""
SURE = 3.0
"""Times its least speed from which on a strike is sure."""


@dataclass(frozen=True)
class Candidate:
    """A moment that was found on a clip."""

    kind: str
    clip: str
    time: float
    """Seconds of the clip."""
    joint: str
    confidence: float
    """From 0 to 1."""
    reason: str
    """What was measured, in words."""


def candidates(
    character: Character,
    clip: Clip,
    kind: str,
    joint: str = "",
    *,
    loops: bool,
    scale: float = 1.0,
    raised: float = 0.0,
) -> list[Candidate]:
    """Return the moments of a kind in a clip, in order.

    Parameters
    ----------
    character, clip
        The character, and a clip of it.
    kind
        One of `KINDS`.
    joint
        Whose; feet come down and lift off whatever is given here.
    loops
        Whether the clip's end goes over into its beginning.
    scale, raised
        The character's scale and how many metres it is raised: what is measured is told as it is seen.
    """
    if kind in {"down", "up"}:
        return _contacts(character, clip, kind, loops=loops, scale=scale)
    if joint not in character.skeleton.index or clip.seconds <= 0:
        return []
    many = int(np.clip(clip.seconds * RATE, 8, MAXIMUM))
    times = np.linspace(0, clip.seconds, many, endpoint=not loops)
    nodes = [character.skeleton.index[joint], character.root_node]
    positions = np.array([pose[nodes, :3, 3] for pose in clip_poses(character, clip, times.tolist())], np.float64)
    positions = positions * scale + (0.0, raised, 0.0)
    found = FINDERS[kind](times, positions[:, 0], positions[:, 1], height_of(character) * scale)
    return [Candidate(kind, clip.name, round(time, 4), joint, sure, why) for time, sure, why in found]


def _contacts(character: Character, clip: Clip, kind: str, *, loops: bool, scale: float) -> list[Candidate]:
    found = []
    for contact in find_contacts(character, clip, loops=loops).contacts:
        time = contact.start if kind == "down" else contact.end
        if loops:
            time %= clip.seconds
        whole = contact.end - contact.start >= clip.seconds - 1e-3
        at_edge = not loops and not 0 < time < clip.seconds - 1e-3
        if not whole and not at_edge:
            sure, why = contact.confidence, contact.reason(scale)
            found.append(Candidate(kind, clip.name, round(time, 4), contact.joint, sure, why))
    return sorted(found, key=lambda candidate: candidate.time)


Found = list[tuple[float, float, str]]
"""Seconds, confidence, and what was measured."""


def _strikes(times: NDArray[np.float64], at: NDArray[np.float64], root: NDArray[np.float64], tall: float) -> Found:
    return _peaks(times, np.linalg.norm(np.gradient(at - root, times, axis=0), axis=1), tall)


def _along(way: tuple[float, float, float]) -> Callable[..., Found]:
    """Return what finds strikes along a direction of the character, that faces +Z."""

    def find(times: NDArray[np.float64], at: NDArray[np.float64], root: NDArray[np.float64], tall: float) -> Found:
        return _peaks(times, np.maximum(np.gradient(at - root, times, axis=0) @ np.array(way), 0.0), tall)

    return find


def _peaks(times: NDArray[np.float64], speeds: NDArray[np.float64], tall: float) -> Found:
    """Return the peaks of a speed (n,): quick ones, for how tall the character is and for the joint itself."""
    minimum = max(QUICK * tall, ABOVE * float(np.median(speeds)))
    inner = np.flatnonzero((speeds[1:-1] >= speeds[:-2]) & (speeds[1:-1] > speeds[2:]) & (speeds[1:-1] > minimum)) + 1
    peaks: list[int] = []
    for row in sorted(inner.tolist(), key=lambda row: -speeds[row]):
        if all(abs(times[row] - times[other]) >= APART for other in peaks):
            peaks.append(row)
    sure = np.minimum(1.0, speeds / (SURE * minimum))
    return [(float(times[row]), float(sure[row]), f"{speeds[row]:.1f} m/s") for row in sorted(peaks)]


def _highest(times: NDArray[np.float64], at: NDArray[np.float64], _root: NDArray[np.float64], tall: float) -> Found:
    return _extreme(times, at[:, 1], tall, "above the ground")


def _lowest(times: NDArray[np.float64], at: NDArray[np.float64], _root: NDArray[np.float64], tall: float) -> Found:
    time, sure, _ = _extreme(times, -at[:, 1], tall, "")[0]
    return [(time, sure, f"{at[:, 1].min():.2f} m above the ground")]


def _farthest(times: NDArray[np.float64], at: NDArray[np.float64], root: NDArray[np.float64], tall: float) -> Found:
    return _extreme(times, np.linalg.norm((at - root)[:, [0, 2]], axis=1), tall, "from the middle")


def _extreme(times: NDArray[np.float64], values: NDArray[np.float64], tall: float, text: str) -> Found:
    """Return where values are largest; the more they differ, the surer."""
    row = int(values.argmax())
    return [(float(times[row]), float(min(1.0, np.ptp(values) / (0.2 * tall))), f"{values[row]:.2f} m {text}")]


FINDERS: dict[str, Callable[..., Found]] = {
    "strike": _strikes, "strike ahead": _along((0, 0, 1)), "strike down": _along((0, -1, 0)),
    "strike up": _along((0, 1, 0)), "highest": _highest, "lowest": _lowest, "farthest": _farthest,
}  # fmt: skip
KINDS: dict[str, str] = {
    "down": "feet come down", "up": "feet lift off", "strike": "strikes", "strike ahead": "strikes ahead",
    "strike down": "strikes downwards", "strike up": "strikes upwards", "highest": "is highest",
    "lowest": "is lowest", "farthest": "is farthest out",
}  # fmt: skip
"""Kind of moment to what happens in it; the first two are about feet, the others about a joint."""
