"""Ribbons: a band through the births of each firing, from the first that lives to the last."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, ClassVar

import numpy as np

from wraithon.particles.columns import AGE
from wraithon.particles.looks.batch import drawn_of
from wraithon.project.look import RibbonLook

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.particles.pool import Pool
    from wraithon.particles.program import LayerProgram

__all__ = ["RibbonBatch", "batch_of"]


@dataclass(frozen=True)
class RibbonBatch:
    """The ribbons of one layer: points in order, one ribbon after another."""

    kind: ClassVar[str] = "ribbon"
    layer: str
    identities: NDArray[np.uint64]
    look: RibbonLook
    positions: NDArray[np.float32]
    """(N, 3) metres, world."""
    widths: NDArray[np.float32]
    """(N,) metres."""
    colours: NDArray[np.float32]
    """(N, 4) linear RGB times intensity, and opacity."""
    joined: NDArray[np.int64]
    """(S,) points that are joined to the one after them."""


def batch_of(pool: Pool, program: LayerProgram) -> RibbonBatch:
    """Return a layer's ribbons."""
    look = program.layer.look
    assert isinstance(look, RibbonLook)  # found by its kind
    n = pool.count
    drawn, held = drawn_of(pool, program), pool.columns
    firing, identity = held.firing[:n], held.identity[:n]
    # Births of one moment have no order of their own: their identities give them one that stays.
    order = np.lexsort((identity, -held.state[AGE, :n], firing))
    return RibbonBatch(
        program.layer.id,
        identity[order],
        look,
        drawn.positions[order],
        drawn.sizes[order],
        drawn.colours[order],
        np.flatnonzero(firing[order][1:] == firing[order][:-1]),
    )
