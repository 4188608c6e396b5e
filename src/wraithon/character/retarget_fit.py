"""How well a motion fits a character it was put on: its limbs, its root, its bones and its feet."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.bones import nearest_above, upwards
from wraithon.character.moments.contacts import sole_heights
from wraithon.character.pose import clip_poses, rest_pose

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from numpy.typing import NDArray

    from wraithon.character.model import Character, Clip
    from wraithon.character.reading.bvh import Capture
    from wraithon.character.retarget_root import Root


FRAMES = 60
"""Frames of a motion that are looked at, evenly spread over it."""


def limb_error(capture: Capture, character: Character, matches: Mapping[str, str], clip: Clip) -> float:
    """Return by how many degrees matched limbs of a character point elsewhere than the motion's, on average.

    Limbs go from a matched joint to the next matched one below it; the clip is the motion put on the character.
    """
    positions, _ = capture.placed()
    index = character.skeleton.index
    number = {name: k for k, name in enumerate(capture.joints)}
    matched = frozenset(k for k, name in enumerate(capture.joints) if name in matches)
    pairs = [(number[joint], nearest_above(capture.parents, number[joint], matched)) for joint in matches]
    limbs = [
        (low, high, index[matches[capture.joints[low]]], index[matches[capture.joints[high]]])
        for low, high in pairs
        if high >= 0
    ]
    angles = []
    for moment, pose in _poses(capture, character, clip):
        ours = pose[:, :3, 3].astype(np.float64)
        for low, high, node, above in limbs:
            a, b = positions[moment, low] - positions[moment, high], ours[node] - ours[above]
            lengths = float(np.linalg.norm(a) * np.linalg.norm(b))
            if lengths > 1e-9:
                angles.append(np.degrees(np.arccos(np.clip(a @ b / lengths, -1, 1))))
    return float(np.mean(angles)) if angles else 0.0


def root_error(capture: Capture, character: Character, root: Root | None, clip: Clip) -> float:
    """Return by how many degrees the joint that travels is turned otherwise than the motion's, on average.

    Without a joint that travels it is 180.
    """
    if root is None:
        return 180.0
    rest = _turned(rest_pose(character).matrices[root.node].astype(np.float64))
    _, spins = capture.placed()
    first: NDArray[np.float64] | None = None
    angles = []
    for moment, pose in _poses(capture, character, clip):
        ours, theirs = _turned(pose[root.node].astype(np.float64)) @ rest.T, spins[moment, root.joint]
        first = theirs.T @ ours if first is None else first  # how rest poses differ
        cosine = (np.trace(theirs.T @ ours @ first.T) - 1) / 2
        angles.append(np.degrees(np.arccos(np.clip(cosine, -1, 1))))
    return float(np.mean(angles)) if angles else 0.0


def length_error(capture: Capture, character: Character, clip: Clip, root: int) -> float:
    """Return by how many metres a bone is longer or shorter than at rest at most, of all below a node."""
    parents = character.skeleton.parents
    pairs = [(n, int(parents[n])) for n in range(len(parents)) if n != root and root in upwards(parents, n)]
    if not pairs:
        return 0.0
    low, high = np.array(pairs).T
    rest = rest_pose(character).matrices[:, :3, 3].astype(np.float64)
    lengths = np.linalg.norm(rest[low] - rest[high], axis=1)
    found = 0.0
    for _, pose in _poses(capture, character, clip):
        ours = pose[:, :3, 3].astype(np.float64)
        found = max(found, float(np.abs(np.linalg.norm(ours[low] - ours[high], axis=1) - lengths).max()))
    return found


def feet_below_ground(capture: Capture, character: Character, clip: Clip) -> float:
    """Return by how many metres the lowest sole is under the ground at most; 0 where none is."""
    heights = sole_heights(character, clip, _frames(capture) * np.float64(capture.frame_time))
    return max(0.0, -float(heights.min())) if heights.size else 0.0


def _frames(capture: Capture) -> NDArray[np.int64]:
    """Return numbers of frames spread over a motion."""
    many = len(capture.positions)
    return np.unique(np.linspace(0, many - 1, min(many, FRAMES)).astype(np.int64))


def _poses(capture: Capture, character: Character, clip: Clip) -> Iterator[tuple[int, NDArray[np.float32]]]:
    """Yield frames spread over a motion, and the world matrices (N, 4, 4) of the character in each."""
    frames = _frames(capture).tolist()
    yield from zip(frames, clip_poses(character, clip, (k * capture.frame_time for k in frames)), strict=True)


def _turned(matrix: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the rotation (3, 3) of a matrix (4, 4) that may scale."""
    return matrix[:3, :3] / np.maximum(np.linalg.norm(matrix[:3, :3], axis=0), 1e-12)
