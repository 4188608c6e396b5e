"""The show: everything that is alive now, advanced in fixed steps."""

from __future__ import annotations

import hashlib
import math
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from wraithon.character.bones import capsules_in
from wraithon.character.pose import Pose, Skin, skin_of, turns_fast
from wraithon.particles.few import LEAST, SmallPools, is_small
from wraithon.particles.pool import Pool, PoolCopy, living_by_firing
from wraithon.particles.rules import Surroundings
from wraithon.project.trigger import MOST_WAITING
from wraithon.stage.births import Births
from wraithon.stage.firing import Firing, FiringRecord
from wraithon.stage.frozen import Frozen
from wraithon.stage.moment import Moment
from wraithon.stage.moments import moments_within
from wraithon.stage.responses import respond
from wraithon.stage.triggers import Triggers, Waiting, waiting_of
from wraithon.stage.ways import Ways

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.particles.columns import Carriers
    from wraithon.particles.happenings import Happenings
    from wraithon.particles.program import LayerProgram
    from wraithon.project.effect import Effect
    from wraithon.project.trigger import Trigger
    from wraithon.stage.cast import Cast

__all__ = ["Show", "ShowCopy"]

MOST_FIRINGS = 512
"""Firings alive at once; beyond it new ones are refused and counted."""
MOST_RECORDS = 2000


@dataclass(frozen=True)
class ShowCopy:
    """A show at one moment, complete: putting it back and going on gives the same bytes."""

    step_number: int
    pools: dict[str, PoolCopy]
    firings: dict[int, Firing]
    fired: int
    counts: dict[str, int]
    waiting: tuple[Waiting, ...]
    triggers: Triggers
    records: tuple[FiringRecord, ...]
    refused_firings: int
    stopped: int

    @property
    def size(self) -> int:
        """Bytes held, nearly."""
        return 2000 + sum(pool.size for pool in self.pools.values())


class Show:
    """The only mutable thing: clock, living particles, running firings.

    The character's pose is a function of time and is kept only to save work.
    """

    def __init__(self, cast: Cast) -> None:
        self.cast = cast
        self.step_number = 0
        self.pools: dict[str, Pool] = {}
        self.firings: dict[int, Firing] = {}
        """Those that are alive, by how many began before them."""
        self.fired = 0
        self.counts: dict[str, int] = {}
        self.waiting: list[Waiting] = []
        self.triggers = Triggers()
        self.records: list[FiringRecord] = []
        self.refused_firings = 0
        self.stopped = 0
        """Firings that were stopped so far."""
        self._poses: dict[int, Pose] = {}
        self._skins: dict[int, Skin] = {}
        self.ways = Ways(self.anchor_at)
        """Where anchors go in the step at hand."""
        self._frozen = Frozen()
        self._small = SmallPools()
        self._births = Births(self)
        self._places: dict[int, NDArray[np.float64]] = {}
        self._anchored: dict[int, NDArray[np.float32]] = {}

    # ---- time -----------------------------------------------------------------------------------

    @property
    def rate(self) -> int:
        """Steps a second."""
        return self.cast.project.step_rate

    @property
    def time(self) -> float:
        """Seconds since the show began."""
        return self.step_number / self.rate

    def advance(self) -> None:
        """Go on by one step."""
        start, end = self.time, (self.step_number + 1) / self.rate
        moments = moments_within(self.cast, self.step_number, start, end)
        self.waiting += self.triggers.hear(
            self.cast.listeners, moments, MOST_WAITING - len(self.waiting), self._living_of, self.cast.project.seed
        )
        self._start_due(end)
        around = self._surroundings()
        self.ways.begin(self.step_number)
        self._births.bear_all(start, end, around)
        dt = end - start
        self._step_pools(dt, start, around)
        self.step_number += 1
        self._settle()

    def _living_of(self, trigger: str) -> int:
        """Return how many firings of a trigger live, or are to begin."""
        waits = sum(waiting.trigger == trigger for waiting in self.waiting)
        return waits + sum(firing.trigger == trigger for firing in self.firings.values())

    # ---- character ------------------------------------------------------------------------------

    def pose(self, number: int) -> Pose | None:
        """Return the pose at a step's moment; None without a character."""
        performance = self.cast.performance
        if performance is None:
            return None
        if number not in self._poses:
            _forget_far(self._poses, number)
            self._poses[number] = performance.pose_at(number / self.rate)
        return self._poses[number]

    def posed(self, number: int) -> tuple[Pose, Skin] | None:
        """Return the pose and skin at a step's moment; None without a character."""
        performance, pose = self.cast.performance, self.pose(number)
        if performance is None or pose is None:
            return None
        if number not in self._skins:
            _forget_far(self._skins, number)
            self._skins[number] = skin_of(performance.character, pose)
        return pose, self._skins[number]

    def skin_before(self, seconds: float) -> tuple[Character, Skin] | None:
        """Return the character and its skin so many seconds ago; None without one, or before the show."""
        performance, moment = self.cast.performance, self.time - seconds
        if performance is None or moment < -1e-6:
            return None
        if seconds == 0:
            posed = self.posed(self.step_number)
            return (performance.character, posed[1]) if posed else None
        return performance.character, self._frozen.skin_at(performance, moment)

    def place(self, number: int) -> NDArray[np.float64]:
        """Return where the character stands on the ground (3,) at a step's moment."""
        if number not in self._places:
            performance = self.cast.performance
            self._places = {n: p for n, p in self._places.items() if abs(n - number) <= 1}
            self._places[number] = np.zeros(3) if performance is None else performance.place_at(number / self.rate)
        return self._places[number]

    def _surroundings(self) -> Surroundings:
        performance = self.cast.performance
        cast = self.cast
        if performance is None or not (cast.uses_skin or cast.uses_capsules):
            return Surroundings.empty()
        before, now = self.posed(self.step_number), self.posed(self.step_number + 1)
        assert before is not None  # there is a performance
        assert now is not None
        amid = None
        if turns_fast(before[0], now[0]):
            amid = performance.pose_at((self.step_number + 0.5) / self.rate)
        around = Surroundings.between(performance.character, before, now, amid, bones=cast.uses_bones)
        if cast.uses_capsules:
            first, last = (capsules_in(performance.character, pose) for pose, _ in (before, now))
            around = around._replace(capsules_before=first, capsules_now=last)
        return around._replace(
            gone_before=performance.dissolved_at(self.step_number / self.rate),
            gone_now=performance.dissolved_at((self.step_number + 1) / self.rate),
        )

    def anchor_at(self, anchor: str | None, number: int) -> NDArray[np.float32]:
        """Return an anchor's world matrix (4, 4) at a step's moment.

        One that is not there is the character's place on the ground.
        """
        anchorage = self.cast.anchorage
        row = anchorage.rows.get(anchor or "") if anchorage else None
        pose = self.pose(number) if row is not None else None
        if anchorage is None or pose is None or row is None:
            matrix = np.eye(4, dtype=np.float32)
            matrix[:3, 3] = self.place(number)
            return matrix
        if number not in self._anchored:
            self._anchored = {n: m for n, m in self._anchored.items() if abs(n - number) <= 1}
            self._anchored[number] = anchorage.matrices(pose)
        return self._anchored[number][row]

    # ---- firings --------------------------------------------------------------------------------

    def _start_due(self, end: float) -> None:
        due = sorted((w for w in self.waiting if w.due < end), key=lambda w: w.due)
        if due:
            self.waiting = [w for w in self.waiting if w.due >= end]
        for waiting in due:
            respond(self, waiting)

    def stop(self, effect_id: str, anchor: str | None, time: float) -> int:
        """Have firings of an effect, at an anchor or anywhere, bear no more from a moment on; return how many."""
        found = [
            firing
            for firing in self.firings.values()
            if (firing.base or firing.effect) == effect_id and firing.until > time
            and (anchor is None or firing.anchor == anchor)
        ]  # fmt: skip
        for firing in found:
            firing.until = time
        self.stopped += len(found)
        return len(found)

    def respond(self, trigger: Trigger) -> None:
        """Have a trigger's response come now, whatever it waits for and asks."""
        event = self.cast.events.get(trigger.when.what or "") if trigger.when.kind == "event" else None
        moment = Moment(self.time, "tried", anchor=event.anchor if event else None)
        self.waiting += waiting_of(trigger, moment)[: max(0, MOST_WAITING - len(self.waiting))]

    def start(
        self, effect: Effect, anchor: str | None, time: float, trigger: str = "", *, follow: bool = True
    ) -> Firing | None:
        """Fire an effect at an anchor, at a moment within the coming step; None when too many are alive."""
        if len(self.firings) >= MOST_FIRINGS:
            self.refused_firings += 1
            return None
        number = self.counts.get(effect.id, 0)
        self.counts[effect.id] = number + 1
        pinned = None
        if not follow:
            share = (time - self.time) * self.rate
            before = self.anchor_at(anchor, self.step_number)
            now = self.anchor_at(anchor, self.step_number + 1)
            pinned = (before + np.float32(share) * (now - before)).astype(np.float32)
        firing = Firing(effect.id, number, trigger, time, anchor, follow, pinned)
        firing.base = self.cast.bases.get(effect.id, "")
        self.firings[self.fired] = firing
        self.fired += 1
        return firing

    # ---- particles ------------------------------------------------------------------------------

    def _step_pools(self, dt: float, start: float, around: Surroundings) -> None:
        programs = self.cast.programs
        small: list[tuple[LayerProgram, Pool]] = []
        large: list[tuple[LayerProgram, Pool]] = []
        for layer, pool in self.pools.items():
            program = programs.get(layer)
            if program is not None and pool.count:
                (small if is_small(program, pool) else large).append((program, pool))
        if len(small) >= LEAST:
            self._small.step(small, dt, start, around)
        else:
            large += small
        happened: dict[str, Happenings] = {}
        for program, pool in large:
            points, carriers = self.ways.points(program), self._carriers(program)
            told = pool.step(program, dt, start, around, points, carriers, heeded=program.heeded)
            if len(told.kinds):
                happened[program.layer.id] = told
        if happened:
            self._births.offspring(happened, dt, around)

    def _carriers(self, program: LayerProgram) -> Carriers | None:
        """Return the anchors that a program's particles ride on."""
        if not program.carried:
            return None
        owner = self.cast.owners.get(program.layer.id)
        firings = {place: firing for place, firing in self.firings.items() if firing.effect == owner}
        return self.ways.carriers(firings, program)

    def _settle(self) -> None:
        """Count what lives; end firings that bear nothing more and of which nothing lives."""
        # Oldest first, as they began.
        places = np.fromiter(self.firings, np.int32, len(self.firings))
        alive = living_by_firing(self.pools.values(), places)
        for place, living in zip(places.tolist(), alive.tolist(), strict=True):
            firing = self.firings[place]
            firing.alive, firing.peak = living, max(firing.peak, living)
            if not living and self.spent(firing):
                self.records.append(firing.record(self.time, place))
                del self.records[: max(0, len(self.records) - MOST_RECORDS)]
                del self.firings[place]

    def spent(self, firing: Firing) -> bool:
        """Tell whether a firing bears nothing more."""
        effect = self.cast.effect(firing.effect)
        if effect is None:
            return True
        if self.time >= firing.until:
            return True
        ends = [self.cast.ends[layer.id] for layer in effect.layers if layer.id in self.cast.ends]
        return self.time - firing.start > max(ends, default=0.0)

    @property
    def alive(self) -> int:
        """Particles that live now."""
        return sum(pool.count for pool in self.pools.values())

    @property
    def refused(self) -> int:
        """Births refused by limits so far."""
        return sum(pool.refused for pool in self.pools.values())

    @property
    def born(self) -> int:
        """Births so far."""
        return sum(pool.born for pool in self.pools.values())

    def history(self) -> list[FiringRecord]:
        """Return all firings, those that are over and those that live."""
        return [*self.records, *(f.record(None, place) for place, f in self.firings.items())]

    # ---- copies ---------------------------------------------------------------------------------

    def copy(self) -> ShowCopy:
        """Return everything that is alive."""
        return ShowCopy(
            self.step_number,
            {layer: pool.copy() for layer, pool in self.pools.items()},
            {place: firing.copy() for place, firing in self.firings.items()},
            self.fired,
            dict(self.counts),
            tuple(self.waiting),
            self.triggers.copy(),
            tuple(self.records),
            self.refused_firings,
            self.stopped,
        )

    def restore(self, held: ShowCopy) -> None:
        """Put a copy back."""
        self.step_number = held.step_number
        self.pools = {}
        for layer, pool_copy in held.pools.items():
            self.pools[layer] = Pool()
            self.pools[layer].restore(pool_copy)
        self.firings = {place: firing.copy() for place, firing in held.firings.items()}
        self.fired = held.fired
        self.counts = dict(held.counts)
        self.waiting = list(held.waiting)
        self.triggers = held.triggers.copy()
        self.records = list(held.records)
        self.refused_firings, self.stopped = held.refused_firings, held.stopped

    def adopt(self, cast: Cast) -> None:
        """Go on under an edited project: what lives goes on under the new settings.

        Layers that are gone or muted lose their particles; a changed step rate keeps the time.
        """
        before = self.cast
        moment = self.time
        self.cast = cast
        self.step_number = round(moment * self.rate)
        for held in (self._poses, self._skins, self._places, self._anchored):
            held.clear()
        self.pools = {layer: pool for layer, pool in self.pools.items() if layer in cast.programs}
        for layer, pool in self.pools.items():
            old, new = before.programs.get(layer), cast.programs[layer]
            if old is not None and old.kind != new.kind:
                pool.let_go_of_skin()
        old_character = before.performance.character if before.performance else None
        new_character = cast.performance.character if cast.performance else None
        if old_character is not new_character:
            for pool in self.pools.values():
                pool.let_go_of_skin()

    def digest(self) -> str:
        """Return a fingerprint of everything that is alive; equal shows have equal ones."""
        out = hashlib.blake2b(digest_size=16)
        out.update(f"{self.step_number} {sorted(self.counts.items())}".encode())
        for layer in sorted(self.pools):
            out.update(layer.encode())
            self.pools[layer].feed(out)
        for place, firing in self.firings.items():
            until = f" {firing.until!r}" if firing.until < math.inf else ""
            out.update(f"{place} {firing.effect} {firing.number} {firing.start!r} {firing.alive}{until}".encode())
        return out.hexdigest()


def _forget_far(held: dict[int, Any], number: int) -> None:
    """Forget what belongs to steps that are not next to this one."""
    for old in [k for k in held if abs(k - number) > 1]:
        del held[old]
