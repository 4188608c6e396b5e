"""Kernels that choose places on a character: functions over flat arrays, nothing else.

A place is a row and three numbers: of a triangle, the weights of its second and third corner; of a
bone, the share of the way along it, the angle around it in radians, and the share of the radius.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.numeric import chance
from wraithon.numeric.chance import identity_of, uniform
from wraithon.numeric.compiled import called, inlined, kernel
from wraithon.numeric.noise import value_at

if TYPE_CHECKING:
    from numpy.typing import NDArray


SURFACE, EDGES, VERTICES, BONES = range(4)
ZERO, ONE = np.float32(0), np.float32(1)
TAU = np.float32(2 * math.pi)
TRIES, BORDER_TRIES = 24, 128
C_A, C_B, C_C, C_D, C_RETRIES = chance.PLACE_A, chance.PLACE_B, chance.PLACE_C, chance.PLACE_D, chance.RETRIES


class SamplerArrays(NamedTuple):
    """What kernels read of a source on the character."""

    kind: int
    rows: NDArray[np.int32]
    """(M,) triangles or bones to be born on."""
    corners: NDArray[np.int8]
    """(M,) which vertex or edge of the triangle."""
    cumulative: NDArray[np.float64]
    """(M,) running share of births, rising to 1."""
    densities: NDArray[np.float32]
    """(M, 3) how dense births are at the row's corners, the densest at most 1."""
    image: NDArray[np.float32]
    """(H, W) mask picture in the mesh's UV, or (1, 1) without one."""
    uvs: NDArray[np.float32]
    triangles: NDArray[np.int32]
    even_rows: NDArray[np.int32]
    """(N,) rows of places that were set out beforehand, if any."""
    even_positions: NDArray[np.float32]
    """(N, 3)."""
    rest: NDArray[np.float32]
    """(V, 3) the skin of the rest pose, where the dissolve's noise is looked up."""
    groups: NDArray[np.int32]
    """Which of `speeds` births on a triangle or bone have."""
    speeds: NDArray[np.float32]


@inlined
def _pick(cumulative, u):  # type: ignore[no-untyped-def]
    """Return the first row whose running share exceeds `u`."""
    low, high = 0, len(cumulative) - 1
    while low < high:
        half = (low + high) // 2
        if cumulative[half] > u:
            high = half
        else:
            low = half + 1
    return low


@inlined
def _texel(image, uvs, triangles, row, a, b, c):  # type: ignore[no-untyped-def]
    """Return the mask picture's value (H, W) at a place of a triangle, repeating."""
    ta, tb, tc = triangles[row, 0], triangles[row, 1], triangles[row, 2]
    u = a * uvs[ta, 0] + b * uvs[tb, 0] + c * uvs[tc, 0]
    v = a * uvs[ta, 1] + b * uvs[tb, 1] + c * uvs[tc, 1]
    height, width = image.shape
    x, y = int((u - np.floor(u)) * np.float32(width)), int((v - np.floor(v)) * np.float32(height))
    return image[min(y, height - 1), min(x, width - 1)]


@called
def choose_place(sampler, band, who, serial):  # type: ignore[no-untyped-def]
    """Return the row and three numbers of the place that belongs to a particle.

    Within a row of the `sampler` (SamplerArrays), places are turned down by density and drawn again. Where
    places were set out beforehand, those are taken one after another. `band` holds the least and the
    largest noise of the dissolve that births are to have, and blotches a metre. When no place is found in
    the band the row is -1.
    """
    kind, rows, corners, cumulative, densities, image, uvs, triangles, even_rows, even_positions, rest, _, _ = sampler
    row, b, c, d = np.int32(-1), ZERO, ZERO, ZERO
    if len(even_rows) > 0:
        k = int(serial % np.uint64(len(even_rows)))
        row, b, c, d = even_rows[k], even_positions[k, 0], even_positions[k, 1], even_positions[k, 2]
    else:
        m = _pick(cumulative, uniform(who, C_A))
        row, corner = rows[m], corners[m]
        on_border = band[1] > band[0]
        tries = BORDER_TRIES if on_border else TRIES
        for turn in range(tries):
            base = C_B if turn == 0 else C_RETRIES + 4 * turn
            if on_border and turn > 0:
                # The border takes an unknown part of each row: drawing the row anew keeps births even by area.
                m = _pick(cumulative, uniform(who, base + 3))
                row, corner = rows[m], corners[m]
            v, w, keep = uniform(who, base), uniform(who, base + 1), uniform(who, base + 2)
            density = ONE
            if kind == SURFACE:
                root = math.sqrt(v)
                b, c = root * (ONE - w), root * w  # Turk 1990
                density = densities[m, 0] * (ONE - b - c) + densities[m, 1] * b + densities[m, 2] * c
            elif kind == EDGES:
                after = (corner + 1) % 3
                b = v if after == 1 else (ONE - v if corner == 1 else ZERO)
                c = v if after == 2 else (ONE - v if corner == 2 else ZERO)
                density = densities[m, 0] * (ONE - v) + densities[m, 1] * v
            elif kind == VERTICES:
                b = ONE if corner == 1 else ZERO
                c = ONE if corner == 2 else ZERO
            else:
                b, c, d = v, TAU * w, np.sqrt(keep)
                break
            if image.size > 1:
                density *= _texel(image, uvs, triangles, row, ONE - b - c, b, c)
            if kind != VERTICES and keep >= density:
                if on_border and turn == tries - 1:
                    row = np.int32(-1)
                continue
            if on_border:
                ta, tb, tc = triangles[row, 0], triangles[row, 1], triangles[row, 2]
                a = ONE - b - c
                value = value_at(
                    (a * rest[ta, 0] + b * rest[tb, 0] + c * rest[tc, 0]) * band[2],
                    (a * rest[ta, 1] + b * rest[tb, 1] + c * rest[tc, 1]) * band[2],
                    (a * rest[ta, 2] + b * rest[tb, 2] + c * rest[tc, 2]) * band[2],
                )
                if value < band[0] or value > band[1]:
                    if turn == tries - 1:
                        row = np.int32(-1)
                    continue
            break
    return row, b, c, d


@kernel
def draw_positions(sampler, band, key, first, out_rows, out_positions):  # type: ignore[no-untyped-def]
    """Write the places of the particles `first`, `first` + 1, ... of a firing: rows (N,), places (N, 3)."""
    for k in range(len(out_rows)):
        serial = np.uint64(first + k)
        row, b, c, d = choose_place(sampler, band, identity_of(key, serial), serial)
        out_rows[k] = row
        out_positions[k, 0], out_positions[k, 1], out_positions[k, 2] = b, c, d


@kernel
def noise_at(points, blotches, out):  # type: ignore[no-untyped-def]
    """Write the dissolve's noise at points (N, 3), `blotches` a metre, into `out` (N,)."""
    for i in range(len(points)):
        out[i] = value_at(points[i, 0] * blotches, points[i, 1] * blotches, points[i, 2] * blotches)


@kernel
def gather_positions(rows, positions, triangles, values, out):  # type: ignore[no-untyped-def]
    """Write values (V, K) of vertices at places on triangles into `out` (N, K)."""
    for k in range(len(rows)):
        b, c = positions[k, 0], positions[k, 1]
        ta, tb, tc = triangles[rows[k], 0], triangles[rows[k], 1], triangles[rows[k], 2]
        for j in range(values.shape[1]):
            out[k, j] = (ONE - b - c) * values[ta, j] + b * values[tb, j] + c * values[tc, j]


@kernel
def dominant_nodes(triangles, joints, weights, palette_nodes, out):  # type: ignore[no-untyped-def]
    """Write the node that holds most of each triangle into `out` (T,)."""
    width = joints.shape[1]
    nodes, share = np.empty(3 * width, np.int32), np.empty(3 * width, np.float32)
    for t in range(len(triangles)):
        count = 0
        for corner in range(3):
            vertex = triangles[t, corner]
            for k in range(width):
                weight = weights[vertex, k]
                if weight <= ZERO:
                    continue
                node = palette_nodes[joints[vertex, k]]
                position = 0
                while position < count and nodes[position] != node:
                    position += 1
                if position == count:
                    nodes[position], share[position] = node, ZERO
                    count += 1
                share[position] += weight
        best = 0
        for position in range(1, count):
            if share[position] > share[best]:
                best = position
        out[t] = nodes[best] if count else 0
