"""The samplers of a project's sources, made once and kept."""

from __future__ import annotations

import zlib
from collections import OrderedDict
from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.sampling import sampler_of
from wraithon.ground.ground import floor_of
from wraithon.project.staging.ground import MAX_OWN
from wraithon.support.errors import WraithonError

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.sampler import Sampler
    from wraithon.ground.ground import Floor
    from wraithon.project.character import CharacterUse
    from wraithon.project.source import SkinSource
    from wraithon.project.staging.ground import OwnGround


MAX_SAMPLERS, MAX_CHARACTERS = 64, 4
"""Samplers that are kept, and of how many characters."""
SIDE = 128
"""Cells of a picture that births come from, along each side at most."""


class SamplerCache:
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
        self._pictures: dict[str, NDArray[np.float32]] = {}
        self._floors: dict[tuple[OwnGround, int | None], Floor] = {}
        self._samplers: OrderedDict[tuple[object, ...], Sampler] = OrderedDict()

    def get(self, character: Character, use: CharacterUse, source: SkinSource, seed: int) -> Sampler:
        """Return the sampler of a source on a character."""
        painted = next((mask for mask in use.masks if mask.id == source.painted), None)
        even = (source.spacing, source.pieces, source.radius, seed) if source.spacing == "even" else ()
        key = (
            character, source.mode, source.parts, source.joints, source.height, source.facing, source.texture,
            painted, source.table, even,
        )  # fmt: skip
        if key not in self._samplers:
            image = self._image(source)
            self._samplers[key] = sampler_of(
                character, source, image=image, painted=painted, key=seed, progress=self._progress
            )
            self._let_go()
        self._samplers.move_to_end(key)
        return self._samplers[key]

    def _let_go(self) -> None:
        """Free the samplers that were asked for longest ago, and of those of characters that were."""
        while len(self._samplers) > MAX_SAMPLERS:
            self._samplers.popitem(last=False)
        latest = list(dict.fromkeys(key[0] for key in reversed(self._samplers)))[:MAX_CHARACTERS]
        for key in [key for key in self._samplers if key[0] not in latest]:
            del self._samplers[key]

    def picture(self, name: str) -> NDArray[np.float32] | None:
        """Return how bright the cells (H, W) of a texture are, 0 to 1, SIDE a side at most; None where it is none."""
        if name not in self._pictures:
            image = self._read(name)
            if image is None:
                return None
            self._pictures[name] = _brightness(image)
        return self._pictures[name]

    def floor(self, own: OwnGround) -> Floor:
        """Return how a kind of ground of the artist's own looks; without its picture where that cannot be read."""
        image = self._read(own.picture)
        key = own, None if image is None else zlib.crc32(image.tobytes())
        if key not in self._floors:
            self._floors[key] = floor_of(own, image)
            while len(self._floors) > 2 * MAX_OWN:
                del self._floors[next(iter(self._floors))]
        return self._floors[key]

    def _image(self, source: SkinSource) -> NDArray[np.uint8] | None:
        return self._read(source.texture.texture) if source.texture is not None else None

    def _read(self, name: str) -> NDArray[np.uint8] | None:
        if not name or self._textures is None:
            return None
        try:
            return self._textures(name)
        except WraithonError:
            return None


def _brightness(image: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Return the mean brightness of a picture's cells (H, W), where it is clear 0."""
    shares = image.astype(np.float32) / 255
    bright = shares[..., :3].mean(axis=-1) * shares[..., 3]
    for axis in (0, 1):
        edges = np.linspace(0, bright.shape[axis], min(SIDE, bright.shape[axis]) + 1).astype(np.int64)
        sums = np.add.reduceat(bright, edges[:-1], axis=axis)
        bright = sums / np.expand_dims(np.diff(edges), 1 - axis)
    return bright.astype(np.float32)
