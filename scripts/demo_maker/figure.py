"""Halcyon's joints: names, parents and places at rest (metres, arms held low and wide, facing +Z)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Vector = NDArray[np.float64]

SKIRT_CHAINS = 8

_MIDDLE: list[tuple[str, str | None, tuple[float, float, float]]] = [
    ("root", None, (0.0, 0.0, 0.0)),
    ("hips", "root", (0.0, 0.96, 0.0)),
    ("spine", "hips", (0.0, 1.06, 0.0)),
    ("ribs", "spine", (0.0, 1.17, -0.005)),
    ("chest", "ribs", (0.0, 1.29, -0.015)),
    ("neck", "chest", (0.0, 1.455, -0.015)),
    ("head", "neck", (0.0, 1.545, 0.0)),
    ("crest", "head", (0.0, 1.70, -0.05)),
    ("crest tip", "crest", (0.0, 1.78, -0.17)),
]
# The left side is +X; the right side mirrors it.
_LEFT: list[tuple[str, str, tuple[float, float, float]]] = [
    ("collar", "chest", (0.03, 1.42, -0.01)),
    ("upper arm", "collar", (0.155, 1.41, -0.015)),
    ("forearm", "upper arm", (0.345, 1.225, -0.02)),
    ("hand", "forearm", (0.515, 1.06, 0.005)),
    ("fingers", "hand", (0.577, 1.0, 0.015)),
    ("finger tips", "fingers", (0.6, 0.965, 0.03)),
    ("thumb", "hand", (0.55, 1.04, 0.035)),
    ("fan", "hand", (0.572, 1.005, 0.032)),
    ("thigh", "hips", (0.088, 0.925, 0.0)),
    ("shin", "thigh", (0.098, 0.51, 0.012)),
    ("foot", "shin", (0.1, 0.095, -0.03)),
    ("ball", "foot", (0.105, 0.028, 0.085)),
    ("toes", "ball", (0.107, 0.022, 0.15)),
]

FAN_AXIS: Vector = np.array([0.72, -0.694, 0.0])
"""At rest a fan points along the left arm, mirrored on the right."""
FAN_SIDE: Vector = np.array([0.0, 0.0, 1.0])
"""At rest its blades spread in the plane of its axis and +Z."""


def skirt_angle(chain: int) -> float:
    """Return the direction of a skirt chain around the waist, in radians from +Z towards +X."""
    return 2 * np.pi * chain / SKIRT_CHAINS


def _all() -> list[tuple[str, str | None, Vector]]:
    joints = [(name, parent, np.array(place)) for name, parent, place in _MIDDLE]
    for side, sign in (("left", 1.0), ("right", -1.0)):
        for name, parent, place in _LEFT:
            owner = parent if parent in {"chest", "hips"} else f"{side} {parent}"
            joints.append((f"{side} {name}", owner, np.array(place) * (sign, 1.0, 1.0)))
    for chain in range(SKIRT_CHAINS):
        s, c = np.sin(skirt_angle(chain)), np.cos(skirt_angle(chain))
        joints.append((f"skirt {chain + 1}", "hips", np.array([0.13 * s, 0.955, 0.105 * c])))
        joints.append((f"skirt hem {chain + 1}", f"skirt {chain + 1}", np.array([0.215 * s, 0.74, 0.19 * c])))
    return joints


_JOINTS = _all()
JOINTS: tuple[str, ...] = tuple(name for name, _, _ in _JOINTS)
PARENT: dict[str, str | None] = {name: parent for name, parent, _ in _JOINTS}
PLACE: dict[str, Vector] = {name: place for name, _, place in _JOINTS}
