"""Where a layer's particles have been: for ribbons through each one's own past."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING, Self

import numpy as np

from wraithon.particles.columns import AGE, LIFETIME, PX, PZ

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.particles.columns import Columns


MAX_POINTS = 64
"""Places that are kept of a particle."""


def reach_of(seconds: float, dt: float) -> tuple[int, int]:
    """Return how many places a past of so many seconds has, and after how many steps of `dt` each is written down."""
    if seconds <= 0:
        return 0, 1
    steps = max(2, round(seconds / dt))
    stride = math.ceil(steps / (MAX_POINTS - 1))
    return steps // stride + 1, stride


@dataclass
class Past:
    """Places of particles, the newest first."""

    positions: NDArray[np.float32]
    """(N, points, 3) metres, world; those before its birth are where it was born."""
    fresh: bool
    """Whether the newest is where the particle is now."""

    @classmethod
    def of(cls, columns: Columns, count: int, points: int) -> Self:
        """Return the past of particles that have none."""
        past = cls(np.empty((0, points, 3), np.float32), fresh=True)
        past.begin(columns, 0, count)
        return past

    @property
    def points(self) -> int:
        """How many places there are of each."""
        return self.positions.shape[1]

    @property
    def size(self) -> int:
        """Bytes held."""
        return self.positions.nbytes

    def begin(self, columns: Columns, first: int, end: int) -> None:
        """Record births: from particle `first` to before `end`."""
        born = columns.state[PX : PZ + 1, first:end].T
        self.positions = np.concatenate([self.positions[:first], np.repeat(born[:, None], self.points, axis=1)])

    def step(self, columns: Columns, count: int, number: int, stride: int) -> None:
        """Advance by a step that ends as step `number` begins; those that have died in it are forgotten."""
        now = columns.state[PX : PZ + 1, :count].T
        self.fresh = number % stride == 0
        if self.fresh:
            self.positions = np.concatenate([now[:, None], self.positions[:, :-1]], axis=1)
        lives = columns.state[AGE, :count] < columns.state[LIFETIME, :count]
        if not lives.all():
            self.positions = self.positions[lives]

    def through(self, columns: Columns, count: int) -> NDArray[np.float32]:
        """Return the places (N, points, 3) that particles have come through, from where they are now."""
        if self.fresh:
            return self.positions
        now = columns.state[PX : PZ + 1, :count].T
        return np.concatenate([now[:, None], self.positions[:, :-1]], axis=1)

    def copy(self) -> Past:
        """Return an independent copy."""
        return Past(self.positions.copy(), self.fresh)
