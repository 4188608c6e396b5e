"""Bones of a character: segments between joints, where they are in a pose, and places around them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Container

    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.pose import Pose

__all__ = ["Bones", "bone_frames", "bones_of", "nearest_above"]


@dataclass(frozen=True)
class Bones:
    """Segments from a joint to each of its children that skins use."""

    nodes: NDArray[np.int32]
    """(B,) node each begins at."""
    ends: NDArray[np.int32]
    """(B,) node each ends at."""


def nearest_above(parents: NDArray[np.int32], node: int, chosen: Container[int]) -> int:
    """Return the nearest node above one that is chosen, given each one's parent (N,); -1 where there is none."""
    above = int(parents[node])
    while above >= 0 and above not in chosen:
        above = int(parents[above])
    return above


@lru_cache(maxsize=8)
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
