"""What colours the skin: a joint's weights, how dense births are, or a mask."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.fairness import Tally, density_heat, tallies
from wraithon.character.masks import joint_weights, unpack_mask

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.sampler import Sampler
    from wraithon.project.character import PaintedMask
    from wraithon.stage.player import Player


@dataclass(frozen=True)
class Overlay:
    """What colours the skin: "weights" of a joint by name, "density" of a layer's births or a "mask" by id."""

    kind: str = ""
    what: str = ""


class Heat:
    """The figures of the overlay, worked out anew only when something they hang on has changed."""

    def __init__(self) -> None:
        self._cached: tuple[tuple[object, ...], NDArray[np.float32] | None] = ((), None)
        self.births: tuple[list[Tally], list[Tally]] | None = None
        """Test births by part and by joint, when their density is shown."""

    def of(self, player: Player, wanted: Overlay) -> NDArray[np.float32] | None:
        """Return what colours the skin (V,), or None."""
        performance = player.compiled.performance
        if performance is None or not wanted.kind:
            self._cached, self.births = ((), None), None
            return None
        program = player.compiled.programs.get(wanted.what)
        sampler = program.sampler if program else None
        mask = next((m for m in performance.use.masks if m.id == wanted.what), None)
        key = (wanted, performance.character, sampler, mask)
        if self._cached[0] != key:
            heat = _heat(wanted, performance.character, sampler, mask)
            if heat is not None and len(heat) != len(performance.character.mesh.positions):
                heat = None
            self._cached = (key, heat)
            shown = wanted.kind == "density" and sampler is not None
            self.births = tallies(performance.character, sampler) if shown and sampler else None
        return self._cached[1]


def _heat(
    wanted: Overlay, character: Character, sampler: Sampler | None, mask: PaintedMask | None
) -> NDArray[np.float32] | None:
    if wanted.kind == "weights":
        heat = joint_weights(character, {wanted.what})
        return np.where(heat > 0, heat, -1).astype(np.float32)
    if wanted.kind == "density" and sampler is not None:
        return density_heat(character, sampler)
    return unpack_mask(mask) if wanted.kind == "mask" and mask is not None else None
