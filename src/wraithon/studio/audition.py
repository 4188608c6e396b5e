"""Auditions: an effect shows itself again and again beside the show, which does not hear of it.

While the show plays, the character moves for both; while it rests, the effect goes on at the pose that is held.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING
from typing import cast as taken_for

from wraithon.particles.emission import SLACK
from wraithon.project.things import started_at
from wraithon.stage.compiled_project import compile_project
from wraithon.stage.frame import batches_of
from wraithon.stage.show import Show

if TYPE_CHECKING:
    from collections.abc import Mapping

    import numpy as np
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.character.pose import Pose, Skin
    from wraithon.project.effect import Effect
    from wraithon.project.project import Project
    from wraithon.stage.compiled_project import CompiledProject
    from wraithon.stage.driving.actor import Actor
    from wraithon.stage.frame import Frame
    from wraithon.stage.performance import Performance
    from wraithon.stage.player import Player
    from wraithon.stage.sampler_cache import SamplerCache


GAP = 0.25
"""Seconds between an effect's end and its next beginning."""
SHORTEST, LONGEST = 0.6, 2.5
"""Seconds that it takes at least, and that particles are waited for at most: what stays longer is seen to."""
MAX_STEPS = 6
"""Steps that an audition takes at most in a turn while the show rests; it then goes slower."""


@dataclass(frozen=True)
class AuditionWish:
    """Which effect is to show itself, if any, and the anchor for one that no trigger starts."""

    effect: str = ""
    anchor: str | None = None


NOTHING = AuditionWish()


def position_of(project: Project, wish: AuditionWish) -> tuple[str | None, bool]:
    """Return where an effect would be fired, and whether it follows: as its first trigger says."""
    actions = (each for trigger in project.triggers for each in trigger.starts if wish.effect in each.effects)
    first = next(actions, None)
    if first is None:
        return wish.anchor, True
    return next(started_at(project, wish.effect)), first.follow


def starting_events(project: Project, effect_id: str) -> dict[str | None, float]:
    """Return the events that start an effect, and how many seconds after them; of several, what the first says."""
    return {
        trigger.when.event: action.after
        for trigger in reversed(project.triggers)
        for action in trigger.starts
        if effect_id in action.effects and trigger.when.kind == "event"
    }


def next_moment(project: Project, performance: Performance, effect_id: str, now: float) -> float | None:
    """Return the show's next moment, in seconds, at which an event starts an effect; None where none does."""
    after = starting_events(project, effect_id)
    passings = performance.passings(now, now + performance.period + 1e-3)
    return next((p.time + after[p.mark.event] for p in passings if p.mark.event in after), None)


def period_of(effect: Effect, compiled: CompiledProject) -> float:
    """Return the seconds after which an effect begins anew; infinite when it never ends."""
    longest = 0.0
    for layer in effect.layers:
        program = compiled.programs.get(layer.id)
        if program is not None:
            born = max(0.0, compiled.ends[layer.id])
            lives = float(program.birth.lifetime.max())
            if layer.hold is not None:
                born, lives = max(born, effect.length or math.inf), (1 - layer.hold) * lives
            longest = max(longest, born + min(lives, LONGEST))
    return max(SHORTEST, longest) + GAP


class _AuditionedPerformance:
    """A performance as an audition sees it: along with the show, or held at a moment of it.

    Attributes
    ----------
    ahead
        Seconds by which the show's clock is ahead of the audition's.
    stopped_at
        The show's moment whose pose is shown; None while it plays.
    """

    def __init__(self, inner: Performance | Actor) -> None:
        self.inner = inner
        self.character, self.use = inner.character, inner.use
        self.ahead, self.stopped_at = 0.0, 0.0
        self.moving = False

    def shown(self, time: float) -> float:
        """Return the show's moment for one of the audition's."""
        return max(0.0, time + self.ahead) if self.moving else self.stopped_at

    def pose_at(self, time: float) -> Pose:
        """Return the pose at a moment of the audition."""
        return self.inner.pose_at(self.shown(time))

    def position_at(self, time: float) -> NDArray[np.float64]:
        """Return where the character stands (3,) at a moment of the audition."""
        return self.inner.position_at(self.shown(time))

    def dissolved_at(self, time: float) -> float:
        """Return the share of the character that is gone at a moment of the audition."""
        return self.inner.dissolved_at(self.shown(time))

    def passings(self, _start: float, _end: float) -> list[object]:
        """Return no events: nothing is triggered."""
        return []


class _Beside(Show):
    """A show of one effect that takes poses from the show it stands beside."""

    main: Show | None = None
    shift = 0
    """Steps by which the main show is ahead."""

    def pose(self, number: int) -> Pose | None:
        """Return the pose at a step's moment: the main show's own where it goes along, else the one that is held."""
        return self.main.pose(number + self.shift) if self.main else super().pose(0)

    def posed(self, number: int) -> tuple[Pose, Skin] | None:
        """Return pose and skin at a step's moment (see `pose`)."""
        return self.main.posed(number + self.shift) if self.main else super().posed(0)

    def position(self, number: int) -> NDArray[np.float64]:
        """Return where the character stands at a step's moment (see `pose`)."""
        return self.main.position(number + self.shift) if self.main else super().position(number)


class Audition:
    """An effect that shows itself beside a player's show.

    Parameters
    ----------
    samplers
        Makes the samplers of sources and keeps them.
    """

    def __init__(self, samplers: SamplerCache) -> None:
        self._samplers = samplers
        self._wish = NOTHING
        self._show: _Beside | None = None
        self._effect: Effect | None = None
        self._position: tuple[str | None, bool] = (None, True)
        self._carry, self._due = 0.0, 0.0
        self._seen: _AuditionedPerformance | None = None

    @property
    def runs(self) -> bool:
        """Whether there is an effect that shows itself."""
        return self._show is not None

    @property
    def alive(self) -> int:
        """Particles of it that live now."""
        return self._show.alive if self._show else 0

    @property
    def show(self) -> Show | None:
        """What is running; None without an effect."""
        return self._show

    def take(self, wish: AuditionWish, player: Player, characters: Mapping[str, Character]) -> None:
        """Set the effect that is auditioned; another one begins at once."""
        if wish == self._wish and self._show is not None:
            return
        again = wish.effect != self._wish.effect or wish.anchor != self._wish.anchor
        self._wish = wish
        if again:
            self._show = None
        self.adopt(player, characters)

    def adopt(self, player: Player, characters: Mapping[str, Character]) -> None:
        """Go on under the project that the player plays; what lives goes on under the new settings."""
        project = player.project
        effect = project.effect(self._wish.effect)
        if effect is None:
            self._show = self._effect = None
            return
        alone = project.evolve(effects=(effect,), triggers=())
        compiled = compile_project(alone, characters, self._samplers, player.compiled)
        inner = player.show.actor or compiled.performance
        seen = _AuditionedPerformance(inner) if inner is not None else None
        if seen is not None and self._seen is not None:
            seen.ahead, seen.stopped_at, seen.moving = self._seen.ahead, self._seen.stopped_at, self._seen.moving
        self._seen = seen
        # It does what a show asks of a performance.
        compiled = replace(compiled, performance=taken_for("Performance | None", seen))
        self._effect, self._position = compiled.effect(effect.id), position_of(project, self._wish)
        if self._show is None or self._show.rate != project.step_rate:
            self._show, self._carry, self._due = _Beside(compiled), 0.0, 0.0
            return
        before = {layer.id for layer in self._show.compiled.effects[effect.id].layers}
        self._show.adopt(compiled)
        if {layer.id for layer in effect.layers} - before:
            self._due = self._show.time  # what is new is seen at once
        if math.isinf(self._due):
            # It had no end; it may have one now.
            self._due = min(self._due, self._show.time + period_of(effect, compiled))

    # ---- going on -------------------------------------------------------------------------------

    def advance_with(self, main: Show) -> None:
        """Take the step that the main show has just taken."""
        show = self._show
        if show is None:
            return
        shift = main.step_number - 1 - show.step_number
        self._watch(main)
        if self._seen is not None and (show.main is not main or show.shift != shift or not self._seen.moving):
            self._seen.moving, self._seen.ahead = True, shift / show.rate
            show.main, show.shift = main, shift
            show.forget_poses()
        self._step(show)
        self._carry = 0.0

    def advance(self, seconds: float, main: Show) -> int:
        """Advance by `seconds` while the main show rests; return how many steps were taken."""
        show = self._show
        if show is None:
            return 0
        self._watch(main)
        if self._seen is not None and (self._seen.moving or self._seen.stopped_at != main.time):
            self._seen.moving, self._seen.stopped_at = False, main.time
            show.main = None
            show.forget_poses()
        self._carry = min(self._carry + seconds * show.rate, float(MAX_STEPS))
        steps = math.floor(self._carry + 1e-7)
        self._carry -= steps
        for _ in range(steps):
            self._step(show)
        return steps

    def _watch(self, main: Show) -> None:
        """Take the character's poses from another show from now on."""
        if self._seen is not None and main.actor is not None:
            self._seen.inner = main.actor

    def _step(self, show: _Beside) -> None:
        effect = self._effect
        if effect is not None and show.time >= self._due - SLACK:
            anchor, follow = self._position
            show.start(effect, anchor, show.time, follow=follow)
            self._due = show.time + period_of(effect, show.compiled)
        show.advance()

    # ---- what is shown --------------------------------------------------------------------------

    def frame(self, player: Player) -> Frame:
        """Return the player's moment with the audition in the place of the effect's own firings."""
        show, effect = self._show, self._effect
        if show is None or effect is None:
            return player.frame()
        frame = player.frame(frozenset(layer.id for layer in effect.layers))
        return replace(frame, batches=(*frame.batches, *batches_of(show)))
