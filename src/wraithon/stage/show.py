"""The show: everything that is alive now, advanced in fixed steps."""

from __future__ import annotations

import hashlib
import math
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from wraithon.numeric.arithmetic import added
from wraithon.particles.endings import FiringEnds
from wraithon.particles.few import MINIMUM, SmallPools, is_small
from wraithon.particles.pool import Pool, living_by_firing
from wraithon.project.staging.actions import WaitFor
from wraithon.project.trigger import MAX_WAITING
from wraithon.stage.anchor_paths import AnchorPaths
from wraithon.stage.births import Births
from wraithon.stage.compiled_project import with_dials
from wraithon.stage.copies import HeardSound, ShowCopy, ShowExtras
from wraithon.stage.driving.driven_pose import Given
from wraithon.stage.firing import Firing, FiringRecord
from wraithon.stage.presence import Presence
from wraithon.stage.triggering.moment import Hit, Moment
from wraithon.stage.triggering.moments import enriched, moments_within
from wraithon.stage.triggering.responses import respond
from wraithon.stage.triggering.screen_effects import ScreenEffects
from wraithon.stage.triggering.signals import Ramped
from wraithon.stage.triggering.triggers import MAX_DONE, ScheduledAction, Triggers, crossed, due_actions, schedule

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wraithon.particles.columns import AnchorTransforms
    from wraithon.particles.particle_moments import ParticleMoments
    from wraithon.particles.program import LayerProgram
    from wraithon.particles.rules import TickContext
    from wraithon.project.effect import Effect
    from wraithon.project.ending import Ending
    from wraithon.project.life import Curve
    from wraithon.project.trigger import Trigger
    from wraithon.stage.compiled_project import CompiledProject


MAX_FIRINGS = 512
"""Firings alive at once; beyond it new ones are refused and counted."""
MAX_RECORDS = 2000
HURT = 0.1
"""Health that the hardest hit takes."""
MAX_LINES = 200
MAX_SOUNDS = 64
"""Lines of the log that are kept, the latest ones."""


class Show(Presence):
    """The only mutable thing: clock, living particles, running firings, and what the character does."""

    def __init__(self, compiled: CompiledProject, *, driven: bool = False) -> None:
        super().__init__(compiled, driven=driven)
        self.pools: dict[str, Pool] = {}
        self.firings: dict[int, Firing] = {}
        """Those that are alive, by how many began before them."""
        self.fired = 0
        self.counts: dict[str, int] = {}
        self.waiting: list[ScheduledAction] = []
        self.triggers = Triggers()
        self.records: list[FiringRecord] = []
        self.refused_firings = 0
        self.stopped = 0
        """Firings that were stopped so far."""
        self.given, self.keys = Given(), list[str]()
        """How the character is steered, and what was done for the coming step."""
        self.hits: list[Hit] = []
        """Hits that are taken in the coming step."""
        self.signal_values: dict[str, float] = {}
        """Signals that were given."""
        self.screen = ScreenEffects()
        self.over: list[tuple[str, str | None]] = []
        """Effects of which a firing was over at the end of the step before, and where these were fired."""
        self.log: list[tuple[float, str]] = []
        """What responses wrote, and when."""
        self.sounds: list[HeardSound] = []
        """What was heard lately."""
        self.base = compiled
        """The compiled project as the project has it; `compiled` is that with what dials are turned to."""
        self._ramps: list[Ramped] = []
        self._reported_then: dict[str, float] = {}
        self._waits: list[ScheduledAction] = []
        """What waits for a signal."""
        self.ways = AnchorPaths(self.anchor_at)
        """Where anchors go in the step at hand."""
        self._small = SmallPools()
        self._births = Births(self)

    # ---- time -----------------------------------------------------------------------------------

    def advance(self) -> None:
        """Advance by one step."""
        start, end = self.time, (self.step_number + 1) / self.rate
        if self.actor is not None:
            self.actor.advance(self.step_number, self.given)
        moments = moments_within(self, start, end)
        self.waiting += self.triggers.respond(
            self.compiled.listeners,
            moments,
            MAX_WAITING - len(self.waiting),
            self._living_of,
            self.compiled.project.seed,
        )
        self._end_waits(end)
        self._reported_then, self.over = dict(self.signal_values), []
        self._start_due(end)
        self._advance_ramps(end)
        self._turn()
        self.given, self.keys = self.given._replace(acts=()), []
        self.hits = []
        around = self.tick_context()
        self.ways.begin(self.step_number)
        self._births.emit_all(start, end, around)
        dt = end - start
        self._step_pools(dt, start, around)
        self.step_number += 1
        self._settle()

    def signals(self, number: int) -> Mapping[str, float]:
        """Return all signals at a step's moment: at the beginning of the step at hand, or at its end."""
        values = self._reported_then if number <= self.step_number else self.signal_values
        return {**self.compiled.resting, **values, **self.measured(number)}

    def hit(self, hit: Hit) -> None:
        """Hit the character in the coming step, which takes some of its health."""
        self.hits.append(hit)
        self.set_signal("health", max(0.0, added(self.signal_values.get("health", 1.0), -HURT * hit.strength)))

    def set_signal(self, signal: str, value: float) -> None:
        """Give a signal a value; what it was on its way to counts no more."""
        self.signal_values[signal] = value
        self._ramps = [ramp for ramp in self._ramps if ramp.signal != signal]

    def ramp(self, signal: str, start: float, seconds: float, to: float, curve: Curve) -> None:
        """Move a signal along a curve to a value, within some seconds from a moment on."""
        low = self.signal_values.get(signal, self.compiled.resting.get(signal, 0.0))
        self._ramps = [*(ramp for ramp in self._ramps if ramp.signal != signal)]
        self._ramps.append(Ramped(signal, start, seconds, low, to, curve))

    def _advance_ramps(self, end: float) -> None:
        """Advance signals that are on their way to a step's end."""
        for ramp in self._ramps:
            self.signal_values[ramp.signal] = ramp.at(end)
        self._ramps = [ramp for ramp in self._ramps if not ramp.over(end)]

    def _turn(self) -> None:
        """Apply the dials to the layers."""
        now = with_dials(self.base, self.signal_values, self.compiled)
        if now is not self.compiled:
            before, self.compiled = self.compiled, now
            self._keep_pools(before)

    def _living_of(self, trigger: str) -> int:
        """Return how many firings of a trigger live, or are to begin."""
        waits = sum(waiting.trigger == trigger for waiting in self.waiting)
        return waits + sum(firing.trigger == trigger for firing in self.firings.values())

    # ---- firings --------------------------------------------------------------------------------

    def _start_due(self, end: float) -> None:
        due = sorted((w for w in self.waiting if w.due < end), key=lambda w: w.due)
        if due:
            self.waiting = [w for w in self.waiting if w.due >= end]
        changes = self.actor.changes if self.actor else 0
        failed: list[ScheduledAction] = []
        if len(due) > MAX_DONE:
            left = len(due) - MAX_DONE
            text = f"more than {MAX_DONE:,} actions are due in one step of the show: {left:,} are left out"
            self.triggers.refuse(due[MAX_DONE].due, due[MAX_DONE].trigger, text)
        for waiting in due[:MAX_DONE]:
            if not any(map(waiting.follows, failed)) and not respond(self, waiting) and waiting.action.needed:
                failed.append(waiting)
        if failed:
            self.waiting = [w for w in self.waiting if not any(map(w.follows, failed))]
        if self.actor is not None and self.actor.changes != changes:
            self.forget_poses()

    def wait(self, waiting: ScheduledAction) -> None:
        """Schedule what comes after a wait."""
        action = waiting.action
        assert isinstance(action, WaitFor)  # the only one that waits
        if action.signal:
            self._waits = [*self._waits[-(MAX_WAITING - 1) :], waiting]
        else:
            left = self.actor.clip_left(self.step_number + 1) if self.actor else 0.0
            self._resume(waiting, waiting.due + left)

    def _end_waits(self, end: float) -> None:
        """Run the actions whose awaited signal crossed its value during a step."""
        if not self._waits:
            return
        before, after = self.signals(self.step_number), self.signals(self.step_number + 1)
        over = [w for w in self._waits if crossed(w.action, before, after)]
        for waiting in over:
            self._waits.remove(waiting)
            self._resume(waiting, end)

    def _resume(self, waiting: ScheduledAction, time: float) -> None:
        rest = due_actions(waiting, time)
        self.waiting += rest[: max(0, MAX_WAITING - len(self.waiting))]

    def sound(self, time: float, name: str, volume: float) -> None:
        """Play a sound at a moment of the show."""
        self.sounds = [*self.sounds[-(MAX_SOUNDS - 1) :], HeardSound(time, name, volume)]

    def log_line(self, time: float, text: str) -> None:
        """Write a line into the log."""
        self.log = [*self.log[-(MAX_LINES - 1) :], (time, text)]

    def stop_following(self, time: float) -> None:
        """Stop the firings that follow the character, from a moment on."""
        for firing in self.firings.values():
            if firing.follow and firing.until > time:
                firing.until = time
                self.stopped += 1

    def stop(self, effect_id: str, anchor: str | None, time: float, ending: Ending | None = None) -> int:
        """Stop the firings of an effect, at an anchor or anywhere, from a moment on; return how many.

        The `ending` says what becomes of their particles; None: what each layer says.
        """
        found = [
            firing
            for firing in self.firings.values()
            if (firing.base or firing.effect) == effect_id and firing.until > time
            and (anchor is None or firing.anchor == anchor)
        ]  # fmt: skip
        for firing in found:
            firing.until, firing.ending = time, ending
        self.stopped += len(found)
        return len(found)

    def respond(self, trigger: Trigger, share: float = 1.0, ground: str = "") -> None:
        """Run a trigger's response now, whatever it waits for and asks, with a share of all strength."""
        event = self.compiled.events.get(trigger.when.what or "") if trigger.when.kind == "event" else None
        rule = trigger.strength
        moment = Moment(
            self.time, "tried", strength=rule.low + share * (rule.high - rule.low),
            anchor=event.anchor if event else None, ground=ground,
        )  # fmt: skip
        self.triggers.note(self.time, trigger.id, moment.anchor)
        moment = replace(enriched(self, moment), signals={rule.signal: moment.strength or 0.0})
        self.waiting += schedule(trigger, moment)[: max(0, MAX_WAITING - len(self.waiting))]

    def start(
        self, effect: Effect, anchor: str | None, time: float, trigger: str = "", *, follow: bool = True
    ) -> Firing | None:
        """Fire an effect at an anchor, at a moment within the coming step; None when too many are alive."""
        if len(self.firings) >= MAX_FIRINGS:
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
        firing.base = self.compiled.bases.get(effect.id, "")
        self.firings[self.fired] = firing
        self.fired += 1
        return firing

    # ---- particles ------------------------------------------------------------------------------

    def _step_pools(self, dt: float, start: float, around: TickContext) -> None:
        programs, ends = self.compiled.programs, self._ends(start)
        small: list[tuple[LayerProgram, Pool]] = []
        large: list[tuple[LayerProgram, Pool]] = []
        for layer, pool in self.pools.items():
            program = programs.get(layer)
            if program is not None and pool.count:
                alone = layer in ends or not is_small(program, pool)
                (large if alone else small).append((program, pool))
        if len(small) >= MINIMUM:
            self._small.step(small, dt, start, around)
        else:
            large += small
        happened: dict[str, ParticleMoments] = {}
        for program, pool in large:
            points, anchor_transforms = self.ways.points(program), self._carriers(program)
            moments = pool.step(
                program, dt, start, around, points, anchor_transforms, wants_moments=program.wants_moments,
                ends=ends.get(program.layer.id),
            )  # fmt: skip
            if len(moments.kinds):
                happened[program.layer.id] = moments
        if happened:
            self._births.offspring(happened, dt, around)

    def _ends(self, start: float) -> dict[str, FiringEnds]:
        """Return when firings end, seen from a step's beginning, of the layers whose particles hang on that."""
        found: dict[str, list[tuple[int, float, Ending]]] = {}
        for number, firing in self.firings.items():
            lasting = self.compiled.lasting.get(firing.effect, ())
            effect = self.compiled.effect(firing.effect) if lasting or firing.ending else None
            if effect is not None:
                left = firing.end(effect.length) - start
                for layer in effect.layers if firing.ending else lasting:
                    found.setdefault(layer.id, []).append((number, left, firing.ending or layer.ending))
        return {layer: FiringEnds.of(ends) for layer, ends in found.items()}

    def _carriers(self, program: LayerProgram) -> AnchorTransforms | None:
        """Return the anchors that a program's particles ride on."""
        if not program.carried:
            return None
        owner = self.compiled.owners.get(program.layer.id)
        firings = {position: firing for position, firing in self.firings.items() if firing.effect == owner}
        return self.ways.anchor_transforms(firings, program)

    def _settle(self) -> None:
        """Count what lives; end firings that bear nothing more and of which nothing lives."""
        # Oldest first, as they began.
        positions = np.fromiter(self.firings, np.int32, len(self.firings))
        alive = living_by_firing(self.pools.values(), positions)
        for position, living in zip(positions.tolist(), alive.tolist(), strict=True):
            firing = self.firings[position]
            firing.alive, firing.peak = living, max(firing.peak, living)
            if not living and self.spent(firing):
                self.records.append(firing.record(self.time, position))
                self.over.append((firing.base or firing.effect, firing.anchor))
                del self.records[: max(0, len(self.records) - MAX_RECORDS)]
                del self.firings[position]

    def spent(self, firing: Firing) -> bool:
        """Return whether a firing emits nothing more."""
        effect = self.compiled.effect(firing.effect)
        if effect is None:
            return True
        if self.time >= firing.until:
            return True
        ends = [self.compiled.ends[layer.id] for layer in effect.layers if layer.id in self.compiled.ends]
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
        return [*self.records, *(f.record(None, position) for position, f in self.firings.items())]

    # ---- copies ---------------------------------------------------------------------------------

    def copy(self) -> ShowCopy:
        """Return everything that is alive."""
        return ShowCopy(
            self.step_number,
            {layer: pool.copy() for layer, pool in self.pools.items()},
            {position: firing.copy() for position, firing in self.firings.items()},
            self.fired,
            dict(self.counts),
            tuple(self.waiting),
            self.triggers.copy(),
            tuple(self.records),
            self.refused_firings,
            self.stopped,
            self.actor.copy() if self.actor else None,
            ShowExtras(
                self.given,
                dict(self.signal_values),
                dict(self._reported_then),
                self.screen,
                tuple(self.over),
                tuple(self.log),
                tuple(self._waits),
                tuple(self._ramps),
                tuple(self.sounds),
            ),
        )

    def restore(self, copy: ShowCopy) -> None:
        """Restore a copy."""
        self.step_number = copy.step_number
        self.pools = {}
        for layer, pool_copy in copy.pools.items():
            self.pools[layer] = Pool()
            self.pools[layer].restore(pool_copy)
        self.firings = {position: firing.copy() for position, firing in copy.firings.items()}
        self.fired = copy.fired
        self.counts = dict(copy.counts)
        self.waiting = list(copy.waiting)
        self.triggers = copy.triggers.copy()
        self.records = list(copy.records)
        self.refused_firings, self.stopped = copy.refused_firings, copy.stopped
        extras = copy.extras
        self.given, self.signal_values, self._reported_then = (
            extras.given,
            dict(extras.signal_values),
            dict(extras.reported_then),
        )
        self.screen, self.over, self.log = extras.screen, list(extras.over), list(extras.log)
        self._waits, self.keys, self.hits = list(extras.waits), [], []
        self._ramps, self.sounds = list(extras.ramps), list(extras.sounds)
        self.compiled = with_dials(self.base, self.signal_values, self.compiled)
        if self.actor is not None and copy.acted is not None:
            if self.actor.acts or copy.acted[1]:
                self.forget_poses()
            self.actor.restore(copy.acted)

    def adopt(self, compiled: CompiledProject) -> None:
        """Continue under an edited project: living particles take the new settings.

        Layers that are gone or muted lose their particles; a changed step rate keeps the time.
        """
        before = self.compiled
        moment = self.time
        self.base = compiled
        self.follow(with_dials(compiled, self.signal_values))
        self.step_number = round(moment * self.rate)
        self._keep_pools(before)
        old_character = before.performance.character if before.performance else None
        new_character = compiled.performance.character if compiled.performance else None
        if old_character is not new_character:
            for pool in self.pools.values():
                pool.let_go_of_skin()

    def _keep_pools(self, before: CompiledProject) -> None:
        """Continue what lives under another compiled project than the one `before`."""
        programs = self.compiled.programs
        self.pools = {layer: pool for layer, pool in self.pools.items() if layer in programs}
        for layer, pool in self.pools.items():
            old, new = before.programs.get(layer), programs[layer]
            if old is not None and (old.kind != new.kind or old.sampler is not new.sampler):
                pool.let_go_of_skin()

    def digest(self) -> str:
        """Return a fingerprint of everything that is alive; equal shows have equal ones."""
        out = hashlib.blake2b(digest_size=16)
        out.update(f"{self.step_number} {sorted(self.counts.items())}".encode())
        if self.actor is not None and self.actor.acts:
            out.update(repr(self.actor.stand(self.time)).encode())
        if self.signal_values or self.screen != ScreenEffects():
            out.update(f"{sorted(self.signal_values.items())} {self.screen}".encode())
        for layer in sorted(self.pools):
            out.update(layer.encode())
            self.pools[layer].feed(out)
        for position, firing in self.firings.items():
            until = f" {firing.until!r}" if firing.until < math.inf else ""
            until += f" {firing.ending!r}" if firing.ending else ""
            out.update(f"{position} {firing.effect} {firing.number} {firing.start!r} {firing.alive}{until}".encode())
        return out.hexdigest()
