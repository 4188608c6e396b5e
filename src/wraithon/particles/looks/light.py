"""Lights: every living particle shines on what is around it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, ClassVar, Self

import numpy as np

from wraithon.particles.looks.batch import Reach, drawn_of
from wraithon.project.look import LightLook

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.particles.looks.batch import ShowMoment
    from wraithon.particles.pool import Pool
    from wraithon.particles.program import LayerProgram


GOLDEN = (1 + 5**0.5) / 2


@dataclass(frozen=True)
class LightBatch:
    """The lights of one layer."""

    kind: ClassVar[str] = "light"
    layer: str
    identities: NDArray[np.uint64]
    look: LightLook
    positions: NDArray[np.float32]
    """(N, 3) metres, world."""
    reaches: NDArray[np.float32]
    """(N,) metres to where it is dark."""
    colours: NDArray[np.float32]
    """(N, 3) linear, times intensity, opacity and flicker."""

    def reach(self) -> Reach:
        """Return where the lights are; they reach to where it is dark."""
        return Reach(self.positions, self.reaches[:, None]).where(self.colours.max(axis=1) > 0)

    def moved(self, by: NDArray[np.float32]) -> Self:
        """Return the same elsewhere, by (3,) metres."""
        return replace(self, positions=self.positions + by)


def batch_of(pool: Pool, program: LayerProgram, _moment: ShowMoment) -> LightBatch:
    """Return a layer's lights."""
    look, n = program.layer.look, pool.count
    assert isinstance(look, LightLook)  # found by its kind
    drawn, identity = drawn_of(pool, program), pool.columns.identity[:n].copy()
    strength = drawn.colours[:, 3] * flickering(look, identity, pool.columns.seconds(n))
    colours = (drawn.colours[:, :3] * strength[:, None]).astype(np.float32)
    return LightBatch(program.layer.id, identity, look, drawn.positions, drawn.sizes, colours)


def flickering(look: LightLook, identity: NDArray[np.uint64], ages: NDArray[np.float32]) -> NDArray[np.float64]:
    """Return what flicker leaves of lights (N,) at ages in seconds: two waves that never meet in the same way twice.

    It is between `1 - flicker` and 1.
    """
    if look.flicker == 0:
        return np.ones(len(ages))
    own = (identity >> np.uint64(40)) * 2.0**-24
    turns = look.pace * ages.astype(np.float64)
    waves = np.sin(2 * np.pi * (turns + own)) + np.sin(2 * np.pi * (GOLDEN * turns + own / GOLDEN))
    dip: NDArray[np.float64] = 1 - look.flicker * (0.5 + 0.25 * waves)
    return dip
