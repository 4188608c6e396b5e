"""Building the one mesh out of a file's pieces."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

import numpy as np

from wraithon.character.model import Mesh, Morphs

if TYPE_CHECKING:
    from numpy.typing import NDArray


def triangle_list(run: NDArray[np.int32], mode: int) -> NDArray[np.int32]:
    """Return (T, 3) triangles of an index run that is a list (4), a strip (5) or a fan (6)."""
    count = len(run) // 3 if mode == 4 else max(0, len(run) - 2)
    if mode == 4:
        return run[: 3 * count].reshape(-1, 3)
    k = np.arange(count)
    if mode == 6:
        return np.stack([np.full(count, run[0]), run[k + 1], run[k + 2]], axis=1) if count else run[:0].reshape(0, 3)
    odd = k % 2  # every other triangle of a strip is turned (glTF 2.0, section 3.7.2.1)
    return np.stack([run[k], run[k + 1 + odd], run[k + 2 - odd]], axis=1)


def smooth_normals(
    positions: NDArray[np.float32], triangles: NDArray[np.int32], given: NDArray[np.float32] | None
) -> NDArray[np.float32]:
    """Return unit normals (V, 3): those given, and area-weighted averages where they are missing or zero."""
    normals = np.zeros_like(positions) if given is None else given.astype(np.float32)
    length = np.linalg.norm(normals, axis=1)
    missing = length < 1e-6
    if missing.any():
        corners = positions[triangles].astype(np.float64)
        face = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        total = np.zeros(positions.shape, np.float64)
        for corner in range(3):
            np.add.at(total, triangles[:, corner], face)
        made_length = np.linalg.norm(total, axis=1, keepdims=True)
        made = np.where(made_length > 1e-20, total / np.maximum(made_length, 1e-20), (0.0, 1.0, 0.0))
        normals = np.where(missing[:, None], made, normals)
        length = np.linalg.norm(normals, axis=1)
    return (normals / length[:, None]).astype(np.float32)


def join_pieces(pieces: list[dict[str, Any]], morphs: Morphs | None = None) -> Mesh:
    """Return one mesh of all pieces, with influences padded to the widest of them.

    `morphs` has the names and weights of the morph targets that the pieces' shapes go by.
    """
    width = max(piece["joints"].shape[1] for piece in pieces)
    counts = [len(piece["positions"]) for piece in pieces]
    starts = np.cumsum([0, *counts[:-1]])
    part = np.concatenate([np.full(len(p["triangles"]), i, np.int32) for i, p in enumerate(pieces)])

    def stacked(key: str) -> NDArray[Any]:
        return np.ascontiguousarray(np.concatenate([piece[key] for piece in pieces]))

    def padded(key: str) -> NDArray[Any]:
        rows = [np.pad(p[key], ((0, 0), (0, width - p[key].shape[1]))) for p in pieces]
        return np.ascontiguousarray(np.concatenate(rows))

    shapes = tuple(
        (number, shape.beyond(int(start)))
        for piece, start in zip(pieces, starts, strict=True)
        for number, shape in piece["shapes"]
    )
    shifted = [p["triangles"] + s for p, s in zip(pieces, starts, strict=True)]
    return Mesh(
        positions=stacked("positions"),
        normals=stacked("normals"),
        uvs=stacked("uvs"),
        triangles=np.ascontiguousarray(np.concatenate(shifted).astype(np.int32)),
        joints=padded("joints").astype(np.int32),
        weights=padded("weights").astype(np.float32),
        part_of_triangle=part,
        morphs=replace(morphs or Morphs(), shapes=shapes),
    )
