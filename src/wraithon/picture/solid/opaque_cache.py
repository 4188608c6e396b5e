"""What is solid while nothing of it moves: drawn once, and kept for the pictures that follow."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Callable

    from numpy.typing import NDArray

    from wraithon.picture.camera import Camera
    from wraithon.stage.frame import Frame


Drawn = tuple["NDArray[Any]", "NDArray[Any]"]
"""Light (3, H, W) and inverse distance (H, W)."""


class _Key(NamedTuple):
    """What the opaque pass hangs on: objects that must be the same, and values that must be equal."""

    objects: tuple[object, ...]
    values: tuple[object, ...]

    def is_like(self, other: _Key | None) -> bool:
        """Return whether the same is drawn."""
        return (
            other is not None
            and self.values == other.values
            and all(a is b for a, b in zip(self.objects, other.objects, strict=True))
        )


class OpaqueCache:
    """Keeps the opaque pass of the picture before, once the same was drawn twice in a row."""

    def __init__(self) -> None:
        self._key: _Key | None = None
        self._drawn: Drawn | None = None
        self._into: Drawn | None = None
        """The memory that it is drawn into, and changed in by what follows."""

    def drawn(self, frame: Frame, camera: Camera, size: tuple[int, int], draw: Callable[[], Drawn]) -> Drawn:
        """Return the opaque pass of a live frame: drawn, or what was kept of it, where it is drawn."""
        key = _key_of(frame, camera, size)
        same = key is not None and key.is_like(self._key)
        self._key = key
        if same and self._drawn is not None and self._into is not None:
            for into, stored in zip(self._into, self._drawn, strict=True):
                np.copyto(into, stored)
            return self._into
        light, depth = self._into = draw()
        self._drawn = (light.copy(), depth.copy()) if same else None
        return light, depth


def _key_of(frame: Frame, camera: Camera, size: tuple[int, int]) -> _Key | None:
    """Return what the opaque pass of a frame hangs on; None where that moves of itself."""
    body = frame.body
    if frame.others or any(batch.kind == "piece" for batch in frame.batches):
        return None
    objects = (frame.terrain, frame.pieces)
    values = (size, camera.eye.tobytes(), camera.basis.tobytes(), camera.lens, frame.ground, frame.sky, frame.centre)
    if body is None:
        return _Key((*objects, None, None, None, None), (*values, frozenset(), 0.0, None, ""))
    return _Key(
        (*objects, body.character, body.positions, body.normals, body.heat),
        (*values, body.hidden_parts, body.dissolved, body.dissolve, body.ramp),
    )
