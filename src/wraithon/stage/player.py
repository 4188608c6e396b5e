"""The one facade over Project, Show and Frame: the window, the command line, tests and games use it."""

from __future__ import annotations

import math
from collections import OrderedDict
from typing import TYPE_CHECKING

import numpy as np

from wraithon.stage.compiled_project import CompiledProject, compile_project, compiled_alike
from wraithon.stage.driving.driver import ACTS
from wraithon.stage.frame import Frame, frame_of
from wraithon.stage.inputs import INPUTS, Input
from wraithon.stage.rerun import changed_layers, rerun
from wraithon.stage.sampler_cache import SamplerCache
from wraithon.stage.show import Show
from wraithon.support.errors import ProjectError
from wraithon.support.nearest import no_such

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence

    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.project.effect import Effect
    from wraithon.project.project import Project
    from wraithon.project.trigger import Trigger
    from wraithon.stage.copies import ShowCopy


COPY_SECONDS = 0.5
LONGEST = 24 * 3600.0


class Player:
    """Plays a project.

    Parameters
    ----------
    project
        What to play.
    characters
        Character id to what was read from its file.
    samplers
        Makes the samplers of sources and keeps them; needed where masks are pictures.
    driven
        Whether the character is driven by hand; else it plays the running order.
    partial
        Whether to play without a character whose file could not be read.

    Raises
    ------
    wraithon.support.errors.ProjectError
        When the project's character is not among `characters`, and that is not `partial`.
    """

    copy_bytes = 96 * 2**20
    """Memory for copies of the show, of all players."""

    def __init__(
        self,
        project: Project,
        characters: Mapping[str, Character],
        samplers: SamplerCache | None = None,
        *,
        driven: bool = False,
        partial: bool = False,
    ) -> None:
        use = project.character
        if use is not None and use.id not in characters and not partial:
            raise ProjectError(
                f'the project\'s character "{use.name}" was not given: pass what wraithon.stage.loading.load read, or'
                " partial=True to play without it"
            )
        self._characters, self._partial = dict(characters), partial
        self._samplers = samplers or SamplerCache()
        self.compiled: CompiledProject = compile_project(project, self._characters, self._samplers)
        self._driven = driven
        self.show = Show(self.compiled, driven=driven)
        self._alive = np.full(1024, -1, np.int64)
        """How many particles lived at each step; -1 where that is not known."""
        self._alive[0] = 0
        self._copies: OrderedDict[int, ShowCopy] = OrderedDict()
        self._copied = 0
        self._pure = True
        """Whether the show is what a fresh run to this moment would be."""
        self._carry = 0.0
        self._before: CompiledProject | None = None
        """What the show ran under when it was exact last, while nothing but its layers was edited since."""
        self._again: Player | None = None
        """Runs anew what was mended, for what mending leaves out."""
        self._patched = False
        self._inputs: dict[int, list[Input]] = {}
        self._keep_copy()

    @property
    def project(self) -> Project:
        """The project being played."""
        return self.compiled.project

    @property
    def time(self) -> float:
        """Seconds since the show began."""
        return self.show.time

    @property
    def pure(self) -> bool:
        """Whether the show is exactly what a fresh run to this moment would be."""
        return self._pure

    # ---- going on -------------------------------------------------------------------------------

    def advance(self, seconds: float, extras: Callable[[Show], object] | None = None) -> int:
        """Advance by `seconds`, in whole steps; what is left over is carried to the next call.

        What goes along `extras` the show hears of it after each of them.

        Returns
        -------
        int
            How many steps were taken.

        Raises
        ------
        wraithon.support.errors.ProjectError
            When `seconds` is no finite number.
        """
        _finite("advance", seconds)
        # The tenth of a billionth keeps 1/60 + 1/60 + ... from losing a step to rounding.
        self._carry += seconds * self.show.rate
        steps = max(0, math.floor(self._carry + 1e-7))
        self._carry = max(0.0, self._carry - steps)
        for _ in range(steps):
            self.step()
            if extras is not None:
                extras(self.show)
        return steps

    def step(self) -> None:
        """Advance by one step."""
        for given in self._inputs.get(self.show.step_number, ()):
            INPUTS[given.kind](self.show, given)
        self._before = self._again = None
        self.show.advance()
        self._note_alive()
        if self._pure and self.show.step_number % self._every == 0:
            self._keep_copy()

    def _note_alive(self) -> None:
        number = self.show.step_number
        if number >= len(self._alive):
            self._alive = np.concatenate([self._alive, np.full(len(self._alive), -1, np.int64)])
        self._alive[number] = self.show.alive

    def seek(self, time: float) -> None:
        """Seek to a moment in seconds: exactly what playing to it from the start would show.

        Raises
        ------
        wraithon.support.errors.ProjectError
            When `time` is no finite number.
        """
        _finite("seek", time)
        target = self.step_of(time)
        while not self.seek_some(target, 10_000):
            pass

    def step_of(self, time: float) -> int:
        """Return the number of the step that shows a moment."""
        return max(0, round(min(time, LONGEST) * self.show.rate))

    def seek_some(self, target: int, steps: int) -> bool:
        """Advance at most `steps` towards step `target`; return whether it is reached.

        The way starts from the nearest stored copy before the target.
        """
        gone = [n for n in self._inputs if n >= target]
        if gone and not self._driven and self.show.step_number > target:
            for number in gone:
                del self._inputs[number]
            self._forget_after(min(gone))
        if not self._pure or self.show.step_number > target or self._copy_between(target):
            self.show.restore(self._nearest(target))
            self._pure, self._patched = True, False
            self._before = self._again = None
            self._carry = 0.0
        for _ in range(min(steps, target - self.show.step_number)):
            self.step()
        return self.show.step_number == target

    def fire(self, effect: Effect | str, anchor: str | None) -> None:
        """Start an effect, or the one with this id, with the next step, outside any trigger.

        It is kept as an input of this run, so that going on, seeking ahead and edits play it again; seeking to before
        it forgets it. Where the character is driven, only another input before it does.

        Raises
        ------
        wraithon.support.errors.ProjectError
            When there is no such effect.
        """
        effect_id = effect if isinstance(effect, str) else effect.id
        if self.compiled.effect(effect_id) is None:
            raise _unknown("effect", effect_id, self.project.effects)
        self._take(Input("fire", effect_id, anchor))

    def respond(self, trigger_id: str, strength: float = 1.0, ground: str = "") -> None:
        """Fire a trigger with the next step, whatever it waits for and asks; kept as what is fired is.

        It does so with a share of all strength, and as on a kind of ground; an empty one is that where it happens.

        Raises
        ------
        wraithon.support.errors.ProjectError
            When there is no such trigger.
        """
        if self.project.trigger(trigger_id) is None:
            raise _unknown("trigger", trigger_id, self.project.triggers)
        self._take(Input("try", trigger_id, ground or None, (strength,)))

    @property
    def tempo(self) -> float:
        """How fast the show goes now, as a share of its own speed: slower in slow motion."""
        return self.show.screen.tempo_at(self.time)

    # ---- driving --------------------------------------------------------------------------------

    @property
    def driven(self) -> bool:
        """Whether the character is driven by hand."""
        return self._driven

    def drive(self, *, driven: bool) -> None:
        """Drive the character by hand, or play the running order; either starts again."""
        if driven != self._driven:
            self._driven = driven
            self.restart()

    def restart(self) -> None:
        """Begin again, and forget all that was done by hand."""
        self._inputs.clear()
        self._copies.clear()
        self._copied, self._carry = 0, 0.0
        self._alive[1:] = -1
        self._before = self._again = None
        self._pure, self._patched = True, False
        self.show = Show(self.compiled, driven=self._driven)
        self._keep_copy()

    def steer(self, x: float, z: float, *, fast: bool = False) -> None:
        """Steer the driven character over the ground from the next step on: up to 1, none stops it."""
        size = max(1.0, math.hypot(x, z))
        if math.isfinite(x) and math.isfinite(z):
            self._take(Input("steer", values=(x / size, z / size, float(fast))))

    def act(self, what: str) -> None:
        """Let the driven character leap, strike, fall or rise with the next step.

        Raises
        ------
        wraithon.support.errors.ProjectError
            When it is none of these.
        """
        if what not in ACTS:
            raise ProjectError(no_such("act", what, ACTS))
        self._take(Input("act", what))

    def key(self, key: str) -> None:
        """Press a key, one letter or digit, for triggers that wait for it.

        Raises
        ------
        wraithon.support.errors.ProjectError
            When it is anything else.
        """
        if len(key) != 1 or not key.isascii() or not key.isalnum():
            raise ProjectError(f'"{key}" is no key that triggers wait for: give one letter or digit')
        self._take(Input("key", key.upper()))

    def hit(self, part: str, position: Sequence[float], strength: float = 1.0) -> None:
        """Hit the character on a part, at a place (3,) of the world; it is told at the anchor next to that.

        Raises
        ------
        wraithon.support.errors.ProjectError
            When the character has no such part.
        """
        performance = self.compiled.performance
        parts = {each.name for each in performance.character.parts} if performance else set()
        if part and parts and part not in parts:
            raise ProjectError(no_such("part", part, parts))
        anchors = self.anchors()
        away = {key: math.dist(matrix[:3, 3].tolist(), position) for key, matrix in anchors.items()}
        nearest = min(away, key=lambda key: (away[key], key)) if away else None
        if math.isfinite(sum(position)):
            self._take(Input("hit", part, nearest, (min(max(strength, 0.0), 1.0),)))

    def signal(self, signal: str, value: float) -> None:
        """Set a signal from the next step on: health, or one of the project's own by its id.

        Raises
        ------
        wraithon.support.errors.ProjectError
            When there is no such signal, or when it is measured and cannot be set.
        """
        if signal not in self.compiled.resting:
            called = {each.id: each.name for each in self.project.signals}
            raise ProjectError(no_such("signal that can be set", signal, self.compiled.resting, called))
        if math.isfinite(value):
            self._take(Input("signal", signal, values=(value,)))

    def _take(self, given: Input) -> None:
        here = self.show.step_number
        self._again = None
        for later in [n for n in self._inputs if n > here] if self._driven else ():
            del self._inputs[later]
        self._inputs.setdefault(here, []).append(given)
        self._forget_after(here)

    def _forget_after(self, number: int) -> None:
        for later in [n for n in self._copies if n > number]:
            self._copied -= self._copies.pop(later).size
        self._alive[number + 1 :] = -1

    def rewind(self) -> None:
        """Rewind to the beginning."""
        self.seek(0.0)

    # ---- edits ----------------------------------------------------------------------------------

    def adopt(self, project: Project, characters: Mapping[str, Character] | None = None) -> None:
        """Play an edited project from here on; what lives goes on under the new settings.

        Afterwards `pure` tells whether the show is also what a fresh run would show; if not, `mend`, or `seek` to
        the same moment, makes it so.
        """
        if characters is not None:
            self._characters = dict(characters)
        before = self.compiled
        self.compiled = compile_project(project, self._characters, self._samplers, before)
        same = compiled_alike(before, self.compiled)
        if self._pure and not same:
            self._before = before
        self._again = None
        self.show.adopt(self.compiled)
        if not same:
            self._copies.clear()
            self._copied = 0
            self._alive[1:] = -1
            if self.show.step_number == 0:
                self.show = Show(self.compiled, driven=self._driven)
                self._pure, self._patched, self._before = True, False, None
                self._keep_copy()
            else:
                self._pure = False

    def mend(self) -> bool:
        """Make the show exact after edits by running only the changed layers again; return whether that was enough.

        What it leaves out, `catch_up` brings: how many lived in the past, when what is over ended, and copies.
        """
        changed = changed_layers(self._before, self.compiled) if self._before else None
        if changed is None or not rerun(self.show, changed):
            return False
        self._pure, self._patched, self._before = True, True, None
        self._alive[self.show.step_number] = self.show.alive
        return True

    @property
    def behind(self) -> bool:
        """Whether the show was mended, and its past is not known yet."""
        return self._pure and self._patched

    def catch_up(self, steps: int) -> bool:
        """Run `steps` of the past anew, beside what is shown; return whether all of it is known."""
        again = self._again
        if again is None:
            again = self._again = Player(
                self.project, self._characters, self._samplers, driven=self._driven, partial=self._partial
            )
            again._inputs = self._inputs
        if not again.seek_some(self.show.step_number, steps):
            return False
        self.show = again.show
        self._alive, self._copies, self._copied = again._alive, again._copies, again._copied
        self._again, self._patched = None, False
        return True

    # ---- copies ---------------------------------------------------------------------------------

    @property
    def _every(self) -> int:
        return max(1, round(COPY_SECONDS * self.show.rate))

    def _keep_copy(self) -> None:
        number = self.show.step_number
        if number in self._copies:
            return
        copy = self.show.copy()
        self._copies[number] = copy
        self._copied += copy.size
        while self._copied > self.copy_bytes and len(self._copies) > 2:
            # Thin out the middle: the beginning and the latest stay.
            keys = list(self._copies)
            self._copied -= self._copies.pop(keys[1 + (len(keys) - 2) // 2]).size

    def _nearest(self, target: int) -> ShowCopy:
        best = max((n for n in self._copies if n <= target), default=None)
        if best is None:
            fresh = Show(self.compiled, driven=self._driven).copy()
            self._copies[0] = fresh
            self._copies.move_to_end(0, last=False)
            self._copied += fresh.size
            return fresh
        return self._copies[best]

    def _copy_between(self, target: int) -> bool:
        """Return whether a stored copy lies nearer to the target than the show does."""
        here = self.show.step_number
        return any(here < n <= target for n in self._copies if n - here > self._every)

    # ---- what is shown --------------------------------------------------------------------------

    def frame(self, without: frozenset[str] = frozenset()) -> Frame:
        """Return the moment, ready to be drawn; layers `without` are left out."""
        return frame_of(self.show, without)

    def problems(self) -> list[str]:
        """Return why layers give birth to nothing, as far as that shows only while playing."""
        found = []
        for effect in self.project.effects:
            for layer in effect.layers:
                program = self.compiled.programs.get(layer.id)
                if program is not None and program.sampler is not None and program.sampler.empty:
                    text = "its filters leave nothing of the character to emit from"
                    found.append(f"{effect.name}, {layer.name}: {text}; loosen them")
        return found

    def anchors(self) -> dict[str, NDArray[np.float32]]:
        """Return the world matrix (4, 4) of every anchor of the character on stage."""
        use = self.project.character
        number = self.show.step_number
        return {a.id: self.show.anchor_at(a.id, number) for a in use.anchors} if use else {}

    def trace(self, maximum: int = 2000) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
        """Return how many particles lived at past moments: seconds (n,) and numbers (n,), n at most `maximum`."""
        steps = np.flatnonzero(self._alive >= 0)
        steps = steps[:: max(1, -(-len(steps) // maximum))]
        return steps / self.show.rate, self._alive[steps]

    def digest(self) -> str:
        """Return a fingerprint of the show's state."""
        return self.show.digest()


def _unknown(kind: str, thing_id: str, things: Sequence[Effect] | Sequence[Trigger]) -> ProjectError:
    called = {thing.id: thing.name for thing in things}
    return ProjectError(no_such(kind, thing_id, called, called))


def _finite(call: str, seconds: float) -> None:
    if not math.isfinite(seconds):
        raise ProjectError(f"{call} takes a finite number of seconds, not {seconds}")
