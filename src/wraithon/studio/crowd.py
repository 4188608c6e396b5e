"""More of the character beside her, each with a show of its own: what a crowd costs is seen with a crowd.

All do what the player's show does, step by step, and none of it is part of that.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from wraithon.stage.frame import frame_of
from wraithon.stage.show import Show

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.stage.frame import Frame


MANY = 8
"""How many more stand there."""
ROW = 4
"""How many stand in a row."""
APART = 1.35
"""How far apart they stand, as a share of how wide or high the character is."""


class Crowd:
    """More of the character: none, until they are called."""

    def __init__(self) -> None:
        self._shows: list[Show] = []
        self._followers: int | None = None
        """Particles of all of them while they do but what one does who is driven by hand."""

    def call(self, main: Show, many: int) -> None:
        """Place so many more beside the one of a show; 0 removes them."""
        self._followers = None
        self._shows = [Show(main.base) for _ in range(many if main.base.performance is not None else 0)]

    @property
    def alive(self) -> int:
        """Particles of all of them that live now."""
        return self._followers if self._followers is not None else sum(show.alive for show in self._shows)

    def advance_with(self, main: Show) -> None:
        """Take the step that the main show has just taken; who is driven by hand is followed when it is looked at."""
        if _driven(main):
            return
        for show in self._shows:
            if show.step_number == main.step_number - 1 and show.base is main.base:
                show.advance()

    def _catch_up(self, main: Show) -> None:
        """Bring all of them to where the main show is, after edits, seeks and what was fired by hand."""
        late = [show for show in self._shows if not _alike(show, main)]
        copy = main.copy() if late else None
        for show in late:
            if show.base is not main.base:
                show.adopt(main.base)
            if copy is not None:
                show.restore(copy)

    def frame(self, frame: Frame, main: Show) -> Frame:
        """Return a frame of the main show's moment with all of them in it."""
        if not self._shows or frame.body is None:
            return frame
        if _driven(main):
            # All of them do the very same at the very same moment: it need not be worked out for each.
            frames, self._followers = [frame] * len(self._shows), len(self._shows) * main.alive
        else:
            self._catch_up(main)
            frames, self._followers = [frame_of(show) for show in self._shows], None
        others, batches = [], []
        for seen, by in zip(frames, _places(frame.body.positions, len(self._shows)), strict=True):
            if seen.body is not None:
                others.append(replace(seen.body, positions=seen.body.positions + by))
            batches += [batch.moved(by) for batch in seen.batches]
        return replace(frame, others=tuple(others), batches=(*frame.batches, *batches))


def _alike(show: Show, main: Show) -> bool:
    if show.base is not main.base or show.signal_values != main.signal_values:
        return False
    return show.step_number == main.step_number and show.fired == main.fired


def _driven(main: Show) -> bool:
    return main.actor is not None and main.actor.acts


def _places(points: NDArray[np.float32], many: int) -> NDArray[np.float32]:
    """Return how far (N, 3) from the character, whose skin is at points (V, 3), the others stand: in rows behind."""
    size = np.nan_to_num(points.max(axis=0) - points.min(axis=0), posinf=0.0, neginf=0.0)
    apart = float(max(size[0], size[2], size[1] / 2)) * APART
    rows, seats = np.divmod(np.arange(many), ROW)
    across = (seats - (ROW - 1) / 2) * apart
    return np.stack([across, 0 * across, -(rows + 1) * apart], axis=1).astype(np.float32)
