"""Small pictures that are asked for, made one by one on the engine's thread while nothing plays."""

from __future__ import annotations

import logging
from collections import OrderedDict
from typing import TYPE_CHECKING

from wraithon.studio.thumbnails import thumbnail
from wraithon.support.errors import WraithonError

if TYPE_CHECKING:
    from collections.abc import Mapping

    import numpy as np
    from numpy.typing import NDArray

    from wraithon.character.model import Character
    from wraithon.picture.renderer import Renderer
    from wraithon.project.effect import Effect
    from wraithon.stage.player import Player
    from wraithon.stage.sampler_cache import SamplerCache


log = logging.getLogger(__name__)


class Gallery:
    """The small pictures that are still to be made, by the key they were asked for under; the latest counts."""

    def __init__(self) -> None:
        self._wanted: OrderedDict[str, Effect] = OrderedDict()

    @property
    def runs(self) -> bool:
        """Whether any is still to be made."""
        return bool(self._wanted)

    def ask(self, wanted: Mapping[str, Effect]) -> None:
        """Ask for pictures of effects alone; they are made before those that were asked for earlier."""
        earlier = {key: effect for key, effect in self._wanted.items() if key not in wanted}
        self._wanted = OrderedDict({**wanted, **earlier})

    def make_one(
        self, player: Player, characters: Mapping[str, Character], samplers: SamplerCache, renderer: Renderer
    ) -> tuple[str, NDArray[np.uint8]] | None:
        """Make the next picture; None where that is not possible."""
        key, effect = self._wanted.popitem(last=False)
        try:
            return key, thumbnail(effect, player.project, characters, samplers, renderer)
        except WraithonError as error:
            log.warning("small picture of %s: %s", effect.name, error)
            return None
