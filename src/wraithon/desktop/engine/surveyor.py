"""Surveys that are asked for, a slice at a time on the engine's thread while nothing plays."""

from __future__ import annotations

import logging
import time
from typing import TYPE_CHECKING

from wraithon.studio.survey import surveying, worth_surveying
from wraithon.support.errors import WraithonError

if TYPE_CHECKING:
    from collections.abc import Generator, Mapping

    from wraithon.character.model import Character
    from wraithon.picture.renderer import Renderer
    from wraithon.project.effect import Effect
    from wraithon.stage.player import Player
    from wraithon.stage.sampler_cache import SamplerCache
    from wraithon.studio.survey import Survey


log = logging.getLogger(__name__)

SLICE = 0.006
"""Seconds that a slice takes, about."""
QUIET, NAP = 0.5, 0.004
"""Seconds that an effect is left alone before it is surveyed, and that are slept meanwhile."""


class Surveyor:
    """The effect that is to be surveyed; the latest counts."""

    def __init__(self) -> None:
        self._effect: Effect | None = None
        self._at_work: Effect | None = None
        """The effect that is being surveyed, or was last."""
        self._work: Generator[float, None, Survey] | None = None
        self._due = 0.0

    @property
    def runs(self) -> bool:
        """Whether there is one."""
        return self._effect is not None or self._work is not None

    def ask(self, effect: Effect | None) -> None:
        """Ask for a survey of an effect, and of no other; None asks for nothing."""
        self._effect, self._work, self._due = effect, None, time.perf_counter() + QUIET

    def restart(self) -> None:
        """Begin again with what was asked for and is not done, since what surrounds it is another now."""
        if self.runs:
            self.ask(self._effect or self._at_work)

    def work(
        self, player: Player, characters: Mapping[str, Character], samplers: SamplerCache, renderer: Renderer
    ) -> Survey | None:
        """Work for a slice of time; return what was found once it is done."""
        began = time.perf_counter()
        if began < self._due:
            time.sleep(NAP)  # what is edited now is edited again soon
            return None
        try:
            if self._effect is not None:
                much = worth_surveying(self._effect.evolve(bounds=None), player.project.view)
                drawn = renderer if much else None
                self._work = surveying(self._effect, player.project, characters, samplers, drawn)
                self._effect, self._at_work = None, self._effect
            while self._work is not None and time.perf_counter() - began < SLICE:
                next(self._work)
        except StopIteration as over:
            self._work = None
            found: Survey = over.value
            return found
        except WraithonError as error:
            log.warning("survey: %s", error)
            self._work = None
        return None
