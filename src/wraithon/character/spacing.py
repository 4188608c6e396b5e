"""Even spacing: places set out beforehand so that none is near another.

Sample elimination for generating Poisson disk sample sets (Yuksel 2015): from several times as many
candidates, the most crowded goes first; then those that still stand close move to wider gaps. The order
is progressive: any first part of it is spaced evenly, too, so that births which take only some of the
places do not clump.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.bones import bone_frames
from wraithon.character.pose import rest_pose, rest_skin
from wraithon.character.sampler import Places, Sampler
from wraithon.character.sampling_kernels import BONES, SURFACE, VERTICES, gather_positions
from wraithon.character.spacing_kernels import build_heap, eliminate, gaps, neighbour_lists, spread_out

if TYPE_CHECKING:
    from collections.abc import Callable

    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.project.source import SkinSource


CANDIDATES, FEWER, MANY = 14, 7, 1200
"""Candidates for each place wanted, and for each of more than MANY."""
SLICE = 20_000
"""Eliminations between looks at whether to go on."""
MAX_PAIRS = 40_000_000
ROUNDS, GOAL = 24, 0.75
"""Rounds of moving what stands nearer than this share of the largest possible distance."""


def spaced_evenly(
    character: Character,
    sampler: Sampler,
    source: SkinSource,
    key: int,
    progress: Callable[[float], None] | None = None,
) -> Sampler:
    """Return the sampler with evenly spaced places set out, as many as the source's pieces."""
    arrays, share = sampler.arrays, sampler.shares
    groups = arrays.groups[arrays.rows]
    numbers = np.unique(groups)
    rows, numbers_out, order = [], [], []
    for turn, group in enumerate(numbers):
        chosen = groups == group
        total = float(share[chosen].sum())
        wanted = max(1, round(source.pieces * total))
        part = sampler.only(chosen)

        def report(done: float, turn: int = turn) -> None:
            if progress is not None:
                progress((turn + done) / len(numbers))

        positions = _places(character, part, wanted, source.radius, key + turn, report)
        rows.append(positions.rows)
        numbers_out.append(positions.numbers)
        # Groups take turns by their shares.
        order.append((np.arange(len(positions.rows)) + 0.5) / len(positions.rows))
    turn_order = np.argsort(np.concatenate(order), kind="stable")
    even_rows, even_positions = np.concatenate(rows)[turn_order], np.concatenate(numbers_out)[turn_order]
    return replace(sampler, arrays=arrays._replace(even_rows=even_rows, even_positions=even_positions))


def _places(
    character: Character,
    sampler: Sampler,
    wanted: int,
    radius: float,
    key: int,
    progress: Callable[[float], None] | None,
) -> Places:
    arrays = sampler.arrays
    if arrays.kind == VERTICES:
        # Every vertex is a candidate once.
        each = np.zeros((len(arrays.rows), 3), np.float32)
        each[arrays.corners == 1, 0] = 1
        each[arrays.corners == 2, 1] = 1
        candidates = Places(arrays.rows, each)
        wanted = min(len(arrays.rows), wanted)
    else:
        candidates = sampler.draw(wanted * (CANDIDATES if wanted <= MANY else FEWER), key)
    points = positions_of(character, sampler, candidates, radius)
    order = eliminated(points, wanted, flat=arrays.kind in {SURFACE, VERTICES}, progress=progress)
    return Places(candidates.rows[order], candidates.numbers[order])


def positions_of(
    character: Character, sampler: Sampler, positions: Places, radius: float = 0.0
) -> NDArray[np.float32]:
    """Return where places (N, 3) are in the rest pose, unscaled."""
    if sampler.arrays.kind == BONES:
        return bone_points(bone_frames(sampler.bones, rest_pose(character)), positions, radius)
    return skin_values(sampler, positions, rest_skin(character).positions)


def skin_values(sampler: Sampler, positions: Places, values: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return what vertices' values (V, K) come to at places on the skin (N, K)."""
    out = np.empty((len(positions.rows), values.shape[1]), np.float32)
    gather_positions(positions.rows, positions.numbers, sampler.arrays.triangles, values, out)
    return out


def bone_points(frames: NDArray[np.float32], positions: Places, radius: float) -> NDArray[np.float32]:
    """Return where places along bones (N, 3) are, from the bones' frames (B, 3, 3)."""
    frame = frames[positions.rows]
    along, angle, share = positions.numbers.T
    axis = frame[:, 1] - frame[:, 0]
    unit = axis / np.maximum(np.linalg.norm(axis, axis=1, keepdims=True), 1e-12)
    other = np.cross(unit, frame[:, 2])
    around = np.cos(angle)[:, None] * frame[:, 2] + np.sin(angle)[:, None] * other
    return (frame[:, 0] + along[:, None] * axis + (share * radius)[:, None] * around).astype(np.float32)


def eliminated(
    points: NDArray[np.float32], wanted: int, *, flat: bool = True, progress: Callable[[float], None] | None = None
) -> NDArray[np.int64]:
    """Return which points to keep (wanted,), in an order whose every first part is spaced evenly.

    Parameters
    ----------
    points
        (M, 3) candidates, in metres.
    wanted
        How many to keep.
    flat
        Whether they lie on a surface; along lines otherwise.
    progress
        Told the share done; what it raises ends the work.
    """
    total = len(points)
    _, chosen = _thin(points, np.arange(total), min(wanted, total), total, progress, flat=flat)
    tail: list[NDArray[np.int64]] = []
    while len(chosen) > 1:
        gone, chosen = _thin(points, chosen, len(chosen) // 2, total, progress, flat=flat)
        tail.append(gone[::-1])
    return np.concatenate([chosen, *reversed(tail)]).astype(np.int64)


def _thin(
    points: NDArray[np.float32],
    here: NDArray[np.int64],
    target: int,
    total: int,
    progress: Callable[[float], None] | None,
    *,
    flat: bool,
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Take points away until `target` are left; return those that went, in order, and those that stay."""
    from scipy.spatial import cKDTree

    count = len(here)
    if target >= count:
        return here[:0], here
    tree = cKDTree(points[here].astype(np.float64))
    reach = 2 * _largest_radius(tree, target, flat=flat)
    pairs = tree.query_pairs(reach, output_type="ndarray")
    while len(pairs) > MAX_PAIRS:  # points heaped onto one spot
        reach *= 0.5
        pairs = tree.query_pairs(reach, output_type="ndarray")
    points = tree.data
    distances = np.linalg.norm(points[pairs[:, 0]] - points[pairs[:, 1]], axis=1)
    starts, totals = np.zeros(count + 1, np.int64), np.zeros(count)
    others, lengths = np.empty(2 * len(pairs), np.int64), np.empty(2 * len(pairs))
    weights = np.empty_like(lengths)
    neighbour_lists(pairs, distances, reach, starts, others, lengths, weights, totals)
    heap, positions = np.empty(count, np.int64), np.empty(count, np.int64)
    build_heap(totals, heap, positions)
    gone, left = np.empty(count - target, np.int64), count
    while left > target:
        until = max(target, left - SLICE)
        eliminate(heap, positions, totals, starts, others, weights, left, until, gone[count - left :])
        left = until
        if progress is not None:
            progress(1 - left / total)
    if total > count:
        return here[gone], here[np.sort(heap[:target])]
    chosen = np.zeros(count, np.bool_)
    chosen[heap[:target]] = True
    for _ in range(ROUNDS):
        gaps(starts, others, lengths, chosen, reach, totals)
        order = np.argsort(-totals, kind="stable")
        if not spread_out(starts, others, lengths, chosen, totals, order, reach, GOAL * reach):
            break
    return here[~chosen], here[chosen]


def _largest_radius(tree: object, target: int, *, flat: bool) -> float:
    """Return half the largest distance that `target` points could keep, from how crowded the candidates are.

    The candidates' own density, in the middle of them, stands for the area: it needs no mesh.
    """
    data = tree.data  # type: ignore[attr-defined]
    count = len(data)
    k = min(count, 9)
    step = max(1, count // 2000)
    away = tree.query(data[::step], k=k)[0][:, -1]  # type: ignore[attr-defined]
    typical = float(np.median(away))
    if typical <= 0:
        typical = max(float(np.ptp(data, axis=0).max()), 1e-6) / count
    if flat:
        area = np.pi * typical**2 / (k - 1 or 1) * count
        return float(np.sqrt(area / (2 * np.sqrt(3) * target)))
    return float(typical * 2 / (k - 1 or 1) * count / (2 * target))
