"""Where anchors go within a step: for births, for what rides on them, and for forces that act from them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

import numpy as np

from wraithon.particles.columns import AnchorTransforms
from wraithon.particles.pool import NO_POINTS
from wraithon.particles.rules import AnchorPlaces

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.particles.program import LayerProgram
    from wraithon.stage.firing import Firing


class AnchorPaths:
    """The ways of anchors within a step, each worked out once.

    Parameters
    ----------
    anchor_at
        Returns the world matrix (4, 4) of an anchor at the beginning of a step.
    """

    def __init__(self, anchor_at: Callable[[str | None, int], NDArray[np.float32]]) -> None:
        self._anchor_at = anchor_at
        self._step = 0
        self._known: dict[tuple[str | None, str | None], AnchorPlaces] = {}

    def begin(self, step: int) -> None:
        """Set which step is worked on."""
        self._step = step
        self._known.clear()

    def _matrices(self, anchor: str | None) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        return self._anchor_at(anchor, self._step), self._anchor_at(anchor, self._step + 1)

    def of_program(self, firing: Firing, program: LayerProgram) -> AnchorPlaces:
        """Return where a firing's births of a program come from: at its anchor, or away from it."""
        positions = self.of(firing, program.line_end)
        return positions if program.placing is None else positions.placed(*program.placing)

    def of(self, firing: Firing, line_end: str | None = None) -> AnchorPlaces:
        """Return where a firing's anchor goes, and a line from it to another anchor."""
        if firing.still is not None and line_end is None:
            return firing.still
        ends = None
        if line_end is not None:
            one, two = self._matrices(line_end)
            ends = one[:3, 3], two[:3, 3]
        if firing.pinned is not None:
            return AnchorPlaces.of(firing.pinned, firing.pinned, ends)
        key = firing.anchor, line_end
        if key not in self._known:
            self._known[key] = AnchorPlaces.of(*self._matrices(firing.anchor), ends)
        return self._known[key]

    def anchor_transforms(self, firings: Mapping[int, Firing], program: LayerProgram) -> AnchorTransforms:
        """Return what a program's particles ride on, of firings by how many began before each, in that order."""
        positions = [self.of_program(firing, program) for firing in firings.values()]
        before, now = np.array(positions, np.float32).reshape(-1, 2, 5, 3).transpose(1, 0, 2, 3)
        return AnchorTransforms(
            np.fromiter(firings, np.int32, len(firings)), np.ascontiguousarray(before), np.ascontiguousarray(now)
        )

    def points(self, program: LayerProgram) -> NDArray[np.float32]:
        """Return where a program's forces act from (F, 2, 3), before and after the step."""
        anchors = program.forces.anchors
        if not any(anchor is not None for anchor in anchors):
            return NO_POINTS
        points = np.zeros((len(anchors), 2, 3), np.float32)
        for row, anchor in enumerate(anchors):
            if anchor is not None:
                points[row] = [matrix[:3, 3] for matrix in self._matrices(anchor)]
        return points
