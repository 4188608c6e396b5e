"""Forces as rows of numbers: what a layer's motion asks for, as the kernel of flight reads it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np

from wraithon.particles import force_kernels as k
from wraithon.particles.columns import FORCE_WIDTH, ForceRows
from wraithon.particles.curves import TABLE, curve_table
from wraithon.project.motion import Attraction, Curl, Drag, Gravity, Hold, Lift, Orbit, Swirl, Towards, Vortex, Wind

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Sequence

    from numpy.typing import NDArray

    from wraithon.project.life import Curve
    from wraithon.project.motion import Force


class Forces(NamedTuple):
    """A layer's forces, and the anchor whose place each needs; None where it needs none."""

    rows: ForceRows
    anchors: tuple[str | None, ...]
    """Anchor's id of each row; "" is the character's own place."""

    @property
    def near_skin(self) -> bool:
        """Whether any acts from the character's skin."""
        return bool((self.rows.codes == k.NEAR).any())


def _wind(force: Wind) -> tuple[int, tuple[float, ...]]:
    if force.gust == 0 and force.scatter == 0:
        return k.PUSH, force.push
    return k.WIND, (*force.push, force.gust, force.pace, force.scatter)


def _curl(force: Curl) -> tuple[int, tuple[float, ...]]:
    if force.swirl is Swirl.CARRY:
        return k.CARRY, (force.speed, 1 / force.scale, force.change, force.grip)
    return k.CURL, (force.strength, 1 / force.scale, force.change)


def _attraction(force: Attraction) -> tuple[int, tuple[float, ...]]:
    return (k.NEAR if force.towards is Towards.SKIN else k.ATTRACT), (force.strength, 1 / force.reach)


PACKING: dict[type, Callable[[Any], tuple[int, tuple[float, ...]]]] = {
    Gravity: lambda force: (k.PUSH, (0.0, -force.pull, 0.0)),
    Wind: _wind,
    Drag: lambda force: (k.DRAG, (force.rate,)),
    Curl: _curl,
    Vortex: lambda force: (k.VORTEX, (force.strength, force.inward, 1 / force.reach)),
    Attraction: _attraction,
    Lift: lambda force: (k.LIFT, (force.strength,)),
    Hold: lambda force: (k.HOLD, (force.strength, force.radius)),
    Orbit: lambda force: (k.ORBIT, (force.speed, force.radius, force.follow)),
}
"""Model to code and numbers."""
SUMMED = frozenset({k.PUSH, k.DRAG})
"""Codes whose numbers simply add up: all of a kind that are felt alike are one row, summed in double precision."""
ALIKE = -1.0
"""The spread of a row that all feel alike."""


class _Row(NamedTuple):
    code: int
    numbers: NDArray[np.float64]
    anchor: str | None = None
    spread: float = ALIKE
    curve: Curve | None = None


def force_rows(forces: Iterable[Force], key: int) -> Forces:
    """Return forces as rows; they act in any order.

    Parameters
    ----------
    forces
        A motion's forces.
    key
        The layer's key, from which the rows of chance take their seeds.
    """
    sums: dict[int, NDArray[np.float64]] = {}
    single: list[_Row] = []
    for force in forces:
        code, numbers = PACKING[type(force)](force)
        row = np.zeros(FORCE_WIDTH)
        row[: len(numbers)] = numbers
        if code in SUMMED and force.plain:
            sums[code] = sums[code] + row if code in sums else row
        else:
            single.append(_Row(code, row, force.acts_from, ALIKE if force.plain else force.spread, force.curve))
    rows = [*(_Row(code, row) for code, row in sorted(sums.items(), key=lambda item: item[0])), *single]
    codes = [row.code for row in rows]
    return Forces(
        ForceRows(
            np.array(codes, np.int32),
            np.array([row.numbers for row in rows], np.float32).reshape(-1, FORCE_WIDTH),
            np.array([_seed(key, codes, position) for position in range(len(codes))], np.uint32),
            np.array([row.spread for row in rows], np.float32),
            np.array([curve_table(row.curve) for row in rows], np.float32).reshape(-1, TABLE),
        ),
        tuple(row.anchor for row in rows),
    )


def _seed(key: int, codes: Sequence[int], position: int) -> int:
    """Return a seed of a layer's own for the row at a place, another for each row of one code."""
    return ((key >> 16) + 977 * codes[:position].count(codes[position])) & 0xFFFFFFFF
