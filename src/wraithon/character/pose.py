"""A character's pose at a moment, and its skin there."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.morphs import morphed
from wraithon.character.pose_kernels import (
    blend_locals,
    global_matrices,
    min_cosine,
    skin_vertices,
)
from wraithon.character.remembering import cached_by_content
from wraithon.character.tracks import play_tracks

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character, Clip, Skeleton


@dataclass(frozen=True)
class Pose:
    """World matrices of every node, (N, 4, 4) float32 in metres, and the weights (M,) of morph targets."""

    matrices: NDArray[np.float32]
    weights: NDArray[np.float32] | None = None
    """None for the mesh as it is."""


@dataclass(frozen=True)
class Skin:
    """The posed mesh in world space: positions and unit normals, (V, 3) float32 each."""

    positions: NDArray[np.float32]
    normals: NDArray[np.float32]


FAST = math.cos(math.radians(4))
"""Cosine of a turn within a step beyond which a joint's way is no straight line."""
DEEP = 256
"""How deep nodes may hang for the rest pose to be taken a depth at a time."""
CHUNK = 32_768
"""Rows worked on at a time where all at once would take many times the memory of what is held."""


def chunks(count: int) -> Iterator[slice]:
    """Yield the runs of rows that `count` rows are worked on in."""
    for first in range(0, count, CHUNK):
        yield slice(first, min(first + CHUNK, count))


def root_matrix(scale: float, offset: NDArray[np.float64] | tuple[float, float, float]) -> NDArray[np.float32]:
    """Return the (4, 4) matrix that scales a character and puts it at `offset` metres."""
    x, y, z = offset
    return np.array([[scale, 0, 0, x], [0, scale, 0, y], [0, 0, scale, z], [0, 0, 0, 1]], np.float32)


def turn_matrices(turns: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return rotations (A, 3, 3) about the own X, then Y, then Z axis, from degrees (A, 3).

    Written out because importing SciPy's would lengthen every start by half a second.
    """
    out = np.broadcast_to(np.eye(3), (len(turns), 3, 3))
    cosines, sines = np.cos(np.radians(turns)), np.sin(np.radians(turns))
    for axis in range(3):
        one, two = (axis + 1) % 3, (axis + 2) % 3
        about = np.tile(np.eye(3), (len(turns), 1, 1))
        about[:, one, one] = about[:, two, two] = cosines[:, axis]
        about[:, two, one] = sines[:, axis]
        about[:, one, two] = -sines[:, axis]
        out = out @ about
    return out


def clip_locals(character: Character, clip: Clip | None, time: float) -> NDArray[np.float32]:
    """Return local transforms (N, 10) of a clip at `time` seconds; without a clip, the rest pose."""
    local = character.skeleton.rest.copy()
    if clip is not None:
        play_tracks(clip, time, local)
    return local


def clip_poses(character: Character, clip: Clip, times: Iterable[float]) -> Iterator[NDArray[np.float32]]:
    """Yield the world matrices (N, 4, 4) of a clip at moments in seconds, unscaled and where the file has it."""
    identity = np.eye(4, dtype=np.float32)
    for time in times:
        yield pose_of(character, clip_locals(character, clip, time), identity).matrices


def root_position(character: Character, local: NDArray[np.float32]) -> NDArray[np.float64]:
    """Return where local transforms (N, 10) put the root node (3,): metres, unscaled."""
    matrices = world_matrices(character.skeleton, local, np.eye(4, dtype=np.float32))
    return matrices[character.root_node, :3, 3].astype(np.float64)


def world_matrices(skeleton: Skeleton, local: NDArray[np.float32], root: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return world matrices (N, 4, 4) of local transforms (N, 10) under `root` (4, 4)."""
    out = np.empty((len(local), 4, 4), np.float32)
    global_matrices(skeleton.parents, local, skeleton.fixed, skeleton.is_fixed, root, out)
    return out


def mixed(local: NDArray[np.float32], other: NDArray[np.float32], share: float) -> NDArray[np.float32]:
    """Return local transforms (N, 10) mixed with a share of others."""
    if share <= 0:
        return local
    out = np.empty_like(local)
    blend_locals(local, other, np.float32(share), out)
    return out


def pose_of(
    character: Character,
    local: NDArray[np.float32],
    root: NDArray[np.float32],
    weights: NDArray[np.float32] | None = None,
) -> Pose:
    """Return the pose of local transforms (N, 10) under `root` (4, 4), with weights (M,) of morph targets."""
    return Pose(world_matrices(character.skeleton, local, root), weights)


def rest_pose(character: Character) -> Pose:
    """Return the pose in which the file's nodes stand at rest."""
    return Pose(_rest_matrices(character.skeleton), character.mesh.morphs.rest)


def _rest_matrices(skeleton: Skeleton) -> NDArray[np.float32]:
    """Return what `world_matrices` does of the rest, to the bit, without what must be compiled for that.

    Nodes that hang as deep as each other are taken together, in the kernel's order of arithmetic.
    """
    depth = np.zeros(len(skeleton.parents), np.int64)
    for node, parent in enumerate(skeleton.parents.tolist()):
        depth[node] = depth[parent] + 1 if parent >= 0 else 0
    if depth.max(initial=0) > DEEP:
        return world_matrices(skeleton, skeleton.rest, np.eye(4, dtype=np.float32))
    with np.errstate(over="ignore", invalid="ignore"):  # `reading.reach` refuses what comes of that
        return _by_depth(skeleton, depth)


def _by_depth(skeleton: Skeleton, depth: NDArray[np.int64]) -> NDArray[np.float32]:
    local = np.where(skeleton.is_fixed[:, None, None], skeleton.fixed[:, :3], _matrices(skeleton.rest))
    out = np.zeros((len(depth), 4, 4), np.float32)
    out[:, 3, 3] = 1
    for level in range(int(depth.max(initial=-1)) + 1):
        nodes = np.flatnonzero(depth == level)
        above = np.eye(4, dtype=np.float32) if level == 0 else out[skeleton.parents[nodes]]
        total = np.zeros((len(nodes), 3, 4), np.float32)
        for k in range(3):
            total += above[..., :3, k, None] * local[nodes, k, None, :]
        total[..., 3] += above[..., :3, 3]
        out[nodes, :3] = total
    return out


def _matrices(local: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return matrices (N, 3, 4) of local transforms (N, 10)."""
    x, y, z, w = local[:, 3:7].T
    one, two = np.float32(1), np.float32(2)
    rotated = np.array([
        [one - two * (y * y + z * z), two * (x * y - z * w), two * (x * z + y * w)],
        [two * (x * y + z * w), one - two * (x * x + z * z), two * (y * z - x * w)],
        [two * (x * z - y * w), two * (y * z + x * w), one - two * (x * x + y * y)],
    ])  # fmt: skip
    out = np.empty((len(local), 3, 4), np.float32)
    out[:, :, :3] = rotated.transpose(2, 0, 1) * local[:, None, 7:10]
    out[:, :, 3] = local[:, :3]
    return out


@cached_by_content(maxsize=8)
def rest_skin(character: Character) -> Skin:
    """Return the skin of the rest pose, for any thread: what areas, heights and facings are measured on."""
    mesh, skeleton = character.mesh, character.skeleton
    pose = rest_pose(character)
    matrices = pose.matrices[skeleton.palette_nodes] @ skeleton.inverse_bind
    shape_positions, shape_normals = morphed(mesh, pose.weights)
    positions, normals = np.zeros_like(mesh.positions), np.zeros_like(mesh.normals)
    for part in chunks(len(positions)):
        for k in range(mesh.joints.shape[1]):
            chosen, share = matrices[mesh.joints[part, k]], mesh.weights[part, k, None]
            moved = np.einsum("vij,vj->vi", chosen[:, :3, :3], shape_positions[part]) + chosen[:, :3, 3]
            positions[part] += share * moved
            normals[part] += share * np.einsum("vij,vj->vi", chosen[:, :3, :3], shape_normals[part])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    return Skin(positions, normals)


def skin_of(character: Character, pose: Pose) -> Skin:
    """Return the skin of a pose (linear blend skinning); for the engine thread."""
    return _skinned(character, pose, np.empty_like(character.mesh.normals))


def posed_positions(character: Character, pose: Pose) -> NDArray[np.float32]:
    """Return only the positions (V, 3) of the skin of a pose; for the engine thread."""
    return _skinned(character, pose, np.empty((0, 3), np.float32)).positions


def _skinned(character: Character, pose: Pose, normals: NDArray[np.float32]) -> Skin:
    mesh, skeleton = character.mesh, character.skeleton
    matrices = np.ascontiguousarray(pose.matrices[skeleton.palette_nodes] @ skeleton.inverse_bind)
    positions = np.empty_like(mesh.positions)
    skin_vertices(*morphed(mesh, pose.weights), mesh.joints, mesh.weights, matrices, positions, normals)
    return Skin(positions, normals)


def turns_fast(before: Pose, now: Pose) -> bool:
    """Return whether any joint turns by more than FAST from one pose to the other."""
    return bool(min_cosine(before.matrices, now.matrices) < FAST)
