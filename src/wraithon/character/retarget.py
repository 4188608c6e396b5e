"""Putting a motion on a character: joints matched by name, rotations carried over, units guessed."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.bones import nearest_above, upwards
from wraithon.character.joint_names import meanings
from wraithon.character.limb_chains import with_limbs
from wraithon.character.model import Clip, Track
from wraithon.character.pose import rest_pose
from wraithon.character.retarget_root import root_of
from wraithon.project.matching import nearest_names

if TYPE_CHECKING:
    from collections.abc import Mapping

    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.reading.bvh import Capture


def propose_matches(capture: Capture, character: Character) -> dict[str, str]:
    """Return for each joint of a motion the character's joint it most likely means; those unsure are left out.

    Equal names come first, then the same bone on the same side, then names that are nearly alike. What would
    turn the tree upside down is left out. Arms and legs whose bones have other lengths then are matched by these.
    """
    skeleton = character.skeleton
    names = skeleton.joint_names
    ours = dict(zip(skeleton.names, meanings(skeleton.names, skeleton.parents.tolist()), strict=True))
    bones = {ours[name]: name for name in reversed(names) if ours[name][0]}
    theirs = meanings(capture.joints, capture.parents.tolist())
    found: dict[str, str] = {}
    for joint, meaning in zip(capture.joints, theirs, strict=True):
        match = joint if joint in names else bones.get(meaning) if meaning[0] else None
        if match is None:
            near = [n for n in nearest_names(joint, names, 3) if ours[n][1] == meaning[1]]
            match = near[0] if near and _plain(near[0]) == _plain(joint) else None
        if match is not None and match not in found.values() and _upright(capture, character, found, joint, match):
            found[joint] = match
    return with_limbs(capture, character, found)


def _plain(name: str) -> str:
    return re.sub(r"[^a-z0-9]", "", name.rpartition(":")[2].lower())


def _upright(capture: Capture, character: Character, found: Mapping[str, str], joint: str, match: str) -> bool:
    """Return whether nothing that is above the joint is matched with what is below its match."""
    skeleton, own = character.skeleton, character.skeleton.index[match]
    over = upwards(capture.parents, capture.joints.index(joint))
    matched = (found[capture.joints[number]] for number in over if capture.joints[number] in found)
    return not any(own in upwards(skeleton.parents, int(skeleton.parents[skeleton.index[m]])) for m in matched)


def guess_unit(capture: Capture, character: Character, matches: Mapping[str, str]) -> float:
    """Return metres a unit of the motion stands for, from the lengths between matched joints.

    The median of the ratios: one odd bone does not matter.
    """
    ours = rest_pose(character).matrices[:, :3, 3].astype(np.float64)
    index, theirs = character.skeleton.index, capture.rest_positions()
    number = {name: k for k, name in enumerate(capture.joints)}
    matched, ratios = _matched(capture, matches), []
    for joint, match in matches.items():
        above = nearest_above(capture.parents, number[joint], matched)
        if above < 0:
            continue
        length = np.linalg.norm(theirs[number[joint]] - theirs[above])
        own = np.linalg.norm(ours[index[match]] - ours[index[matches[capture.joints[above]]]])
        if length > 1e-9 and own > 1e-6:
            ratios.append(own / length)
    return float(np.median(ratios)) if ratios else 1.0


def _matched(capture: Capture, matches: Mapping[str, str]) -> frozenset[int]:
    """Return the joints of a motion that are matched."""
    return frozenset(k for k, name in enumerate(capture.joints) if name in matches)


def retargeted(
    capture: Capture, character: Character, matches: Mapping[str, str], unit: float, name: str = ""
) -> Clip:
    """Return the motion as a clip of a character.

    Each matched joint turns in the world as the motion's does. Where rest poses differ, the difference
    between the directions of the bones at rest is taken out first, so that a motion made from spread arms
    fits a character made with arms down. The joint that legs and spine hang on takes the motion's travel (see
    `root_of`), as does what is matched above it. Nothing below is moved against its parent: bones keep their length.
    """
    skeleton = character.skeleton
    rest = rest_pose(character).matrices.astype(np.float64)
    turns = rest[:, :3, :3] / np.maximum(np.linalg.norm(rest[:, :3, :3], axis=1, keepdims=True), 1e-12)
    positions, spins = capture.placed()
    of_node = {skeleton.index[match]: capture.joints.index(joint) for joint, match in matches.items()}
    root = root_of(capture, character, matches, unit)
    over = set(upwards(skeleton.parents, int(skeleton.parents[root.node]))) if root else set()
    if root is not None:
        of_node[root.node] = root.joint
    aligned = _alignments(capture, character, of_node, rest[:, :3, 3])
    times = np.arange(len(positions), dtype=np.float32) * np.float32(capture.frame_time)
    world = np.empty((len(positions), len(skeleton.names), 3, 3))
    moved = np.broadcast_to(rest[:, :3, 3], (*positions.shape[:1], *rest[:, :3, 3].shape)).copy()
    tracks: list[Track] = []
    for node, parent in enumerate(skeleton.parents):
        local = turns[parent].T @ turns[node] if parent >= 0 else turns[node]
        above = world[:, parent] if parent >= 0 else np.broadcast_to(np.eye(3), (len(positions), 3, 3))
        if parent >= 0 and node in over:
            moved[:, node] = moved[:, parent] + above @ turns[parent].T @ (rest[node] - rest[parent])[:3, 3]
        if node not in of_node:
            world[:, node] = above @ local
            continue
        world[:, node] = spins[:, of_node[node]] @ aligned[node] @ turns[node]
        tracks.append(Track(node, 1, 1, times, _quaternions(np.swapaxes(above, 1, 2) @ world[:, node])))
        if root is not None and (node == root.node or node in over):
            moved[:, node] = positions[:, of_node[node]] * unit
            if node == root.node:
                moved[:, node] += world[:, node] @ turns[node].T @ (rest[node, :3, 3] - root.pivot)
            own = moved[:, node] if parent < 0 else _within(moved[:, node], moved[:, parent], above, rest[parent])
            tracks.append(Track(node, 0, 1, times, np.pad(own, ((0, 0), (0, 1))).astype(np.float32)))
    return Clip.pack(name or capture.name, tracks)


def _within(
    points: NDArray[np.float64], origin: NDArray[np.float64], rotated: NDArray[np.float64], rest: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Return points of the world (F, 3) in the space of a node.

    The node is at `origin` (F, 3), rotated (F, 3, 3), and has the scale of its matrix at rest (4, 4).
    """
    scale = np.maximum(np.linalg.norm(rest[:3, :3], axis=0), 1e-12)
    return np.einsum("fji,fj->fi", rotated, points - origin) / scale


def _alignments(
    capture: Capture, character: Character, of_node: Mapping[int, int], positions: NDArray[np.float64]
) -> dict[int, NDArray[np.float64]]:
    """Return for each matched node the rotation from its bone's direction at rest to the motion's (3, 3)."""
    theirs, skeleton = capture.rest_positions(), character.skeleton
    out: dict[int, NDArray[np.float64]] = {}
    for node, joint in of_node.items():
        ways = []
        for other, twin in of_node.items():
            if nearest_above(skeleton.parents, other, of_node) == node:
                ways.append((positions[other] - positions[node], theirs[twin] - theirs[joint]))
        if len(ways) == 1:
            out[node] = _between(*ways[0])
        elif not ways and np.isfinite(capture.ends[joint]).all():
            children = np.flatnonzero(skeleton.parents == node)
            way = positions[children[0]] - positions[node] if len(children) else np.zeros(3)
            out[node] = _between(way, capture.ends[joint])
        else:
            out[node] = np.eye(3)  # where several bones meet, no single direction tells
    return out


def _between(start: NDArray[np.float64], end: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the shortest rotation (3, 3) from one direction to another (Rodrigues)."""
    lengths = np.linalg.norm(start), np.linalg.norm(end)
    if min(lengths) < 1e-9:
        return np.eye(3)
    a, b = start / lengths[0], end / lengths[1]
    axis, cosine = np.cross(a, b), float(a @ b)
    if cosine < -0.9999:
        # Straight back: half a turn about anything across.
        across = np.cross(a, np.eye(3)[np.abs(a).argmin()])
        across /= np.linalg.norm(across)
        return 2 * np.outer(across, across) - np.eye(3)
    skew = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    return np.eye(3) + skew + skew @ skew / (1 + cosine)


def _quaternions(turns: NDArray[np.float64]) -> NDArray[np.float32]:
    """Return xyzw (F, 4) of rotations (F, 3, 3), neighbours on the same side."""
    from scipy.spatial.transform import Rotation

    out = Rotation.from_matrix(turns).as_quat()
    # A quaternion and its negative are one turn: each lies on the side of the one before.
    sides = np.where((out[1:] * out[:-1]).sum(axis=1) < 0, -1.0, 1.0)
    out[1:] *= np.cumprod(sides)[:, None]
    return out.astype(np.float32)
