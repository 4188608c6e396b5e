"""Afterimages: every living particle as the character's pose when it was born."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, ClassVar, Self

import numpy as np

from wraithon.particles.looks.batch import Reach, drawn_of
from wraithon.project.look import AfterimageLook

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.pose import Skin
    from wraithon.particles.looks.batch import ShowMoment
    from wraithon.particles.pool import Pool
    from wraithon.particles.program import LayerProgram


@dataclass(frozen=True)
class AfterimageBatch:
    """The afterimages of one layer, the oldest first."""

    kind: ClassVar[str] = "afterimage"
    layer: str
    identities: NDArray[np.uint64]
    look: AfterimageLook
    worn: tuple[tuple[Character, Skin], ...]
    """Whose pose each is, and how that stood."""
    colours: NDArray[np.float32]
    """(N, 4) linear RGB times intensity, and opacity."""

    def reach(self) -> Reach:
        """Return where the skin of all of them is."""
        positions = np.concatenate([np.zeros((0, 3), np.float32), *(skin.positions for _, skin in self.worn)])
        return Reach(positions, np.zeros((len(positions), 1), np.float32))

    def moved(self, by: NDArray[np.float32]) -> Self:
        """Return the same elsewhere, by (3,) metres."""
        worn = tuple((one, replace(skin, positions=skin.positions + by)) for one, skin in self.worn)
        return replace(self, worn=worn)


def batch_of(pool: Pool, program: LayerProgram, moment: ShowMoment) -> AfterimageBatch:
    """Return a layer's afterimages; those that cannot be seen are left out."""
    look, n = program.layer.look, pool.count
    assert isinstance(look, AfterimageLook)  # found by its kind
    colours, identity = drawn_of(pool, program).colours, pool.columns.identity[:n]
    ages = pool.columns.seconds(n)
    order = np.lexsort((identity, -ages))
    order = order[colours[order, 3] > 0][-AfterimageLook.maximum :]
    found = [(k, moment.skin_before(float(ages[k]))) for k in order.tolist()]
    shown = [(k, worn) for k, worn in found if worn is not None]
    rows = np.array([k for k, _ in shown], np.int64)
    return AfterimageBatch(program.layer.id, identity[rows], look, tuple(worn for _, worn in shown), colours[rows])
