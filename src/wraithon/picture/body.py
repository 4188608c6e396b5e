"""The character as kernels of the opaque pass read it: materials, what shows of it, and its dissolve."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.pose import rest_skin
from wraithon.picture.textures import halved, linear_light

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.stage.frame import Body

__all__ = ["NO_BODY", "BodyArrays", "Materials", "body_arrays"]


@dataclass(frozen=True)
class Materials:
    """A character's materials as kernels read them."""

    materials: NDArray[np.float32]
    levels: NDArray[np.int32]
    texels: NDArray[np.uint8]
    part_material: NDArray[np.int32]


@dataclass(frozen=True)
class BodyArrays:
    """A posed character: what is drawn of it, and how."""

    triangles: NDArray[np.int32]
    positions: NDArray[np.float32]
    normals: NDArray[np.float32]
    uvs: NDArray[np.float32]
    materials: Materials
    shown: NDArray[np.uint8]
    """(T,) 0 hidden, 1 from its front, 2 from both sides."""
    rest: NDArray[np.float32]
    """(V, 3) the rest pose, where the dissolve's noise is looked up; (1, 3) while it is whole."""
    dissolving: NDArray[np.uint8]
    """(T,) which triangles the dissolve eats."""
    border: NDArray[np.float32]
    """(6,) share gone, blotches a metre, width, and linear colour of its glow."""
    heat: NDArray[np.float32]
    """(V,) figures to colour the skin by, or (1,)."""


def body_arrays(body: Body | None) -> BodyArrays:
    """Return a body as kernels read it."""
    if body is None:
        return NO_BODY
    mesh = body.character.mesh
    heat = body.heat if body.heat is not None else _COLD
    return BodyArrays(
        mesh.triangles, body.positions, body.normals, mesh.uvs, _materials_of(body.character), _shown(body),
        *_dissolve(body), heat,
    )  # fmt: skip


def _shown(body: Body) -> NDArray[np.uint8]:
    character = body.character
    shown = np.zeros(len(character.mesh.triangles), np.uint8)
    for part in character.parts:
        if part.name not in body.hidden_parts:
            eaten = body.dissolve is not None and body.dissolve.two_sided and _eats(body, part.material)
            sides = 2 if eaten or character.materials[part.material].two_sided else 1
            shown[part.first_triangle : part.first_triangle + part.triangle_count] = sides
    return shown


def _eats(body: Body, material: int) -> bool:
    """Tell whether a body's dissolve eats a material."""
    named = body.dissolve.materials if body.dissolve else ()
    return not named or body.character.materials[material].name in named


def _dissolve(body: Body) -> tuple[NDArray[np.float32], NDArray[np.uint8], NDArray[np.float32]]:
    """Return the rest pose, which triangles dissolve, and the border."""
    if body.dissolve is None or body.dissolved <= 0:
        return _WHOLE
    dissolve = body.dissolve
    parts = np.array([_eats(body, part.material) for part in body.character.parts], np.uint8)
    glow = np.array(dissolve.colour) * dissolve.intensity
    border = np.array([body.dissolved, 1 / dissolve.scale, dissolve.width, *glow], np.float32)
    mesh = body.character.mesh
    return rest_skin(body.character).positions, parts[mesh.part_of_triangle], border


@lru_cache(maxsize=8)
def _materials_of(character: Character) -> Materials:
    """Return materials (M, 9): linear colour, highlight, emission, texels a metre, two-sided; and textures."""
    count, deepest = len(character.materials), 5
    materials = np.zeros((count, 9), np.float32)
    levels = np.zeros((count, deepest, 4), np.int32)
    chunks: list[NDArray[np.uint8]] = [np.zeros((1, 4), np.uint8)]
    first = 1
    for number, material in enumerate(character.materials):
        materials[number, 0:3] = material.colour[:3]
        # Squarings of the highlight: 7 for a mirror's tight one, 2 for a rough one's wide one.
        materials[number, 3] = round(7 - 5 * min(1.0, material.roughness))
        materials[number, 4:7] = material.emissive
        materials[number, 8] = 1.0 if material.two_sided else 0.0
        if material.texture is None:
            continue
        picture = linear_light(material.texture)
        materials[number, 7] = _texels_a_metre(character, number, picture.shape[0], picture.shape[1])
        for level in range(deepest):
            high, wide = picture.shape[:2]
            levels[number, level, :3], levels[number, 0, 3] = (first, wide, high), level + 1
            chunks.append((np.sqrt(picture) * 255 + 0.5).astype(np.uint8).reshape(-1, 4))
            first += high * wide
            if min(high, wide) < 8:
                break
            picture = halved(picture[: high // 2 * 2, : wide // 2 * 2])
    parts = np.array([part.material for part in character.parts], np.int32)
    return Materials(materials, levels, np.concatenate(chunks), parts[character.mesh.part_of_triangle])


def _texels_a_metre(character: Character, material: int, high: int, wide: int) -> float:
    """Return how many texels of a material's texture lie along a metre of skin, on average."""
    mesh = character.mesh
    of_material = np.array([part.material == material for part in character.parts])
    rows = mesh.triangles[of_material[mesh.part_of_triangle]]
    if not len(rows):
        return 0.0
    corners, uv = mesh.positions[rows].astype(np.float64), mesh.uvs[rows].astype(np.float64)
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum()
    a, b = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    covered = np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum() * high * wide
    return float(np.sqrt(covered / area)) if area > 0 else 0.0


_COLD = np.zeros(1, np.float32)
_WHOLE = np.zeros((1, 3), np.float32), np.zeros(1, np.uint8), np.zeros(6, np.float32)
_NOWHERE = np.zeros((1, 3), np.float32)
_PLAIN = Materials(
    np.zeros((1, 9), np.float32), np.zeros((1, 1, 4), np.int32), np.zeros((1, 4), np.uint8), np.zeros(1, np.int32)
)
NO_BODY = BodyArrays(
    np.zeros((1, 3), np.int32), _NOWHERE, _NOWHERE, np.zeros((1, 2), np.float32), _PLAIN, np.zeros(1, np.uint8),
    *_WHOLE, _COLD,
)  # fmt: skip
"""What kernels read where nobody stands."""
