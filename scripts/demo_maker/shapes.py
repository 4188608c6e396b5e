"""Distance fields of soft solids (after Quilez, "distance functions"), and the meshes made of them."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.sparse import coo_matrix

Points = NDArray[np.float64]
Field = Callable[[Points], Points]


def ellipsoid(centre: ArrayLike, radii: ArrayLike) -> Field:
    """Return the (approximate) distance to an ellipsoid."""
    c, r = np.asarray(centre, float), np.asarray(radii, float)

    def distance(p: Points) -> Points:
        k0 = np.linalg.norm((p - c) / r, axis=1)
        k1 = np.linalg.norm((p - c) / (r * r), axis=1)
        return k0 * (k0 - 1.0) / np.maximum(k1, 1e-9)

    return distance


def capsule(a: ArrayLike, b: ArrayLike, ra: float, rb: float) -> Field:
    """Return the distance to a rod from `a` to `b` whose radius goes from `ra` to `rb`."""
    start, line = np.asarray(a, float), np.asarray(b, float) - np.asarray(a, float)
    length = float(line @ line)

    def distance(p: Points) -> Points:
        t = np.clip((p - start) @ line / length, 0.0, 1.0)
        return np.linalg.norm(p - start - t[:, None] * line, axis=1) - (ra + t * (rb - ra))

    return distance


def smooth_union(fields: list[tuple[Field, float]]) -> Field:
    """Return the union of fields, each melting into the ones before it over its own distance."""

    def distance(p: Points) -> Points:
        total = fields[0][0](p)
        for field, k in fields[1:]:
            d = field(p)
            h = np.maximum(k - np.abs(total - d), 0.0) / k
            total = np.minimum(total, d) - h * h * k * 0.25
        return total

    return distance


def field_normals(field: Field, p: Points, step: float = 1e-3) -> Points:
    """Return unit gradients of a field at points (N, 3)."""
    axes = np.eye(3) * step
    gradient = np.stack([field(p + axis) - field(p - axis) for axis in axes], axis=1)
    return gradient / np.maximum(np.linalg.norm(gradient, axis=1, keepdims=True), 1e-12)


def neighbours(count: int, triangles: NDArray[np.int64]) -> coo_matrix:
    """Return the row-normalised adjacency of a mesh's vertices as a sparse (count, count) matrix."""
    edges = np.vstack([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    both = np.unique(np.vstack([edges, edges[:, ::-1]]), axis=0)
    share = 1.0 / np.bincount(both[:, 0], minlength=count)[both[:, 0]]
    return coo_matrix((share, (both[:, 0], both[:, 1])), shape=(count, count)).tocsr()


def mesh_field(field: Field, low: ArrayLike, high: ArrayLike, cell: float) -> tuple[Points, NDArray[np.int64]]:
    """Return vertices and outward triangles of a field's zero set, evened out and put back on it."""
    from skimage.measure import marching_cubes

    axes = [np.arange(a, b + cell, cell) for a, b in zip(np.asarray(low), np.asarray(high), strict=True)]
    grid = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1)
    values = field(grid.reshape(-1, 3)).reshape(grid.shape[:3])
    points, faces, _, _ = marching_cubes(  # type: ignore[no-untyped-call]
        values, 0.0, spacing=(cell, cell, cell), allow_degenerate=False
    )
    points = points.astype(float) + np.asarray(low, float)
    faces = faces.astype(np.int64)
    mean = neighbours(len(points), faces)
    for _ in range(6):
        normals = field_normals(field, points)
        pull = mean @ points - points
        points = points + 0.5 * (pull - normals * (pull * normals).sum(1, keepdims=True))
        points = points - normals * field(points)[:, None]
    corners = points[faces]
    facing = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    outward = (facing * field_normals(field, corners.mean(1))).sum(1)
    faces[outward < 0] = faces[outward < 0][:, ::-1]
    return points, faces
