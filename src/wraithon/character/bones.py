"""Bones of a character: segments between joints, where they are in a pose, and the capsules around them.

Capsules are what particles bounce off, and are drawn to, instead of the skin.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.character.pose import rest_pose, rest_skin
from wraithon.character.remembering import cached_by_content

if TYPE_CHECKING:
    from collections.abc import Container, Iterator, Sequence

    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.pose import Pose


MAXIMUM, FEWEST = 64, 8
"""Capsules at most, those of the bones that hold most vertices; and vertices a bone has to hold to have one."""
SHORT = 1e-4
"""Metres that a bone has to be long to have one."""
STRONG_WEIGHT = 0.2
"""Least weight of a joint for a vertex to belong to one of its bones."""
WIDTH, ENDS = 75, (4, 96)
"""Percentiles: of how far its vertices are from a bone, for its radius; and along it, for its ends."""


@dataclass(frozen=True)
class Bones:
    """Segments from a joint to each of its children that skins use."""

    nodes: NDArray[np.int32]
    """(B,) node each begins at."""
    ends: NDArray[np.int32]
    """(B,) node each ends at."""


def upwards(parents: Sequence[int] | NDArray[np.int32], node: int) -> Iterator[int]:
    """Yield a node and those above it, the nearest first, given each one's parent (N,), -1 for none."""
    while node >= 0:
        yield node
        node = int(parents[node])


def nearest_above(parents: NDArray[np.int32], node: int, chosen: Container[int]) -> int:
    """Return the nearest node above one that is chosen, given each one's parent (N,); -1 where there is none."""
    return next((above for above in upwards(parents, int(parents[node])) if above in chosen), -1)


@cached_by_content(maxsize=8)
def bones_of(character: Character) -> Bones:
    """Return the bones between the joints that skins use."""
    skeleton = character.skeleton
    used = skeleton.is_joint if skeleton.is_joint.any() else np.ones(len(skeleton.names), np.bool_)
    ends = [n for n in range(len(used)) if used[n] and skeleton.parents[n] >= 0 and used[skeleton.parents[n]]]
    nodes = [int(skeleton.parents[n]) for n in ends]
    return Bones(np.array(nodes, np.int32), np.array(ends, np.int32))


def bone_frames(bones: Bones, pose: Pose) -> NDArray[np.float32]:
    """Return where bones are in a pose (B, 3, 3): beginning, end, and a unit vector across, in world space."""
    matrices = pose.matrices
    out = np.zeros((len(bones.nodes), 3, 3), np.float32)
    out[:, 0], out[:, 1] = matrices[bones.nodes, :3, 3], matrices[bones.ends, :3, 3]
    along = out[:, 1] - out[:, 0]
    along = along / np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-12)
    axes = matrices[bones.nodes, :3, :3]
    # The joint's own axis that lies most across the bone turns with it.
    axes = axes / np.maximum(np.linalg.norm(axes, axis=1, keepdims=True), 1e-12)
    rest = np.abs(np.einsum("bij,bi->bj", axes, along))
    across = axes[np.arange(len(axes)), :, rest.argmin(axis=1)]
    across = across - along * (across * along).sum(axis=1, keepdims=True)
    out[:, 2] = across / np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-12)
    return out


@dataclass(frozen=True)
class Capsules:
    """Capsules along bones."""

    bones: NDArray[np.int32]
    """(C,) which of `bones_of` each lies along."""
    ends: NDArray[np.float32]
    """(C, 2) where its two middles are, as shares of the bone; beyond it, too."""
    radii: NDArray[np.float32]
    """(C,) as shares of how long the bone is at rest: they grow with the character."""


class _BoneVertices(NamedTuple):
    """The vertices that go to a bone, and where along it they are, as shares of it."""

    bone: int
    rows: NDArray[np.int64]
    along: NDArray[np.float64]


@cached_by_content(maxsize=8)
def capsules_of(character: Character) -> Capsules:
    """Return capsules that hold most of a character's skin: each vertex goes to the nearest bone that moves it."""
    points = rest_skin(character).positions.astype(np.float64)
    frames = bone_frames(bones_of(character), rest_pose(character)).astype(np.float64)
    clusters = sorted(_clusters(character, points, frames), key=lambda one: -len(one.rows))[:MAXIMUM]
    found = []
    for bone, rows, along in sorted(clusters, key=lambda one: one.bone):
        begin, way = frames[bone, 0], frames[bone, 1] - frames[bone, 0]
        long = float(np.linalg.norm(way))
        if len(rows) < FEWEST or long < SHORT:
            continue
        radius = float(np.percentile(np.linalg.norm(points[rows] - begin - along[:, None] * way, axis=1), WIDTH))
        low, high = np.percentile(along, ENDS) + np.array([radius, -radius]) / long
        found.append((bone, min(low, (low + high) / 2), max(high, (low + high) / 2), radius / long))
    numbers = np.array(found, np.float32).reshape(-1, 4)
    return Capsules(numbers[:, 0].astype(np.int32), np.ascontiguousarray(numbers[:, 1:3]), numbers[:, 3].copy())


def _clusters(character: Character, points: NDArray[np.float64], frames: NDArray[np.float64]) -> list[_BoneVertices]:
    """Return which points (V, 3) go to which bones."""
    mesh, bones = character.mesh, bones_of(character)
    strong = mesh.weights >= STRONG_WEIGHT
    nodes, whose = character.skeleton.palette_nodes[mesh.joints][strong], np.nonzero(strong)[0]
    order = np.argsort(nodes, kind="stable")
    nodes, whose = nodes[order], whose[order]
    nearest, bone_of, shares = np.full(len(points), np.inf), np.full(len(points), -1), np.zeros(len(points))
    for bone, (begin, end, _) in enumerate(frames):
        parts = [
            whose[np.searchsorted(nodes, node) : np.searchsorted(nodes, node, "right")]
            for node in (bones.nodes[bone], bones.ends[bone])
        ]
        rows, way = np.unique(np.concatenate(parts)), end - begin
        along = (points[rows] - begin) @ way / max(float(way @ way), SHORT**2)
        away = np.linalg.norm(points[rows] - begin - np.clip(along, 0, 1)[:, None] * way, axis=1)
        closer = away < nearest[rows]
        rows = rows[closer]
        nearest[rows], bone_of[rows], shares[rows] = away[closer], bone, along[closer]
    found = [np.flatnonzero(bone_of == bone) for bone in np.unique(bone_of[bone_of >= 0])]
    return [_BoneVertices(int(bone_of[rows[0]]), rows, shares[rows]) for rows in found]


def capsules_in(character: Character, pose: Pose) -> NDArray[np.float32]:
    """Return where a character's capsules are in a pose (C, 7): two middles in world space, and the radius."""
    return capsules_at(character, pose.matrices[:, :3, 3])


def capsules_at(character: Character, positions: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return where capsules are (C, 7) when a character's nodes are at `positions` (N, 3), as `capsules_in` does."""
    capsules, bones = capsules_of(character), bones_of(character)
    begin = positions[bones.nodes[capsules.bones]]
    way = positions[bones.ends[capsules.bones]] - begin
    out = np.empty((len(capsules.bones), 7), np.float32)
    out[:, :3] = begin + capsules.ends[:, :1] * way
    out[:, 3:6] = begin + capsules.ends[:, 1:] * way
    out[:, 6] = capsules.radii * np.linalg.norm(way, axis=1)
    return out
