"""Anchors at any moment: all of a character's at once."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.pose import turn_matrices
from wraithon.character.pose_kernels import anchor_matrices

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.pose import Pose
    from wraithon.ground.terrain import Terrain
    from wraithon.project.character import CharacterUse


@dataclass(frozen=True)
class Anchorage:
    """A character's anchors, compiled; those whose joint the character has not are left out."""

    rows: Mapping[str, int]
    """Anchor id to its row."""
    nodes: NDArray[np.int64]
    """(A,) node of each."""
    offsets: NDArray[np.float64]
    """(A, 3) metres along the joint's own axes, or the world's for those on the ground."""
    turns: NDArray[np.float64]
    """(A, 3, 3) rotations, each within the axes of its joint or of the world."""
    grounded: NDArray[np.bool_]
    """(A,) whether it lies on the ground under its joint."""
    scale: float

    def matrices(self, pose: Pose, terrain: Terrain | None = None) -> NDArray[np.float32]:
        """Return world matrices (A, 4, 4) of all anchors in a pose, over the ground of a stage.

        An offset is in metres whatever the joint's own scale, and grows with the character.
        """
        out = np.empty((len(self.nodes), 4, 4), np.float32)
        anchor_matrices(pose.matrices, self.nodes, self.offsets, self.turns, self.grounded, float(self.scale), out)
        if terrain is not None and terrain.relief.heights.size:
            for row in np.flatnonzero(self.grounded):
                out[row, 1, 3] += terrain.height(float(out[row, 0, 3]), float(out[row, 2, 3]))
        return out


def anchorage_of(character: Character, use: CharacterUse) -> Anchorage:
    """Return a character's anchors, ready to be placed."""
    index = character.skeleton.index
    known = [anchor for anchor in use.anchors if anchor.joint in index]
    return Anchorage(
        rows={anchor.id: row for row, anchor in enumerate(known)},
        nodes=np.array([index[anchor.joint] for anchor in known], np.int64),
        offsets=np.array([anchor.offset for anchor in known], np.float64).reshape(-1, 3),
        turns=turn_matrices(np.array([anchor.turn for anchor in known], np.float64).reshape(-1, 3)),
        grounded=np.array([anchor.on_ground for anchor in known], np.bool_),
        scale=use.scale,
    )
