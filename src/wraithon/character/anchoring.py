"""Anchors moved, turned and mirrored: plain geometry of offsets and turns."""

from __future__ import annotations

import math
import re
from typing import TYPE_CHECKING, Any, Protocol, Self, TypeVar

import numpy as np

from wraithon.character.presets import mirror_turn, mirrored_name
from wraithon.project.base import new_id

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.project.character import Anchor


UPRIGHT = 1 - 1e-9
FLIP = np.diag([-1.0, 1.0, 1.0])


def _turn(degrees: tuple[float, float, float]) -> NDArray[np.float64]:
    """Return the rotation (3, 3) about the own X, then Y, then Z axis.

    Written out, here and below, because importing SciPy's would hold up the first drag by a second.
    """
    out = np.eye(3)
    for axis, angle in enumerate(degrees):
        out = out @ _about(axis, angle)
    return out


def _about(axis: int, degrees: float) -> NDArray[np.float64]:
    cosine, sine = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    one, two = (axis + 1) % 3, (axis + 2) % 3
    out = np.eye(3)
    out[one, one] = out[two, two] = cosine
    out[two, one], out[one, two] = sine, -sine
    return out


def degrees_of(turn: NDArray[np.float64]) -> tuple[float, float, float]:
    """Return the degrees about X, then Y, then Z that make a rotation (3, 3); upright Y leaves Z at 0."""
    y = math.asin(min(max(float(turn[0, 2]), -1.0), 1.0))
    if abs(turn[0, 2]) < UPRIGHT:
        x, z = math.atan2(-turn[1, 2], turn[2, 2]), math.atan2(-turn[0, 1], turn[0, 0])
    else:
        x, z = math.atan2(turn[2, 1], turn[1, 1]), 0.0
    return round(math.degrees(x), 4), round(math.degrees(y), 4), round(math.degrees(z), 4)


class HasOffset(Protocol):
    """Something with an offset in metres and a turn in degrees from what holds it: an anchor, or a source."""

    @property
    def offset(self) -> tuple[float, float, float]:
        """Metres along the axes of what holds it."""

    @property
    def turn(self) -> tuple[float, float, float]:
        """Degrees about the own X, then Y, then Z axis."""

    def evolve(self, **changes: Any) -> Self:
        """Return a copy with changes."""


P = TypeVar("P", bound=HasOffset)


def offset_in(position: HasOffset, matrix: NDArray[np.float32], scale: float) -> NDArray[np.float32]:
    """Return where something held at `matrix` (4, 4) is in the world (4, 4), `scale` times its offset away."""
    out = np.eye(4)
    out[:3, :3], out[:3, 3] = _turn(position.turn), np.asarray(position.offset) * scale
    return (matrix.astype(np.float64) @ out).astype(np.float32)


def moved(position: P, matrix: NDArray[np.float32], way: NDArray[np.float64], scale: float) -> P:
    """Return something moved by `way` (3,), metres in the world; `matrix` (4, 4) is where it is now."""
    axes = matrix[:3, :3].astype(np.float64) @ _turn(position.turn).T
    offset = np.asarray(position.offset) + axes.T @ way / scale
    return position.evolve(offset=tuple(np.round(offset, 6).tolist()))


def rotated(position: P, axis: int, degrees: float) -> P:
    """Return something turned about one of its own axes."""
    return position.evolve(turn=degrees_of(_turn(position.turn) @ _about(axis, degrees)))


def on_whole_centimetres(position: P) -> P:
    """Return something with its offset on whole centimetres; its turn stays."""
    return position.evolve(offset=tuple(np.round(position.offset, 2).tolist()))


def mirrored_anchor(character: Character, anchor: Anchor) -> Anchor:
    """Return the anchor's mirror image, on the joint of the other side, with a name that says so.

    An anchor on a joint without another side is mirrored across the middle on the same joint.
    """
    twin = mirrored_name(character, anchor.joint) or anchor.joint
    across = FLIP if anchor.on_ground else mirror_turn(character, anchor.joint, twin)
    offset = across @ np.asarray(anchor.offset)
    turn = across @ _turn(anchor.turn) @ FLIP
    return anchor.evolve(
        id=new_id(),
        name=other_side(anchor.name),
        joint=twin,
        offset=tuple(np.round(offset, 6).tolist()),
        turn=degrees_of(turn),
    )


def other_side(name: str) -> str:
    """Return a name with left and right exchanged; one that says neither is called mirrored."""
    swap = {"left": "right", "right": "left", "Left": "Right", "Right": "Left"}
    found = re.sub(r"(?<![A-Za-z])(?:left|right)(?![a-z])|Left|Right", lambda match: swap[match.group()], name)
    return found if found != name else f"{name} mirrored"
