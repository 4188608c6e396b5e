"""What the character plays: the running order as a function of time, so that any moment can be asked for."""

from __future__ import annotations

import math
from bisect import bisect_right
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

import numpy as np

from wraithon.character.morphs import weights_at
from wraithon.character.pose import Pose, clip_locals, mixed, pose_of, rest_pose, root_matrix, root_position
from wraithon.numeric.arithmetic import eased

if TYPE_CHECKING:
    from collections.abc import Iterator

    from numpy.typing import NDArray

    from wraithon.character.model import Character, Clip
    from wraithon.project.character import CharacterUse, ClipUse, Mark
    from wraithon.project.project import Stage


RECENT = 8
"""Moments that are kept, of clips and of the character's way."""
MARGIN = 1e-6
"""Seconds looked at beyond either end, before it is asked exactly."""
BESIDE = 1 / 60
"""Seconds to either side that a speed is taken over."""
WITHIN = 1e-3
"""Seconds that what is marked on a clip keeps off its end."""
SHORTEST = 1 / 480
"""Seconds: a clip that moves nothing still takes a moment, or the order would never get past it."""


@dataclass(frozen=True)
class Segment:
    """One pass of a clip within the running order."""

    clip: Clip | None
    use: ClipUse
    start: float
    """Seconds after the order's beginning."""
    moving: float
    """Seconds the clip itself takes."""
    length: float
    """Seconds until the next segment: `moving`, and a rest where the clip does not loop."""
    fades: bool
    """Whether it blends in from the segment before."""
    stride: NDArray[np.float64]
    """(3,) metres the character has come when it is over."""
    offset: NDArray[np.float64]
    """(3,) metres from the order's beginning to its own."""
    clip_run: int = -1
    """Which entry of the running order it is a pass of; -1 where there is none."""


def on_a_step(inside: float, moving: float, rate: int) -> float:
    """Return the moment of a clip, `moving` seconds long, that is on a whole step and next to one; within it."""
    return min(max(round(inside * rate) / rate, 0.0), max(0.0, moving - WITHIN))


@dataclass(frozen=True)
class _Run:
    """A clip run of the running order as it is laid out: the same clip some times in a row."""

    clip_run: int
    clip: Clip
    use: ClipUse
    first: int
    """Number of its first segment."""
    moving: float
    length: float
    stride: NDArray[np.float64]
    fades: tuple[bool, bool]
    """Whether its first pass blends in, and whether the others do."""


@dataclass(frozen=True)
class MarkPassing:
    """A mark that a clip passes, at a moment of the show in seconds."""

    time: float
    mark: Mark
    clip: str


class Performance:
    """A character playing the running order over and over, from the show's time 0.

    Everything is a pure function of time: poses, events passed, and where the character stands.
    """

    def __init__(self, character: Character, use: CharacterUse, stage: Stage) -> None:
        self.character = character
        self.use = use
        self._fade = stage.fade
        self._starts: dict[str, NDArray[np.float64]] = {}
        self._recent: dict[tuple[str, float], tuple[NDArray[np.float32], NDArray[np.float64]]] = {}
        self._places: dict[float, NDArray[np.float64]] = {}
        self._speeds: dict[float, float] = {}
        self._into_parent = self._parent_turn()
        self._runs: list[_Run] = []
        self._starts_of = np.zeros(1)
        """(N + 1,) seconds after the order's beginning at which each segment begins, and the last one ends."""
        self._offsets_of = np.zeros((1, 3))
        self._marks: dict[str, tuple[NDArray[np.float64], list[Mark]]] = {}
        self._lay_out(stage)
        self._firsts = [run.first for run in self._runs]
        self.period = float(self._starts_of[-1]) if self._runs else 1.0
        self._stride = self._offsets_of[-1]
        self._ways_of = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(self._offsets_of, axis=0), axis=1))])
        """(N + 1,) metres gone over the ground when each segment begins, and when the last one ends."""

    def _lay_out(self, stage: Stage) -> None:
        """Lay the order out; where segments begin is a running sum, so that thousands of passes cost nothing."""
        lengths, strides = [np.zeros(1)], [np.zeros((1, 3))]
        for number, clip_run in enumerate(stage.order):
            clip = self.character.clip(clip_run.clip)
            if clip is None:
                continue
            use = self.use.clip(clip_run.clip)
            moving = max(clip.seconds, SHORTEST)
            length = moving if use.loop else moving + stage.rest
            stride = self.way(clip, use, clip.seconds)
            seamless = use.loop and bool(self._runs) and self._runs[-1].clip is clip
            first = self._runs[-1].first + len(lengths[-1]) if self._runs else 0
            self._runs.append(_Run(number, clip, use, first, moving, length, stride, (not seamless, not use.loop)))
            lengths.append(np.full(clip_run.times, length))
            strides.append(np.tile(stride, (clip_run.times, 1)))
        if self._runs:
            first_run = self._runs[0]
            if first_run.use.loop and first_run.clip is self._runs[-1].clip:
                self._runs[0] = replace(first_run, fades=(False, first_run.fades[1]))
            self._starts_of = np.cumsum(np.concatenate(lengths))
            self._offsets_of = np.cumsum(np.concatenate(strides), axis=0)

    def __len__(self) -> int:
        """Return how many segments a round has."""
        return max(1, len(self._starts_of) - 1)

    def segment(self, number: int) -> Segment:
        """Return a segment of the running order by its number, below `len`; from the end, too."""
        number %= len(self)
        if not self._runs:
            nowhere = np.zeros(3)
            return Segment(None, self.use.clip(""), 0.0, 1.0, 1.0, fades=False, stride=nowhere, offset=nowhere)
        run = self._runs[bisect_right(self._firsts, number) - 1]
        return Segment(
            run.clip, run.use, float(self._starts_of[number]), run.moving, run.length,
            run.fades[number > run.first], run.stride, self._offsets_of[number], run.clip_run,
        )  # fmt: skip

    def passes(self, start: float, end: float) -> Iterator[tuple[float, Segment]]:
        """Yield the passes of clips that [start, end] touches: show time of their beginning, and the segment."""
        turn = math.floor(start / self.period)
        while turn * self.period < end:
            inside = start - turn * self.period
            number = max(0, int(np.searchsorted(self._starts_of, inside, side="left")) - 1)
            while number < len(self):
                segment = self.segment(number)
                base = turn * self.period + segment.start
                if base >= end:
                    return
                if base + segment.length >= start:
                    yield base, segment
                number += 1
            turn += 1

    def segment_at(self, time: float) -> tuple[int, int, float]:
        """Return the round, the segment number and the seconds into it at a moment of the show."""
        turn = math.floor(time / self.period)
        inside = time - turn * self.period
        number = min(max(int(np.searchsorted(self._starts_of, inside, side="right")) - 1, 0), len(self) - 1)
        return turn, number, max(0.0, inside - float(self._starts_of[number]))

    def clip_moment(self, time: float) -> tuple[Segment, float]:
        """Return the segment being played and its clip's own time."""
        _, number, inside = self.segment_at(time)
        segment = self.segment(number)
        return segment, min(inside, segment.moving)

    def position_at(self, time: float) -> NDArray[np.float64]:
        """Return where the character stands (3,) in metres: how far the clips have carried it."""
        if time not in self._places:
            turn, number, inside = self.segment_at(time)
            segment = self.segment(number)
            way = self.way(segment.clip, segment.use, min(inside, segment.moving))
            _keep(self._places, time, self._stride * turn + segment.offset + way)
        return self._places[time]

    def way_at(self, time: float) -> float:
        """Return how many metres the character has gone by a moment; within a clip, as the crow flies."""
        turn, number, inside = self.segment_at(time)
        segment = self.segment(number)
        within = float(np.linalg.norm(self.way(segment.clip, segment.use, min(inside, segment.moving))))
        return float(self._ways_of[-1]) * turn + float(self._ways_of[number]) + within

    def speed_at(self, time: float) -> float:
        """Return the metres a second at which the character goes over the ground at a moment."""
        if time not in self._speeds:
            first, last = max(0.0, time - BESIDE), time + BESIDE
            _keep(self._speeds, time, math.dist(self.position_at(last), self.position_at(first)) / (last - first))
        return self._speeds[time]

    def way(self, clip: Clip | None, use: ClipUse, time: float) -> NDArray[np.float64]:
        """Return how far (3,) a clip has carried the character over the ground by a time of its own."""
        x, z = use.goes
        travel = self._moved(clip, time)[1] * _carried(use) + (x * time, 0.0, z * time)
        way: NDArray[np.float64] = travel * self.use.scale
        return way

    def dissolved_at(self, time: float) -> float:
        """Return the share of the character that is gone at a moment of the show."""
        segment, inside = self.clip_moment(time)
        return self.use.dissolve.gone(segment.clip.name if segment.clip is not None else "", inside)

    def pose_at(self, time: float) -> Pose:
        """Return the character's pose at a moment of the show, in world space."""
        local, height, weights = self.locals_at(time)
        position = self.position_at(time) + (0.0, self.use.height + height, 0.0)
        return pose_of(self.character, local, root_matrix(self.use.scale, position), weights=weights)

    def locals_at(self, time: float) -> tuple[NDArray[np.float32], float, NDArray[np.float32]]:
        """Return local transforms (N, 10) at a moment, how far clips raise it, and the weights of morph targets."""
        turn, number, inside = self.segment_at(time)
        segment = self.segment(number)
        clip_time = min(inside, segment.moving)
        local, height = self.settled(segment.clip, segment.use, clip_time), segment.use.height
        weights = weights_at(self.character.mesh, segment.clip, clip_time)
        if segment.fades and inside < self._fade and (turn or number):
            before = self.segment(number - 1)
            then = self._beyond(before, inside)
            share = 1.0 - eased(inside / self._fade)
            local = mixed(local, self.settled(before.clip, before.use, then), share)
            height += share * (before.use.height - height)
            weights += np.float32(share) * (weights_at(self.character.mesh, before.clip, then) - weights)
        return local, height, weights

    @staticmethod
    def _beyond(segment: Segment, extra: float) -> float:
        """Return the clip time `extra` seconds after a segment's end: loops go on, others hold."""
        return extra % segment.moving if segment.use.loop else segment.moving

    def _moved(self, clip: Clip | None, time: float) -> tuple[NDArray[np.float32], NDArray[np.float64]]:
        """Return local transforms (N, 10) of a clip, and how far its root has come by then.

        The way (3,) is in metres, unscaled, since the clip's start. The latest few moments are kept: a step
        asks for each of them several times.
        """
        name = clip.name if clip else ""
        key = (name, time)
        if key not in self._recent:
            local = clip_locals(self.character, clip, time)
            if name not in self._starts:
                self._starts[name] = root_position(self.character, clip_locals(self.character, clip, 0.0))
            travel = root_position(self.character, local) - self._starts[name]
            _keep(self._recent, key, (local, travel))
        return self._recent[key]

    def settled(self, clip: Clip | None, use: ClipUse, clip_time: float) -> NDArray[np.float32]:
        """Return local transforms (N, 10) of a clip without its travel over the ground, and what is in place."""
        local, travel = self._moved(clip, clip_time)
        local = local.copy()
        taken = self._into_parent @ (travel * (1.0, float("y" in use.in_place), 1.0))
        local[self.character.root_node, :3] -= taken.astype(np.float32)
        return local

    def _parent_turn(self) -> NDArray[np.float64]:
        """Return what turns (3, 3) a shift in the character's space into the space of the root's parent."""
        skeleton = self.character.skeleton
        parent = int(skeleton.parents[self.character.root_node])
        if parent < 0:
            return np.eye(3)
        turn = rest_pose(self.character).matrices[parent, :3, :3].astype(np.float64)
        if abs(np.linalg.det(turn)) < 1e-12:
            return np.zeros((3, 3))
        return np.linalg.inv(turn).astype(np.float64)

    def passings(self, start: float, end: float) -> list[MarkPassing]:
        """Return the marks passed in [start, end), in order of time.

        Spans that follow one another without a gap pass each mark exactly once, whatever their length.
        """
        found = [p for p in self._near(start, end) if start <= p.time < end]
        return sorted(found, key=lambda p: p.time)

    def _near(self, start: float, end: float) -> Iterator[MarkPassing]:
        for base, segment in self.passes(start, end):
            times, marks = self._marks_of(segment)
            low = int(np.searchsorted(times, start - base - MARGIN))
            for number in range(low, int(np.searchsorted(times, end - base + MARGIN))):
                yield MarkPassing(base + marks[number].time, marks[number], segment.use.name)

    def _marks_of(self, segment: Segment) -> tuple[NDArray[np.float64], list[Mark]]:
        """Return a clip's marks that it reaches, in order of time, and their times."""
        name = segment.use.name
        if name not in self._marks:
            marks = sorted((m for m in segment.use.marks if m.time < segment.moving), key=lambda mark: mark.time)
            self._marks[name] = np.array([mark.time for mark in marks]), marks
        return self._marks[name]


def _keep(cache: dict[Any, Any], key: object, value: object) -> None:
    """Keep what was worked out for a moment, and forget what was longest ago: a step asks for it several times."""
    while len(cache) >= RECENT:
        del cache[next(iter(cache))]
    cache[key] = value


def _carried(use: ClipUse) -> NDArray[np.float64]:
    """Return which axes (3,) of a clip's travel carry the character over the ground."""
    return np.array(["x" not in use.in_place, False, "z" not in use.in_place], np.float64)
