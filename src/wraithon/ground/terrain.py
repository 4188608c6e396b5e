"""How high the stage is and of what kind, everywhere: blocks laid into one grid."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.ground.ground import METRES, SIZE, ground, ground_colour
from wraithon.project.staging.ground import GROUND_KINDS

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.ground.ground import Floor
    from wraithon.project.staging.ground import Block


CELL = 1 / 32
"""Metres that a cell of the grid is wide."""
ACROSS = 2048
"""Most cells along each side; what lies farther out is flat."""
FRAY = 0.035
"""Metres that the border of a patch wanders, about."""
SPARE = 6
"""Cells around the outermost piece."""


class Relief(NamedTuple):
    """Heights of the stage as kernels read them: (H, W) metres, and where the first cell's corner is."""

    heights: NDArray[np.float32]
    x: np.float32
    z: np.float32
    finer: np.float32
    """Cells a metre."""

    @property
    def cells(self) -> NDArray[np.float32]:
        """Where the first cell's corner is, x and z, and how many cells a metre has (3,)."""
        return np.array([self.x, self.z, self.finer], np.float32)


FLAT = Relief(np.zeros((0, 0), np.float32), np.float32(0), np.float32(0), np.float32(1))
"""A stage without pieces."""


@dataclass(frozen=True, eq=False)
class Terrain:
    """A stage's heights and kinds of ground."""

    base: int
    """The number of the kind of ground where nothing lies."""
    relief: Relief
    kinds: NDArray[np.uint8]
    """(H, W) numbers of kinds of ground, cell by cell as `relief`."""
    floors: tuple[Floor, ...] = ()
    """The kinds of the artist's own: they come after GROUND_KINDS."""

    @property
    def many(self) -> int:
        """How many kinds of ground there are."""
        return len(GROUND_KINDS) + len(self.floors)

    def named(self, number: int) -> str:
        """Return the kind of ground of a number."""
        own = number - len(GROUND_KINDS)
        return GROUND_KINDS[number] if own < 0 else self.floors[own].kind

    def picture(self, kind: str, *, patch: bool = False) -> NDArray[np.float64]:
        """Return what a kind of ground looks like (see `ground.ground`)."""
        own = next((floor for floor in self.floors if floor.kind == kind), None)
        return ground(kind, patch=patch) if own is None else own.picture

    def colour(self, kind: str, *, patch: bool = False) -> NDArray[np.floating]:
        """Return the linear colour alone of a kind of ground (SIZE, SIZE, 3)."""
        own = next((floor for floor in self.floors if floor.kind == kind), None)
        return ground_colour(kind, patch=patch) if own is None else own.picture[..., :3]

    def _cell(self, x: float, z: float) -> tuple[int, int] | None:
        heights, left, near, finer = self.relief
        column, row = math.floor((x - float(left)) * float(finer)), math.floor((z - float(near)) * float(finer))
        inside = 0 <= row < heights.shape[0] and 0 <= column < heights.shape[1]
        return (row, column) if inside else None

    def height(self, x: float, z: float) -> float:
        """Return how high the ground is at a place, in metres."""
        cell = self._cell(x, z) if math.isfinite(x + z) else None
        return float(self.relief.heights[cell]) if cell else 0.0

    def kind(self, x: float, z: float) -> str:
        """Return the kind of ground at a place."""
        cell = self._cell(x, z) if math.isfinite(x + z) else None
        return self.named(int(self.kinds[cell]) if cell else self.base)

    def numbers(self, positions: NDArray[np.floating]) -> NDArray[np.int64]:
        """Return the numbers (N,) of the kinds of ground under positions (N, 3)."""
        left, near, finer = self.relief.cells
        column, row = (np.floor((positions[:, axis] - at) * finer) for axis, at in ((0, left), (2, near)))
        height, width = self.kinds.shape
        inside = (row >= 0) & (row < height) & (column >= 0) & (column < width)
        found = np.full(len(positions), self.base)
        found[inside] = self.kinds[row[inside].astype(np.int64), column[inside].astype(np.int64)]
        return found


@lru_cache(maxsize=8)
def terrain_of(base: str, pieces: Sequence[Block], floors: tuple[Floor, ...] = ()) -> Terrain:
    """Return the terrain of a stage of a kind of ground with pieces on it; what is of no kind is plain.

    Kinds are those there always are, and `floors` of the artist's own.
    """
    numbers = {kind: number for number, kind in enumerate((*GROUND_KINDS, *(floor.kind for floor in floors)))}
    number = numbers.get(base, numbers["plain"])
    if not pieces:
        return Terrain(number, FLAT, np.zeros((0, 0), np.uint8), floors)
    reach = [math.hypot(*piece.size) / 2 for piece in pieces]
    low = [min(p.place[axis] - r for p, r in zip(pieces, reach, strict=True)) for axis in (0, 1)]
    high = [max(p.place[axis] + r for p, r in zip(pieces, reach, strict=True)) for axis in (0, 1)]
    first = [max(math.floor(min(at, ACROSS * CELL) / CELL) - SPARE, -ACROSS // 2) for at in low]
    last = [min(math.ceil(max(at, -ACROSS * CELL) / CELL) + SPARE, ACROSS // 2) for at in high]
    width, deep = (max(1, b - a) for a, b in zip(first, last, strict=True))
    x = (first[0] + np.arange(width) + 0.5) * CELL
    z = (first[1] + np.arange(deep) + 0.5) * CELL
    heights, kinds = np.zeros((deep, width), np.float32), np.full((deep, width), number, np.uint8)
    for piece in pieces:
        kind = numbers.get(piece.kind, numbers["plain"])
        _write_block(piece, kind, x[None, :], z[:, None], heights, kinds)
    relief = Relief(heights, np.float32(first[0] * CELL), np.float32(first[1] * CELL), np.float32(1 / CELL))
    return Terrain(number, relief, kinds, floors)


def ground_colours(kind: str, positions: NDArray[np.floating], terrain: Terrain | None = None) -> NDArray[np.float32]:
    """Return the linear colours (N, 3) of a ground under positions (N, 3), or of what lies on it there."""
    column, row = ((positions[:, axis] / METRES % 1 * SIZE).astype(np.int64) % SIZE for axis in (0, 2))
    if terrain is None:
        return ground_colour(kind)[row, column]
    colours = terrain.colour(terrain.named(terrain.base))[row, column].astype(np.float32)
    if terrain.kinds.size:
        numbers = terrain.numbers(positions)
        for other in set(numbers.tolist()) - {terrain.base}:
            there = numbers == other
            colours[there] = terrain.colour(terrain.named(other), patch=True)[row[there], column[there]]
    return colours


def _frayed(along: NDArray[np.floating], deep: NDArray[np.floating], piece: Block) -> NDArray[np.bool_]:
    """Return which cells a patch takes up: its border wanders, as that of moss and water does."""
    x, z = along * piece.size[0], deep * piece.size[1]
    waves = np.sin(5.1 * x + 2.3 * np.sin(3.7 * z)) + np.sin(4.3 * z + 1.9 * np.sin(4.9 * x) + 1.0)
    waves = waves + 0.5 * np.sin(13.0 * x - 11.0 * z)
    off = FRAY * waves
    if piece.round:
        return np.hypot(along, deep) + off / min(piece.size) <= 0.5
    edge = np.minimum((0.5 - np.abs(along)) * piece.size[0], (0.5 - np.abs(deep)) * piece.size[1])
    return edge >= off + FRAY


def _write_block(
    piece: Block,
    kind: int,
    x: NDArray[np.floating],
    z: NDArray[np.floating],
    heights: NDArray[np.float32],
    kinds: NDArray[np.uint8],
) -> None:
    """Write a block into the grid, over what is not higher."""
    metres = piece.within(x, z)
    along, deep = (way / side for way, side in zip(metres, piece.size, strict=True))
    top = piece.top(metres[1]).astype(np.float32) + np.zeros_like(heights)
    if not piece.stands:
        inside = _frayed(along, deep, piece)
    elif piece.round:
        inside = along**2 + deep**2 <= 0.25
    else:
        inside = (np.abs(along) <= 0.5) & (np.abs(deep) <= 0.5)
    wins = inside & (top >= heights)
    heights[wins], kinds[wins] = top[wins], kind
