"""Which births fall into a step, and when exactly."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.project.emission import Burst, Emission

__all__ = ["births_between", "emission_end"]

SLACK = 1e-9
"""Seconds: two moments nearer than this are the same one."""


def emission_end(emission: Emission, length: float | None) -> float:
    """Return the age of a firing after which the layer bears nothing more; infinite if it never ends."""
    firing = math.inf if length is None else length
    end = 0.0
    if emission.rate > 0:
        window = math.inf if emission.length is None else emission.start + emission.length
        end = min(firing, window)
    for burst in emission.bursts:
        last = burst.time + (burst.repeats - 1) * burst.interval
        end = max(end, min(last, firing))
    return end


def births_between(emission: Emission, length: float | None, start: float, end: float) -> NDArray[np.float64]:
    """Return the ages of the firing, in seconds, at which births fall into [start, end), in order.

    Births of a rate come at start + k / rate: the k-th is where it is whatever the step length, so
    steps of any size that follow one another bear the same particles.
    """
    firing = math.inf if length is None else length
    steady = _steady(emission, firing, start, end)
    if not emission.bursts:
        return steady
    bursts = (_burst(burst, firing, start, end) for burst in emission.bursts)
    return np.sort(np.concatenate([steady, *bursts]), kind="stable")


def _steady(emission: Emission, firing: float, start: float, end: float) -> NDArray[np.float64]:
    window = math.inf if emission.length is None else emission.start + emission.length
    low, high = max(start, emission.start), min(end, firing, window)
    first = math.ceil((low - emission.start - SLACK) * emission.rate)
    stop = math.ceil((high - emission.start - SLACK) * emission.rate)
    return emission.start + np.arange(max(first, 0), stop) / emission.rate


def _burst(burst: Burst, firing: float, start: float, end: float) -> NDArray[np.float64]:
    first = max(0, math.ceil((start - burst.time - SLACK) / burst.interval))
    stop = min(burst.repeats, math.ceil((end - burst.time - SLACK) / burst.interval))
    moments = burst.time + np.arange(first, max(first, stop)) * burst.interval
    # At its very end, too: one at the moment the firing begins counts even if the effect has no length.
    return np.repeat(moments[moments <= firing], burst.count)
