"""What every renderer is: a Frame and a view go in, finished pixels come out."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, Protocol

import numpy as np

from wraithon.picture.coverage import NOTHING_LAID, Coverage
from wraithon.support.errors import RenderError

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.project.project import View
    from wraithon.stage.frame import Frame


LARGEST_PICTURE = 8192
LINE = 16
"""Floats in a line of the processor's memory."""
ONLY_HERE = 2
"""References to an array that a list holds and nobody else, asked of its place in the list."""
MAX_GIVEN = 4
TextureSource = Callable[[str], "NDArray[np.uint8]"]
"""Returns a texture's picture (H, W, 4) by the name layers give it; may raise RenderError."""


@dataclass(frozen=True)
class Picture:
    """Finished pixels (H, W, 4) uint8 sRGB, opaque, and what they cost."""

    pixels: NDArray[np.uint8]
    coarseness: int
    """How many pixels wide one of the transparent pass is: 1 is full resolution."""
    seconds: dict[str, float] = field(default_factory=dict)
    """Time of each pass."""
    coverage: Coverage = NOTHING_LAID
    """What is transparent in it, and how much it covers."""


class Renderer(Protocol):
    """Draws frames; keeps textures and working memory between them."""

    @property
    def problems(self) -> Mapping[str, str]:
        """Texture name to what is wrong with it; what uses it is drawn plainly."""

    def look_again(self) -> None:
        """Try textures again that could not be read."""

    @property
    def gives_all(self) -> bool:
        """Whether live pictures are as coarse already as they may get."""

    def keep_up(self, seconds: float, wanted: float) -> None:
        """Take how long a live frame took in all, and what it may take, and do less or more in the next ones."""

    def draw(self, frame: Frame, view: View, width: int, height: int, *, live: bool = False) -> Picture:
        """Return the picture of a frame seen from a view, `width` by `height` pixels.

        With `live` it may be less sharp, to keep up with playing.

        Raises
        ------
        wraithon.support.errors.RenderError
            When the size is out of range.
        """


def check_size(width: int, height: int) -> None:
    """Refuse a size that no picture can have.

    Raises
    ------
    wraithon.support.errors.RenderError
        When a side is below 8 or above LARGEST_PICTURE.
    """
    if not (8 <= width <= LARGEST_PICTURE and 8 <= height <= LARGEST_PICTURE):
        raise RenderError(f"a picture of {width} x {height} cannot be made; use 8 to {LARGEST_PICTURE} pixels")


class PassTimes:
    """Laps of one drawing."""

    def __init__(self) -> None:
        self.seconds: dict[str, float] = {}
        self._last = time.perf_counter()

    def lap(self, name: str) -> None:
        """Add the time since the last lap to a pass."""
        now = time.perf_counter()
        self.seconds[name] = self.seconds.get(name, 0.0) + now - self._last
        self._last = now


class Buffers:
    """Working memory that is kept between pictures."""

    def __init__(self) -> None:
        self._buffers: dict[str, NDArray[Any]] = {}
        self._given: dict[str, list[NDArray[Any]]] = {}
        self._made: dict[str, tuple[object, Any]] = {}

    def get(self, name: str, shape: tuple[int, ...], dtype: type = np.float32) -> NDArray[Any]:
        """Return memory of a shape; its contents are whatever was there before."""
        buffer = self._buffers.get(name)
        if buffer is None or buffer.shape != shape or buffer.dtype != dtype:
            buffer = np.empty(shape, dtype)
            self._buffers[name] = buffer
        return buffer

    def lent(self, name: str, shape: tuple[int, ...], dtype: type) -> NDArray[Any]:
        """Return memory of a shape to give away; what was given before comes back when nobody holds it any more.

        Fresh memory would have to be cleared by the system first, which takes longer than filling it.
        """
        given = self._given.setdefault(name, [])
        given[:] = [buffer for buffer in given if buffer.shape == shape and buffer.dtype == dtype]
        for number in range(len(given)):
            if sys.getrefcount(given[number]) == ONLY_HERE:
                return given[number]
        given.append(np.empty(shape, dtype))
        del given[:-MAX_GIVEN]
        return given[-1]

    def stored(self, name: str, key: object, make: Callable[[], Any]) -> Any:
        """Return what was made for a key, or make it, and forget what was made for another."""
        owner, made = self._made.get(name, (None, None))
        if owner != key:
            made = make()
            self._made[name] = key, made
        return made

    def lines(self, name: str, count: int, length: int) -> NDArray[np.float32]:
        """Return memory for `count` rows of `length` floats; the first begins a line of the processor's memory."""
        buffer = self._buffers.get(name)
        if buffer is None or buffer.size < count * length + LINE:
            self._buffers[name] = buffer = np.empty(int(count * length * 1.3) + LINE, np.float32)
        start = (-buffer.ctypes.data // buffer.itemsize) % LINE
        rows: NDArray[np.float32] = buffer[start : start + count * length].reshape(count, length)
        return rows

    def grown(self, name: str, length: int) -> NDArray[np.int32]:
        """Return memory for at least `length` whole numbers."""
        buffer: NDArray[np.int32] = self._buffers.get(name, np.empty(0, np.int32))
        if length > len(buffer):
            self._buffers[name] = buffer = np.empty(max(1024, int(length * 1.5)), np.int32)
        return buffer
