"""What is played of an effect: its dials followed, its times and master values in it, and nothing that is off."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.project.resolving.durations import lasting
from wraithon.project.resolving.enabled import acting
from wraithon.project.resolving.mastering import mastered
from wraithon.project.resolving.resolving import resolved

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wraithon.project.effect import Effect


def played(effect: Effect, settings: Mapping[str, float]) -> Effect:
    """Return what is played of an effect whose dials are set so (dial id to value), the others as they stand."""
    return acting(mastered(lasting(resolved(effect, settings)), effect.masters))
