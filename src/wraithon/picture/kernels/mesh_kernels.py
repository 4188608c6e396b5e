"""The kernel that sets up pieces: small meshes, turned, sized and placed."""

from __future__ import annotations

import numpy as np

from wraithon.numeric.compiled import drawing_kernel, prange


@drawing_kernel
def place_pieces(positions, turns, sizes, points, normals, out_points, out_normals):  # type: ignore[no-untyped-def]
    """Write the points and normals (N * V, 3) of N pieces of one shape, one piece after another.

    `positions` (N, 3) and `sizes` (N,) are in metres, `turns` (N, 3, 3) rotations; `points` and `normals` (V,
    3) those
    of the shape, one metre large.
    """
    many = len(points)
    for n in prange(len(positions)):
        first, size = n * many, sizes[n]
        for v in range(many):
            for k in range(3):
                a, b, c = turns[n, k, 0], turns[n, k, 1], turns[n, k, 2]
                along = a * points[v, 0] + b * points[v, 1] + c * points[v, 2]
                out_points[first + v, k] = positions[n, k] + size * along
                out_normals[first + v, k] = a * normals[v, 0] + b * normals[v, 1] + c * normals[v, 2]


@drawing_kernel
def list_pieces(  # type: ignore[no-untyped-def]
    many, first, corners, triangles, uvs, parts, materials, each, sides, faces, out_uvs, out_parts, shown
):
    """Write the triangles of `many` pieces of one shape, one piece after another, and what belongs to them.

    `triangles` (T, 3), `uvs` (V, 2), `parts` (T,) which material each triangle has, and `sides` (T,) from how many
    it is seen, are those of the shape, whose pieces have `each` materials, from number `materials` on. `faces`
    (N * T, 3) receive rows of points, the first piece's `corners` from `first` on; `out_uvs` (N * V, 2), `out_parts`
    (N * T,) and `shown` (N * T,) the rest.
    """
    count = len(triangles)
    for n in prange(many):
        to, point, material = n * count, np.int32(first + n * corners), np.int32(materials + n * each)
        for t in range(np.uint64(count)):
            for k in range(3):
                faces[to + t, k] = triangles[t, k] + point
            out_parts[to + t], shown[to + t] = parts[t] + material, sides[t]
        for v in range(np.uint64(corners)):
            out_uvs[n * corners + v, 0], out_uvs[n * corners + v, 1] = uvs[v, 0], uvs[v, 1]
