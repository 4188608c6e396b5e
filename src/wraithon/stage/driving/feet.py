"""Feet that stay where they came down, and stand on what is under them: legs bent at the knee to reach there."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.checkup import feet_of, height_of
from wraithon.character.moments.contacts import find_contacts
from wraithon.character.pose import rest_pose
from wraithon.character.remembering import cached_by_content
from wraithon.stage.driving.driven_pose import Lock

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from wraithon.character.model import Character, Clip
    from wraithon.ground.terrain import Terrain
    from wraithon.stage.driving.driven_pose import DrivenPose


SHORT = 0.12
"""Share of the character's height below which a foot's last bone is that between ankle and ball."""
FARTHEST = 0.22
"""Share of the height beyond which a foot is not held: it has to come along."""
LETS_GO = 18.0
"""How quickly a foot that is let go of comes back to where its clip has it, a second."""
STRETCH = 0.998
"""Share of its length that a leg is stretched to at most."""
GOES = 0.06
"""Heights a second below which feet are left to the clip."""


@dataclass(frozen=True)
class Leg:
    """A leg: its joints, and which nodes go with each of them."""

    foot: str
    ball: int
    hip: int
    knee: int
    ankle: int
    upper: NDArray[np.int64]
    """Nodes that turn with the hip and not with the knee."""
    lower: NDArray[np.int64]
    """Nodes that turn with the knee and not with the ankle."""
    end: NDArray[np.int64]
    """Nodes that go where the ankle goes."""


@cached_by_content(maxsize=8)
def legs_of(character: Character) -> tuple[Leg, ...]:
    """Return the legs that a character stands on; those with too few joints to bend are left out."""
    skeleton, rest = character.skeleton, rest_pose(character).matrices[:, :3, 3]
    found = []
    for foot in feet_of(character):
        ball = skeleton.index[foot]
        above = int(skeleton.parents[ball])
        near = above >= 0 and np.linalg.norm(rest[ball] - rest[above]) < SHORT * height_of(character)
        ankle = above if near else ball
        knee = int(skeleton.parents[ankle]) if ankle >= 0 else -1
        hip = int(skeleton.parents[knee]) if knee >= 0 else -1
        if hip < 0 or min(np.linalg.norm(rest[a] - rest[b]) for a, b in ((hip, knee), (knee, ankle))) < 1e-6:
            continue
        under = {node: set(_below(character, node)) for node in (hip, knee, ankle)}
        found.append(
            Leg(
                foot, ball, hip, knee, ankle, np.array(sorted(under[hip] - under[knee])),
                np.array(sorted(under[knee] - under[ankle])), np.array(sorted(under[ankle])),
            )
        )  # fmt: skip
    return tuple(found)


def _below(character: Character, top: int) -> list[int]:
    """Return a node and all that hang on it; parents come before children."""
    found = {top}
    for node, parent in enumerate(character.skeleton.parents.tolist()):
        if parent in found:
            found.add(node)
    return sorted(found)


@cached_by_content(maxsize=64)
def spans_of(character: Character, clip: Clip) -> dict[str, tuple[tuple[float, float], ...]]:
    """Return in which shares of a clip's round each foot stands; those may go on past its end."""
    found: dict[str, list[tuple[float, float]]] = {}
    for contact in find_contacts(character, clip, loops=True).contacts:
        found.setdefault(contact.joint, []).append((contact.start / clip.seconds, contact.end / clip.seconds))
    return {joint: tuple(spans) for joint, spans in found.items()}


def _stands(spans: Sequence[tuple[float, float]], share: float) -> bool:
    return any(start <= share < end or start <= share + 1 < end for start, end in spans)


def locked(
    character: Character,
    before: Sequence[Lock],
    stand: DrivenPose,
    spans: dict[str, tuple[tuple[float, float], ...]],
    share: float,
    matrices: NDArray[np.float32],
    dt: float,
) -> tuple[Lock, ...]:
    """Return how each foot is held after a step.

    Parameters
    ----------
    character
        Whose feet.
    before
        Where each was locked; none at the beginning.
    stand
        What the character does.
    spans, share
        In which shares of a round feet stand, and the share it is at.
    matrices
        World matrices (N, 4, 4) as clips have them.
    dt
        Seconds of the step.
    """
    legs, tall = legs_of(character), height_of(character)
    locks = list(before) if len(before) == len(legs) else [Lock(0.0, 0.0, 0.0, fixed=False)] * len(legs)
    goes = stand.mode == "going" and stand.grounded and stand.speed > GOES * tall and stand.ease < 0.5
    for number, leg in enumerate(legs):
        lock, (x, _, z) = locks[number], matrices[leg.ball, :3, 3].tolist()
        if goes and _stands(spans.get(leg.foot, ()), share):
            if not lock.fixed:
                # It comes down where it is seen, which may be off from where the clip has it.
                x, z = x + lock.x * lock.share, z + lock.z * lock.share
                lock = Lock(x, z, 1.0, fixed=True)
            if math.hypot(lock.x - x, lock.z - z) <= FARTHEST * tall:
                locks[number] = lock
                continue
        if lock.fixed:
            lock = Lock(lock.x - x, lock.z - z, 1.0, fixed=False)
        less = lock.share * math.exp(-LETS_GO * dt)
        locks[number] = Lock(lock.x, lock.z, less, fixed=False) if less > 0.01 else Lock(0.0, 0.0, 0.0, fixed=False)
    return tuple(locks)


def planted(
    character: Character, matrices: NDArray[np.float32], stand: DrivenPose, terrain: Terrain, reach: float
) -> NDArray[np.float32]:
    """Return world matrices (N, 4, 4) with the feet where they are held, and on the ground under them.

    `reach` is how many metres feet go up or down to it at most.
    """
    out = matrices
    for leg, lock in zip(legs_of(character), stand.locks, strict=False):
        x, _, z = matrices[leg.ball, :3, 3].tolist()
        by = (lock.x - x, lock.z - z) if lock.fixed else (lock.x * lock.share, lock.z * lock.share)
        ground = terrain.height(x + by[0], z + by[1]) - stand.position[1] if stand.grounded else 0.0
        shift = np.array([by[0], min(max(ground, -reach), reach), by[1]])
        if np.abs(shift).max() > 1e-5:
            out = out.copy() if out is matrices else out
            _reach(leg, out, shift)
    return out


def _reach(leg: Leg, matrices: NDArray[np.float32], shift: NDArray[np.float64]) -> None:
    """Bend a leg so that its ankle is moved by `shift` (3,), as far as its length allows; the foot keeps its turn."""
    hip, knee, ankle = (matrices[node, :3, 3].astype(np.float64) for node in (leg.hip, leg.knee, leg.ankle))
    target = ankle + shift
    upper, lower = float(np.linalg.norm(knee - hip)), float(np.linalg.norm(ankle - knee))
    along = target - hip
    far = float(np.linalg.norm(along))
    if far < 1e-9 or min(upper, lower) < 1e-9:
        return
    long = min(max(far, abs(upper - lower) * 1.002), (upper + lower) * STRETCH)
    along /= far
    target = hip + along * long
    bend = knee - hip
    bend = bend - (bend @ along) * along
    size = float(np.linalg.norm(bend))
    if size < 1e-6:
        return
    # The knee by the law of cosines, on the side it was bent to.
    onward = (upper**2 + long**2 - lower**2) / (2 * long)
    new_knee = hip + along * onward + bend / size * math.sqrt(max(upper**2 - onward**2, 0.0))
    _turn(matrices, leg.upper, hip, hip, _between(knee - hip, new_knee - hip))
    _turn(matrices, leg.lower, knee, new_knee, _between(ankle - knee, target - new_knee))
    matrices[leg.end, :3, 3] += (target - ankle).astype(np.float32)


def _turn(
    matrices: NDArray[np.float32],
    nodes: NDArray[np.int64],
    old: NDArray[np.float64],
    new: NDArray[np.float64],
    turn: NDArray[np.float64],
) -> None:
    """Turn nodes about a point that itself goes from `old` to `new`."""
    before = matrices[nodes]
    matrices[nodes, :3, :3] = turn.astype(np.float32) @ before[:, :3, :3]
    matrices[nodes, :3, 3] = (before[:, :3, 3] - old) @ turn.T + new


def _between(one: NDArray[np.float64], two: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the rotation (3, 3) that turns one direction into another the short way (Rodrigues)."""
    one, two = one / np.linalg.norm(one), two / np.linalg.norm(two)
    axis, cosine = np.cross(one, two), float(one @ two)
    if cosine < -1 + 1e-9:
        return np.eye(3)
    x, y, z = axis
    cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    turn: NDArray[np.float64] = np.eye(3) + cross + cross @ cross / (1 + cosine)
    return turn
