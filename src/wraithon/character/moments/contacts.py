"""When feet stand on the ground in a clip, and how fast the ground goes by under them.

A foot stands while the lowest of its sole is near the ground and goes along with it. The ground's own pace, under a
clip made in place, is that at which most of what is low moves.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.character.checkup import feet_of, height_of
from wraithon.character.measures import runs_of
from wraithon.character.pose import clip_poses, rest_pose, rest_skin
from wraithon.character.remembering import cached_by_content

if TYPE_CHECKING:
    from collections.abc import Iterator

    from numpy.typing import NDArray

    from wraithon.character.model import Character, Clip


MIN_RATE, RATE, MAXIMUM = 60, 120, 20_000
"""Moments a second at which clips are looked at, at least and at most, and how many in all at most."""
RUN = 256
"""Moments that are posed before what stands in them is looked at."""
POINTS = 160
"""Points of a sole that are followed, at most."""
THICK = 0.03
"""Share of the character's height: what of a foot is not higher above its lowest point at rest is its sole."""
PATCH = 0.006
"""Share of the height within which of the lowest point others touch the ground as well."""
NEAR, FAR = 0.012, 0.02
"""Shares of the height above the ground below which a foot comes to stand, and stays standing."""
SLOW, QUICK = 0.28, 0.5
"""Heights a second against the ground below which a foot comes to stand, and stays standing."""
SHORTEST, GAP = 0.06, 0.05
"""Seconds that a contact lasts at least, and that two are apart at least."""
SURE = 0.12
"""Seconds from which on a contact's length takes nothing from its confidence."""
LYING = 0.5
"""Share of their mean height at rest that joints are above while the character stands."""
STILL = 0.15
"""Heights a second below which the ground is taken to stand still."""
NOISE_TO_DIFFERENCE = 3.0
"""Median of third differences of noise, by its standard deviation: 0.67 times the root of 20."""
CALM, LONGEST_CALM = 12.0, 0.06
"""Seconds that are averaged over for each metre of noise, and at most."""
MIN_SPREAD, FEWEST = 0.5, 12
"""Steps below which averaging changes nothing, and moments from which on noise can be told."""
TREMBLES = 2.0
"""How many times what is left of the noise feet may be higher and quicker for it."""
LOW = 0.15
"""Share of the lowest heights of feet that is taken for the ground."""


@dataclass(frozen=True)
class Contact:
    """A foot on the ground, in seconds of the clip; in a loop it may go on past the end, into the beginning."""

    joint: str
    start: float
    end: float
    confidence: float
    """From 0 to 1: how near the ground it is, and how still on it."""
    height: float
    """Median metres above the ground, unscaled."""
    speed: float
    """Median metres a second against the ground, unscaled."""

    def reason(self, scale: float = 1.0) -> str:
        """Return in words what was measured, as it is at a character's scale."""
        return f"{self.height * scale * 100:.1f} cm above the ground, {self.speed * scale:.2f} m/s against it"


@dataclass(frozen=True)
class Footing:
    """What was found of a clip's feet, unscaled and not raised."""

    contacts: tuple[Contact, ...]
    """In order of their starts."""
    pace: tuple[float, float]
    """Metres a second at which the ground goes by, along x and z: none where the character travels."""


class _Foot(NamedTuple):
    joint: str
    upright: NDArray[np.bool_]
    """(S,) when the character stands at all: what lies on the ground does not stand on it."""
    heights: NDArray[np.float64]
    """(S,) metres of its lowest point."""
    speeds: NDArray[np.float64]
    """(S, 2) metres a second of what is lowest, along x and z."""
    calm: _Calm


@cached_by_content(maxsize=256)
def find_contacts(character: Character, clip: Clip, *, loops: bool) -> Footing:
    """Return when a clip's feet stand; with `loops` its end goes over into its beginning."""
    many = int(np.clip(clip.seconds * _rate(clip), 8, MAXIMUM))
    times = np.linspace(0, clip.seconds, many, endpoint=not loops)
    step = times[1] - times[0]
    tall = height_of(character)
    if step <= 0 or clip.seconds < SHORTEST:
        return Footing((), (0.0, 0.0))
    feet = _feet(character, clip, times, step)
    if not feet:
        return Footing((), (0.0, 0.0))
    ground = float(np.quantile(np.concatenate([foot.heights for foot in feet]), LOW))
    pace = _pace(feet, ground, tall)
    found = [contact for foot in feet for contact in _contacts(foot, ground, pace, tall, step, loops=loops)]
    found.sort(key=lambda contact: (contact.start, contact.joint))
    return Footing(tuple(found), (float(-pace[0]), float(-pace[1])))


def sole_heights(character: Character, clip: Clip, times: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return how high (S,) the lowest point of all feet is at moments (S,) of a clip, in metres, unscaled."""
    soles = [_sole(character, joint) for joint in feet_of(character)]
    lowest = np.zeros(len(times))
    for rows, poses in _posed(character, clip, times):
        if soles:
            lowest[rows] = np.min([sole.at(poses)[..., 1].min(axis=1) for sole in soles], axis=0)
    return lowest


def _posed(
    character: Character, clip: Clip, times: NDArray[np.float64]
) -> Iterator[tuple[slice, NDArray[np.float64]]]:
    """Yield runs of moments (S,), and the matrices (R, N, 4, 4) of each."""
    for first in range(0, len(times), RUN):
        rows = slice(first, first + RUN)
        yield rows, np.array(list(clip_poses(character, clip, times[rows].tolist())), np.float64)


def _rate(clip: Clip) -> float:
    """Return the moments a second to look at: those of the clip's own keys, where these are many."""
    keys = int(clip.heads[:, 4].max(initial=0))
    return float(np.clip((keys - 1) / max(clip.seconds, 1e-6), MIN_RATE, RATE))


def _feet(character: Character, clip: Clip, times: NDArray[np.float64], step: float) -> list[_Foot]:
    """Return how high the feet are and how fast, moment by moment."""
    soles = [(joint, _sole(character, joint)) for joint in feet_of(character)]
    tall, positions = height_of(character), [np.empty((len(times), len(sole.weights), 3)) for _, sole in soles]
    upright = np.empty(len(times), np.bool_)
    joints = [character.skeleton.index[name] for name in character.skeleton.joint_names]
    level = LYING * float(rest_pose(character).matrices[joints, 1, 3].mean())
    for rows, poses in _posed(character, clip, times):
        upright[rows] = poses[:, joints, 1, 3].mean(axis=1) > level
        for (_, sole), position in zip(soles, positions, strict=True):
            position[rows] = sole.at(poses)
    found = []
    for (joint, _), position in zip(soles, positions, strict=True):
        calm = _calm(position, step)
        calmed = calm.of(position)
        heights = calmed[..., 1].min(axis=1)
        ways = np.gradient(calmed, step, axis=0)[..., [0, 2]]
        low = (calmed[..., 1] < heights[:, None] + PATCH * tall).astype(np.float64)
        speeds = (ways * low[..., None]).sum(axis=1) / low.sum(axis=1)[:, None]
        found.append(_Foot(joint, upright, heights, speeds, calm))
    return found


class _Sole(NamedTuple):
    """Points (V,) that nodes (V, K) carry with weights (V, K), at places (V, K, 3) of theirs."""

    nodes: NDArray[np.int64]
    weights: NDArray[np.float64]
    positions: NDArray[np.float64]

    def at(self, poses: NDArray[np.float64]) -> NDArray[np.float64]:
        """Return where they are (T, V, 3) in the matrices (T, N, 4, 4) of poses."""
        points = np.zeros((len(poses), len(self.weights), 3))
        for column in range(self.nodes.shape[1]):
            nodes, weights = self.nodes[:, column], self.weights[:, column]
            for node in np.unique(nodes[weights > 0]).tolist():
                rows = np.flatnonzero((nodes == node) & (weights > 0))
                x, y, z = self.positions[rows, column].T
                for axis in range(3):
                    across, up, along, moved = poses[:, node, axis, :, None].transpose(1, 0, 2)
                    points[:, rows, axis] += (across * x + up * y + along * z + moved) * weights[rows]
        return points


def _sole(character: Character, joint: str) -> _Sole:
    """Return the lowest of what a foot's joints carry; of a foot without skin, its joints, down to the ground."""
    skeleton, mesh = character.skeleton, character.mesh
    ball = skeleton.index[joint]
    nodes = {ball, max(int(skeleton.parents[ball]), 0)}
    for node, parent in enumerate(skeleton.parents.tolist()):
        if parent in nodes and node > ball:
            nodes.add(node)
    palette = np.asarray(skeleton.palette_nodes)
    own = np.isin(palette, list(nodes))
    share = (mesh.weights * own[mesh.joints]).sum(axis=1) if len(mesh.positions) else np.zeros(0)
    rows = np.flatnonzero(share > 0.5)
    if not len(rows):
        rest = rest_pose(character).matrices
        low = float(rest[:, 1, 3].min())
        below = np.array(sorted(nodes - {int(skeleton.parents[ball])}))
        # A joint sits above its sole by as much as it does at rest.
        rotated = np.linalg.inv(rest[below].astype(np.float64))
        under = rest[below, :3, 3].astype(np.float64)
        under[:, 1] = low
        positions = np.einsum("vij,vj->vi", rotated[:, :3, :3], under) + rotated[:, :3, 3]
        return _Sole(below[:, None], np.ones((len(below), 1)), positions[:, None])
    heights = rest_skin(character).positions[rows, 1]
    rows = rows[heights < heights.min() + THICK * height_of(character)]
    rows = rows[np.linspace(0, len(rows) - 1, min(len(rows), POINTS)).astype(int)]
    inverse = np.asarray(skeleton.inverse_bind, np.float64)[mesh.joints[rows]]
    points = mesh.positions[rows].astype(np.float64)
    positions = np.einsum("vkij,vj->vki", inverse[..., :3, :3], points) + inverse[..., :3, 3]
    return _Sole(palette[mesh.joints[rows]], mesh.weights[rows].astype(np.float64), positions)


class _Calm(NamedTuple):
    """How curves are averaged against their noise, and what of it is left."""

    spread: float
    """Standard deviation of the average's weights, in steps."""
    height: float
    """Metres that heights still tremble by."""
    speed: float
    """Metres a second that speeds still tremble by."""

    def of(self, values: NDArray[np.float64]) -> NDArray[np.float64]:
        """Return curves (S, ...) averaged."""
        if self.spread < MIN_SPREAD:
            return values
        reach = int(np.ceil(3 * self.spread))
        kernel = np.exp(-0.5 * (np.arange(-reach, reach + 1) / self.spread) ** 2)
        # Beyond their ends they go on as they went.
        before = 2 * values[:1] - values[reach:0:-1]
        after = 2 * values[-1:] - values[-2 : -2 - reach : -1]
        padded, sums = np.concatenate([before, values, after]), np.zeros_like(values)
        for number, weight in enumerate((kernel / kernel.sum()).tolist()):
            sums += weight * padded[number : number + len(values)]
        return sums


def _calm(positions: NDArray[np.float64], step: float) -> _Calm:
    """Return how curves (S, V, 3) are averaged: the more they tremble, the longer."""
    many = len(positions)
    if many < FEWEST:
        return _Calm(0.0, 0.0, 0.0)
    trembling = np.abs(np.diff(positions.mean(axis=1), n=3, axis=0))
    noise = float(np.median(trembling)) / NOISE_TO_DIFFERENCE
    spread = min(LONGEST_CALM, CALM * noise) / step
    if spread < MIN_SPREAD or 3 * spread + 2 > many:
        return _Calm(0.0, 0.0, 0.0)
    # What white noise keeps under a Gaussian average, and under its derivative.
    left = 2 * math.sqrt(math.pi) * spread
    return _Calm(spread, noise / math.sqrt(left), noise / math.sqrt(2 * left * spread**2) / step)


def _pace(feet: list[_Foot], ground: float, tall: float) -> NDArray[np.float64]:
    """Return the velocity (2,) of most of what is near the ground."""
    near = np.concatenate([foot.speeds[foot.heights < ground + NEAR * tall] for foot in feet])
    if not len(near):
        return np.zeros(2)
    middle = np.median(near, axis=0)
    for _ in range(3):
        alike = near[np.linalg.norm(near - middle, axis=1) < QUICK * tall]
        middle = np.median(alike, axis=0) if len(alike) else middle
    # Nobody walks at a snail's pace: that is how still feet are.
    return middle if np.linalg.norm(middle) > STILL * tall else np.zeros(2)


def _contacts(
    foot: _Foot, ground: float, pace: NDArray[np.float64], tall: float, step: float, *, loops: bool
) -> list[Contact]:
    heights = foot.heights - ground
    speeds = np.linalg.norm(foot.speeds - pace, axis=1)
    many = len(heights)
    turns = 3 if loops else 1
    heights, speeds, upright = (np.tile(values, turns) for values in (heights, speeds, foot.upright))
    high, fast = TREMBLES * foot.calm.height, TREMBLES * foot.calm.speed
    enters = (heights < NEAR * tall + high) & (speeds < SLOW * tall + fast) & upright
    stays = (heights < FAR * tall + high) & (speeds < QUICK * tall + fast) & upright
    spans = _spans(stays, enters, max(1, round(GAP / step)), max(2, round(SHORTEST / step)))
    if loops:
        whole = [span for span in spans if span[1] - span[0] >= many]
        spans = [(0, many)] if whole else [(a - many, b - many) for a, b in spans if many <= a < 2 * many]
        heights, speeds = heights[many:], speeds[many:]
    found = []
    for first, last in spans:
        high, fast = (float(np.median(values[first:last])) for values in (heights, speeds))
        sure = np.clip(1 - max(high, 0.0) / (FAR * tall), 0, 1) * np.clip(1 - fast / (QUICK * tall), 0, 1)
        sure *= min(1.0, (last - first) * step / SURE)
        start, end = (round(float(step) * k, 4) for k in (first, last if loops else min(last, many - 1)))
        found.append(Contact(foot.joint, start, end, round(float(sure), 3), high, fast))
    return found


def _spans(stays: NDArray[np.bool_], enters: NDArray[np.bool_], gap: int, minimum: int) -> list[tuple[int, int]]:
    """Return the runs of `stays`, gaps closed, in which it `enters` at all, from where it first does."""
    joined: list[list[int]] = []
    for first, last in runs_of(stays).tolist():
        if joined and first - joined[-1][1] < gap:
            joined[-1][1] = last
        else:
            joined.append([first, last])
    found = []
    for first, last in joined:
        inside = np.flatnonzero(enters[first:last])
        if len(inside):
            start = first + int(inside[0])
            if last - start >= minimum:
                found.append((start, last))
    return found
