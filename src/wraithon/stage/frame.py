"""Frame: what a renderer needs of one moment, and no more."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.project.dissolve import Dissolve
    from wraithon.project.look import SpriteLook

__all__ = ["Body", "Frame", "SpriteBatch"]


@dataclass(frozen=True)
class Body:
    """A posed character: skinned positions and normals (V, 3) in world space, and which parts show."""

    character: Character
    positions: NDArray[np.float32]
    normals: NDArray[np.float32]
    hidden_parts: frozenset[str]
    heat: NDArray[np.float32] | None = None
    """(V,) a figure from 0 to 1 to colour the skin by, below 0 for none; None shows the skin itself."""
    dissolved: float = 0.0
    """Share of the character that is gone."""
    dissolve: Dissolve | None = None
    """How its border looks."""
    ramp: str = "share"
    """The colours of the heat: from none to all, or to either side of the middle."""


@dataclass(frozen=True)
class SpriteBatch:
    """The living sprites of one layer."""

    look: SpriteLook
    positions: NDArray[np.float32]
    """(N, 3) metres, world."""
    velocities: NDArray[np.float32]
    """(N, 3) metres a second, world."""
    sizes: NDArray[np.float32]
    """(N,) width in metres."""
    turns: NDArray[np.float32]
    """(N,) radians in the picture plane."""
    colours: NDArray[np.float32]
    """(N, 4) linear RGB times intensity, and opacity."""
    frames: NDArray[np.int32]
    """(N,) frame of the sheet."""


@dataclass(frozen=True)
class Frame:
    """One moment, ready to be drawn from any side."""

    time: float
    body: Body | None
    centre: tuple[float, float, float]
    """Where the character stands on the ground; the camera follows it."""
    sprites: tuple[SpriteBatch, ...]
    ground: str
    exposure: float
