"""Which joint of a character a motion's travel moves: the one that legs and spine hang on, whatever it is called."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.character.bones import nearest_above, upwards
from wraithon.character.joint_names import meanings
from wraithon.character.pose import rest_pose

if TYPE_CHECKING:
    from collections.abc import Collection, Mapping

    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.reading.bvh import Capture


LEGS, SPINE = frozenset({"thigh", "shin", "foot", "toe"}), frozenset({"spine", "chest", "neck", "head"})

APART = 0.15
"""Share of the character's height within which matched joints are at the same place of both bodies."""


class Root(NamedTuple):
    """What moves with a motion as a whole."""

    node: int
    """The character's."""
    joint: int
    """The motion's, whose travel and rotation it takes."""
    pivot: NDArray[np.float64]
    """(3,) where the motion's joint is within the character at rest, metres of the world."""


def root_of(capture: Capture, character: Character, matches: Mapping[str, str], unit: float) -> Root | None:
    """Return which joint takes a motion's travel; None where no single one is above all that is matched.

    Parameters
    ----------
    capture, character
        The motion and whom it is put on.
    matches
        The motion's joints to the character's that they move.
    unit
        Metres a unit of the motion.
    """
    skeleton = character.skeleton
    of_node = {skeleton.index[match]: capture.joints.index(joint) for joint, match in matches.items()}
    bones = dict(enumerate(bone for bone, _ in meanings(skeleton.names, skeleton.parents.tolist())))
    legs, spine = ([node for node in of_node if bones[node] in named] for named in (LEGS, SPINE))
    below = [*legs, *spine] if legs and spine else list(of_node)
    node = _common(skeleton.parents, below)
    if node < 0:
        return None
    rest = rest_pose(character).matrices[:, :3, 3].astype(np.float64)
    named = node in of_node
    joint = of_node[node] if named else _common(capture.parents, [of_node[each] for each in below])
    if joint < 0:
        return None
    theirs = capture.rest_positions() * unit
    first = [n for n in of_node if nearest_above(skeleton.parents, n, {*of_node, node}) == node]
    pivots = [rest[n] - (theirs[of_node[n]] - theirs[joint]) for n in first]
    pivot = np.mean(pivots, axis=0) if pivots else rest[node]
    whole = legs and spine
    if named and (not whole or np.linalg.norm(pivot - rest[node]) < APART * np.ptp(rest[:, 1])):
        pivot = rest[node]  # the same place of two bodies that are built a little differently
    return Root(node, joint, pivot)


def _common(parents: NDArray[np.int32], nodes: Collection[int]) -> int:
    """Return the nearest node that is above all of some, or one of them; -1 where there is none."""
    chains = [list(upwards(parents, node)) for node in nodes]
    shared = set(chains[0]).intersection(*chains[1:]) if chains else set()
    return next((node for node in chains[0] if node in shared), -1) if chains else -1
