"""Which births fall into a step, and when exactly."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.numeric.chance import mix
from wraithon.particles.curves import curve_values
from wraithon.project.emission import MAX_LIVING

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.project.emission import Burst, Emission
    from wraithon.project.life import Curve
    from wraithon.project.source import OffspringSource


NONE = np.zeros(0)
COURSE = 513
"""Places at which the rate's curve through its window is looked at."""
ALL, GOLDEN = 2**64 - 1, np.uint64(0x9E3779B97F4A7C15)
SLACK = 1e-9
"""Seconds: two moments nearer than this are the same one."""


def emission_end(emission: Emission, length: float | None) -> float:
    """Return the age of a firing after which the layer bears nothing more; infinite if it never ends."""
    firing = math.inf if length is None else length
    if emission.loop is not None:
        once = emission_end(emission.evolve(loop=None), emission.loop)
        return firing if once > 0 or any(burst.time <= 0 for burst in emission.bursts) else 0.0
    end = 0.0
    if emission.rate > 0 or emission.per_metre > 0:
        end = min(firing, emission.start + emission.window(length))
    for burst in emission.bursts:
        last = burst.time + (burst.repeats - 1) * burst.interval
        end = max(end, min(last, firing))
    return end


def warmed(emission: Emission, length: float | None) -> float | None:
    """Return how long a firing of this length gives birth, its warm-up included; None when it never ends."""
    return None if length is None else length + emission.warm_up


def emits_nothing(emission: Emission, start: float, end: float) -> bool:
    """Tell, quickly, whether surely no birth falls into the ages [start, end) of a firing."""
    if emission.bursts or emission.curve is not None or emission.per_metre or emission.loop is not None:
        return False
    rate, begin = emission.rate, emission.start + SLACK
    return math.ceil((end - begin) * rate) <= max(0, math.ceil((start - begin) * rate))


class Moved(NamedTuple):
    """How far a firing's anchor has come, in metres: within the layer's window so far, and in the step at hand."""

    before: float = 0.0
    now: float = 0.0


STILL = Moved()


def moved_within(emission: Emission, length: float | None, start: float, end: float, metres: float) -> float:
    """Return how many of a step's metres fall into a layer's window, for ages [start, end) of a firing."""
    low, high = _window(emission, length, start, end)
    return metres * max(0.0, high - low) / (end - start)


def _window(emission: Emission, length: float | None, start: float, end: float) -> tuple[float, float]:
    return max(start, emission.start), min(end, emission.start + emission.window(length))


def births_between(
    emission: Emission,
    length: float | None,
    start: float,
    end: float,
    maximum: int = MAX_LIVING,
    key: int = 0,
    moved: Moved = STILL,
) -> tuple[NDArray[np.float64], int]:
    """Return the ages of the firing, in seconds, at which births fall into [start, end), in order.

    Births of a rate come at start + k / rate: the k-th is where it is whatever the step length, so
    steps of any size that follow one another bear the same particles. What is left to chance hangs on the `key` of
    the firing's layer. Those of a rate a metre come amid their share of the way that its anchor has `moved`.

    Returns
    -------
    ages, total
        The first `maximum` of them, and how many there are in all: there may be more than anybody could hold.
    """
    if emission.loop is not None:
        return _looped(emission, length, start, end, maximum, key, moved)
    firing = math.inf if length is None else length
    steady = _steady(emission, firing, start, end)
    if moved.now > 0 and emission.per_metre > 0:
        steady = np.sort(np.concatenate([steady, _by_metre(emission, length, start, end, moved)]))
    if not emission.bursts:
        return steady[:maximum], len(steady)
    happening = [_burst(burst, firing, start, end) for burst in emission.bursts]
    moments = np.concatenate([steady, *(when for when, _ in happening)])
    each = [
        _counts(burst, number, first, len(when), key)
        for number, (burst, (when, first)) in enumerate(zip(emission.bursts, happening, strict=True))
    ]
    counts = np.concatenate([np.ones(len(steady), np.int64), *each])
    order = np.argsort(moments, kind="stable")
    moments, upto = moments[order], np.minimum(np.cumsum(counts[order]), maximum)
    return np.repeat(moments, np.diff(upto, prepend=0)), int(counts.sum())


def _looped(  # as `births_between`
    emission: Emission, length: float | None, start: float, end: float, maximum: int, key: int, moved: Moved
) -> tuple[NDArray[np.float64], int]:
    """Return the births of an emission that begins anew again and again."""
    once, loop = emission.evolve(loop=None), emission.loop or math.inf
    firing = math.inf if length is None else length
    found, total = [NONE], 0
    first = max(0, math.floor((start + SLACK) / loop))
    for turn in range(first, max(first, math.ceil((min(end, firing + SLACK) - SLACK) / loop)) + 1):
        begun = turn * loop
        low, high = max(start, begun) - begun, min(end, begun + loop) - begun
        if high <= low or begun > firing:
            continue
        ages, count = births_between(once, min(loop, firing - begun), low, high, maximum, key + turn, moved)
        found.append(ages + begun)
        total += count
    return np.concatenate(found)[:maximum], total


def _counts(burst: Burst, number: int, first: int, times: int, key: int) -> NDArray[np.int64]:
    """Return how many are born (times,) at a burst's repeats from the `first` on; `number` tells it from others."""
    if burst.chance >= 1 and burst.most is None:
        return np.full(times, burst.count, np.int64)
    repeats = np.arange(first, first + times)
    return drawn_counts(burst, *(_drawn(key, number, repeats, channel) for channel in (0, 1)))


def drawn_counts(
    rule: Burst | OffspringSource, happens: NDArray[np.float64], which: NDArray[np.float64]
) -> NDArray[np.int64]:
    """Return how many are born (M,) each time, by numbers in [0, 1) for whether any are, and for how many."""
    more = max(rule.count, rule.most or 0) - rule.count
    counts: NDArray[np.int64] = np.where(happens < rule.chance, rule.count + np.floor(which * (more + 1)), 0).astype(
        np.int64
    )
    return counts


def _drawn(key: int, *numbers: int | NDArray[np.int64]) -> NDArray[np.float64]:
    """Return numbers in [0, 1) that belong to a key and to whole numbers, of which one may be many."""
    x = np.array([key & ALL], np.uint64)
    for number in numbers:
        x = mix.py_func(x + (np.atleast_1d(number).astype(np.uint64) + np.uint64(1)) * GOLDEN)
    return np.asarray((x >> np.uint64(11)) * 2.0**-53, np.float64)


def _steady(emission: Emission, firing: float, start: float, end: float) -> NDArray[np.float64]:
    window = emission.window(firing)
    low, high = _window(emission, firing, start, end)
    if emission.curve is not None and math.isfinite(window):
        born = births_so_far(emission.curve, emission.rate * window)
        return emission.start + _along_curve(born, window, low - emission.start, high - emission.start)
    first = max(0, math.ceil((low - emission.start - SLACK) * emission.rate))
    stop = math.ceil((high - emission.start - SLACK) * emission.rate)
    if stop <= first:
        return NONE
    births: NDArray[np.float64] = emission.start + np.arange(first, stop) / emission.rate
    return births


def _by_metre(
    emission: Emission, length: float | None, start: float, end: float, moved: Moved
) -> NDArray[np.float64]:
    """Return the births of a rate a metre: the k-th comes when k + 1/2 shares of the way are behind."""
    low, high = _window(emission, length, start, end)
    share = moved_within(emission, length, start, end, moved.now)
    if share <= 0:
        return NONE
    first, stop = (math.ceil(way * emission.per_metre - 0.5) for way in (moved.before, moved.before + share))
    stop = min(stop, first + MAX_LIVING)
    way = (np.arange(first, stop) + 0.5) / emission.per_metre - moved.before
    births: NDArray[np.float64] = low + np.clip(way / share, 0, 1) * (high - low)
    return births


def _along_curve(born: NDArray[np.float64], window: float, low: float, high: float) -> NDArray[np.float64]:
    """Return the births within [low, high) of the window, in seconds from its beginning.

    The k-th comes when the rate's integral reaches k + 1/2, whatever the step length: amid its own share.
    """
    ages = np.linspace(0, window, len(born))
    first, stop = (max(0, math.ceil(np.interp(age - SLACK, ages, born) - 0.5)) for age in (low, high))
    if high <= low or stop <= first:
        return NONE
    return np.interp(np.arange(first, stop) + 0.5, born, ages)


@lru_cache(maxsize=256)
def births_so_far(curve: Curve, maximum: float) -> NDArray[np.float64]:
    """Return births so far (N,) at even shares of a window, by the trapezoid rule; `maximum` at a height of 1."""
    height = np.maximum(curve_values(curve, np.linspace(0, 1, COURSE)), 0.0)
    born = np.concatenate([[0.0], np.cumsum((height[1:] + height[:-1]) / 2)]) * (maximum / (COURSE - 1))
    born.flags.writeable = False
    return born


def _burst(burst: Burst, firing: float, start: float, end: float) -> tuple[NDArray[np.float64], int]:
    """Return when a burst happens within [start, end), and the number of the first of those repeats."""
    first = max(0, math.ceil((start - burst.time - SLACK) / burst.interval))
    stop = min(burst.repeats, math.ceil((end - burst.time - SLACK) / burst.interval))
    moments = burst.time + np.arange(first, max(first, stop)) * burst.interval
    # At its very end, too: one at the moment the firing begins counts even if the effect has no length.
    return np.asarray(moments[moments <= firing], np.float64), first
