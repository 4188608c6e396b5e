"""When a layer gives birth, and how often."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from wraithon.project.base import Model, Unsigned

__all__ = ["MAX_LIVING", "MOST_ALIVE", "Burst", "Emission"]

MAX_LIVING, MOST_ALIVE = 400_000, 1_500_000
"""Particles that may live at once: of one layer, and of all together."""


class Burst(Model):
    """`count` births at once, at `time` seconds after the firing began, `repeats` times in all."""

    time: Unsigned = 0.0
    count: Annotated[int, Field(ge=0, le=MAX_LIVING)] = 20
    repeats: Annotated[int, Field(ge=1, le=10_000)] = 1
    interval: Annotated[float, Field(ge=0.001, le=1e4)] = 0.1


class Emission(Model):
    """Births a second within a window of the firing, and bursts.

    `start` and `length` are seconds after the firing began; a `length` of None lasts as long as the
    firing itself. `limit` is the number that may live at once, over all firings of the layer.
    """

    rate: Unsigned = 0.0
    start: Unsigned = 0.0
    length: Unsigned | None = None
    bursts: Annotated[tuple[Burst, ...], Field(max_length=64)] = ()
    limit: Annotated[int, Field(ge=1, le=MAX_LIVING)] = 2000
