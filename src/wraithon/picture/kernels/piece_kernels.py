"""The kernel that sets up pieces: small meshes, turned, sized and placed."""

from __future__ import annotations

from numba import prange

from wraithon.compiled import drawing_kernel

__all__ = ["place_pieces"]


@drawing_kernel
def place_pieces(places, turns, sizes, points, normals, out_points, out_normals):  # type: ignore[no-untyped-def]
    """Write the points and normals (N * V, 3) of N pieces of one shape, one piece after another.

    `places` (N, 3) and `sizes` (N,) are in metres, `turns` (N, 3, 3) rotations; `points` and `normals` (V, 3) those
    of the shape, one metre large.
    """
    many = len(points)
    for n in prange(len(places)):
        first, size = n * many, sizes[n]
        for v in range(many):
            for k in range(3):
                a, b, c = turns[n, k, 0], turns[n, k, 1], turns[n, k, 2]
                along = a * points[v, 0] + b * points[v, 1] + c * points[v, 2]
                out_points[first + v, k] = places[n, k] + size * along
                out_normals[first + v, k] = a * normals[v, 0] + b * normals[v, 1] + c * normals[v, 2]
