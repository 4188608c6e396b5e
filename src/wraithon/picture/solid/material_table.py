"""A character's materials as kernels read them: numbers, and pictures at several sizes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PIL import Image

from wraithon.character.remembering import cached_by_content
from wraithon.numeric.srgb import linear_light
from wraithon.picture.kernels.shade_kernels import (
    COLOUR,
    EMISSION,
    HIGHLIGHT,
    MATERIAL_COLUMNS,
    SIZES,
    TEXELS,
    TWO_SIDED,
)
from wraithon.picture.textures import halved

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character, Material


DEEPEST = 5
"""How often a picture may be halved, and one."""
FLAT = 128
"""The byte of a normal picture that leaves the normal as it is."""


@dataclass(frozen=True)
class MaterialTable:
    """A character's materials as kernels read them."""

    materials: NDArray[np.float32]
    """(M, MATERIAL_COLUMNS), see `kernels.shade_kernels`."""
    levels: NDArray[np.int32]
    """(M, L, 4) first texel, width and height of each size, and both in one, the height in the upper half."""
    texels: NDArray[np.uint8]
    """(N, 4) roots of linear colour, and what is left of the light from all around."""
    details: NDArray[np.uint8]
    """(N, 4) normal along u and v, roughness and metal; (1, 4) where no material has any."""
    part_material: NDArray[np.int32]
    """(T,) the material of each triangle."""


@cached_by_content(maxsize=8)
def material_table(character: Character) -> MaterialTable:
    """Return a character's materials; as soon as one has details, all have them."""
    count = len(character.materials)
    materials = np.zeros((count, MATERIAL_COLUMNS), np.float32)
    levels = np.zeros((count, DEEPEST, 4), np.int32)
    texels, details = [np.zeros((1, 4), np.uint8)], [np.zeros((1, 4), np.uint8)]
    first, detailed = 1, any(map(_is_detailed, character.materials))
    for number, material in enumerate(character.materials):
        materials[number, COLOUR : COLOUR + 3] = material.colour[:3]
        # Squarings of the highlight: 7 for a mirror's tight one, 2 for a rough one's wide one.
        materials[number, HIGHLIGHT] = round(7 - 5 * min(1.0, material.roughness))
        materials[number, EMISSION : EMISSION + 3] = material.emissive
        materials[number, TWO_SIDED] = 1.0 if material.two_sided else 0.0
        pictures = _pictures(material, detailed)
        if pictures is None:
            continue
        roots, colour, detail = pictures
        materials[number, TEXELS] = _texels_a_metre(character, number, colour.shape[0], colour.shape[1])
        for level in range(DEEPEST):
            height, width = colour.shape[:2]
            levels[number, level], materials[number, SIZES] = (first, width, height, width | height << 16), level + 1
            texels.append(roots.reshape(-1, 4))
            first += height * width
            if detail is not None:
                details.append((detail + 0.5).astype(np.uint8).reshape(-1, 4))
            if min(height, width) < 8:
                break
            even = np.s_[: height // 2 * 2, : width // 2 * 2]
            colour, detail = halved(colour[even]), None if detail is None else halved(detail[even])
            roots = np.empty(colour.shape, np.uint8)
            roots[..., :3], roots[..., 3] = _roots(colour[..., :3]), colour[..., 3] * 255 + 0.5
    parts = np.array([part.material for part in character.parts], np.int32)
    found = np.concatenate(texels), np.concatenate(details)
    return MaterialTable(materials, levels, *found, parts[character.mesh.part_of_triangle])


def _is_detailed(material: Material) -> bool:
    pictures = (material.normal, material.surface, material.occlusion)
    return material.metal > 0 or any(picture is not None for picture in pictures)


def _pictures(
    material: Material,
    detailed: bool,  # noqa: FBT001  # as `material_table` found it
) -> tuple[NDArray[np.uint8], NDArray[np.float32], NDArray[np.float32] | None] | None:
    """Return texels (H, W, 4), the colour (H, W, 4) that they stand for, and details (H, W, 4) where wanted.

    A colour's last is the share of light from around. All have the size of the largest; None where there is no
    picture.
    """
    given = [material.texture, material.normal, material.surface, material.occlusion]
    sizes = [picture.shape[:2] for picture in given if picture is not None]
    if not sizes and not material.metal:
        return None
    height, width = max(sizes, default=(1, 1))
    base, normal, surface, occlusion = (None if p is None else _sized(p, height, width) for p in given)
    colour, roots = np.ones((height, width, 4), np.float32), np.full((height, width, 4), 255, np.uint8)
    if base is not None:
        light = linear_light(np.arange(256, dtype=np.uint8))
        np.take(light, base, out=colour, mode="clip")
        colour[..., 3] = 1
        roots[...] = np.asarray(Image.fromarray(base).point([*_roots(light).tolist() * 3, *[255] * 256]))
    if occlusion is not None:
        colour[..., 3] = 1 + material.occlusion_strength * (occlusion[..., 0] / np.float32(255) - 1)
        roots[..., 3] = colour[..., 3] * 255 + 0.5
    if not detailed:
        return roots, colour, None
    detail = np.full((height, width, 4), FLAT, np.float32)
    detail[..., 2:] = 255 * min(1.0, material.roughness), 255 * material.metal
    if normal is not None:
        detail[..., :2] = np.clip(FLAT + (normal[..., :2] - np.float32(FLAT)) * material.normal_scale, 1, 255)
    if surface is not None:
        detail[..., 2:] = surface[..., 1:3] * np.array([material.roughness, material.metal], np.float32)
    return roots, colour, detail


def _roots(colour: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Return linear colour as bytes of its square roots."""
    return (np.sqrt(colour) * 255 + 0.5).astype(np.uint8)


def _sized(picture: NDArray[np.uint8], height: int, width: int) -> NDArray[np.uint8]:
    if picture.shape[:2] == (height, width):
        return picture
    return np.asarray(Image.fromarray(picture).resize((width, height), Image.Resampling.BILINEAR))


def _texels_a_metre(character: Character, material: int, height: int, width: int) -> float:
    """Return how many texels of a material's texture lie along a metre of skin, on average."""
    mesh = character.mesh
    of_material = np.array([part.material == material for part in character.parts])
    rows = mesh.triangles[of_material[mesh.part_of_triangle]]
    if not len(rows):
        return 0.0
    corners, uv = mesh.positions[rows].astype(np.float64), mesh.uvs[rows].astype(np.float64)
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum()
    a, b = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    covered = np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum() * height * width
    return float(np.sqrt(covered / area)) if area > 0 else 0.0


PLAIN = MaterialTable(
    np.zeros((1, 10), np.float32), np.zeros((1, 1, 4), np.int32), np.zeros((1, 4), np.uint8),
    np.zeros((1, 4), np.uint8), np.zeros(1, np.int32),
)  # fmt: skip
"""Where nobody stands."""
