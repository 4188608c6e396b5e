"""Textures as the kernels read them: linear light, premultiplied, every frame with its own smaller levels."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from PIL import Image

from wraithon.numeric.srgb import linear_light
from wraithon.support.errors import RenderError
from wraithon.support.plain_files import read_plain

if TYPE_CHECKING:
    from pathlib import Path

    from numpy.typing import NDArray


LARGEST_SIDE, SMALLEST_SIDE = 128, 4
"""Sides of a texture's first level; the last level is always a single texel."""
LARGEST_IMAGE, LARGEST_IMAGE_SIDE = 64 * 10**6, 16_384
"""Pixels that a picture may have, and along one side."""
LARGEST_FILE = 256 * 2**20


def halved(pictures: NDArray[Any]) -> NDArray[Any]:
    """Return pictures (..., H, W, C) half as large, each pixel the mean of four; H and W are even."""
    upper, lower = pictures[..., 0::2, :, :], pictures[..., 1::2, :, :]
    rows = upper + lower
    return (rows[..., 0::2, :] + rows[..., 1::2, :]) * np.float32(0.25)


def read_texture(path: Path, within: Path | None = None) -> NDArray[np.uint8]:
    """Return a picture file as (H, W, 4) uint8 sRGB with straight alpha.

    Links must not lead out of `within`, when that is given.

    Raises
    ------
    wraithon.support.errors.RenderError
        When the file is missing, damaged or too large.
    """
    return decoded(texture_bytes(path, within), path.name)


def texture_bytes(path: Path, within: Path | None = None) -> bytes:
    """Return what a picture file holds.

    Links must not lead out of `within`, when that is given.

    Raises
    ------
    wraithon.support.errors.RenderError
        When the file is missing or too large.
    """
    try:
        return read_plain(path, LARGEST_FILE, within)
    except FileNotFoundError as error:
        raise RenderError(f"{path.name}: there is no such texture; pick another") from error
    except OSError as error:
        raise RenderError(f"{path.name}: cannot be read ({error.strerror}); pick another") from error


def decoded(data: bytes, name: str) -> NDArray[np.uint8]:
    """Return the bytes of a picture file called `name` as (H, W, 4) uint8 sRGB with straight alpha.

    Raises
    ------
    wraithon.support.errors.RenderError
        When they are damaged, or too many pixels.
    """
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=("PNG", "JPEG", "WEBP")) as picture:
                if picture.width * picture.height > LARGEST_IMAGE or max(picture.size) > LARGEST_IMAGE_SIDE:
                    raise RenderError(f"{name}: {picture.width} x {picture.height} pixels are too many")
                return np.array(picture.convert("RGBA"))
    except (
        OSError,
        ValueError,
        SyntaxError,
        Image.DecompressionBombError,
        Image.DecompressionBombWarning,
    ) as error:
        raise RenderError(f"{name}: damaged, or neither PNG, JPEG nor WebP; pick another") from error


@dataclass(frozen=True)
class LevelledTexture:
    """One texture cut into frames, at halving sizes."""

    levels: NDArray[np.int32]
    """(L, 2) int32: first texel and side of each level; its frames follow one another."""
    frames: int
    grey: bool
    """Whether its colours are all alike, as those of most are that effects are tinted with."""


class SpriteAtlas:
    """All sprite textures end to end in one array, filled as they are first asked for."""

    def __init__(self) -> None:
        self.texels = np.zeros((0, 4), np.float32)
        """(M, 4), premultiplied linear light."""
        self.planes = np.zeros(0, np.uint32)
        """(4 M,) the same, one channel after another: each in 16 bits, its right neighbour in the upper ones."""
        self._known: dict[tuple[str, int, int], LevelledTexture] = {}
        self.plain = self.add("", _soft_disc(), 1, 1)

    def find(self, name: str, columns: int, rows: int) -> LevelledTexture | None:
        """Return a texture that was added before, cut into so many columns and rows."""
        return self._known.get((name, columns, rows))

    def add(self, name: str, picture: NDArray[np.uint8], columns: int, rows: int) -> LevelledTexture:
        """Cut a picture (H, W, 4) into frames, make the levels, and keep them."""
        frames = _cut(picture, columns, rows)
        grey = bool((frames[..., :1] == frames[..., :3]).all())
        levels, first, chunks = [], len(self.texels), [self.texels]
        side = frames.shape[1]
        while True:
            levels.append((first, side))
            chunks.append(frames.reshape(-1, 4))
            first += len(chunks[-1])
            if side == 1:
                break
            frames = halved(frames)
            side //= 2
        self.texels = np.ascontiguousarray(np.concatenate(chunks), dtype=np.float32)
        self.planes = _planes(self.texels)
        texture = LevelledTexture(np.array(levels, np.int32), columns * rows, grey)
        self._known[name, columns, rows] = texture
        return texture


def _planes(texels: NDArray[np.float32]) -> NDArray[np.uint32]:
    steps = (np.clip(texels, 0, 1) * 65535 + 0.5).astype(np.uint32)
    beside = np.concatenate([steps[1:], steps[-1:]])
    return np.ascontiguousarray((steps | (beside << np.uint32(16))).T).reshape(-1)


def _cut(picture: NDArray[np.uint8], columns: int, rows: int) -> NDArray[np.float32]:
    """Return frames (F, S, S, 4), premultiplied linear, S a power of two."""
    height, width = picture.shape[0] // rows, picture.shape[1] // columns
    side = SMALLEST_SIDE
    while side < min(max(height, width, 1), LARGEST_SIDE):
        side *= 2
    frames = []
    for row in range(rows):
        for column in range(columns):
            piece = picture[row * height : (row + 1) * height, column * width : (column + 1) * width]
            if piece.size == 0:
                piece = np.zeros((1, 1, 4), np.uint8)
            if piece.shape[:2] != (side, side):
                piece = np.array(Image.fromarray(np.ascontiguousarray(piece)).resize((side, side)))
            colour, alpha = linear_light(piece[..., :3]), piece[..., 3:].astype(np.float32) / 255
            frames.append(np.concatenate([colour * alpha, alpha], axis=-1))
    return np.stack(frames).astype(np.float32)


def _soft_disc() -> NDArray[np.uint8]:
    line = (np.arange(64) + 0.5) / 32 - 1
    x, y = np.meshgrid(line, line)
    fall = np.clip(1 - np.hypot(x, y), 0, 1) ** 1.5
    return np.concatenate([np.full((64, 64, 3), 255), fall[..., None] * 255], axis=-1).astype(np.uint8)
