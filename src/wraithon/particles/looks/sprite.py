"""Sprites: every living particle as a textured square."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, ClassVar

from wraithon.particles.looks.batch import Drawn, drawn_of
from wraithon.project.look import SpriteLook

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from wraithon.particles.looks.batch import Moment
    from wraithon.particles.pool import Pool
    from wraithon.particles.program import LayerProgram

__all__ = ["SpriteBatch", "batch_of"]


@dataclass(frozen=True)
class SpriteBatch:
    """The living sprites of one layer."""

    kind: ClassVar[str] = "sprite"
    layer: str
    identities: NDArray[np.uint64]
    look: SpriteLook
    drawn: Drawn
    """What each looks like; sizes are widths."""


def batch_of(pool: Pool, program: LayerProgram, _moment: Moment) -> SpriteBatch:
    """Return a layer's sprites."""
    look = program.layer.look
    assert isinstance(look, SpriteLook)  # found by its kind
    identities = pool.columns.identity[: pool.count].copy()
    return SpriteBatch(program.layer.id, identities, look, drawn_of(pool, program))
