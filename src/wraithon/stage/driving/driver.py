"""The driver: what a character does in a step of the show, from what it did before and what is given."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING

from wraithon.character.checkup import height_of
from wraithon.numeric.arithmetic import wrapped
from wraithon.stage.driving.driven_pose import GOING, ORDER, DrivenPose, Given, PlayingClip, Span
from wraithon.stage.driving.feet import spans_of
from wraithon.stage.driving.moves import PlayedClip, moves_of

if TYPE_CHECKING:
    from wraithon.ground.terrain import Terrain
    from wraithon.project.staging.driving import State
    from wraithon.stage.driving.moves import Gait
    from wraithon.stage.performance import Performance


GRAVITY = 9.81
EASY = 0.5
"""Share of the walk's pace from which on nothing of it stands idle."""
STEP = 0.24
"""Share of the character's height that it steps up and down without leaping or falling."""
CLIMB = 4.0
"""Metres a second that it goes up and down steps."""
BRAKES = 1.6
"""How many times quicker it stops than it gets going."""
SHARP = 0.35
"""Share of the turn rate that is left at the run's pace."""
FADES = {"going": 0.22, "leap": 0.12, "drop": 0.25, "land": 0.08, "rise": 0.35, "order": 0.2}
"""Seconds over which what begins blends in; 0.15 for all others."""
SOON = 0.22
"""Seconds of a landing after which it may go on."""
LATE = 0.85
"""Share of a strike after which it may go on."""
UP = 0.6
"""Seconds in which one that has fallen gets up without a clip for it."""
DEEPEST = 4
"""Parts that lie over one another at most."""
DOWN = frozenset({"fall"})
"""What it stays in until it is told to rise."""
ACTS = frozenset({"leap", "strike", "fall", "rise"})
"""Roles that are played once."""
STATES: dict[str, State] = {
    "land": "landing", "strike": "striking", "fall": "fallen", "rise": "getting up",
}  # fmt: skip


class Driver:
    """Takes a character's steps.

    Parameters
    ----------
    performance
        The character, how its clips are played, and the running order that it goes back to where nobody drives.
    terrain
        The stage.
    rate
        Steps a second.
    driven
        Whether hands drive it; else it plays the running order but for what responses have it do.
    """

    def __init__(self, performance: Performance, terrain: Terrain, rate: int, *, driven: bool) -> None:
        self.performance, self.terrain, self.rate, self.driven = performance, terrain, rate, driven
        use = performance.use
        self.moves = moves_of(performance.character, use)
        gaits = {gait.clip.name: gait.clip for gait in (self.moves.walk, self.moves.run) if gait is not None}
        self.stands = {name: spans_of(performance.character, clip) for name, clip in gaits.items()}
        """Clip of a gait to the shares of a round in which each foot stands."""
        self.settings = use.driving
        self.tall = max(height_of(performance.character) * use.scale, 1e-3)
        self._step = STEP * self.tall

    # ---- beginning ------------------------------------------------------------------------------

    def first(self, time: float) -> DrivenPose:
        """Return how it stands when it begins to be driven, at a moment of the show."""
        if self.driven:
            y = self.terrain.height(0.0, 0.0)
            return DrivenPose(time, "going", time, (0.0, y, 0.0), parts=(PlayingClip(GOING, 0.0, time, 0.0),))
        x, y, z = self.performance.position_at(time).tolist()
        return DrivenPose(
            time, "order", time, (x, y, z), speed=self.performance.speed_at(time),
            way=self.performance.way_at(time), parts=(PlayingClip(ORDER, time, time, 0.0),), order=time,
        )  # fmt: skip

    # ---- a step ---------------------------------------------------------------------------------

    def after(self, stand: DrivenPose, given: Given) -> DrivenPose:
        """Return how it stands a step later."""
        time = stand.time + 1 / self.rate
        for act in given.acts:
            stand = self.begin(stand, act)
        if stand.still > stand.time + 1e-9 or (stand.hidden and self.driven):
            hold = _hold(stand, time)
            return replace(
                stand, time=time, speed=0.0, climb=0.0, spin=0.0, run=Span(), lead=Span(), parts=hold, locks=()
            )
        moved = MODES.get(stand.mode, Driver.played)(self, stand, given, time)
        moved = replace(moved, time=time)
        moved = self._parts_on(stand, moved, time)
        return replace(moved, state=self._state(moved))

    def begin(self, stand: DrivenPose, act: str) -> DrivenPose:
        """Return how it stands as it begins a leap, a strike, a fall, a clip or to rise; as before if it cannot."""
        play = self.play_of(act)
        if act == "rise":
            return self._rise(stand) if stand.mode in DOWN or stand.hidden else stand
        if play is None or stand.mode in DOWN or (stand.mode in {"leap", "drop"} and act != "fall"):
            return stand
        if act == stand.mode and act in {"leap", "strike"}:
            return stand
        return self._into(stand, act, play.clip.name)

    def play_of(self, act: str) -> PlayedClip | None:
        """Return the clip that is played for a role, or under its own name."""
        return getattr(self.moves, act) if act in ACTS else self.named(act)

    def named(self, name: str) -> PlayedClip | None:
        """Return a clip by its name, and how it is played."""
        clip = self.performance.character.clip(name)
        return PlayedClip(clip, self.performance.use.clip(name)) if clip is not None else None

    def _rise(self, stand: DrivenPose) -> DrivenPose:
        stand = replace(stand, gone=None, hidden=False)
        if self.moves.rise is not None:
            return self._into(stand, "rise", self.moves.rise.clip.name)
        return self._back(stand, UP)

    def _into(
        self, stand: DrivenPose, mode: str, clip: str = "", fade: float | None = None, start: float = 0.0
    ) -> DrivenPose:
        """Return how it stands with another mode, whose clip lies over what has played."""
        fade = FADES.get(mode, 0.15) if fade is None else fade
        what = clip or (GOING if mode != "order" else ORDER)
        begins = stand.order if what == ORDER else start
        parts = (*stand.parts[-(DEEPEST - 1) :], PlayingClip(what, begins, stand.time, fade))
        return replace(stand, mode=mode, since=stand.time, parts=parts)

    # ---- over the ground ------------------------------------------------------------------------

    def going(self, stand: DrivenPose, given: Given, time: float) -> DrivenPose:
        """Return how it stands after a step over the ground."""
        stand = self._steered(stand, given)
        dt = 1 / self.rate
        walk = self.moves.walk
        stand = self._moved(stand, stand.speed * dt)
        rounds = self._stride(stand.speed)
        slow = EASY * walk.pace if walk else 1.0
        ease = 1 - min(1.0, stand.speed / slow)
        ease += (stand.ease - ease) * math.exp(-dt * 14)
        phase = (stand.phase + stand.speed * dt / rounds) % 1.0 if rounds else stand.phase
        return self._on_ground(replace(stand, phase=phase, ease=ease), time)

    def _steered(self, stand: DrivenPose, given: Given) -> DrivenPose:
        """Return how it stands once it has turned and gained or lost speed for a step, as it is steered."""
        dt, (x, z) = 1 / self.rate, given.steer
        wish = min(1.0, math.hypot(x, z))
        walk, run = self.moves.walk, self.moves.run
        pace = (run if given.fast else walk).pace if run and walk else 0.0
        want, heading, spin = wish * pace, stand.heading, 0.0
        if wish > 1e-3:
            off = wrapped(math.atan2(x, z) - heading)
            quick = min(1.0, stand.speed / run.pace) if run and run.pace else 0.0
            maximum = math.radians(self.settings.turning) * (1 - (1 - SHARP) * quick) * dt
            step_angle = min(max(off, -maximum), maximum)
            heading, spin = wrapped(heading + step_angle), step_angle / dt
            want *= max(0.0, math.cos(off - step_angle))
        maximum = self.settings.quickening * dt
        speed = min(max(want, stand.speed - BRAKES * maximum), stand.speed + maximum)
        return replace(stand, heading=heading, spin=spin, speed=max(0.0, speed))

    def _stride(self, speed: float) -> float:
        """Return the metres of a round of its gait at a speed."""
        walk, run = self.moves.walk, self.moves.run
        if walk is None or run is None:
            return 0.0
        share = self.running(speed)
        return walk.stride + (run.stride - walk.stride) * share

    def running(self, speed: float) -> float:
        """Return how much of its gait is a run at a speed: none at the walk's pace, all at the run's."""
        walk, run = self.moves.walk, self.moves.run
        if walk is None or run is None or run.pace <= walk.pace:
            return 0.0
        return min(1.0, max(0.0, (speed - walk.pace) / (run.pace - walk.pace)))

    def _moved(self, stand: DrivenPose, metres: float, *, maximum: float | None = None) -> DrivenPose:
        """Return how it stands so many metres along its heading, or beside what is too high to step on."""
        x, y, z = stand.position
        dx, dz = metres * math.sin(stand.heading), metres * math.cos(stand.heading)
        maximum = self._step if maximum is None else maximum
        for way in ((dx, dz), (dx, 0.0), (0.0, dz)):
            ahead = math.copysign(min(0.25, 0.15 * self.tall), metres)
            long = math.hypot(*way)
            if long < 1e-9:
                continue
            seen = (x + way[0] + ahead * way[0] / long, z + way[1] + ahead * way[1] / long)
            if max(self.terrain.height(*seen), self.terrain.height(x + way[0], z + way[1])) - y <= maximum:
                return replace(stand, position=(x + way[0], y, z + way[1]), way=stand.way + long)
        # In the air it keeps its speed, and goes on as soon as it is high enough.
        return replace(stand, speed=0.0) if abs(metres) > 1e-9 and stand.grounded else stand

    def _on_ground(self, stand: DrivenPose, time: float) -> DrivenPose:
        """Return how it stands with its feet on the ground, or beginning to fall where there is none near."""
        x, y, z = stand.position
        ground = self.terrain.height(x, z)
        if y - ground > self._step:
            return self._drop(replace(stand, climb=0.0), time)
        return self._level(stand)

    def _level(self, stand: DrivenPose) -> DrivenPose:
        """Return how it stands a step nearer to the height of the ground."""
        x, y, z = stand.position
        maximum, off = CLIMB / self.rate, self.terrain.height(x, z) - y
        return replace(stand, position=(x, y + min(max(off, -maximum), maximum), z), climb=0.0)

    # ---- in the air -----------------------------------------------------------------------------

    def _drop(self, stand: DrivenPose, time: float) -> DrivenPose:
        """Return how it stands as it begins to fall, its leap's clip held where it waits for the ground."""
        leap = self.moves.leap
        if stand.mode != "leap":
            what, start = (leap.clip.name, leap.hang) if leap else (stand.parts[-1].what, stand.parts[-1].time)
            stand = self._into(replace(stand, lowest=0.0), "drop", what, start=start)
        off = stand.off if not stand.grounded else time
        return replace(stand, mode="drop", since=stand.time, grounded=False, off=off)

    def dropping(self, stand: DrivenPose, _given: Given, _time: float) -> DrivenPose:
        """Return how it stands after a step of a fall through the air."""
        dt = 1 / self.rate
        climb = stand.climb - GRAVITY * dt
        stand = self._moved(stand, stand.speed * dt, maximum=0.0)
        x, y, z = stand.position
        y += (stand.climb + climb) / 2 * dt
        stand = replace(stand, position=(x, y, z), climb=climb, spin=0.0)
        ground = self.terrain.height(x, z)
        return self._land(stand, ground, -climb) if y + stand.lowest <= ground else stand

    def _land(self, stand: DrivenPose, ground: float, fell: float) -> DrivenPose:
        """Return how it stands as it comes down on the ground so fast."""
        leap, (x, _, z) = self.moves.leap, stand.position
        stand = replace(stand, position=(x, ground, z), climb=0.0, grounded=True, fell=fell, lowest=0.0)
        if leap is None:
            return self._back(stand, fade=0.1)
        if stand.parts[-1].what == leap.clip.name and stand.mode == "leap":
            return replace(stand, mode="land", since=stand.time)
        return self._into(stand, "land", leap.clip.name, start=leap.land)

    def leaping(self, stand: DrivenPose, given: Given, time: float) -> DrivenPose:
        """Return how it stands after a step of a leap."""
        leap, dt = self.moves.leap, 1 / self.rate
        if leap is None:
            return self._back(stand)
        now = stand.parts[-1].time + dt
        if now <= leap.off:
            stand = self._steered(stand, given)
        carried = self._carried(leap, now - dt, now)
        stand = self._moved(
            stand, max(stand.speed * dt, carried), maximum=max(self._step / 2, leap.height(now) - 0.02)
        )
        if now <= leap.off:
            return self._on_ground(stand, time)
        x, y, z = stand.position
        off = stand.off if not stand.grounded else time
        low, climb, ground = leap.height(now), leap.climbing(now), self.terrain.height(x, z)
        stand = replace(stand, grounded=False, off=off, lowest=low, climb=climb, spin=0.0)
        if now > leap.top and ground >= y + low - 1e-6:
            return self._land(replace(stand, mode="drop") if now < leap.land - dt else stand, ground, -climb)
        if now >= leap.hang and ground < y - 0.1 * self._step:
            return self._drop(stand, time)
        if now >= leap.land:
            return self._land(stand, ground, max(-leap.climbing(leap.land - 2 * dt), -climb))
        return stand

    def landing(self, stand: DrivenPose, given: Given, time: float) -> DrivenPose:
        """Return how it stands after a step of a landing."""
        maximum = BRAKES * self.settings.quickening / self.rate
        leap, overrides = self.moves.leap, math.hypot(*given.steer) > 0.1
        speed = stand.speed if overrides else max(0.0, stand.speed - maximum)
        stand = self._on_ground(self._moved(replace(stand, speed=speed), speed / self.rate), time)
        over = leap is None or stand.parts[-1].time + 1 / self.rate >= leap.clip.seconds
        if stand.mode == "land" and (over or (overrides and time - stand.since > SOON)):
            return self._back(stand)
        return stand

    # ---- what is played to its end --------------------------------------------------------------

    def played(self, stand: DrivenPose, given: Given, time: float) -> DrivenPose:
        """Return how it stands while a strike, a fall, getting up or a clip plays."""
        dt, part = 1 / self.rate, stand.parts[-1]
        play = self.named(part.what)
        slowed = max(0.0, stand.speed - BRAKES * self.settings.quickening * dt)
        carried = self._carried(play, part.time, part.time + dt) if play else 0.0
        stand = self._moved(replace(stand, speed=slowed, spin=0.0), carried or slowed * dt)
        stand = self._on_ground(stand, time)
        if play is None or stand.mode == "drop":
            return stand if play else self._back(stand)
        ends = play.clip.seconds
        soon = stand.mode == "strike" and self.driven and math.hypot(*given.steer) > 0.1
        over = part.time + dt >= ends * (LATE if soon else 1.0) - 1e-9
        return self._back(stand) if over and stand.mode not in DOWN else stand

    def _back(self, stand: DrivenPose, fade: float | None = None) -> DrivenPose:
        """Return how it stands as it goes back to what it does when nothing else is asked of it."""
        return self._into(stand, "going" if self.driven else "order", fade=fade)

    def _carried(self, play: PlayedClip, start: float, end: float) -> float:
        """Return the metres that a clip carries it onward from one moment to another."""
        performance, length = self.performance, play.clip.seconds
        ways = [performance.way(play.clip, play.use, min(max(t, 0.0), length)) for t in (start, end)]
        return float((ways[1] - ways[0])[2])

    # ---- the running order ----------------------------------------------------------------------

    def ordered(self, stand: DrivenPose, _given: Given, _time: float) -> DrivenPose:
        """Return how it stands as the running order goes on."""
        performance, now = self.performance, stand.parts[-1].time
        by = performance.position_at(now + 1 / self.rate) - performance.position_at(now)
        x, y, z = stand.position
        gone = math.hypot(by[0], by[2])
        position = (x + float(by[0]), y, z + float(by[2]))
        again = performance.segment_at(now + 1 / self.rate)[:2] != performance.segment_at(now)[:2]
        hidden = stand.hidden and not again
        stand = replace(stand, position=position, speed=gone * self.rate, way=stand.way + gone, hidden=hidden)
        return self._level(stand)

    # ---- what plays -----------------------------------------------------------------------------

    def _parts_on(self, before: DrivenPose, stand: DrivenPose, time: float) -> DrivenPose:
        """Return how it stands with all that plays a step further, and what has blended in alone."""
        dt = 1 / self.rate
        parts = tuple(
            part if self._waits(stand, part, top=k == len(stand.parts) - 1) else part._replace(time=part.time + dt)
            for k, part in enumerate(stand.parts)
        )
        over = max((k for k, part in enumerate(parts) if time >= part.begun + part.fade), default=0)
        played = list(zip(stand.parts, parts, strict=True))[over:]
        was, leading = next((pair for pair in reversed(played) if _leads(pair[1], time)), played[-1])
        # A mark of the order passes as the order goes on, which may still be blending in or wait below another clip.
        run = next((Span(ORDER, a.time, b.time) for a, b in reversed(played) if b.what == ORDER), Span())
        order = run.end if run.clip else stand.order
        lead = self._lead(before, stand, was, leading)
        return replace(stand, parts=parts[over:], order=order, run=run, lead=lead)

    def _waits(self, stand: DrivenPose, part: PlayingClip, *, top: bool) -> bool:
        """Return whether a part does not go on: what is held in the air, and the order while something else plays."""
        if part.what == ORDER:
            return not top
        return stand.mode == "drop" and top

    def _lead(self, before: DrivenPose, stand: DrivenPose, was: PlayingClip, part: PlayingClip) -> Span:
        """Return what of the leading clip has gone by in a step, from what it was to what it is."""
        if part.what != GOING:
            return Span(part.what, was.time, part.time)
        gait, idle = self.gait(stand.speed), self.moves.idle
        if stand.ease > 0.5 or gait is None:
            return Span(idle.clip.name, was.time, part.time) if idle else Span()
        length = gait.clip.seconds
        start, end = ((each.phase + gait.first) % 1.0 * length for each in (before, stand))
        return Span(gait.clip.name, start, end if end >= start else end + length)

    def gait(self, speed: float) -> Gait | None:
        """Return the gait that leads at a speed."""
        return self.moves.run if self.running(speed) > 0.5 else self.moves.walk

    def _state(self, stand: DrivenPose) -> State:
        if stand.mode == "leap":
            return "leaping" if stand.grounded else ("rising" if stand.climb > 0 else "falling")
        if stand.mode == "drop":
            return "falling" if stand.climb <= 0 else "rising"
        if stand.mode in {"going", "order"}:
            if stand.speed < 0.1 * self.tall:
                return "standing"
            return "running" if self.running(stand.speed) > 0.5 else "walking"
        return STATES.get(stand.mode, "acting")


MODES = {
    "going": Driver.going, "leap": Driver.leaping, "drop": Driver.dropping, "land": Driver.landing,
    "order": Driver.ordered,
}  # fmt: skip
"""What it is at, to how a step of that is taken; all else is played to its end."""


def _leads(part: PlayingClip, time: float) -> bool:
    """Return whether at least half of a part has blended in."""
    return time - part.begun >= part.fade / 2


def _hold(stand: DrivenPose, time: float) -> tuple[PlayingClip, ...]:
    """Return what plays, held where it is: it blends in no further."""
    late = time - stand.time
    return tuple(part._replace(begun=part.begun + late) for part in stand.parts)
