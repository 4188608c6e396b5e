"""What goes along with the player's show without being part of it: an audition, and more of the character."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

from wraithon.studio.audition import NOTHING, Audition, AuditionWish
from wraithon.studio.crowd import Crowd

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wraithon.character.model import Character
    from wraithon.stage.frame import Frame
    from wraithon.stage.player import Player
    from wraithon.stage.sampler_cache import SamplerCache
    from wraithon.stage.show import Show


class SideSimulations:
    """An audition and a crowd beside a player's show."""

    def __init__(self) -> None:
        self._samplers: SamplerCache | None = None
        self._audition: Audition | None = None
        self._wish = NOTHING
        self._crowd, self._many = Crowd(), 0
        self._went_on = 0.0
        """When the audition last went on while the show rests."""

    def restart(self, samplers: SamplerCache) -> None:
        """Leave everything, and go along with another project's show from now on."""
        self._samplers, self._audition = samplers, None

    @property
    def runs(self) -> bool:
        """Whether an effect shows itself."""
        return self._audition is not None and self._audition.runs

    @property
    def alive(self) -> int:
        """Particles that live beside the show."""
        return (self._audition.alive if self._audition else 0) + self._crowd.alive

    @property
    def show(self) -> Show | None:
        """The audition's show; None without one."""
        return self._audition.show if self._audition else None

    def set_wanted(self, wish: AuditionWish | None, many: int | None) -> None:
        """Set which effect is auditioned, and how many more characters stand there; None: as before."""
        self._wish = self._wish if wish is None else wish
        self._many = self._many if many is None else many

    def take(self, player: Player, characters: Mapping[str, Character], *, edited: bool) -> None:
        """Audition the effect that is wanted, under the current settings."""
        if self._audition is None:
            assert self._samplers is not None  # given with the first project
            self._audition, self._went_on = Audition(self._samplers), time.perf_counter()
            self.call(player)
        self._audition.take(self._wish, player, characters)
        if edited:
            self._audition.adopt(player, characters)

    def call(self, player: Player) -> None:
        """Add as many more of the character as are wanted."""
        self._crowd.call(player.show, self._many)

    def advance_with(self, main: Show) -> None:
        """Take the step that the main show has just taken."""
        if self._audition is not None:
            self._audition.advance_with(main)
        self._crowd.advance_with(main)

    def advance(self, now: float, longest: float, tempo: float, main: Show) -> None:
        """Advance the audition while the main show rests, to a moment `now` of the clock."""
        if self._audition is not None and self._audition.runs:
            self._audition.advance(min(now - self._went_on, longest) * tempo, main)

    def rest(self, seconds: float) -> None:
        """Skip so many seconds of the audition in which something else was done."""
        self._went_on += seconds

    def note(self, now: float) -> None:
        """Hear that time up to `now` has been seen to."""
        self._went_on = now

    def frame(self, player: Player) -> Frame:
        """Return the player's moment with all that goes along with it."""
        frame = self._audition.frame(player) if self._audition else player.frame()
        return self._crowd.frame(frame, player.show)
