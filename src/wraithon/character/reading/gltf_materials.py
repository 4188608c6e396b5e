"""The materials of a glTF file, with their pictures."""

from __future__ import annotations

import io
import warnings
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from PIL import Image

from wraithon.character.model import Material

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.reading.gltf_file import GltfFile


PICTURES = {
    "texture": ("pbrMetallicRoughness", "baseColorTexture"),
    "surface": ("pbrMetallicRoughness", "metallicRoughnessTexture"),
    "normal": ("normalTexture",),
    "occlusion": ("occlusionTexture",),
}
"""What a material's pictures are called here, and where they stand in a file."""
MAX_SCALE = 100.0

TEXTURE_SIDE = 1024
LARGEST_IMAGE, LARGEST_SIDE = 64 * 10**6, 16_384
"""Pixels that a picture may have, and along one side."""
MAX_PIXELS = 320 * 10**6
"""Pixels of all pictures of a file together that are decoded."""
MAX_TURNS = 1e6
"""How often a picture may be repeated: UV beyond are brought back to it."""


@dataclass(frozen=True)
class TextureTransform:
    """How a material's picture lies on a mesh: by which of its UV sets, scaled, then turned, then moved."""

    uv_set: int = 0
    scale: tuple[float, ...] = (1.0, 1.0)
    rotation: float = 0.0
    """Radians, anticlockwise as seen with v downwards."""
    offset: tuple[float, ...] = (0.0, 0.0)

    def moved(self, uvs: NDArray[np.float32]) -> NDArray[np.float32]:
        """Return UV (V, 2) where the picture is looked up."""
        if (self.scale, self.rotation, self.offset) == ((1.0, 1.0), 0.0, (0.0, 0.0)):
            return uvs
        cos, sin = np.cos(self.rotation), np.sin(self.rotation)
        turn = np.array([[cos, sin], [-sin, cos]])
        placed = uvs.astype(np.float64) * self.scale @ turn.T + self.offset
        return np.clip(placed, -MAX_TURNS, MAX_TURNS).astype(np.float32)


def _info(material: dict[str, Any], picture: str) -> object:
    """Return what a material says of one of its pictures, or None."""
    owner: object = material
    for key in PICTURES[picture]:
        owner = owner.get(key) if isinstance(owner, dict) else None
    return owner


def texture_transform(file: GltfFile, material: dict[str, Any], location: str) -> TextureTransform:
    """Return how a material lays its pictures on a mesh: as the first it has.

    Raises
    ------
    wraithon.support.errors.CharacterError
        When its numbers are none.
    """
    infos = (_info(material, picture) for picture in PICTURES)
    return next((_transform_of(file, info, location) for info in infos if isinstance(info, dict)), TextureTransform())


def _transform_of(file: GltfFile, owner: dict[str, Any], location: str) -> TextureTransform:
    """Return how a picture lies on a mesh (glTF 2.0, KHR_texture_transform)."""
    extensions = owner.get("extensions")
    entry = extensions.get("KHR_texture_transform") if isinstance(extensions, dict) else None
    if not isinstance(entry, dict):
        return TextureTransform(file.integer(owner, "texCoord", location, 0))
    (rotation,) = file.numbers({"rotation": [entry.get("rotation", 0.0)]}, "rotation", location, (0.0,))
    return TextureTransform(
        file.integer(entry, "texCoord", location, file.integer(owner, "texCoord", location, 0)),
        file.numbers(entry, "scale", location, (1.0, 1.0)),
        rotation,
        file.numbers(entry, "offset", location, (0.0, 0.0)),
    )


class MaterialReader:
    """Reads the materials of one file; what is left out goes into `notes`."""

    def __init__(self, file: GltfFile, notes: list[str], progress: Callable[[float], None]) -> None:
        self.file, self.notes, self.progress = file, notes, progress
        self._pixels = 0
        """Pixels of the pictures so far."""

    def read(self) -> tuple[Material, ...]:
        """Return the file's materials after a plain one, which parts without any use."""
        found = [Material("plain")]
        images: dict[int, NDArray[np.uint8] | None] = {}
        for i, entry in enumerate(self.file.items("materials")):
            self.progress(0.9)
            location = f"materials[{i}]"
            surface = entry.get("pbrMetallicRoughness", {})
            if not isinstance(surface, dict):
                self.file.fail(f"{location}.pbrMetallicRoughness", "must be an object")
            colour = self.file.numbers(surface, "baseColorFactor", location, (1.0, 1.0, 1.0, 1.0))
            # By the format what says nothing of it is metal; what has no such surface at all, or no light, is not.
            extensions = entry.get("extensions", {})
            if not isinstance(extensions, dict):
                self.file.fail(f"{location}.extensions", f"must be an object, not {extensions!r:.40}")
            lit = bool(surface) and "KHR_materials_unlit" not in extensions
            factors = [surface.get("roughnessFactor", 1.0), surface.get("metallicFactor", 1.0) if lit else 0.0]
            roughness, metal = self.file.numbers({"factors": factors}, "factors", location, (1.0, 1.0))
            emissive = self.file.numbers(entry, "emissiveFactor", location, (0.0, 0.0, 0.0))
            found.append(
                Material(
                    name=self.file.name(entry, f"material {i}"),
                    colour=(colour[0], colour[1], colour[2], colour[3]),
                    emissive=(emissive[0], emissive[1], emissive[2]),
                    roughness=float(np.clip(roughness, 0.0, 1.0)),
                    metal=float(np.clip(metal, 0.0, 1.0)),
                    two_sided=bool(entry.get("doubleSided", False)),
                    normal_scale=self._share(entry, "normal", "scale", location),
                    occlusion_strength=min(1.0, self._share(entry, "occlusion", "strength", location)),
                    **{picture: self._texture(entry, picture, location, images) for picture in PICTURES},
                )
            )
        return tuple(found)

    def _share(self, material: dict[str, Any], picture: str, key: str, location: str) -> float:
        """Return how strong a picture is."""
        info = _info(material, picture)
        given = info.get(key, 1.0) if isinstance(info, dict) else 1.0
        (share,) = self.file.numbers({key: [given]}, key, f"{location}.{PICTURES[picture][-1]}", (1.0,))
        return float(np.clip(share, 0.0, MAX_SCALE))

    def _texture(
        self, material: dict[str, Any], picture: str, location: str, images: dict[int, NDArray[np.uint8] | None]
    ) -> NDArray[np.uint8] | None:
        info, here = _info(material, picture), f"{location}.{PICTURES[picture][-1]}"
        if info is None:
            return None
        if not isinstance(info, dict):
            self.file.fail(here, "must be an object")
        if _transform_of(self.file, info, location) != texture_transform(self.file, material, location):
            self.notes.append(f"{here}: it lies otherwise on the mesh than the material's first picture; left out")
            return None
        texture = self.file.item("textures", info.get("index"), here)
        if "source" not in texture:
            self.notes.append(f"{here}: its picture is of a kind that is not supported and is left out")
            return None
        number = texture["source"]
        image = self.file.item("images", number, here)
        if number not in images:
            images[number] = self._image(image, f"images[{number}]")
        if images[number] is None:
            self.notes.append(f"{here}: all pictures together have more than {MAX_PIXELS:,} pixels; it is left out")
        return images[number]

    def _image(self, image: dict[str, Any], location: str) -> NDArray[np.uint8] | None:
        """Return a picture, no larger than it is used; None where the file holds too much of them."""
        if "bufferView" in image:
            data, _ = self.file.view(image["bufferView"], location)
        else:
            data = self.file.resource(image.get("uri"), location)
        try:
            with warnings.catch_warnings():
                warnings.simplefilter("error", Image.DecompressionBombWarning)
                with Image.open(io.BytesIO(data), formats=("PNG", "JPEG")) as picture:
                    pixels = picture.width * picture.height
                    if pixels > LARGEST_IMAGE or max(picture.size) > LARGEST_SIDE:
                        self.file.fail(location, f"{picture.width} x {picture.height} pixels are too many")
                    self._pixels += pixels
                    if self._pixels > MAX_PIXELS:
                        return None
                    picture.thumbnail((TEXTURE_SIDE, TEXTURE_SIDE))
                    return np.array(picture.convert("RGBA"))
        except (
            OSError,
            ValueError,
            SyntaxError,
            Image.DecompressionBombError,
            Image.DecompressionBombWarning,
        ):
            self.file.fail(location, "the picture is damaged, or neither PNG nor JPEG")
