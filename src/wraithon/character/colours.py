"""The colours of a character's skin, as what is born on it takes them along."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from wraithon.srgb import linear_light

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character

__all__ = ["skin_colours"]


@lru_cache(maxsize=8)
def skin_colours(character: Character) -> NDArray[np.float32]:
    """Return the linear colour of a character's vertices (V, 3): their material's, times its picture there."""
    mesh = character.mesh
    colours = np.full((len(mesh.positions), 3), 0.8, np.float32)
    for part in character.parts:
        run = mesh.triangles[part.first_triangle : part.first_triangle + part.triangle_count]
        rows, material = np.unique(run), character.materials[part.material]
        colours[rows] = material.colour[:3]
        if material.texture is not None:
            high, wide = material.texture.shape[:2]
            uvs = mesh.uvs[rows] - np.floor(mesh.uvs[rows])
            across, down = (uvs * (wide, high)).astype(np.int64).T
            texels = material.texture[np.clip(down, 0, high - 1), np.clip(across, 0, wide - 1), :3]
            colours[rows] *= linear_light(texels)
    return colours
