"""Ribbons: bands through the births of each firing, through each particle's own past, or what a line has swept."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, ClassVar, Self

import numpy as np

from wraithon.particles.looks.batch import Reach, drawn_of
from wraithon.project.look import RibbonLook, Through

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.particles.looks.batch import ShowMoment
    from wraithon.particles.pool import Pool
    from wraithon.particles.program import LayerProgram


@dataclass(frozen=True)
class RibbonBatch:
    """The ribbons of one layer: points in order, from head to tail, one ribbon after another."""

    kind: ClassVar[str] = "ribbon"
    layer: str
    identities: NDArray[np.uint64]
    look: RibbonLook
    starts: NDArray[np.int32]
    """(R + 1,) where each ribbon's points begin, and where the last one's end."""
    positions: NDArray[np.float32]
    """(N, 3) metres, world."""
    sides: NDArray[np.float32]
    """(N, 3) half of what spans it, in metres; (0, 3) for ribbons that face the camera."""
    widths: NDArray[np.float32]
    """(N,) metres; where there are sides, by how many times they are longer."""
    colours: NDArray[np.float32]
    """(N, 4) linear RGB times intensity, and opacity."""
    flowed: float
    """Metres the texture has moved."""

    def reach(self) -> Reach:
        """Return where the ribbons' points are; they reach to their edges."""
        if len(self.sides):
            halves = (np.abs(self.sides) * self.widths[:, None]).astype(np.float32)
            return Reach(self.positions, halves)
        return Reach(self.positions, (self.widths / 2).astype(np.float32)[:, None])

    def moved(self, by: NDArray[np.float32]) -> Self:
        """Return the same elsewhere, by (3,) metres."""
        return replace(self, positions=self.positions + by)


def batch_of(pool: Pool, program: LayerProgram, moment: ShowMoment) -> RibbonBatch:
    """Return a layer's ribbons."""
    look, n = program.layer.look, pool.count
    assert isinstance(look, RibbonLook)  # found by its kind
    drawn, columns = drawn_of(pool, program), pool.columns
    nowhere = np.zeros((0, 3), np.float32)
    if look.through is Through.PAST:
        positions = pool.past.through(columns, n) if pool.past else drawn.positions[:, None]
        points = positions.shape[1]
        return RibbonBatch(
            program.layer.id, columns.identity[:n].copy(), look, np.arange(n + 1, dtype=np.int32) * np.int32(points),
            np.ascontiguousarray(positions).reshape(-1, 3), nowhere, np.repeat(drawn.sizes, points),
            np.repeat(drawn.colours, points, axis=0), look.flow * moment.time,
        )  # fmt: skip
    firing, identity = columns.firing[:n], columns.identity[:n]
    # Births of one moment have no order of their own: their identities give them one that stays.
    order = np.lexsort((identity, columns.seconds(n), firing))
    breaks = np.flatnonzero(firing[order][1:] != firing[order][:-1]) + 1
    starts = np.concatenate([[0], breaks, [n]]) if n else np.zeros(1)
    swept = look.through is Through.SWEEP and program.birth.sweeping
    return RibbonBatch(
        program.layer.id,
        identity[order],
        look,
        starts.astype(np.int32),
        drawn.positions[order],
        drawn.normals[order] if swept else nowhere,
        np.ones(n, np.float32) if swept else drawn.sizes[order],
        drawn.colours[order],
        look.flow * moment.time,
    )
