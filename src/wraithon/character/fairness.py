"""How fair births are: density on the skin, and births by part and joint against what area would give."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from wraithon.character.measures import triangle_areas, triangle_nodes, welded_vertices
from wraithon.character.pose import chunks, rest_skin
from wraithon.character.sampler import Sampler
from wraithon.character.sampling_kernels import BONES, EDGES, SURFACE

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from wraithon.character.model import Character


OCTAVES = 3.0
"""Doublings of density to either side of fair that colour tells apart."""
BIRTHS = 8192


@dataclass(frozen=True)
class Tally:
    """Births of one part or joint: their share, and the share that area alone would give it."""

    name: str
    births: float
    fair: float


def density_heat(character: Character, sampler: Sampler) -> NDArray[np.float32]:
    """Return how dense births are at each vertex (V,): 0.5 as area gives, 1 OCTAVES doublings more, 0 as many less.

    Where nothing is emitted it is -1. Bones give birth inside the skin: then it is -1 everywhere.
    """
    triangles = character.mesh.triangles
    position = welded_vertices(character)
    count = int(position.max(initial=-1)) + 1
    if sampler.empty or sampler.arrays.kind == BONES:
        return np.full(len(position), -1, np.float32)
    births = sampler.shares
    born, area = np.zeros(count), np.zeros(count)
    for part in chunks(len(sampler.arrays.rows)):
        corners, shares = _ends(sampler, part)
        weights = births[part, None] * shares
        born += np.bincount(position[corners].reshape(-1), weights=weights.reshape(-1), minlength=count)
    # By vertex or edge the whole skin's area counts: what is around them is more than gives birth.
    rows = np.unique(sampler.arrays.rows) if sampler.arrays.kind == SURFACE else np.arange(len(triangles))
    for part in chunks(len(rows)):
        own = triangles[rows[part]]
        third = np.repeat(triangle_areas(rest_skin(character).positions, own) / 3, 3)
        area += np.bincount(position[own.reshape(-1)], weights=third, minlength=count)
    chosen = (born > 0) & (area > 0)
    if not chosen.any():
        return np.full(len(position), -1, np.float32)
    fair = born[chosen].sum() / area[chosen].sum()
    heat = np.full(count, -1.0)
    heat[chosen] = np.clip(0.5 + np.log2(born[chosen] / area[chosen] / fair) / (2 * OCTAVES), 0, 1)
    return heat[position].astype(np.float32)


def _ends(sampler: Sampler, part: slice) -> tuple[NDArray[np.int32], NDArray[Any]]:
    """Return the vertices that some of the rows give birth at, and how their births are shared among these."""
    corners, density = sampler.arrays.triangles[sampler.arrays.rows[part]], sampler.arrays.densities[part]
    each, corner = np.arange(len(corners)), sampler.arrays.corners[part].astype(np.int64)
    if sampler.arrays.kind == SURFACE:
        return corners, density / np.maximum(density.sum(axis=1, keepdims=True), 1e-12)
    if sampler.arrays.kind == EDGES:
        ends = np.stack([corners[each, corner], corners[each, (corner + 1) % 3]], axis=1)
        return ends, density[:, :2] / np.maximum(density[:, :2].sum(axis=1, keepdims=True), 1e-12)
    return corners[each, corner][:, None], np.ones((len(corners), 1))


def tallies(character: Character, sampler: Sampler, maximum: int = 10) -> tuple[list[Tally], list[Tally]]:
    """Return births by part and by joint of a run of test births, the largest fair shares first.

    The fair share is that of the area of the triangles births can fall on; for bones, of their length.
    At most `maximum` joints are listed, and those with the largest departure are among them.
    """
    if sampler.empty:
        return [], []
    rows = sampler.draw(BIRTHS, key=1).rows
    names = character.skeleton.names
    if sampler.arrays.kind == BONES:
        from wraithon.character.pose import rest_pose

        bones, positions = sampler.bones, rest_pose(character).matrices[:, :3, 3]
        length = np.linalg.norm(positions[bones.ends] - positions[bones.nodes], axis=1)
        born = np.bincount(bones.nodes[rows], minlength=len(names))
        fair = np.bincount(bones.nodes, weights=length, minlength=len(names))
        return [], _listed(names, born, fair, maximum)
    chosen = np.unique(sampler.arrays.rows)
    area = triangle_areas(rest_skin(character).positions, character.mesh.triangles[chosen])
    part, node = character.mesh.part_of_triangle, triangle_nodes(character)
    parts = tuple(p.name for p in character.parts)
    by_part = _listed(
        parts, np.bincount(part[rows], minlength=len(parts)), np.bincount(part[chosen], area, len(parts)), maximum
    )
    born, fair = np.bincount(node[rows], minlength=len(names)), np.bincount(node[chosen], area, len(names))
    return by_part, _listed(names, born, fair, maximum)


def _listed(names: Sequence[str], born: NDArray[Any], fair: NDArray[Any], maximum: int) -> list[Tally]:
    births, shares = born / max(int(born.sum()), 1), fair / max(float(fair.sum()), 1e-300)
    there = np.flatnonzero((births > 0) | (shares > 0))
    by_departure = there[np.argsort(-np.abs(births[there] - shares[there]), kind="stable")][: maximum // 2]
    by_size = there[np.argsort(-shares[there], kind="stable")]
    listed = list(dict.fromkeys([*by_departure.tolist(), *by_size.tolist()]))[:maximum]
    listed.sort(key=lambda k: -shares[k])
    return [Tally(names[k], float(births[k]), float(shares[k])) for k in listed]
