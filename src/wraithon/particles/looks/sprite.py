"""Sprites: every living particle as a textured square."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, ClassVar, Self

import numpy as np

from wraithon.particles.looks.batch import Drawn, Reach, drawn_of
from wraithon.project.look import Facing, SpriteLook

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.particles.looks.batch import ShowMoment
    from wraithon.particles.pool import Pool
    from wraithon.particles.program import LayerProgram


@dataclass(frozen=True)
class SpriteBatch:
    """The living sprites of one layer."""

    kind: ClassVar[str] = "sprite"
    layer: str
    identities: NDArray[np.uint64]
    look: SpriteLook
    drawn: Drawn
    """What each looks like; sizes are widths."""

    def reach(self) -> Reach:
        """Return where the sprites are; they reach to their corners, however they are turned."""
        look, width = self.look, self.drawn.sizes / 2
        height = width * self.drawn.stretches
        if look.facing is Facing.VELOCITY:
            longer = width + np.linalg.norm(self.drawn.velocities, axis=1) * (look.stretch / 2)
            height = np.maximum(height, np.minimum(longer, width * look.longest))
        return Reach(self.drawn.positions, np.hypot(width, height)[:, None]).where(self.drawn.seen)

    def moved(self, by: NDArray[np.float32]) -> Self:
        """Return the same elsewhere, by (3,) metres."""
        return replace(self, drawn=self.drawn.moved(by))


def batch_of(pool: Pool, program: LayerProgram, _moment: ShowMoment) -> SpriteBatch:
    """Return a layer's sprites."""
    look = program.layer.look
    assert isinstance(look, SpriteLook)  # found by its kind
    identities = pool.columns.identity[: pool.count].copy()
    return SpriteBatch(program.layer.id, identities, look, drawn_of(pool, program))
