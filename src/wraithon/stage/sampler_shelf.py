"""The samplers of a project's sources, made once and kept."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from typing import TYPE_CHECKING

from wraithon.character.sampling import sampler_of
from wraithon.errors import WraithonError

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.sampler import Sampler
    from wraithon.project.character import CharacterUse
    from wraithon.project.source import SkinSource

__all__ = ["SamplerShelf"]

MOST_KEPT = 64


class SamplerShelf:
    """Makes samplers, and gives the same one again for the same source.

    Parameters
    ----------
    textures
        Returns the picture of a texture mask by its name; may raise RenderError, and then the mask is
        left out.
    progress
        Told the share done while places are spaced evenly; what it raises ends the work.
    """

    def __init__(
        self,
        textures: Callable[[str], NDArray[np.uint8]] | None = None,
        progress: Callable[[float], None] | None = None,
    ) -> None:
        self._textures = textures
        self._progress = progress
        self._kept: OrderedDict[tuple[object, ...], Sampler] = OrderedDict()

    def get(self, character: Character, use: CharacterUse, source: SkinSource, seed: int) -> Sampler:
        """Return the sampler of a source on a character."""
        painted = next((mask for mask in use.masks if mask.id == source.painted), None)
        even = (source.spacing, source.pieces, source.radius, seed) if source.spacing == "even" else ()
        key = (
            character, source.mode, source.parts, source.joints, source.height, source.facing, source.texture,
            painted, source.table, even,
        )  # fmt: skip
        if key not in self._kept:
            image = self._image(source)
            self._kept[key] = sampler_of(
                character, source, image=image, painted=painted, key=seed, progress=self._progress
            )
            while len(self._kept) > MOST_KEPT:
                self._kept.popitem(last=False)
        self._kept.move_to_end(key)
        return self._kept[key]

    def _image(self, source: SkinSource) -> NDArray[np.uint8] | None:
        if source.texture is None or not source.texture.texture or self._textures is None:
            return None
        try:
            return self._textures(source.texture.texture)
        except WraithonError:
            return None
