"""Halcyon's clips: idle, walk, run, leap, strike, fall. Feet are planted by inverse kinematics."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.interpolate import CubicSpline, PchipInterpolator
from scipy.spatial.transform import Rotation

from .figure import PLACE
from .gait import HEEL_DOWN, HIP_HEIGHT, RUN, WALK, hand, run, walk
from .rig import SOLE, Foot, PictureTool, Wish, grip_fingers, solve, swing_skirt

FRAME_RATE = 30
STANCE = PLACE["left foot"][0]

Vector = NDArray[np.float64]


@dataclass
class BakedClip:
    """A clip as keys on every frame: times (K,), rotations xyzw by joint, translations by joint."""

    name: str
    loops: bool
    times: Vector
    rotations: dict[str, Vector]
    translations: dict[str, Vector]


def make_clips() -> list[BakedClip]:
    """Return the six clips."""
    return [
        _bake("idle", 3.0, _idle, loops=True),
        _bake("walk", 1.0, walk, loops=True),
        _bake("run", 0.72, run, loops=True),
        _bake("leap", 1.6, _leap, loops=False),
        _bake("strike", 1.8, _strike, loops=False),
        _bake("fall", 2.0, _fall, loops=False),
    ]


def _bake(name: str, seconds: float, wish: Callable[[float], Wish], *, loops: bool) -> BakedClip:
    count = round(seconds * FRAME_RATE) + 1
    times = np.linspace(0.0, seconds, count)
    overrides = [wish(t) for t in times]
    frames, moves = [], []
    for w in overrides:
        translations, local = solve(w)
        grip_fingers(local)
        frames.append(local)
        moves.append(translations)
    swing_skirt(frames, overrides, times[1], loops=loops)
    _trail_crest(frames, loops=loops)
    rotations = {joint: _continuous([frame[joint].as_quat() for frame in frames]) for joint in frames[0]}
    if loops:
        for keys in rotations.values():
            keys[-1] = keys[0] * np.sign(keys[0] @ keys[-1])
    translations = {joint: np.array([move[joint] for move in moves]) for joint in moves[0]}
    return BakedClip(name, loops, times, rotations, translations)


def _continuous(keys: list[Vector]) -> Vector:
    out = np.array(keys)
    for i in range(1, len(out)):
        if out[i] @ out[i - 1] < 0:
            out[i] *= -1
    return out


def _trail_crest(frames: list[dict[str, Rotation]], *, loops: bool) -> None:
    """Let the crest nod a little after the head."""
    count = len(frames) - 1 if loops else len(frames)
    heads = [frame["head"] for frame in frames]
    for i, frame in enumerate(frames):
        earlier = heads[(i - 3) % count] if loops else heads[max(0, i - 3)]
        lag = (heads[i % count if loops else i].inv() * earlier).as_rotvec() * 0.9
        frame["crest"] = Rotation.from_rotvec(lag)
        frame["crest tip"] = Rotation.from_rotvec(lag * 1.2)


def marks() -> dict[str, dict[str, float]]:
    """Return where the demo's events stand on the clips, in seconds: a step is when the ball comes down."""
    table = {"leap": {"landing": 1.0}, "strike": {"strike": 0.82}}
    for name, gait in (("walk", WALK), ("run", RUN)):
        down = HEEL_DOWN * gait.stance * gait.period
        table[name] = {"left step": round(down, 3), "right step": round(down + gait.period / 2, 3)}
    return table


# ---- shared poses ---------------------------------------------------------------------------------


def _flat(side: str, z: float = 0.0, x: float | None = None, yaw: float = 8.0) -> Foot:
    sign = 1.0 if side == "left" else -1.0
    wide = STANCE if x is None else x
    return Foot(np.array([sign * wide, SOLE, z + PLACE["left foot"][2]]), 0.0, yaw)


def _keys(*rows: tuple[float, *tuple[float, ...]], loops: bool = False) -> Callable[[float], Vector]:
    """Return a smooth course through rows of (time, values...)."""
    table = np.array(rows)
    if loops:
        return CubicSpline(table[:, 0], table[:, 1:], bc_type="periodic")
    return PchipInterpolator(table[:, 0], table[:, 1:])


# ---- idle -----------------------------------------------------------------------------------------


def _idle(t: float) -> Wish:
    p = 2 * np.pi * t / 3.0
    breath = np.sin(p)
    sway = 0.02 * np.sin(p)
    wish = Wish(
        hips=np.array([sway, HIP_HEIGHT - 0.015 + 0.006 * breath, 0.0]),
        hips_turn=(4 * np.sin(p), 2.0, -1.5 * np.sin(p)),
        chest_turn=(-5 * np.sin(p), -3 + 1.5 * breath, 2 * np.sin(p)),
        head_turn=(7 * np.sin(p - 0.8), 3 - 2 * breath, 0.0),
        feet={"left": _flat("left", 0.07, 0.12, 14), "right": _flat("right", -0.07, 0.12, 18)},
    )
    lift = 0.025 * np.sin(p - 0.5)
    wish.hands["left"] = hand((0.36, -0.1 + lift, 0.26), (0.62, 0.6 + 2 * lift, 0.35), (-0.2, -0.3, 1.0))
    lift = 0.025 * np.sin(p + 1.2)
    wish.hands["right"] = hand((0.33, -0.27 + lift, 0.2), (0.75, -0.15 + 2 * lift, 0.45), (-0.3, 0.2, 1.0))
    return wish


# ---- once-through clips ---------------------------------------------------------------------------

_READY_LEFT = ((0.36, -0.1, 0.26), (0.62, 0.6, 0.35), (-0.2, -0.3, 1.0))
_READY_RIGHT = ((0.33, -0.27, 0.2), (0.75, -0.15, 0.45), (-0.3, 0.2, 1.0))


def _tool_keys(*rows: tuple[float, tuple[ArrayLike, ArrayLike, ArrayLike]]) -> Callable[[float], PictureTool]:
    course = _keys(*[(t, *np.concatenate([np.asarray(v, float) for v in pose])) for t, pose in rows])

    def at(t: float) -> PictureTool:
        values = course(t)
        return hand(values[0:3], values[3:6], values[6:9])

    return at


_STRIKE_BODY = _keys(  # time, hips x y z, hips yaw pitch roll, chest yaw pitch roll, head yaw pitch
    (0.0, 0.0, HIP_HEIGHT - 0.015, 0.0, 0, 2, 0, 0, -3, 0, 0, 3),
    (0.35, 0.05, HIP_HEIGHT - 0.06, -0.03, -18, 0, 3, -24, -10, 5, 25, 4),
    (0.62, 0.06, HIP_HEIGHT + 0.0, 0.02, -26, -6, 6, -30, -16, 8, 34, 8),
    (0.82, -0.03, HIP_HEIGHT - 0.25, 0.3, 14, 26, -3, 22, 26, -4, -22, -26),
    (0.95, -0.03, HIP_HEIGHT - 0.27, 0.31, 15, 28, -3, 24, 28, -4, -24, -26),
    (1.25, -0.02, HIP_HEIGHT - 0.2, 0.26, 9, 18, -2, 12, 14, -2, -12, -10),
    (1.8, 0.0, HIP_HEIGHT - 0.015, 0.0, 0, 2, 0, 0, -3, 0, 0, 3),
)
_STRIKE_RIGHT_FOOT = _keys(  # time, ankle lift, z, pitch
    (0.0, 0.0, -0.07, 0.0),
    (0.3, 0.0, -0.07, 0.0),
    (0.6, 0.38, 0.12, 14.0),
    (0.68, 0.4, 0.26, 8.0),
    (0.8, 0.0, 0.56, 0.0),
    (1.35, 0.0, 0.56, 0.0),
    (1.55, 0.09, 0.25, 12.0),
    (1.72, 0.0, -0.07, 0.0),
    (1.8, 0.0, -0.07, 0.0),
)
_STRIKE_RIGHT = _tool_keys(
    (0.0, _READY_RIGHT),
    (0.35, ((0.42, 0.1, -0.1), (0.6, 0.7, -0.5), (-0.2, 0.5, 1.0))),
    (0.62, ((0.3, 0.46, -0.06), (0.35, 0.9, -0.45), (-0.1, 0.4, 1.0))),
    (0.82, ((0.1, -0.2, 0.48), (0.05, -0.75, 0.62), (-0.9, 0.2, 0.35))),
    (1.0, ((0.1, -0.22, 0.47), (0.05, -0.78, 0.6), (-0.9, 0.2, 0.35))),
    (1.3, ((0.22, -0.25, 0.36), (0.4, -0.4, 0.6), (-0.6, 0.2, 0.7))),
    (1.8, _READY_RIGHT),
)
_STRIKE_LEFT = _tool_keys(
    (0.0, _READY_LEFT),
    (0.4, ((0.3, -0.02, 0.36), (0.4, 0.5, 0.7), (-0.5, -0.3, 0.8))),
    (0.82, ((0.5, 0.02, -0.2), (0.85, 0.35, -0.5), (0.2, 0.5, 0.9))),
    (1.05, ((0.5, 0.02, -0.2), (0.85, 0.35, -0.5), (0.2, 0.5, 0.9))),
    (1.8, _READY_LEFT),
)


def _body_wish(values: Vector) -> Wish:
    return Wish(
        hips=values[0:3],
        hips_turn=(values[3], values[4], values[5]),
        chest_turn=(values[6], values[7], values[8]),
        head_turn=(values[9], values[10], 0.0),
    )


def _strike(t: float) -> Wish:
    wish = _body_wish(_STRIKE_BODY(t))
    lift, z, pitch = _STRIKE_RIGHT_FOOT(t)
    wish.feet["left"] = _flat("left", 0.07, 0.12, 14)
    right = _flat("right", z, 0.12, 10)
    wish.feet["right"] = Foot(right.ankle + (0, lift, 0), pitch, right.yaw, toes_flat=False)
    wish.hands["left"], wish.hands["right"] = _STRIKE_LEFT(t), _STRIKE_RIGHT(t)
    return wish


_LEAP_BODY = _keys(
    (0.0, 0.0, HIP_HEIGHT - 0.015, 0.0, 0, 2, 0, 0, -3, 0, 0, 3),
    (0.3, 0.0, HIP_HEIGHT - 0.24, 0.02, 0, 24, 0, 0, 16, 0, 0, -16),
    (0.46, 0.0, HIP_HEIGHT + 0.06, 0.08, 0, 8, 0, 0, -8, 0, 0, -4),
    (0.74, 0.0, HIP_HEIGHT + 0.5, 0.0, 0, 6, 0, 0, -18, 0, 0, 6),
    (1.02, 0.0, HIP_HEIGHT - 0.02, -0.04, 0, 10, 0, 0, 2, 0, 0, 2),
    (1.16, 0.0, HIP_HEIGHT - 0.24, 0.04, 0, 22, 0, 0, 18, 0, 0, -16),
    (1.6, 0.0, HIP_HEIGHT - 0.015, 0.0, 0, 2, 0, 0, -3, 0, 0, 3),
)
_LEAP_TRAVEL = _keys((0.0, 0.0), (0.34, 0.04), (0.46, 0.22), (1.02, 1.62), (1.2, 1.8), (1.6, 1.8))
_LEAP_FEET = {
    # time, z from the start, lift, pitch
    "left": _keys(
        (0.0, 0.07, 0, 0),
        (0.34, 0.07, 0, 0),
        (0.46, 0.07, 0.02, 30),
        (0.74, 1.5, 0.62, 20),
        (1.0, 1.87, 0.0, 0),
        (1.6, 1.87, 0, 0),
    ),
    "right": _keys(
        (0.0, -0.07, 0, 0),
        (0.38, -0.07, 0, 0),
        (0.5, -0.02, 0.06, 50),
        (0.74, 0.45, 0.6, 66),
        (0.92, 1.35, 0.3, 26),
        (1.08, 1.73, 0.0, 0),
        (1.6, 1.73, 0, 0),
    ),
}
_LEAP_HANDS = {
    "left": _tool_keys(
        (0.0, _READY_LEFT),
        (0.3, ((0.36, -0.3, -0.2), (0.5, -0.6, -0.6), (0.0, 0.5, 0.9))),
        (0.74, ((0.5, 0.28, 0.02), (0.85, 0.5, 0.1), (-0.1, 0.1, 1.0))),
        (1.16, ((0.46, -0.12, 0.2), (0.9, -0.1, 0.3), (-0.3, 0.3, 0.9))),
        (1.6, _READY_LEFT),
    ),
    "right": _tool_keys(
        (0.0, _READY_RIGHT),
        (0.3, ((0.36, -0.3, -0.2), (0.5, -0.6, -0.6), (0.0, 0.5, 0.9))),
        (0.74, ((0.5, 0.28, 0.02), (0.85, 0.5, 0.1), (-0.1, 0.1, 1.0))),
        (1.16, ((0.46, -0.12, 0.2), (0.9, -0.1, 0.3), (-0.3, 0.3, 0.9))),
        (1.6, _READY_RIGHT),
    ),
}


def _leap(t: float) -> Wish:
    wish = _body_wish(_LEAP_BODY(t))
    wish.travel = float(_LEAP_TRAVEL(t)[0])
    for side in ("left", "right"):
        z, lift, pitch = _LEAP_FEET[side](t)
        base = _flat(side, z, 0.12, 14 if side == "left" else 18)
        wish.feet[side] = Foot(base.ankle + (0, lift, 0), pitch, base.yaw, toes_flat=lift < 0.03)
        wish.hands[side] = _LEAP_HANDS[side](t)
    return wish


_FALL_BODY = _keys(
    (0.0, 0.0, HIP_HEIGHT - 0.015, 0.0, 0, 2, 0, 0, -3, 0, 0, 3),
    (0.4, 0.03, HIP_HEIGHT - 0.05, -0.05, 10, -6, 4, 8, -16, 5, 10, -18),
    (0.9, 0.02, 0.62, -0.06, 12, 4, 3, 10, 2, 6, 8, 8),
    (1.3, 0.0, 0.37, -0.12, 10, 14, 2, 8, 26, 4, 0, 26),
    (1.6, 0.0, 0.34, -0.13, 10, 22, 2, 8, 44, 4, 0, 34),
    (2.0, 0.0, 0.335, -0.13, 10, 24, 2, 8, 48, 4, 0, 36),
)
_FALL_LEFT = _tool_keys(
    (0.0, _READY_LEFT),
    (0.5, ((0.42, 0.22, 0.1), (0.6, 0.7, 0.1), (-0.2, 0.0, 1.0))),
    (1.2, ((0.44, -0.25, 0.22), (0.8, -0.4, 0.3), (-0.3, 0.3, 0.9))),
    (2.0, ((0.42, -0.34, 0.24), (0.85, -0.05, 0.5), (-0.4, 0.2, 0.9))),
)
_FALL_RIGHT = _tool_keys(
    (0.0, _READY_RIGHT),
    (0.5, ((0.4, -0.05, 0.1), (0.7, 0.1, 0.3), (-0.2, 0.3, 0.9))),
    (1.2, ((0.42, -0.3, 0.2), (0.8, -0.4, 0.2), (-0.3, 0.3, 0.9))),
    (2.0, ((0.4, -0.34, 0.26), (0.85, 0.0, 0.45), (-0.4, 0.2, 0.9))),
)
_FALL_FEET = {
    "left": _keys((0.0, 0.07, 0, 0), (0.5, 0.07, 0, 0), (1.3, 0.07, 0.035, 30), (2.0, 0.07, 0.035, 30)),
    "right": _keys(
        (0.0, -0.07, 0, 0),
        (0.5, -0.07, 0, 0),
        (0.8, -0.2, 0.04, 35),
        (1.3, -0.34, 0.05, 58),
        (2.0, -0.34, 0.05, 58),
    ),
}


def _fall(t: float) -> Wish:
    wish = _body_wish(_FALL_BODY(t))
    for side in ("left", "right"):
        z, lift, pitch = _FALL_FEET[side](t)
        base = _flat(side, z, 0.12, 14 if side == "left" else 18)
        wish.feet[side] = Foot(base.ankle + (0, lift, 0), pitch, base.yaw)
    wish.hands["left"], wish.hands["right"] = _FALL_LEFT(t), _FALL_RIGHT(t)
    return wish
