"""What kernels are told of a layer and of what surrounds it: numbers that travel together."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wraithon.character.bones import bone_frames, bones_of
from wraithon.character.pose import posed_positions
from wraithon.ground.terrain import FLAT

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.pose import Pose, Skin

    Posed = tuple[Pose, Skin]
    Point = NDArray[np.float32]


NO_CAPSULES = np.zeros((0, 7), np.float32)


class BirthRules(NamedTuple):
    """How a layer's particles are born; metres, radians and seconds."""

    kind: int
    shape: NDArray[np.float32]
    """(3,) the source's measures."""
    cells: NDArray[np.float32]
    """(N,) running shares of a picture's cells, row by row from the top."""
    width: int
    """How many cells a row of it has."""
    heading: int
    spread: np.float32
    keep: np.float32
    """Share of the source's velocity taken along."""
    ride: np.float32
    """Share of life on what bore it."""
    turning: bool
    """Whether those that ride on an anchor are turned with it."""
    sweeping: bool
    """Whether they are born amid their line, with half of it as their normal."""
    lift: np.float32
    radius: np.float32
    lifetime: NDArray[np.float32]
    """(2,) lowest and highest; or (TABLE,) what is drawn, all equally often."""
    speed: NDArray[np.float32]
    """Likewise."""
    measured: bool
    """Whether how far from the anchor they are born is wanted."""
    nearness: NDArray[np.float32]
    """(2,) 1 / the distance at which lifetime and speed are highest; 0 of those left to chance."""
    axes: NDArray[np.float32]
    """(2, 3) lowest and highest of a direction that is drawn axis by axis."""
    frame: int
    """Whose axes those are."""


class DrawRules(NamedTuple):
    """What of a particle is worked out when it is drawn, from its identity and age alone."""

    births: NDArray[np.float32]
    """(6, 2) ranges of size, intensity, opacity, turn, spin and stretch, in metres and radians."""
    choosing: NDArray[np.bool_]
    """(6,) which are one of several values instead."""
    choices: NDArray[np.float32]
    """(6, TABLE) these values, all equally often."""
    nearness: NDArray[np.float32]
    """(6,) 1 / the distance from the anchor at which the highest is drawn; 0 of what is left to chance."""
    modes: NDArray[np.int32]
    """(6,) how each curve meets the value at birth."""
    tables: NDArray[np.float32]
    """(6, TABLE) their curves."""
    paces: NDArray[np.float32]
    """(6,) 1 / the speed at which a curve over speed ends; 0 of curves over age."""
    wobbles: NDArray[np.float32]
    """(6, 2) by how much each comes and goes, and how often a second."""
    tints: NDArray[np.float32]
    """(2, 3) the colours at birth, linear."""
    tint_mode: int
    tint_table: NDArray[np.float32]
    """(3, TABLE)."""
    spin_table: NDArray[np.float32]
    """(TABLE,) the running integral of spin's curve."""
    frames: int
    """Frames of the sheet."""
    play: int
    """Which of them are shown (`draw_kernels`)."""
    pace: np.float32
    """Frames that go by in a life."""
    groups: NDArray[np.int32]
    """Which of `factors` the size of those born on a row has."""
    factors: NDArray[np.float32]
    fades: NDArray[np.float32]
    """(2,) seconds of appearing after birth, and of fading before death; 0 of none."""


class TickContext(NamedTuple):
    """The character before, amid and after a step.

    Skin positions and normals are (V, 3) float32, `triangles` (T, 3) int32, bones' frames (B, 3, 3) float32
    as `sampling.bone_frames` returns them, and capsules (C, 7) as `capsules_in` does. Without `curved` what is amid
    is not looked at.
    """

    skin_before: NDArray[np.float32]
    skin_midpoint: NDArray[np.float32]
    skin_now: NDArray[np.float32]
    normal_before: NDArray[np.float32]
    normal_now: NDArray[np.float32]
    triangles: NDArray[np.int32]
    bones_before: NDArray[np.float32]
    bones_midpoint: NDArray[np.float32]
    bones_now: NDArray[np.float32]
    curved: bool = False
    gone_before: float = 0.0
    """Share of the character that is gone before the step."""
    gone_now: float = 0.0
    capsules_before: NDArray[np.float32] = NO_CAPSULES
    capsules_now: NDArray[np.float32] = NO_CAPSULES
    heights: NDArray[np.float32] = FLAT.heights
    """How high the stage is, cell by cell (see `terrain.Relief`); (0, 0) where it is flat."""
    cells: NDArray[np.float32] = FLAT.cells

    @classmethod
    def between(
        cls, character: Character, before: Posed, now: Posed, midpoint: Pose | None = None, *, bones: bool = True
    ) -> TickContext:
        """Return what a character's poses and skins at two moments, and maybe the pose amid, make of a step.

        Without `bones` nothing may be born on them.
        """
        first = middle = last = np.zeros((1, 3, 3), np.float32)
        if bones:
            chain = bones_of(character)
            first, middle, last = (bone_frames(chain, pose) for pose in (before[0], midpoint or before[0], now[0]))
        skin_midpoint = posed_positions(character, midpoint) if midpoint else before[1].positions
        return cls(
            before[1].positions, skin_midpoint, now[1].positions, before[1].normals, now[1].normals,
            character.mesh.triangles, first, middle, last, midpoint is not None,
        )  # fmt: skip

    @property
    def still(self) -> TickContext:
        """What there is around while nothing moves from where it is before the step."""
        return self._replace(
            skin_midpoint=self.skin_before, skin_now=self.skin_before, normal_now=self.normal_before,
            bones_midpoint=self.bones_before, bones_now=self.bones_before, curved=False, gone_now=self.gone_before,
            capsules_now=self.capsules_before,
        )  # fmt: skip

    @classmethod
    def empty(cls) -> TickContext:
        """Return surroundings without a character."""
        nothing, bone = np.zeros((1, 3), np.float32), np.zeros((1, 3, 3), np.float32)
        return cls(nothing, nothing, nothing, nothing, nothing, np.zeros((1, 3), np.int32), bone, bone, bone)


class AnchorPlaces(NamedTuple):
    """A firing's anchor before and after a step, (5, 3) float32 each: see `of`."""

    before: NDArray[np.float32]
    now: NDArray[np.float32]

    def placed(self, offset: NDArray[np.float32], turn: NDArray[np.float32]) -> AnchorPlaces:
        """Return the places of what is `offset` metres (3,) along the axes, turned (3, 3) from them; a line, too."""
        rows = []
        for anchor in self:
            way = offset @ anchor[1:4]
            rows.append(np.concatenate([anchor[:1] + way, turn.T @ anchor[1:4], anchor[4:] + way]).astype(np.float32))
        return AnchorPlaces(*rows)

    @property
    def still(self) -> AnchorPlaces:
        """The anchor as it is while it stays where it is before the step."""
        return AnchorPlaces(self.before, self.before)

    @classmethod
    def of(
        cls, before: NDArray[np.float32], now: NDArray[np.float32], ends: tuple[Point, Point] | None = None
    ) -> AnchorPlaces:
        """Return what two world matrices (4, 4) say: where the anchor is, its three axes, and where a line ends.

        A line ends at `ends`, (3,) each, before and after; where there is none, at the anchor itself.
        """
        rows = np.empty((2, 5, 3), np.float32)
        matrices = np.array((before, now), np.float32)
        rows[:, 1:4] = matrices[:, :3, :3].transpose(0, 2, 1)
        rows[:, 0] = rows[:, 4] = matrices[:, :3, 3]
        if ends is not None:
            rows[:, 4] = ends
        return cls(rows[0], rows[1])
