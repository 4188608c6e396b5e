"""Batches: what is drawn of a layer's particles at one moment."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, ClassVar, NamedTuple, Protocol, Self

import numpy as np

from wraithon.particles import draw_kernels

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.pose import Skin
    from wraithon.particles.columns import Columns
    from wraithon.particles.pool import Pool
    from wraithon.particles.program import LayerProgram


def _nobody(_seconds: float) -> None:
    """Return the skin where nobody stands."""
    return


class ShowMoment(NamedTuple):
    """What of a show's moment looks may ask for, besides particles."""

    time: float = 0.0
    """Seconds since the show began."""
    skin_before: Callable[[float], tuple[Character, Skin] | None] = _nobody
    """Returns the character and its skin so many seconds ago; None where there is none."""


class Reach(NamedTuple):
    """Where things are, and how far they reach from there along the world's axes."""

    positions: NDArray[np.float32]
    """(N, 3) metres, world."""
    halves: NDArray[np.float32]
    """(N, 1) or (N, 3) metres."""

    def where(self, seen: NDArray[np.bool_]) -> Reach:
        """Return those of them that are `seen` (N,)."""
        return Reach(self.positions[seen], self.halves[seen])


class Batch(Protocol):
    """A draw list of one layer; what else it holds is its look's own."""

    kind: ClassVar[str]
    """The look's kind, by which its drawer is found."""

    @property
    def layer(self) -> str:
        """The layer's id."""

    @property
    def identities(self) -> NDArray[np.uint64]:
        """(N,) the particles'."""

    def reach(self) -> Reach:
        """Return where what is seen of it is."""

    def moved(self, by: NDArray[np.float32]) -> Self:
        """Return the same elsewhere, by (3,) metres."""


class Drawn(NamedTuple):
    """What particles look like, in the order they stand in the pool."""

    positions: NDArray[np.float32]
    """(N, 3) metres, world."""
    velocities: NDArray[np.float32]
    """(N, 3) metres a second, world."""
    normals: NDArray[np.float32]
    """(N, 3) unit, of where they were born or ride; (0, 3) for looks that do not turn by them."""
    sizes: NDArray[np.float32]
    """(N,) metres."""
    stretches: NDArray[np.float32]
    """(N,) how many times as high as wide."""
    turns: NDArray[np.float32]
    """(N,) radians in the picture plane."""
    colours: NDArray[np.float32]
    """(N, 4) linear RGB times intensity, and opacity."""
    frames: NDArray[np.float32]
    """(N,) frame of the sheet, and by how much it is on the way to the next."""

    def moved(self, by: NDArray[np.float32]) -> Drawn:
        """Return the same elsewhere, by (3,) metres."""
        return self._replace(positions=self.positions + by)

    @property
    def seen(self) -> NDArray[np.bool_]:
        """Which (N,) can be seen at all."""
        return (self.sizes > 0) & (self.colours[:, 3] > 0)


def drawn_of(pool: Pool, program: LayerProgram) -> Drawn:
    """Return what all living particles of a pool look like."""
    return drawn_from(pool.columns, pool.count, program)


def drawn_from(columns: Columns, n: int, program: LayerProgram) -> Drawn:
    """Return what the first `n` particles of columns look like."""
    positions, velocities = np.empty((2, n, 3), np.float32)
    normals = np.empty((n if program.layer.look.by_normal else 0, 3), np.float32)
    sizes, stretches, turns = np.empty((3, n), np.float32)
    colours, frames = np.empty((n, 4), np.float32), np.empty(n, np.float32)
    out = Drawn(positions, velocities, normals, sizes, stretches, turns, colours, frames)
    draw_kernels.draw(n, columns, n, program.drawn, out)
    return out
