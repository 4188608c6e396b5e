"""The ground as a texture, at halving sizes."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from wraithon.ground import SIZE, ground
from wraithon.picture.textures import halved

__all__ = ["ground_texture"]

BRIGHTEST = 0.3
"""Linear light that a full byte stands for: stone is never brighter."""


@lru_cache(maxsize=4)
def ground_texture(kind: str) -> tuple[NDArray[np.int32], NDArray[np.uint8]]:
    """Return levels (L, 3) of first texel, width and height, and texels (M, 4) in bytes.

    The first three are square roots of linear RGB over BRIGHTEST, the fourth is gloss.
    """
    picture = ground(kind)
    levels, chunks, first, side = [], [], 0, SIZE
    while side >= 4:
        levels.append((first, side, side))
        chunks.append(picture.reshape(-1, 4))
        first += side * side
        side //= 2
        picture = halved(picture)
    texels = np.clip(np.concatenate(chunks), 0, 1)
    texels[:, :3] = np.sqrt(np.clip(texels[:, :3] / BRIGHTEST, 0, 1))
    return np.array(levels, np.int32), (texels * 255 + 0.5).astype(np.uint8)
