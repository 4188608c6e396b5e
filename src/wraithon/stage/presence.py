"""Presence: where a show's character is, in what pose, and what that means for what is born of it."""

from __future__ import annotations

from typing import TYPE_CHECKING, TypeVar

import numpy as np

from wraithon.character.bones import capsules_in
from wraithon.character.pose import Pose, Skin, skin_of, turns_fast
from wraithon.particles.rules import TickContext
from wraithon.stage.driving.actor import Actor
from wraithon.stage.frozen import Frozen
from wraithon.stage.triggering.signals import measured

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.stage.compiled_project import CompiledProject


T = TypeVar("T")


class Presence:
    """A show's character at the steps at hand. Poses are kept only to save work."""

    step_number = 0

    def __init__(self, compiled: CompiledProject, *, driven: bool = False) -> None:
        self.compiled = compiled
        self._poses: dict[int, Pose] = {}
        self._skins: dict[int, Skin] = {}
        self._frozen = Frozen()
        self._places: dict[int, NDArray[np.float64]] = {}
        self._anchored: dict[int, NDArray[np.float32]] = {}
        self._grounds: dict[int, NDArray[np.float32]] = {}
        self._measured: dict[int, dict[str, float]] = {}
        performance = compiled.performance
        self.actor = Actor(performance, compiled.terrain, self.rate, driven=driven) if performance else None
        """The character; None where there is none."""

    @property
    def rate(self) -> int:
        """Steps a second."""
        return self.compiled.project.step_rate

    @property
    def time(self) -> float:
        """Seconds since the show began."""
        return self.step_number / self.rate

    def forget_poses(self) -> None:
        """Forget where the character was: it is elsewhere at once."""
        for cache in (self._poses, self._skins, self._places, self._anchored, self._grounds, self._measured):
            cache.clear()
        self._frozen = Frozen()

    def follow(self, compiled: CompiledProject) -> None:
        """Go on with an edited project's character."""
        before, moment = self.actor, self.time
        self.compiled = compiled
        self.actor = None
        if compiled.performance is not None:
            if before is None or before.character is not compiled.performance.character:
                driven = before is not None and before.driven
                step = round(moment * self.rate)
                self.actor = Actor(compiled.performance, compiled.terrain, self.rate, driven=driven, step=step)
            else:
                self.actor = before
                before.adopt(compiled.performance, compiled.terrain, self.rate)
        self.forget_poses()

    def pose(self, number: int) -> Pose | None:
        """Return the pose at a step's moment; None without a character."""
        actor = self.actor
        return None if actor is None else _cached(self._poses, number, lambda: actor.pose_at(number / self.rate))

    def posed(self, number: int) -> tuple[Pose, Skin] | None:
        """Return the pose and skin at a step's moment; None without a character."""
        actor, pose = self.actor, self.pose(number)
        if actor is None or pose is None:
            return None
        return pose, _cached(self._skins, number, lambda: skin_of(actor.character, pose))

    def skin_before(self, seconds: float) -> tuple[Character, Skin] | None:
        """Return the character and its skin so many seconds ago; None without one, or before the show."""
        actor, moment = self.actor, self.time - seconds
        if actor is None or moment < -1e-6:
            return None
        if seconds == 0:
            posed = self.posed(self.step_number)
            return (actor.character, posed[1]) if posed else None
        return actor.character, self._frozen.skin_at(actor, moment)

    def position(self, number: int) -> NDArray[np.float64]:
        """Return where the character stands on the ground (3,) at a step's moment."""
        actor = self.actor
        return _cached(
            self._places, number, lambda: np.zeros(3) if actor is None else actor.position_at(number / self.rate)
        )

    def measured(self, number: int) -> Mapping[str, float]:
        """Return the signals that are what the character does at a step's moment."""
        if self.actor is not None and self.actor.acts:  # it may still change what it does there
            return measured(self.actor, number / self.rate)
        return _cached(self._measured, number, lambda: measured(self.actor, number / self.rate))

    def tick_context(self) -> TickContext:
        """Return the character before, amid and after the step at hand, as far as anything asks."""
        actor, compiled = self.actor, self.compiled
        if actor is None or not (compiled.uses_skin or compiled.uses_capsules):
            return TickContext.empty()._replace(heights=compiled.relief.heights, cells=compiled.relief.cells)
        before, now = self.posed(self.step_number), self.posed(self.step_number + 1)
        assert before is not None  # there is a performance
        assert now is not None
        midpoint = None
        if turns_fast(before[0], now[0]):
            midpoint = actor.pose_at((self.step_number + 0.5) / self.rate)
        around = TickContext.between(actor.character, before, now, midpoint, bones=compiled.uses_bones)
        if compiled.uses_capsules:
            first, last = (capsules_in(actor.character, pose) for pose, _ in (before, now))
            around = around._replace(capsules_before=first, capsules_now=last)
        return around._replace(
            heights=compiled.relief.heights,
            cells=compiled.relief.cells,
            gone_before=actor.dissolved_at(self.step_number / self.rate),
            gone_now=actor.dissolved_at((self.step_number + 1) / self.rate),
        )

    def anchor_at(self, anchor: str | None, number: int) -> NDArray[np.float32]:
        """Return an anchor's world matrix (4, 4) at a step's moment.

        One that is not there is the character's place on the ground.
        """
        anchorage = self.compiled.anchorage
        row = anchorage.rows.get(anchor or "") if anchorage else None
        pose = self.pose(number) if row is not None else None
        if anchorage is None or pose is None or row is None:
            return _cached(self._grounds, number, lambda: self._ground(number))
        return _cached(self._anchored, number, lambda: anchorage.matrices(pose, self.compiled.terrain))[row]

    def _ground(self, number: int) -> NDArray[np.float32]:
        """Return the world matrix (4, 4) of where the character stands on the ground at a step's moment."""
        matrix = np.eye(4, dtype=np.float32)
        matrix[:3, 3] = self.position(number)
        return matrix


def _cached(cache: dict[int, T], number: int, make: Callable[[], T]) -> T:
    """Return what is held of a step, or make it, and forget what belongs to steps that are not next to this one."""
    if number not in cache:
        for old in [k for k in cache if abs(k - number) > 1]:
            del cache[old]
        cache[number] = make()
    return cache[number]
