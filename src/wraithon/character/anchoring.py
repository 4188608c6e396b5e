"""Anchors moved, turned and mirrored: plain geometry of offsets and turns."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.presets import mirror_turn, mirrored_name
from wraithon.project.base import new_id

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.project.character import Anchor

__all__ = ["degrees_of", "mirrored_anchor", "moved", "snapped", "turned"]

FLIP = np.diag([-1.0, 1.0, 1.0])


def _turn(degrees: tuple[float, float, float]) -> NDArray[np.float64]:
    from scipy.spatial.transform import Rotation

    return Rotation.from_euler("XYZ", degrees, degrees=True).as_matrix()


def degrees_of(turn: NDArray[np.float64]) -> tuple[float, float, float]:
    """Return the degrees about X, then Y, then Z that make a rotation (3, 3)."""
    from scipy.spatial.transform import Rotation

    x, y, z = np.round(Rotation.from_matrix(turn).as_euler("XYZ", degrees=True), 4).tolist()
    return x, y, z


def moved(anchor: Anchor, matrix: NDArray[np.float32], way: NDArray[np.float64], scale: float) -> Anchor:
    """Return an anchor moved by `way` (3,), metres in the world; `matrix` (4, 4) is where it is now."""
    axes = matrix[:3, :3].astype(np.float64) @ _turn(anchor.turn).T
    offset = np.asarray(anchor.offset) + axes.T @ way / scale
    return anchor.but(offset=tuple(np.round(offset, 6).tolist()))


def turned(anchor: Anchor, axis: int, degrees: float) -> Anchor:
    """Return an anchor turned about one of its own axes."""
    from scipy.spatial.transform import Rotation

    more = Rotation.from_euler("XYZ"[axis], degrees, degrees=True).as_matrix()
    return anchor.but(turn=degrees_of(_turn(anchor.turn) @ more))


def snapped(anchor: Anchor, metres: float = 0.01, degrees: float = 15.0) -> Anchor:
    """Return an anchor with its offset and turn on the nearest whole steps."""
    offset = np.round(np.asarray(anchor.offset) / metres) * metres
    turn = np.round(np.asarray(anchor.turn) / degrees) * degrees
    return anchor.but(offset=tuple(np.round(offset, 6).tolist()), turn=tuple(turn.tolist()))


def mirrored_anchor(character: Character, anchor: Anchor) -> Anchor:
    """Return the anchor's mirror image, on the joint of the other side, with a name that says so.

    An anchor on a joint without another side is mirrored across the middle on the same joint.
    """
    twin = mirrored_name(character, anchor.joint) or anchor.joint
    across = FLIP if anchor.on_ground else mirror_turn(character, anchor.joint, twin)
    offset = across @ np.asarray(anchor.offset)
    turn = across @ _turn(anchor.turn) @ FLIP
    return anchor.but(
        id=new_id(),
        name=_other_side(anchor.name),
        joint=twin,
        offset=tuple(np.round(offset, 6).tolist()),
        turn=degrees_of(turn),
    )


def _other_side(name: str) -> str:
    swap = {"left": "right", "right": "left", "Left": "Right", "Right": "Left"}
    found = re.sub("|".join(swap), lambda match: swap[match.group()], name)
    return found if found != name else f"{name} mirrored"
