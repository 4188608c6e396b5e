"""Halcyon's walk and run: feet that roll over the heel and the ball, arms that swing against them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from .figure import PLACE
from .rig import ANKLE_TO_BALL, SOLE, Foot, PictureTool, Wish, turn

HIP_HEIGHT = PLACE["hips"][1] - 0.025

Vector = NDArray[np.float64]


def _unit(v: ArrayLike) -> Vector:
    a = np.asarray(v, float)
    return a / np.linalg.norm(a)


def hand(place: ArrayLike, axis: ArrayLike, side: ArrayLike = (0.0, 0.2, 1.0)) -> PictureTool:
    """Return a hand at a place, its fingers along an axis, its palm to a side."""
    return PictureTool(np.asarray(place, float), _unit(axis), _unit(side))


@dataclass(frozen=True)
class Gait:
    """How feet go: seconds, metres a second, metres and degrees."""

    period: float
    speed: float
    stance: float
    """Share of the period a foot is on the ground."""
    lift: float
    heel_pitch: float
    """Pitch at first contact: toes up is negative."""
    toe_pitch: float
    """Pitch when the toes leave."""
    roll_off: float
    """Share of the stance after which the heel rises."""
    straddle: float


HEEL_DOWN = 0.14
"""Share of the stance after which the whole foot is down."""
WALK = Gait(1.0, 1.35, 0.62, 0.09, -14.0, 48.0, 0.52, 0.075)
RUN = Gait(0.72, 3.4, 0.36, 0.26, -4.0, 58.0, 0.3, 0.05)


def _gait_foot(gait: Gait, side: str, t: float) -> Foot:
    """Return a foot that is planted through its stance: it rolls over the heel, then over the ball."""
    sign = 1.0 if side == "left" else -1.0
    phase = t / gait.period + (0.0 if side == "left" else 0.5)
    step = np.floor(phase)
    phase -= step
    start = (step + (0.0 if side == "left" else -0.5)) * gait.period * gait.speed
    reach = gait.speed * gait.period * gait.stance / 2
    flat = np.array([sign * gait.straddle, SOLE, start + reach + PLACE["left foot"][2]])
    if phase <= gait.stance:
        return _stance_foot(gait, flat, phase / gait.stance)
    s = (phase - gait.stance) / (1 - gait.stance)
    last = _stance_foot(gait, flat, 1.0)
    ahead = flat + (0, 0, gait.speed * gait.period)
    first = _stance_foot(gait, ahead, 0.0)
    glide = s * s * (3 - 2 * s)
    ankle = last.ankle + (first.ankle - last.ankle) * glide
    ankle = ankle + (0, gait.lift * np.sin(np.pi * s) ** 1.3 * (1.15 - 0.5 * s), 0)
    pitch = last.pitch + (first.pitch - last.pitch) * min(1.0, s * 1.25) ** 1.2
    return Foot(ankle, pitch, 5.0)


def _stance_foot(gait: Gait, flat: Vector, s: float) -> Foot:
    if s < HEEL_DOWN:
        pitch = gait.heel_pitch * (1 - s / HEEL_DOWN)
        pivot = np.array([0.0, -SOLE, -0.04])
    elif s < gait.roll_off:
        return Foot(flat, 0.0, 5.0)
    else:
        u = (s - gait.roll_off) / (1 - gait.roll_off)
        pitch = gait.toe_pitch * u * u * (3 - 2 * u) * (0.75 + 0.25 * u)
        pivot = ANKLE_TO_BALL
    turned = turn(0, pitch).apply(-pivot)
    return Foot(flat + pivot + turned, pitch, 5.0)


def walk(t: float) -> Wish:
    """Return the walk at a moment, in seconds."""
    p = 2 * np.pi * t / WALK.period
    wish = Wish(
        travel=WALK.speed * t,
        hips=np.array([0.018 * np.sin(p - 0.25), HIP_HEIGHT - 0.028 - 0.019 * np.cos(2 * p - 0.5), 0.0]),
        hips_turn=(-7 * np.cos(p), 3.0, 3.5 * np.sin(p - 0.2)),
        chest_turn=(12 * np.cos(p), -1.0 + 1.5 * np.cos(2 * p), -4 * np.sin(p - 0.2)),
        head_turn=(-5 * np.cos(p), 1.0, 0.0),
        feet={side: _gait_foot(WALK, side, t) for side in ("left", "right")},
    )
    for side, shift in (("left", np.pi), ("right", 0.0)):
        s = np.cos(p + shift)
        wish.hands[side] = hand(
            (0.3, -0.33 + 0.05 * s, 0.1 + 0.2 * s), (0.55, -0.35 + 0.35 * s, 0.55 + 0.3 * s), (-0.6, 0.3, 0.7)
        )
    return wish


def run(t: float) -> Wish:
    """Return the run at a moment, in seconds."""
    p = 2 * np.pi * t / RUN.period
    wish = Wish(
        travel=RUN.speed * t,
        hips=np.array([0.012 * np.sin(p - 0.4), HIP_HEIGHT - 0.045 - 0.034 * np.cos(2 * p - 1.7), 0.0]),
        hips_turn=(-10 * np.cos(p - 0.3), 10.0, 4 * np.sin(p - 0.4)),
        chest_turn=(17 * np.cos(p - 0.3), 7.0, -5 * np.sin(p - 0.4)),
        head_turn=(-7 * np.cos(p - 0.3), -12.0, 0.0),
        feet={side: _gait_foot(RUN, side, t) for side in ("left", "right")},
    )
    for side, shift in (("left", np.pi), ("right", 0.0)):
        s = np.cos(p + shift - 0.2)
        wish.hands[side] = hand(
            (0.36, -0.2 + 0.07 * s, -0.08 + 0.24 * s),
            (0.65, 0.1 + 0.2 * s, -0.75 + 0.35 * s),
            (0.5, 0.75, 0.35),
        )
    return wish
