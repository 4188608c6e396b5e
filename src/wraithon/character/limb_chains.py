"""Matching arms and legs by the lengths of their bones, where names call a joint by the bone that ends there."""

from __future__ import annotations

from itertools import combinations
from math import log
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.character.bones import upwards
from wraithon.character.joint_names import meanings
from wraithon.character.pose import rest_pose

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from numpy.typing import NDArray

    from wraithon.character.joint_names import Meaning
    from wraithon.character.model import Character
    from wraithon.character.reading.bvh import Capture


class Limb(NamedTuple):
    """The bones of a limb by name, from the trunk outwards: what it hangs on, its three joints, and its tip."""

    above: str
    upper: str
    lower: str
    end: str
    tip: str


LIMBS = Limb("collar", "upperarm", "forearm", "hand", ""), Limb("", "thigh", "shin", "foot", "toe")
LONGEST = 24
"""Joints of a limb that are looked at, fingers among them."""
BETTER = 0.35
"""By how much other joints have to fit better than those that names say."""
NONE_FITS = 0.8
"""From which misfit on nothing is said about a limb."""


class Rig(NamedTuple):
    """A tree of joints at rest."""

    names: Sequence[str]
    parents: Sequence[int]
    lengths: NDArray[np.float64]
    """(N,) from each to its parent; 0 of roots."""
    meanings: Sequence[Meaning]

    @property
    def size(self) -> float:
        """The longest way from one end of the tree to another along its bones, whatever its pose."""
        reach, longest = np.zeros(len(self.names)), 0.0
        for joint in range(len(self.names) - 1, 0, -1):
            above, way = self.parents[joint], reach[joint] + self.lengths[joint]
            if above >= 0:
                longest = max(longest, reach[above] + way)
                reach[above] = max(reach[above], way)
        return longest

    def chain(self, limb: Limb, side: str) -> list[int]:
        """Return the joints of a limb, from the trunk outwards to its farthest end."""
        own = [k for k, (bone, at) in enumerate(self.meanings) if at == side and bone and bone in limb]
        if not own:
            return []
        joint, found = max(own, key=lambda k: sum(1 for _ in upwards(self.parents, k))), list[int]()
        for above in upwards(self.parents, joint):
            if self._is_trunk(above, side):
                break
            found.insert(0, above)
        while found and len(found) < LONGEST:
            below = [k for k, parent in enumerate(self.parents) if parent == found[-1]]
            if not below:
                break
            found.append(max(below, key=lambda k: self.lengths[k]))
        return found

    def _is_trunk(self, joint: int, side: str) -> bool:
        """Return whether a joint carries something of the other side, too."""
        other = {"left": "right", "right": "left"}[side]
        return any(at == other and joint in upwards(self.parents, k) for k, (_, at) in enumerate(self.meanings))


def rig_of_capture(capture: Capture) -> Rig:
    """Return the tree of a motion's joints."""
    lengths = np.linalg.norm(capture.offsets, axis=1) * (capture.parents >= 0)
    parents = capture.parents.tolist()
    return Rig(capture.joints, parents, lengths, meanings(capture.joints, parents))


def rig_of_character(character: Character) -> Rig:
    """Return the tree of a character's nodes."""
    skeleton = character.skeleton
    positions, parents = rest_pose(character).matrices[:, :3, 3].astype(np.float64), skeleton.parents.tolist()
    lengths = np.where(skeleton.parents >= 0, np.linalg.norm(positions - positions[skeleton.parents], axis=1), 0.0)
    lengths *= skeleton.is_joint
    return Rig(skeleton.names, parents, lengths, meanings(skeleton.names, parents))


def with_limbs(capture: Capture, character: Character, matches: Mapping[str, str]) -> dict[str, str]:
    """Return matches, motion's joint to character's, with limbs whose names fit their lengths badly put right."""
    theirs, ours = rig_of_capture(capture), rig_of_character(character)
    scale = ours.size / theirs.size if theirs.size > 0 else 0.0
    found = dict(matches)
    for limb in LIMBS if scale > 0 else ():
        for side in ("left", "right"):
            named = {bone: k for k, (bone, at) in enumerate(ours.meanings) if at == side}
            own = [named.get(bone, -1) for bone in limb]
            fitted = _fitted(theirs, ours, limb, side, own, scale, found) if min(own[1:4]) >= 0 else None
            if fitted is not None:
                nodes = {ours.names[node] for node in own if node >= 0}
                found = {joint: match for joint, match in found.items() if match not in nodes}
                found = {joint: match for joint, match in found.items() if joint not in fitted} | fitted
    return found


def _fitted(
    theirs: Rig, ours: Rig, limb: Limb, side: str, own: list[int], scale: float, matches: Mapping[str, str]
) -> dict[str, str] | None:
    """Return which joints of a motion are those of a limb; None where names do as well, or nothing fits."""
    wanted = [_way(ours, own[1], own[2]), _way(ours, own[2], own[3])]
    chain = theirs.chain(limb, side)
    if len(chain) < 3 or min(wanted) <= 0:
        return None
    along = np.cumsum([0.0, *(theirs.lengths[joint] for joint in chain[1:])]) * scale
    misfits = {three: _misfit(along, three, wanted) for three in combinations(range(len(chain)), 3)}
    best = min(misfits, key=lambda three: misfits[three])
    called = {match: chain.index(k) for k, joint in enumerate(theirs.names)
              if k in chain and (match := matches.get(joint, ""))}  # fmt: skip
    said = [called.get(ours.names[node], -1) for node in own[1:4]]
    misfit = misfits.get((said[0], said[1], said[2]), 9.0)
    if misfits[best] > NONE_FITS or misfits[best] > misfit - BETTER:
        return None
    found = {theirs.names[chain[k]]: ours.names[node] for k, node in zip(best, own[1:4], strict=True)}
    if best[0] > 0 and own[0] >= 0:
        found[theirs.names[chain[best[0] - 1]]] = ours.names[own[0]]
    if best[2] + 1 < len(chain) and own[4] >= 0:
        found[theirs.names[chain[best[2] + 1]]] = ours.names[own[4]]
    return found


def _way(rig: Rig, above: int, below: int) -> float:
    """Return how far it is from one joint down to another; 0 where that is not below it."""
    far, joint = 0.0, below
    while joint >= 0 and joint != above:
        far, joint = far + float(rig.lengths[joint]), rig.parents[joint]
    return far if joint == above else 0.0


def _misfit(along: NDArray[np.float64], three: tuple[int, ...], wanted: Sequence[float]) -> float:
    """Return how badly two bones between three joints fit in length: to each other first, and as a whole."""
    first, second = along[three[1]] - along[three[0]], along[three[2]] - along[three[1]]
    if min(first, second) <= 0:
        return 9.0
    one, two = log(first / wanted[0]), log(second / wanted[1])
    return float(abs(one - two) + abs(one + two) / 4)
