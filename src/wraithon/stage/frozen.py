"""Skins of moments that are over: what afterimages are drawn from."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.character.pose import skin_of

if TYPE_CHECKING:
    from wraithon.character.pose import Skin
    from wraithon.stage.driving.actor import Actor


MAX_SKINS = 64


class Frozen:
    """Skins of an actor at earlier moments, worked out once each; the oldest are forgotten."""

    def __init__(self) -> None:
        self._skins: dict[int, Skin] = {}

    def skin_at(self, actor: Actor, moment: float) -> Skin:
        """Return the skin at a moment of the show in seconds, to the nearest millisecond."""
        key = round(moment * 1000)
        if key not in self._skins:
            while len(self._skins) >= MAX_SKINS:
                del self._skins[next(iter(self._skins))]
            self._skins[key] = skin_of(actor.character, actor.pose_at(key / 1000))
        return self._skins[key]
