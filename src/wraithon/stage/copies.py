"""Copies of a show at one moment: putting one back and going on gives the same bytes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from wraithon.particles.pool import PoolCopy
    from wraithon.stage.driving.actor import Remembered
    from wraithon.stage.driving.driven_pose import Given
    from wraithon.stage.firing import Firing, FiringRecord
    from wraithon.stage.triggering.screen_effects import ScreenEffects
    from wraithon.stage.triggering.signals import Ramped
    from wraithon.stage.triggering.triggers import ScheduledAction, Triggers


STAND_BYTES = 300
"""Bytes that a step of a driven character takes, about: each is held once, however many copies hold it."""


class HeardSound(NamedTuple):
    """A sound that was heard: when, in seconds of the show, which, and how loud, from 0 to 1."""

    time: float
    name: str
    volume: float


class ShowExtras(NamedTuple):
    """What of a show is no particle: see there."""

    given: Given
    signal_values: dict[str, float]
    reported_then: dict[str, float]
    screen: ScreenEffects
    over: tuple[tuple[str, str | None], ...]
    log: tuple[tuple[float, str], ...]
    waits: tuple[ScheduledAction, ...]
    ramps: tuple[Ramped, ...]
    sounds: tuple[HeardSound, ...]


@dataclass(frozen=True)
class ShowCopy:
    """A show at one moment, complete: putting it back and going on gives the same bytes."""

    step_number: int
    pools: dict[str, PoolCopy]
    firings: dict[int, Firing]
    fired: int
    counts: dict[str, int]
    waiting: tuple[ScheduledAction, ...]
    triggers: Triggers
    records: tuple[FiringRecord, ...]
    refused_firings: int
    stopped: int
    acted: Remembered | None
    extras: ShowExtras

    @property
    def size(self) -> int:
        """Bytes held, nearly."""
        stands = STAND_BYTES * min(len(self.acted[1]), self.step_number) if self.acted else 0
        return 2000 + stands + sum(pool.size for pool in self.pools.values())
