"""Sampling a character: fair places on its surface, edges, vertices and bones.

Everything is measured in the rest pose. A uniform number u picks the first row whose running share of
the measure exceeds u, so births are even by area (by length, by vertex) whatever the rows' sizes.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.bones import bones_of
from wraithon.character.masks import vertex_densities
from wraithon.character.measures import edge_lengths, owners, triangle_areas, triangle_nodes, welded_vertices
from wraithon.character.pose import chunks, rest_pose, rest_skin
from wraithon.character.sampler import Sampler
from wraithon.character.sampling_kernels import BONES, EDGES, SURFACE, VERTICES, SamplerArrays
from wraithon.character.spacing import spaced_evenly
from wraithon.project.source import Mode, SkinSource

if TYPE_CHECKING:
    from collections.abc import Callable

    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.project.character import PaintedMask


KINDS = {Mode.SURFACE: SURFACE, Mode.EDGES: EDGES, Mode.VERTICES: VERTICES, Mode.BONES: BONES}
_QUADRATURE = np.array([[(i + 1 / 3) / 4, (j + 1 / 3) / 4] for i in range(4) for j in range(4 - i)], np.float32)
"""Places (Q, 2) spread over a triangle, where a mask picture is looked at."""


def sampler_of(
    character: Character,
    source: SkinSource,
    *,
    image: NDArray[np.uint8] | None = None,
    painted: PaintedMask | None = None,
    key: int = 0,
    progress: Callable[[float], None] | None = None,
) -> Sampler:
    """Return the sampler of a source.

    Parameters
    ----------
    character
        The character.
    source
        What on it gives birth. A character whose chosen rows measure nothing yields an empty sampler.
    image
        (H, W, 4) uint8: the picture of the source's texture mask; None leaves the mask out.
    painted
        The painted mask the source names.
    key
        What the chance of evenly spaced places hangs on.
    progress
        Told the share done from 0 to 1 while places are spaced evenly; what it raises ends the work.
    """
    kind = KINDS[source.mode]
    if kind == BONES:
        rows, corners, weights, densities = _bone_rows(character, source)
    else:
        rows, corners, weights, densities = _skin_rows(character, source, kind, painted)
    mask = _mask_image(source, image)
    triangles = character.mesh.triangles
    if kind != BONES and mask.size > 1 and len(rows):
        rows, corners, weights, densities, mask = _behind_mask(
            character, kind, rows, corners, weights, densities, mask
        )
    groups = _groups(character, kind, source)
    if source.table:
        weights = _by_share(weights, groups[rows], np.array([row.share for row in source.table]))
    weighted = weights > 0
    rows, corners, weights, densities = rows[weighted], corners[weighted], weights[weighted], densities[weighted]
    total = float(weights.sum())
    cumulative = np.cumsum(weights) / total if total > 0 else weights
    if len(cumulative):
        cumulative[-1] = 1.0
    arrays = SamplerArrays(
        kind=kind,
        rows=rows.astype(np.int32),
        corners=corners.astype(np.int8),
        cumulative=cumulative,
        densities=np.ascontiguousarray(densities, np.float32),
        image=mask,
        uvs=character.mesh.uvs,
        triangles=triangles,
        even_rows=np.zeros(0, np.int32),
        even_positions=np.zeros((0, 3), np.float32),
        rest=rest_skin(character).positions,
        groups=groups,
        speeds=np.array([*(row.speed for row in source.table), 1.0], np.float32),
    )
    sizes = np.array([*(row.size for row in source.table), 1.0], np.float32)
    sampler = Sampler(arrays, bones_of(character), sizes, _measure(character, kind, rows, corners))
    if source.spacing == "even" and not sampler.empty:
        return spaced_evenly(character, sampler, source, key, progress)
    return sampler


# ---- rows -----------------------------------------------------------------------------------------


Rows = tuple["NDArray[np.int32]", "NDArray[np.int8]", "NDArray[np.float64]", "NDArray[np.float32]"]
"""Rows, corners, weights and corner densities."""


def _skin_rows(character: Character, source: SkinSource, kind: int, painted: PaintedMask | None) -> Rows:
    mesh = character.mesh
    chosen = np.array([not source.parts or part.name in source.parts for part in character.parts], np.bool_)
    rows = np.flatnonzero(chosen[mesh.part_of_triangle]).astype(np.int32)
    density = vertex_densities(character, source, painted)
    points = rest_skin(character).positions
    if kind == SURFACE:
        at = density[mesh.triangles[rows]]
        weights = (triangle_areas(points, mesh.triangles[rows]) * at.mean(axis=1)).astype(np.float64)
        return rows, np.zeros(len(rows), np.int8), weights, _relative(at)
    welded = welded_vertices(character)
    if kind == EDGES:
        return _edge_rows(mesh.triangles, rows, welded, points, density)
    vertices = welded[mesh.triangles[rows]].reshape(-1)
    _, first = np.unique(vertices, return_index=True)
    at = density[mesh.triangles[rows].reshape(-1)[first]]
    return rows[first // 3], (first % 3).astype(np.int8), at.astype(np.float64), np.ones((len(first), 3), np.float32)


def _edge_rows(
    triangles: NDArray[np.int32],
    rows: NDArray[np.int32],
    welded: NDArray[np.int32],
    points: NDArray[np.float32],
    density: NDArray[np.float32],
) -> Rows:
    """Return each edge once, however many triangles share it."""
    many = int(welded.max(initial=0)) + 1
    keys = np.empty((len(rows), 3), np.int64)
    for side in range(3):
        one, two = welded[triangles[rows, side]], welded[triangles[rows, (side + 1) % 3]]
        np.multiply(np.minimum(one, two), many, out=keys[:, side], dtype=np.int64)
        keys[:, side] += np.maximum(one, two)
    order = np.argsort(keys.reshape(-1), kind="stable").astype(np.int32)
    ordered = keys.reshape(-1)[order]
    new = np.flatnonzero(np.diff(ordered, prepend=-1))
    first, collapsed = order[new], ordered[new] // many == ordered[new] % many
    del keys, order, ordered
    row, corner = rows[first // 3], (first % 3).astype(np.int8)
    weights, at = edge_lengths(points, triangles, row, corner), np.empty((len(row), 3), np.float32)
    for part in chunks(len(row)):
        a, b = triangles[row[part], corner[part]], triangles[row[part], (corner[part] + 1) % 3]
        at[part, 0], at[part, 1], at[part, 2] = density[a], density[b], density[b]
        weights[part] *= at[part, :2].mean(axis=1)
        at[part] = _relative(at[part])
    weights[collapsed] = 0.0
    return row, corner, weights, at


def _bone_rows(character: Character, source: SkinSource) -> Rows:
    bones = bones_of(character)
    positions = rest_pose(character).matrices[:, :3, 3].astype(np.float64)
    weights = np.linalg.norm(positions[bones.ends] - positions[bones.nodes], axis=1)
    if source.joints.names:
        names = character.skeleton.names
        weights = weights * np.array([names[node] in source.joints.names for node in bones.nodes], np.float64)
    count = len(weights)
    return np.arange(count, dtype=np.int32), np.zeros(count, np.int8), weights, np.ones((count, 3), np.float32)


def _relative(densities: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return densities (M, 3) as shares of each row's densest corner."""
    return densities / np.maximum(densities.max(axis=1, keepdims=True, initial=0), 1e-12)


def _behind_mask(
    character: Character,
    kind: int,
    rows: NDArray[np.int32],
    corners: NDArray[np.int8],
    weights: NDArray[np.float64],
    densities: NDArray[np.float32],
    mask: NDArray[np.float32],
) -> tuple[NDArray[np.int32], NDArray[np.int8], NDArray[np.float64], NDArray[np.float32], NDArray[np.float32]]:
    """Return the rows weighted by what a mask picture (H, W) lets through on them."""
    uvs = character.mesh.uvs[character.mesh.triangles[rows]]
    if kind == VERTICES:
        at = uvs[np.arange(len(rows)), corners]
        return rows, corners, weights * _look_up(mask, at), densities, np.ones((1, 1), np.float32)
    if kind == EDGES:
        t = np.linspace(0.05, 0.95, 10, dtype=np.float32)
        start, end = uvs[np.arange(len(rows)), corners], uvs[np.arange(len(rows)), (corners + 1) % 3]
        seen = np.stack([_look_up(mask, start + s * (end - start)) for s in t])
    else:
        seen = np.stack(
            [_look_up(mask, uvs[:, 0] * (1 - b - c) + uvs[:, 1] * b + uvs[:, 2] * c) for b, c in _QUADRATURE]
        )
    return rows, corners, weights * seen.mean(axis=0), densities, mask


def _look_up(mask: NDArray[np.float32], uvs: NDArray[np.float32]) -> NDArray[np.float32]:
    height, width = mask.shape
    share = uvs - np.floor(uvs)
    x, y = (share[..., 0] * width).astype(np.int64), (share[..., 1] * height).astype(np.int64)
    return mask[np.minimum(y, height - 1), np.minimum(x, width - 1)]


def _mask_image(source: SkinSource, image: NDArray[np.uint8] | None) -> NDArray[np.float32]:
    """Return brightness times opacity of the mask picture (H, W), 0 to 1; (1, 1) without one."""
    if source.texture is None or image is None or not image.size:
        return np.ones((1, 1), np.float32)
    light = image[..., :3].astype(np.float32).max(axis=-1) / 255
    if source.texture.invert:
        light = 1 - light
    light = light * (image[..., 3].astype(np.float32) / 255)
    return np.ascontiguousarray(light if light.size > 1 else np.repeat(light, 2, axis=1))


def _by_share(
    weights: NDArray[np.float64], groups: NDArray[np.int32], shares: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Return weights so that each group of the table has its share, spread within it as before."""
    totals = np.bincount(groups, weights=weights, minlength=len(shares) + 1)
    factor = np.zeros(len(shares) + 1)
    factor[:-1] = np.where(totals[:-1] > 0, shares / np.where(totals[:-1] > 0, totals[:-1], 1), 0)
    return weights * factor[groups]


def _measure(character: Character, kind: int, rows: NDArray[np.int32], corners: NDArray[np.int8]) -> float:
    """Return what the rows measure: square metres, metres, or how many there are."""
    points, triangles = rest_skin(character).positions, character.mesh.triangles
    if kind == SURFACE:
        return float(sum(triangle_areas(points, triangles[rows[part]]).sum() for part in chunks(len(rows))))
    if kind == VERTICES:
        return float(len(rows))
    if kind == EDGES:
        return float(edge_lengths(points, triangles, rows, corners).sum())
    bones = bones_of(character)
    positions = rest_pose(character).matrices[:, :3, 3].astype(np.float64)
    return float(np.linalg.norm(positions[bones.ends[rows]] - positions[bones.nodes[rows]], axis=1).sum())


def _groups(character: Character, kind: int, source: SkinSource) -> NDArray[np.int32]:
    nodes = bones_of(character).nodes if kind == BONES else triangle_nodes(character)
    return owners(character, [row.joint for row in source.table])[nodes]
