"""Shells: every living particle as a film around it, or on the character."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, ClassVar, Self

import numpy as np

from wraithon.particles.looks.batch import Reach, drawn_of
from wraithon.project.look import Figure, ShellLook

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.pose import Skin
    from wraithon.particles.looks.batch import Drawn, ShowMoment
    from wraithon.particles.pool import Pool
    from wraithon.particles.program import LayerProgram


@dataclass(frozen=True)
class ShellBatch:
    """The shells of one layer."""

    kind: ClassVar[str] = "shell"
    layer: str
    identities: NDArray[np.uint64]
    look: ShellLook
    drawn: Drawn
    """What each looks like; sizes are widths, or how far skin is pushed outward."""
    ages: NDArray[np.float32]
    """(N,) seconds."""
    worn: tuple[Character, Skin] | None
    """Who they are on, and how that stands."""

    def reach(self) -> Reach:
        """Return where the shells are, swollen as far as they may be."""
        look, sizes = self.look, self.drawn.sizes[:, None]
        if look.figure is not Figure.SKIN:
            halves = (sizes / 2 * np.array([1, look.tall, 1]) + look.swell).astype(np.float32)
            up = (sizes / 2 * np.array([0, look.tall, 0])).astype(np.float32)  # it stands on its particle
            return Reach(self.drawn.positions + up, halves).where(self.drawn.seen)
        shown = self.drawn.sizes[self.drawn.seen]
        if self.worn is None or not len(shown):
            return Reach(np.zeros((0, 3), np.float32), np.zeros((0, 1), np.float32))
        positions = self.worn[1].positions
        return Reach(positions, np.full((len(positions), 1), shown.max() + look.swell, np.float32))

    def moved(self, by: NDArray[np.float32]) -> Self:
        """Return the same elsewhere, by (3,) metres."""
        worn = (self.worn[0], replace(self.worn[1], positions=self.worn[1].positions + by)) if self.worn else None
        return replace(self, drawn=self.drawn.moved(by), worn=worn)


def batch_of(pool: Pool, program: LayerProgram, moment: ShowMoment) -> ShellBatch:
    """Return a layer's shells."""
    look, n = program.layer.look, pool.count
    assert isinstance(look, ShellLook)  # found by its kind
    identity, ages = pool.columns.identity[:n].copy(), pool.columns.seconds(n)
    return ShellBatch(program.layer.id, identity, look, drawn_of(pool, program), ages, moment.skin_before(0.0))
