"""Marks: what a layer's particles leave on the ground under them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, ClassVar, Self

import numpy as np

from wraithon.particles.looks.batch import Drawn, Reach, drawn_of
from wraithon.project.look import DecalLook

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.particles.looks.batch import ShowMoment
    from wraithon.particles.pool import Pool
    from wraithon.particles.program import LayerProgram


CORNER = 2**0.5 / 2
"""How far a square's corner is from its middle."""


@dataclass(frozen=True)
class DecalBatch:
    """The marks of one layer, the oldest first: later ones lie over them."""

    kind: ClassVar[str] = "mark"
    layer: str
    identities: NDArray[np.uint64]
    look: DecalLook
    drawn: Drawn
    """What each looks like; sizes are widths, turns about the upright, and heights do not count."""

    def reach(self) -> Reach:
        """Return where the marks are on the ground; they reach to their corners."""
        flat = self.drawn.positions * np.array([1, 0, 1], np.float32)
        halves = self.drawn.sizes[:, None] * np.array([CORNER, 0, CORNER], np.float32)
        return Reach(flat, halves).where(self.drawn.seen)

    def moved(self, by: NDArray[np.float32]) -> Self:
        """Return the same elsewhere, by (3,) metres."""
        return replace(self, drawn=self.drawn.moved(by))


def batch_of(pool: Pool, program: LayerProgram, _moment: ShowMoment) -> DecalBatch:
    """Return a layer's marks."""
    look, n = program.layer.look, pool.count
    assert isinstance(look, DecalLook)  # found by its kind
    identity = pool.columns.identity[:n]
    order = np.lexsort((identity, -pool.columns.seconds(n)))
    drawn = Drawn(*(column[order] if len(column) == n else column for column in drawn_of(pool, program)))
    return DecalBatch(program.layer.id, identity[order], look, drawn)
