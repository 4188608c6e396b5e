"""Halcyon's five parts: body, mask, rain skirt and two fans, with weights and UVs."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .figure import FAN_AXIS, FAN_SIDE, JOINTS, PLACE, SKIRT_CHAINS
from .shapes import (
    Field,
    Points,
    capsule,
    ellipsoid,
    field_normals,
    mesh_field,
    neighbours,
    smooth_union,
)


@dataclass
class Piece:
    """One part on its way into the file."""

    name: str
    points: Points
    normals: Points
    uvs: Points
    triangles: NDArray[np.int64]
    weights: Points
    """(V, number of joints), rows sum to 1."""


def make_pieces() -> list[Piece]:
    """Return the five parts in the order they are listed."""
    left, right = _fan("left", 1.0), _fan("right", -1.0)
    return [_body(), _mask(), _skirt(), left, right]


# ---- body -----------------------------------------------------------------------------------------


def _body_field() -> Field:
    solids: list[tuple[Field, float]] = [
        (ellipsoid((0, 0.965, 0.0), (0.145, 0.115, 0.1)), 0.05),
        (ellipsoid((0, 1.1, 0.0), (0.112, 0.13, 0.083)), 0.08),
        (ellipsoid((0, 1.285, -0.012), (0.136, 0.165, 0.098)), 0.08),
        (capsule((0, 1.4, -0.015), (0, 1.57, 0.0), 0.052, 0.046), 0.05),
        (ellipsoid((0, 1.625, 0.012), (0.082, 0.112, 0.098)), 0.04),
    ]
    for sign in (1.0, -1.0):
        solids += _half(sign)
    return smooth_union(solids)


def _half(sign: float) -> list[tuple[Field, float]]:
    flip = np.array([sign, 1.0, 1.0])
    joint = {name: PLACE[f"left {name}"] * flip for name in _LIMBS}

    def at(x: float, y: float, z: float) -> Points:
        return np.array([x, y, z]) * flip

    calf = joint["shin"] * 0.7 + joint["foot"] * 0.3 + (0, 0, -0.022)
    return [
        (ellipsoid(at(0.062, 1.315, 0.068), (0.062, 0.06, 0.05)), 0.05),
        (capsule(at(0.02, 1.45, -0.02), joint["upper arm"], 0.035, 0.052), 0.06),
        (ellipsoid(at(0.07, 0.925, -0.045), (0.088, 0.095, 0.08)), 0.06),
        (capsule(joint["upper arm"], joint["forearm"], 0.05, 0.037), 0.05),
        (capsule(joint["forearm"], joint["hand"], 0.039, 0.026), 0.03),
        (capsule(joint["hand"], joint["fingers"], 0.03, 0.027), 0.03),
        (capsule(joint["fingers"], joint["finger tips"], 0.026, 0.02), 0.02),
        (capsule(joint["hand"] * 0.6 + joint["fingers"] * 0.4, joint["thumb"], 0.02, 0.016), 0.02),
        (capsule(joint["thigh"], joint["shin"], 0.09, 0.055), 0.05),
        (capsule(joint["shin"], joint["foot"], 0.053, 0.034), 0.04),
        (ellipsoid(calf, (0.048, 0.12, 0.05)), 0.05),
        (capsule(joint["foot"] + (0, -0.045, -0.03), joint["ball"] + (0, 0.012, 0), 0.04, 0.038), 0.04),
        (capsule(joint["ball"] + (0, 0.01, 0), joint["toes"] + (0, 0.006, 0.01), 0.036, 0.024), 0.03),
    ]


_LIMBS = (
    "upper arm",
    "forearm",
    "hand",
    "fingers",
    "finger tips",
    "thumb",
    "thigh",
    "shin",
    "foot",
    "ball",
    "toes",
)

# Bones the body's skin may follow, from where to where.
_BONES: list[tuple[str, str]] = [
    ("hips", "spine"),
    ("spine", "ribs"),
    ("ribs", "chest"),
    ("chest", "neck"),
    ("neck", "head"),
    ("head", "crest"),
    *[
        (f"{side} {a}", f"{side} {b}")
        for side in ("left", "right")
        for a, b in (
            ("collar", "upper arm"),
            ("upper arm", "forearm"),
            ("forearm", "hand"),
            ("hand", "fingers"),
            ("fingers", "finger tips"),
            ("thumb", "thumb"),
            ("thigh", "shin"),
            ("shin", "foot"),
            ("foot", "ball"),
            ("ball", "toes"),
        )
    ],
]


def _bone_distances(points: Points) -> Points:
    result = []
    for start, end in _BONES:
        a, line = PLACE[start], PLACE[end] - PLACE[start]
        length = max(float(line @ line), 1e-9)
        t = np.clip((points - a) @ line / length, 0.0, 1.0)
        d = np.linalg.norm(points - a - t[:, None] * line, axis=1)
        side = 1.0 if start.startswith("left") else -1.0 if start.startswith("right") else 0.0
        d += np.where(side * points[:, 0] < -0.001, 1.0, 0.0)
        # The trunk is thicker than its bones, so its distance counts for less.
        d -= 0.07 if side == 0 else 0.03 if start.endswith("thigh") else 0.0
        result.append(d)
    return np.stack(result, axis=1)


def _skin_weights(points: Points, triangles: NDArray[np.int64], rounds: int) -> Points:
    """Bind each vertex to its nearest bone, then let the weights spread along the skin."""
    nearest = _bone_distances(points).argmin(axis=1)
    columns = np.array([JOINTS.index(start) for start, _ in _BONES])
    weights = np.zeros((len(points), len(JOINTS)))
    weights[np.arange(len(points)), columns[nearest]] = 1.0
    mean = neighbours(len(points), triangles)
    for _ in range(rounds):
        weights = 0.4 * weights + 0.6 * (mean @ weights)
    return weights


# Each chart wraps a cylinder around an axis: (from, to, atlas box u0 v0 u1 v1).
_CHARTS: dict[str, tuple[str, str, tuple[float, float, float, float]]] = {
    "trunk": ("hips", "neck", (0.01, 0.01, 0.55, 0.49)),
    "head": ("neck", "crest", (0.57, 0.01, 0.99, 0.24)),
    "left arm": ("left upper arm", "left hand", (0.57, 0.26, 0.77, 0.49)),
    "right arm": ("right upper arm", "right hand", (0.79, 0.26, 0.99, 0.49)),
    "left hand": ("left hand", "left finger tips", (0.01, 0.51, 0.16, 0.64)),
    "right hand": ("right hand", "right finger tips", (0.18, 0.51, 0.33, 0.64)),
    "left leg": ("left thigh", "left foot", (0.35, 0.51, 0.66, 0.99)),
    "right leg": ("right thigh", "right foot", (0.68, 0.51, 0.99, 0.99)),
    "left foot": ("left foot", "left toes", (0.01, 0.66, 0.16, 0.99)),
    "right foot": ("right foot", "right toes", (0.18, 0.66, 0.33, 0.99)),
}


def _chart_of(bone: str) -> str:
    side, _, rest = bone.partition(" ")
    if rest in {"upper arm", "forearm"}:
        return f"{side} arm"
    if rest in {"hand", "fingers", "finger tips", "thumb"}:
        return f"{side} hand"
    if rest in {"thigh", "shin"}:
        return f"{side} leg"
    if rest in {"foot", "ball", "toes"}:
        return f"{side} foot"
    return "head" if bone in {"neck", "head"} else "trunk"


def _charted(
    points: Points, normals: Points, weights: Points, triangles: NDArray[np.int64]
) -> tuple[Points, Points, Points, Points, NDArray[np.int64]]:
    """Cut the mesh along chart borders and wraps; return it with UVs."""
    names = list(_CHARTS)
    bones = [start for start, _ in _BONES]
    chart_of_bone = np.array([names.index(_chart_of(b)) for b in bones])
    centres = points[triangles].mean(axis=1)
    chart = chart_of_bone[_bone_distances(centres).argmin(axis=1)]
    u = np.zeros((len(triangles), 3))
    v = np.zeros((len(triangles), 3))
    wrap = np.zeros((len(triangles), 3), np.int64)
    for k, name in enumerate(names):
        rows = np.flatnonzero(chart == k)
        start, end, box = _CHARTS[name]
        u[rows], v[rows], wrap[rows] = _cylinder(points[triangles[rows]], PLACE[start], PLACE[end], box)
    keys = np.stack([triangles, np.repeat(chart[:, None], 3, axis=1), wrap], axis=-1).reshape(-1, 3)
    _, first, inverse = np.unique(keys, axis=0, return_index=True, return_inverse=True)
    old = triangles.reshape(-1)[first]
    uvs = np.stack([u.reshape(-1)[first], v.reshape(-1)[first]], axis=1)
    return points[old], normals[old], weights[old], uvs, inverse.reshape(-1, 3)


def _cylinder(
    corners: NDArray[np.float64], a: Points, b: Points, box: tuple[float, float, float, float]
) -> tuple[Points, Points, NDArray[np.int64]]:
    axis = (b - a) / np.linalg.norm(b - a)
    side = np.cross(axis, (0.0, 0.0, 1.0) if abs(axis[2]) < 0.7 else (0.0, 1.0, 0.0))
    side /= np.linalg.norm(side)
    front = np.cross(side, axis)
    along = (corners - a) @ axis
    span = np.ptp(along)
    height = (along - along.min()) / span
    turn = np.arctan2((corners - a) @ side, (corners - a) @ front) / (2 * np.pi) + 0.5
    middle = turn[:, :1]
    wrap = np.where(turn - middle > 0.5, -1, np.where(turn - middle < -0.5, 1, 0))
    turn = turn + wrap
    # A twentieth of the width is kept for what hangs over the wrap.
    u = box[0] + (box[2] - box[0]) * (0.08 + 0.84 * np.clip(turn, -0.09, 1.09))
    v = box[1] + (box[3] - box[1]) * height
    return u, v, wrap


def _body() -> Piece:
    field = _body_field()
    points, triangles = mesh_field(field, (-0.72, -0.06, -0.22), (0.72, 1.8, 0.26), 0.0245)
    points[:, 1] = np.maximum(points[:, 1], 0.0)  # flat soles
    weights = _skin_weights(points, triangles, 7)
    normals = field_normals(field, points)
    points, normals, weights, uvs, triangles = _charted(points, normals, weights, triangles)
    return Piece("body", points, normals, uvs, triangles, weights)


# ---- mask -----------------------------------------------------------------------------------------


def _mask() -> Piece:
    """Return a kingfisher's head: a helmet, a long beak, a crest swept back."""
    solids: list[tuple[Field, float]] = [
        (ellipsoid((0, 1.645, 0.012), (0.108, 0.125, 0.122)), 0.03),
        (ellipsoid((0, 1.585, 0.06), (0.075, 0.06, 0.075)), 0.04),
        (capsule((0, 1.615, 0.1), (0, 1.577, 0.37), 0.036, 0.005), 0.03),
    ]
    for k, spread in enumerate((-0.045, 0.0, 0.045)):
        tip = (spread * 1.9, 1.84 - 0.02 * (k != 1), -0.26 + 0.03 * (k != 1))
        solids.append((capsule((spread * 0.7, 1.71, -0.04), tip, 0.042, 0.006), 0.03))
    for k, height in enumerate((1.69, 1.63)):
        for sign in (-1.0, 1.0):
            side_tip = (sign * (0.09 - 0.01 * k), height - 0.005, -0.25 + 0.04 * k)
            solids.append((capsule((sign * 0.06, height, -0.06), side_tip, 0.034, 0.006), 0.025))
    solids += [(ellipsoid((sign * 0.078, 1.66, 0.085), (0.02, 0.022, 0.022)), 0.006) for sign in (-1.0, 1.0)]
    field = smooth_union(solids)
    points, triangles = mesh_field(field, (-0.2, 1.48, -0.34), (0.2, 1.92, 0.42), 0.0175)
    weights = np.zeros((len(points), len(JOINTS)))
    back = np.clip((-0.04 - points[:, 2]) / 0.1, 0, 1) * np.clip((points[:, 1] - 1.6) / 0.08, 0, 1)
    end = np.clip((-0.14 - points[:, 2]) / 0.1, 0, 1) * back
    weights[:, JOINTS.index("crest tip")] = end
    weights[:, JOINTS.index("crest")] = back - end
    weights[:, JOINTS.index("head")] = 1 - back
    normals = field_normals(field, points)
    # Seen from each side: the left half of the texture is her left.
    u = 0.02 + 0.46 * (points[:, 2] + 0.34) / 0.76 + np.where(points[:, 0] >= 0, 0.0, 0.5)
    v = 0.02 + 0.96 * (1.92 - points[:, 1]) / 0.44
    return Piece("mask", points, normals, np.stack([u, v], axis=1), triangles, weights)


# ---- rain skirt -----------------------------------------------------------------------------------

_SKIRT_ROWS, _SKIRT_COLUMNS = 14, 80


def _skirt() -> Piece:
    """Return a pleated bell, longer behind, hung from the waist."""
    down = np.linspace(0.0, 1.0, _SKIRT_ROWS)
    around = np.linspace(0.0, 2 * np.pi, _SKIRT_COLUMNS + 1)
    t, a = np.meshgrid(down, around, indexing="ij")
    hem = 0.50 - 0.09 * (0.5 - 0.5 * np.cos(a))
    y = 1.045 + t * (hem - 1.045)
    hips = np.clip(t / 0.2, 0, 1)
    flare = 0.122 + 0.05 * hips * hips * (3 - 2 * hips) + 0.15 * t
    pleat = 1 + 0.075 * t * np.cos(a * 16) + 0.03 * t * np.cos(a * 5 + 1)
    points = np.stack([np.sin(a) * flare * pleat, y, np.cos(a) * (flare - 0.02) * pleat], axis=-1)
    scallop = 0.018 * (t > 0.99) * (np.cos(a * 16) > 0)
    points[..., 1] -= scallop
    index = np.arange(points.size // 3).reshape(t.shape)
    quad = [index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]]
    triangles = np.concatenate(
        [
            np.stack([quad[0], quad[1], quad[2]], axis=-1).reshape(-1, 3),
            np.stack([quad[0], quad[2], quad[3]], axis=-1).reshape(-1, 3),
        ]
    )
    flat = points.reshape(-1, 3)
    weights = _skirt_weights(t.reshape(-1), a.reshape(-1))
    uvs = np.stack([a / (2 * np.pi), t], axis=-1).reshape(-1, 2) * 0.98 + 0.01
    normals = _grid_normals(points)
    return Piece("rain skirt", flat, normals, uvs, triangles, weights)


def _grid_normals(points: NDArray[np.float64]) -> Points:
    across = np.roll(points[:, :-1], -1, axis=1) - np.roll(points[:, :-1], 1, axis=1)
    across = np.concatenate([across, across[:, :1]], axis=1)
    normal = np.cross(np.gradient(points, axis=0), across)
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    return normal.reshape(-1, 3)


def _skirt_weights(t: Points, a: Points) -> Points:
    weights = np.zeros((len(t), len(JOINTS)))
    free = np.clip((t - 0.1) / 0.25, 0, 1)
    low = np.clip((t - 0.4) / 0.4, 0, 1) * free
    place = a / (2 * np.pi) * SKIRT_CHAINS
    lower = np.floor(place).astype(int) % SKIRT_CHAINS
    share = place - np.floor(place)
    share = share * share * (3 - 2 * share)
    rows = np.arange(len(t))
    weights[:, JOINTS.index("hips")] = 1 - free
    for chain, part in ((lower, 1 - share), ((lower + 1) % SKIRT_CHAINS, share)):
        for k in range(SKIRT_CHAINS):
            hit = chain == k
            weights[rows[hit], JOINTS.index(f"skirt {k + 1}")] += ((free - low) * part)[hit]
            weights[rows[hit], JOINTS.index(f"skirt hem {k + 1}")] += (low * part)[hit]
    return weights


# ---- fans -----------------------------------------------------------------------------------------

_BLADES, _BLADE_ROWS = 13, 9
FAN_RADIUS = 0.36


def _fan(side: str, sign: float) -> Piece:
    """Return thirteen feather blades spread over 150 degrees, each a little cupped."""
    flip = np.array([sign, 1.0, 1.0])
    grip, axis = PLACE[f"{side} fan"], FAN_AXIS * flip
    normal = np.cross(axis, FAN_SIDE) * sign
    points: list[Points] = []
    normals: list[Points] = []
    uvs: list[tuple[float, float]] = []
    triangles: list[tuple[int, int, int]] = []
    for blade in range(_BLADES):
        angle = np.radians(-75 + 150 * blade / (_BLADES - 1))
        along = axis * np.cos(angle) + FAN_SIDE * np.sin(angle)
        across = FAN_SIDE * np.cos(angle) - axis * np.sin(angle)
        length = FAN_RADIUS * (1 - 0.12 * abs(angle) / np.radians(75))
        first = len(points)
        for row in range(_BLADE_ROWS):
            s = row / (_BLADE_ROWS - 1)
            width = 0.006 + 0.05 * np.sin(np.pi * min(1.0, s * 0.93 + 0.02)) ** 0.7 * s**0.55
            cup = 0.012 * np.sin(np.pi * s) + 0.004 * (blade % 2)
            for k in (-1.0, 0.0, 1.0):
                lift = cup - 0.006 * abs(k) * s
                points.append(grip + along * (length * s) + across * (width * k) + normal * lift)
                normals.append(normal + across * 0.35 * k)
                uvs.append(((blade + 0.5 + 0.48 * k) / _BLADES, 0.01 + 0.98 * s))
        for row in range(_BLADE_ROWS - 1):
            for k in range(2):
                p = first + row * 3 + k
                triangles += [(p, p + 3, p + 4), (p, p + 4, p + 1)]
    weights = np.zeros((len(points), len(JOINTS)))
    weights[:, JOINTS.index(f"{side} fan")] = 1.0
    unit = np.array(normals)
    unit /= np.linalg.norm(unit, axis=1, keepdims=True)
    # Mirroring turns triangles over; outside must be the side the normals are on.
    faces = np.array(triangles, np.int64)[:, :: int(sign)]
    return Piece(f"{side} fan", np.array(points), unit, np.array(uvs), faces, weights)
