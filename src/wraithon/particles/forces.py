"""Forces as rows of numbers: what a layer's motion asks for, as the kernel of flight reads it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np

from wraithon.particles import force_kernels as k
from wraithon.particles.columns import WIDTH, ForceRows
from wraithon.project.motion import Curl, Drag, Gravity, Vortex, Wind

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Sequence

    from numpy.typing import NDArray

    from wraithon.project.motion import Force

__all__ = ["ForceRows", "Forces", "force_rows"]


class Forces(NamedTuple):
    """A layer's forces, and the anchor whose place each needs; None where it needs none."""

    rows: ForceRows
    anchors: tuple[str | None, ...]
    """Anchor's id of each row; "" is the character's own place."""


PACKING: dict[type, Callable[[Any], tuple[int, tuple[float, ...]]]] = {
    Gravity: lambda force: (k.PUSH, (0.0, -force.pull, 0.0)),
    Wind: lambda force: (k.PUSH, force.push),
    Drag: lambda force: (k.DRAG, (force.rate,)),
    Curl: lambda force: (k.CURL, (force.strength, 1 / force.scale, force.change)),
    Vortex: lambda force: (k.VORTEX, (force.strength, force.inward, 1 / force.reach)),
}
"""Model to code and numbers."""
SUMMED = frozenset({k.PUSH, k.DRAG})
"""Codes whose numbers simply add up: all of a kind are one row, summed in double precision."""


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
    single: list[tuple[int, NDArray[np.float64], str | None]] = []
    for force in forces:
        code, numbers = PACKING[type(force)](force)
        row = np.zeros(WIDTH)
        row[: len(numbers)] = numbers
        if code in SUMMED:
            sums[code] = sums[code] + row if code in sums else row
        else:
            single.append((code, row, _anchor_of(force)))
    rows = [*((code, row, None) for code, row in sorted(sums.items(), key=lambda item: item[0])), *single]
    codes = [code for code, _, _ in rows]
    return Forces(
        ForceRows(
            np.array(codes, np.int32),
            np.array([row for _, row, _ in rows], np.float32).reshape(-1, WIDTH),
            np.array([_seed(key, codes, place) for place in range(len(codes))], np.uint32),
        ),
        tuple(anchor for _, _, anchor in rows),
    )


def _anchor_of(force: Force) -> str | None:
    return (force.anchor or "") if isinstance(force, Vortex) else None


def _seed(key: int, codes: Sequence[int], place: int) -> int:
    """Return a seed of a layer's own for the row at a place, another for each row of one code."""
    return ((key >> 16) + 977 * codes[:place].count(codes[place])) & 0xFFFFFFFF
