"""Morph targets: shapes that a mesh is moved towards, each by its weight."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.tracks import play_tracks

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Clip, Mesh


def weights_at(mesh: Mesh, clip: Clip | None, time: float) -> NDArray[np.float32]:
    """Return the weights (M,) of a mesh's morph targets in a clip at `time` seconds; without a clip, at rest."""
    weights = mesh.morphs.rest
    if clip is None or clip.shaping is None or not len(weights):
        return weights
    # Weights are tracks like any other: each is the x of a place.
    sampled = np.zeros((len(weights), 10), np.float32)
    sampled[:, 0] = weights
    play_tracks(clip.shaping, time, sampled)
    return sampled[:, 0].copy()


def morphed(mesh: Mesh, weights: NDArray[np.float32] | None) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Return a mesh's positions and normals (V, 3), moved by the weights (M,) of its morph targets.

    Where nothing moves these are the mesh's own arrays. Normals are not made unit length again.
    """
    moving = [] if weights is None else [(weights[number], shape) for number, shape in mesh.morphs.shapes]
    moving = [(weight, shape) for weight, shape in moving if weight != 0]
    if not moving:
        return mesh.positions, mesh.normals
    positions, normals = mesh.positions.copy(), mesh.normals.copy()
    for weight, shape in moving:
        positions[shape.rows] += weight * shape.positions
        normals[shape.rows] += weight * shape.normals
    return positions, normals
