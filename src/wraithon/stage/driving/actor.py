"""The actor: who a show's character is at any moment, whether it plays the running order or is driven by hand.

It is asked as a performance is. Until something drives it, or a response has it do something, it is the performance.
"""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from wraithon.numeric.arithmetic import wrapped
from wraithon.stage.driving.driven_pose import ORDER, DrivenPose, Given, PlayingClip, Ramp, Span
from wraithon.stage.driving.driver import Driver
from wraithon.stage.driving.feet import locked
from wraithon.stage.driving.posing import plain_pose, pose_of_stand
from wraithon.stage.performance import MarkPassing

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.pose import Pose
    from wraithon.ground.terrain import Terrain
    from wraithon.project.character import CharacterUse
    from wraithon.project.life import Curve
    from wraithon.stage.performance import Performance


Remembered = tuple[int, tuple[DrivenPose, ...], tuple[tuple[float, str], ...]]

REMEMBERED = 20.0
"""Seconds that are remembered: afterimages of what is longer ago show the oldest of them."""
MAX_STATES = 400
"""States it was in that are remembered."""
EXACT = 1e-9
"""Seconds by which rounding may be off."""
TWICE = 0.4
"""Share of a gait's round within which an event that has passed does not pass again."""


class Actor:
    """A show's character.

    Parameters
    ----------
    performance
        The character and its running order.
    terrain
        The stage.
    rate
        Steps a second.
    driven
        Whether hands drive it.
    step
        The step of the show at which it comes in.
    """

    def __init__(
        self, performance: Performance, terrain: Terrain, rate: int, *, driven: bool = False, step: int = 0
    ) -> None:
        self._performance, self._terrain, self._rate, self.driven = performance, terrain, rate, driven
        self._made: Driver | None = None
        self.states: tuple[tuple[float, str], ...] = ()
        """What it was at, from which moment on."""
        self.changes = 0
        """How often a response has changed what it does."""
        self._begun = step
        """The step whose stand is the first that is remembered."""
        self.stands: tuple[DrivenPose, ...] = ()
        """How it stood at steps one after another; none while it only plays the running order."""
        if driven:
            self.stands = (self._driver.first(step / rate),)

    # ---- what it is -----------------------------------------------------------------------------

    @property
    def character(self) -> Character:
        """Who it is."""
        return self._performance.character

    @property
    def use(self) -> CharacterUse:
        """How the character is used."""
        return self._performance.use

    @property
    def _driver(self) -> Driver:
        """What takes its steps, made as soon as it is needed."""
        if self._made is None:
            self._made = Driver(self._performance, self._terrain, self._rate, driven=self.driven)
        return self._made

    @property
    def acts(self) -> bool:
        """Whether it does anything but play the running order."""
        return bool(self.stands)

    def adopt(self, performance: Performance, terrain: Terrain, rate: int) -> None:
        """Go on with an edited character, order or stage."""
        moment, again = self.stands[-1].time if self.stands else 0.0, rate != self._rate
        if performance is not self._performance or terrain is not self._terrain or again:
            self._performance, self._terrain, self._rate, self._made = performance, terrain, rate, None
        if again and self.stands:
            self._begun = round(moment * rate)
            self.stands = (replace(self.stands[-1], time=self._begun / rate),)

    # ---- going on -------------------------------------------------------------------------------

    def advance(self, step: int, given: Given) -> None:
        """Work out how it stands after a step, from what is given at its beginning."""
        if not self.acts:
            return
        stand = self._at(step)
        driver = self._driver
        after = self._noted(driver.after(stand, given))
        if after.mode == "going" and not after.hidden and driver.moves.walk is not None:
            gait = driver.gait(after.speed)
            assert gait is not None  # there is a walk
            share = (after.phase + gait.first) % 1.0
            spans = driver.stands[gait.clip.name]
            matrices = plain_pose(driver, after).matrices
            locks = locked(self.character, stand.locks, after, spans, share, matrices, 1 / self._rate)
            after = replace(after, locks=locks)
        if after.state != stand.state or not self.states:
            self.states = (*self.states[-(MAX_STATES - 1) :], (after.time, after.state))
        stands = self.stands[: step - self._begun + 1]
        over = max(0, len(stands) - round(REMEMBERED * self._rate))
        self._begun += over
        self.stands = (*stands[over:], after)

    def _noted(self, stand: DrivenPose) -> DrivenPose:
        """Return how it stands, with the events that went by noted."""
        now = tuple(self._passed(stand))
        lately = tuple((event, time) for event, time in stand.passed if stand.time - time < 1.0)
        if not now and not stand.passing and lately == stand.passed:
            return stand
        return replace(stand, passed=(*lately, *((p.mark.event, p.time) for p in now)), passing=now)

    def begin(self, step: int) -> None:
        """Begin to act in the running order, for a response that has it do something."""
        if not self.acts:
            self._begun = step
            self.stands = (self._driver.first(step / self._rate),)

    def change(self, step: int, **changes: object) -> None:
        """Replace its pose from a step on."""
        self.begin(step)
        self.changes += 1
        self.stands = (*self.stands[: step - self._begun], replace(self._at(step), **changes))  # type: ignore[arg-type]  # as they are named

    def play(self, step: int, clip: str) -> bool:
        """Play a clip from a step on; return whether it does."""
        self.begin(step)
        stand = self._at(step)
        after = self._driver.begin(stand, clip)
        self.changes += 1
        self.stands = (*self.stands[: step - self._begun], after)
        return after is not stand

    def dissolve(self, step: int, to: float, seconds: float, curve: Curve) -> None:
        """Dissolve it from a step on, along a curve, to a share that is gone after so many seconds."""
        self.begin(step)
        time = step / self._rate
        end = time + max(seconds, 1 / self._rate)
        self.change(step, gone=Ramp(time, end, self.dissolved_at(time), to, curve))

    def clip_left(self, step: int) -> float:
        """Return how many seconds there are to the end of the clip that is played at a step; of gaits none."""
        stand = self._at(step) if self.acts else None
        if stand is None or stand.parts[-1].what == ORDER:
            segment, inside = self._performance.clip_moment(stand.parts[-1].time if stand else step / self._rate)
            return max(0.0, segment.moving - inside)
        clip = self.character.clip(stand.parts[-1].what)
        return max(0.0, clip.seconds - stand.parts[-1].time) if clip is not None else 0.0

    # ---- copies ---------------------------------------------------------------------------------

    def copy(self) -> Remembered:
        """Return what it remembers."""
        return self._begun, self.stands, self.states

    def restore(self, copy: Remembered) -> None:
        """Restore it."""
        self._begun, self.stands, self.states = copy

    # ---- asked as a performance -----------------------------------------------------------------

    def _at(self, step: int) -> DrivenPose:
        """Return how it stood at a step, or the nearest that is remembered."""
        return self.stands[min(max(step - self._begun, 0), len(self.stands) - 1)]

    def stand(self, time: float) -> DrivenPose | None:
        """Return how it stands at a moment, between two steps as well; None while it only plays the running order."""
        if not self.acts or time * self._rate < self._begun - 1e-6:
            return None if not self.driven else self._at(self._begun)
        step = math.floor(time * self._rate + 1e-6)
        share = time * self._rate - step
        before, after = self._at(step), self._at(step + 1)
        return before if share < 1e-6 or before is after else _between(before, after, share)

    def pose_at(self, time: float) -> Pose:
        """Return the pose at a moment of the show, in world space."""
        stand = self.stand(time)
        return pose_of_stand(self._driver, stand) if stand else self._performance.pose_at(time)

    def position_at(self, time: float) -> NDArray[np.float64]:
        """Return where it stands on the ground (3,) at a moment, in metres."""
        stand = self.stand(time)
        return np.array(stand.position) if stand else self._performance.position_at(time)

    def dissolved_at(self, time: float) -> float:
        """Return the share of it that is gone at a moment."""
        performance, stand = self._performance, self.stand(time)
        if stand is None:
            return performance.dissolved_at(time)
        if stand.hidden:
            return 1.0
        part = stand.parts[-1]
        if part.what == ORDER:
            segment, inside = performance.clip_moment(part.time)
            clip, begun = segment.use.name, time - inside
        else:
            clip, inside, begun = part.what, part.time, part.begun
        # What is told last wins: a response, or a clip with a dissolve of its own that has begun since.
        tells = stand.gone is None or (clip == self.use.dissolve.clip and begun > stand.gone.start + EXACT)
        return self.use.dissolve.gone(clip, inside) if tells or stand.gone is None else stand.gone.at(time)

    def clip_at(self, time: float) -> str:
        """Return the name of the clip that leads at a moment."""
        stand = self.stand(time)
        if stand is None or stand.lead.clip == ORDER:
            return self._performance.clip_moment(stand.lead.end if stand else time)[0].use.name
        return stand.lead.clip

    def way_at(self, time: float) -> float:
        """Return how many metres it has gone by a moment."""
        stand = self.stand(time)
        return stand.way if stand else self._performance.way_at(time)

    def speed_at(self, time: float) -> float:
        """Return how fast it goes over the ground at a moment, in metres a second."""
        stand = self.stand(time)
        return stand.speed if stand else self._performance.speed_at(time)

    def passings(self, start: float, end: float) -> list[MarkPassing]:
        """Return the marks passed in [start, end), in order of time; while it acts, those of one step."""
        if not self.acts:
            return self._performance.passings(start, end)
        return list(self._at(round(end * self._rate)).passing)

    def _passed(self, stand: DrivenPose) -> list[MarkPassing]:
        """Return the marks that went by in the step that led to a stand."""
        order = stand.run
        begun = stand.time - 1 / self._rate
        found = self._performance.passings(order.start, order.end) if order.end > order.start else []
        ran = [replace(p, time=begun + p.time - order.start) for p in found]
        return sorted([*ran, *self._passed_of_clip(stand, stand.lead, begun)], key=lambda p: p.time)

    def _passed_of_clip(self, stand: DrivenPose, span: Span, begun: float) -> list[MarkPassing]:
        """Return the marks of a stretch of the leading clip, where that is not the running order."""
        dt = 1 / self._rate
        clip = self.character.clip(span.clip)
        if clip is None or span.end <= span.start:
            return []
        rounds = (0.0, clip.seconds) if stand.mode == "going" else (0.0,)
        found = [
            MarkPassing(begun + dt * (mark.time + late - span.start) / (span.end - span.start), mark, span.clip)
            for mark in self.use.clip(span.clip).marks
            for late in rounds
            if span.start <= mark.time + late < span.end and mark.time < clip.seconds
        ]
        return [p for p in found if not self._twice(stand, p)]

    def _twice(self, stand: DrivenPose, passing: MarkPassing) -> bool:
        """Return whether an event has just passed already, in the gait that this one took over from."""
        gait = self._driver.gait(stand.speed)
        if stand.mode != "going" or gait is None or stand.speed <= 0:
            return False
        round_ = gait.stride / max(stand.speed, 1e-3)
        return any(
            event == passing.mark.event and passing.time - time < TWICE * min(round_, 1.0)
            for event, time in stand.passed
        )


def _between(one: DrivenPose, two: DrivenPose, share: float) -> DrivenPose:
    """Return how it stands between two steps."""

    def mix(a: float, b: float) -> float:
        return a + (b - a) * share

    x, y, z = map(mix, one.position, two.position)
    turn = wrapped(two.heading - one.heading)
    ahead = (two.phase - one.phase + 0.5) % 1.0 - 0.5
    late = (1 - share) * (two.time - one.time)
    parts = tuple(part._replace(time=part.time - late if _goes(part, one) else part.time) for part in two.parts)
    return replace(
        two, time=two.time - late, position=(x, y, z), heading=one.heading + share * turn,
        phase=(one.phase + share * ahead) % 1.0, ease=mix(one.ease, two.ease), speed=mix(one.speed, two.speed),
        way=mix(one.way, two.way), parts=parts,
    )  # fmt: skip


def _goes(part: PlayingClip, before: DrivenPose) -> bool:
    """Return whether a part has gone on in the step from a stand."""
    return all((part.what, part.time) != (other.what, other.time) for other in before.parts)
