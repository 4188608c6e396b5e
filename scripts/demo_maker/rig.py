"""From wishes (where the hips, feet, hands and fans should be) to joint rotations."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.spatial.transform import Rotation

from .figure import FAN_AXIS, FAN_SIDE, JOINTS, PARENT, PLACE, SKIRT_CHAINS, skirt_angle

Vector = NDArray[np.float64]

SOLE = PLACE["left foot"][1]
"""Height of the ankle over the ground when the foot is flat."""
ANKLE_TO_BALL = PLACE["left ball"] - PLACE["left foot"]


def turn(yaw: float = 0.0, pitch: float = 0.0, roll: float = 0.0) -> Rotation:
    """Return a rotation from degrees: yaw to the left, pitch forward, roll to her right."""
    return Rotation.from_euler("YXZ", [yaw, pitch, roll], degrees=True)


@dataclass
class Foot:
    """A foot's ankle in the world, its pitch (heel up is positive) and yaw in degrees."""

    ankle: Vector
    pitch: float = 0.0
    yaw: float = 0.0
    toes_flat: bool = True


@dataclass
class PictureTool:
    """A hand's place from the chest in metres (right hands are mirrored), and which way its fan looks."""

    place: Vector
    axis: Vector
    side: Vector


@dataclass
class Wish:
    """One moment: where everything should be. `travel` moves the root along +Z."""

    travel: float = 0.0
    hips: Vector = field(default_factory=lambda: np.array([0.0, 0.93, 0.0]))
    hips_turn: tuple[float, float, float] = (0.0, 0.0, 0.0)
    chest_turn: tuple[float, float, float] = (0.0, 0.0, 0.0)
    head_turn: tuple[float, float, float] = (0.0, 0.0, 0.0)
    feet: dict[str, Foot] = field(default_factory=dict)
    hands: dict[str, PictureTool] = field(default_factory=dict)


def _frame(first: ArrayLike, second: ArrayLike) -> Vector:
    """Return columns: `first`, the part of `second` at right angles to it, and their cross product."""
    a = np.asarray(first, float)
    a = a / np.linalg.norm(a)
    b = np.asarray(second, float)
    b = b - a * (a @ b)
    b /= max(float(np.linalg.norm(b)), 1e-9)
    return np.stack([a, b, np.cross(a, b)], axis=1)


def _aligning(rest_a: Vector, rest_b: ArrayLike, a: Vector, b: ArrayLike) -> Rotation:
    return Rotation.from_matrix(_frame(a, b) @ _frame(rest_a, rest_b).T)


def _two_bones(
    start: Vector, goal: Vector, upper: Vector, lower: Vector, pole: Vector, rest_pole: Vector
) -> tuple[Rotation, Rotation]:
    """Return world rotations of two bones that reach from `start` towards `goal`, bent along `pole`."""
    a, b = float(np.linalg.norm(upper)), float(np.linalg.norm(lower))
    line = goal - start
    reach = float(np.clip(np.linalg.norm(line), abs(a - b) + 1e-4, (a + b) * 0.9995))
    frame = _frame(line, pole)
    cosine = (a * a + reach * reach - b * b) / (2 * a * reach)
    bend = frame[:, 0] * cosine + frame[:, 1] * np.sqrt(max(0.0, 1 - cosine * cosine))
    knee = start + a * bend
    end = start + frame[:, 0] * reach
    hinge = frame[:, 2]
    rest_hinge = np.cross(upper, rest_pole)
    return (
        _aligning(upper, rest_hinge, knee - start, hinge),
        _aligning(lower, rest_hinge, end - knee, hinge),
    )


def solve(wish: Wish) -> tuple[dict[str, Vector], dict[str, Rotation]]:
    """Return local translations (of the joints that move) and local rotations of every joint."""
    world: dict[str, Rotation] = {"root": Rotation.identity()}
    place: dict[str, Vector] = {"root": np.array([0.0, 0.0, wish.travel])}
    hips = turn(*wish.hips_turn)
    place["hips"] = place["root"] + wish.hips
    world["hips"] = hips
    yaw, pitch, roll = wish.chest_turn
    for k, name in enumerate(("spine", "ribs", "chest")):
        share = (k + 1) / 3
        world[name] = hips * turn(yaw * share, pitch * share, roll * share)
    world["neck"] = world["chest"] * turn(*(x * 0.4 for x in wish.head_turn))
    world["head"] = world["chest"] * turn(*wish.head_turn)
    _follow(world, place, "spine", "ribs", "chest", "neck", "head")
    for side, sign in (("left", 1.0), ("right", -1.0)):
        _leg(wish, side, sign, world, place)
        _arm(wish, side, sign, world, place)
    rotations = _local(world)
    return {"root": place["root"], "hips": wish.hips}, rotations


def _follow(world: dict[str, Rotation], place: dict[str, Vector], *names: str) -> None:
    for name in names:
        parent = PARENT[name] or "root"
        place[name] = place[parent] + world[parent].apply(PLACE[name] - PLACE[parent])


def _leg(wish: Wish, side: str, sign: float, world: dict[str, Rotation], place: dict[str, Vector]) -> None:
    foot = wish.feet[side]
    _follow(world, place, f"{side} thigh")
    mirror = np.array([sign, 1.0, 1.0])
    upper = (PLACE["left shin"] - PLACE["left thigh"]) * mirror
    lower = (PLACE["left foot"] - PLACE["left shin"]) * mirror
    facing = turn(foot.yaw * sign * 0.7).apply([0.06 * sign, 0.0, 1.0])
    pole = world["hips"].apply([0.05 * sign, 0.0, 0.5]) + facing
    thigh, shin = _two_bones(place[f"{side} thigh"], foot.ankle, upper, lower, pole, np.array([0.0, 0.0, 1.0]))
    world[f"{side} thigh"], world[f"{side} shin"] = thigh, shin
    world[f"{side} foot"] = turn(foot.yaw * sign, foot.pitch)
    flat = turn(foot.yaw * sign, min(foot.pitch, 0.0) if foot.toes_flat else foot.pitch * 0.8)
    world[f"{side} ball"] = flat


def _arm(wish: Wish, side: str, sign: float, world: dict[str, Rotation], place: dict[str, Vector]) -> None:
    hand = wish.hands[side]
    mirror = np.array([sign, 1.0, 1.0])
    chest = world["chest"]
    raise_by = np.clip((hand.place[1] - 0.05) * 40, -8, 22)
    world[f"{side} collar"] = chest * turn(0, 0, raise_by * sign)
    _follow(world, place, f"{side} collar", f"{side} upper arm")
    goal = place["chest"] + chest.apply(hand.place * mirror)
    upper = (PLACE["left forearm"] - PLACE["left upper arm"]) * mirror
    lower = (PLACE["left hand"] - PLACE["left forearm"]) * mirror
    pole = chest.apply(np.array([0.55, -0.75, -0.45]) * mirror)
    rest_pole = np.array([0.3, -0.3, -1.0]) * mirror
    first, second = _two_bones(place[f"{side} upper arm"], goal, upper, lower, pole, rest_pole)
    world[f"{side} upper arm"], world[f"{side} forearm"] = first, second
    axis, across = chest.apply(hand.axis * mirror), chest.apply(hand.side * mirror)
    fan = _aligning(FAN_AXIS * mirror, FAN_SIDE, axis, across)
    between = Rotation.concatenate([second, fan]).mean(weights=[0.6, 0.4])
    world[f"{side} hand"] = between
    world[f"{side} fan"] = fan


def _local(world: dict[str, Rotation]) -> dict[str, Rotation]:
    """Turn world rotations into rotations from the parent; joints not asked for stay with theirs."""
    full: dict[str, Rotation] = {}
    local: dict[str, Rotation] = {}
    for name in JOINTS:
        parent = PARENT[name]
        above = full[parent] if parent else Rotation.identity()
        full[name] = world.get(name, above)
        local[name] = above.inv() * full[name]
    return local


def grip_fingers(local: dict[str, Rotation]) -> None:
    """Close the hands around the fans' handles."""
    for side, sign in (("left", 1.0), ("right", -1.0)):
        local[f"{side} fingers"] = Rotation.from_rotvec(np.array([0.3, 0.2 * sign, -0.6 * sign]))
        local[f"{side} finger tips"] = Rotation.from_rotvec(np.array([0.3, 0.2 * sign, -0.8 * sign]))


def swing_skirt(
    frames: list[dict[str, Rotation]], overrides: list[Wish], seconds_a_frame: float, *, loops: bool
) -> None:
    """Let the skirt's chains give way to the thighs and lag behind the body like damped pendulums."""
    push = np.array([_push(frame) for frame in frames])
    place = np.array([w.hips + (0, 0, w.travel) for w in overrides])
    if loops:
        stride = place[-1] - place[0]
        padded = np.concatenate([place[:-1] - stride, place, place[1:] + stride])
    else:
        padded = np.concatenate([np.repeat(place[:1], len(place), 0), place, np.repeat(place[-1:], len(place), 0)])
    speed = np.gradient(padded, seconds_a_frame, axis=0)[len(place) - (1 if loops else 0) :][: len(place)]
    around = np.array([[np.sin(skirt_angle(k)), np.cos(skirt_angle(k))] for k in range(SKIRT_CHAINS)])
    drag = -(speed[:, [0, 2]] @ around.T) * 0.09 - speed[:, 1:2] * 0.16
    wanted = np.maximum(push, 0.04) + np.clip(drag, -0.3, 0.5)
    upper = np.maximum(_lag(wanted, seconds_a_frame, 0.05, 0.6, loops=loops), push * 0.92)
    lower = _lag(wanted - 0.4 * push, seconds_a_frame, 0.10, 0.35, loops=loops) - 0.45 * upper
    for i, frame in enumerate(frames):
        for k in range(SKIRT_CHAINS):
            hinge = np.array([around[k, 1], 0.0, -around[k, 0]])
            frame[f"skirt {k + 1}"] = Rotation.from_rotvec(-hinge * np.clip(upper[i, k], -0.25, 1.35))
            frame[f"skirt hem {k + 1}"] = Rotation.from_rotvec(-hinge * np.clip(lower[i, k], -0.7, 0.6))


def _push(frame: dict[str, Rotation]) -> list[float]:
    """Return how far each chain must open so that no thigh comes through, in radians."""
    opened = []
    legs = [frame[f"{side} thigh"].apply([0.0, -1.0, 0.0]) for side in ("left", "right")]
    for k in range(SKIRT_CHAINS):
        out = np.array([np.sin(skirt_angle(k)), 0.0, np.cos(skirt_angle(k))])
        lean = [np.arctan2(max(0.0, leg @ out), max(0.05, -leg[1])) for leg in legs]
        opened.append(max(lean))
    return opened


def _lag(target: Vector, dt: float, period: float, damping: float, *, loops: bool) -> Vector:
    """Run damped springs after `target` (frames, chains); loops are run until they close."""
    body = target[:-1] if loops else target
    rounds = 4 if loops else 1
    angle, speed = body[0].copy(), np.zeros_like(body[0])
    rate = 1.0 / period
    out = np.empty_like(body)
    for _ in range(rounds):
        for i in range(len(body)):
            for _ in range(8):
                h = dt / 8
                speed += h * (rate * rate * (body[i] - angle) - 2 * damping * rate * speed)
                angle = angle + h * speed
            out[i] = angle
    return np.concatenate([out, out[:1]]) if loops else out
