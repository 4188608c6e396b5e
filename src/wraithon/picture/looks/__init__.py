"""What draws each kind of batch: one module a look, found by the batch's kind."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterable

    from wraithon.particles.looks.batch import Batch
    from wraithon.picture.looks.drawer import Drawer, Phase

__all__ = ["drawer_of", "of_phase"]


@cache
def drawer_of(kind: str) -> Drawer:
    """Return what draws the batches of a kind."""
    drawer: Drawer = import_module(f"{__name__}.{kind}").DRAWER
    return drawer


def of_phase(batches: Iterable[Batch], phase: Phase) -> list[tuple[Batch, Drawer]]:
    """Return the batches that are drawn in a phase, each with its drawer, in the order given."""
    drawn = ((batch, drawer_of(batch.kind)) for batch in batches)
    return [(batch, drawer) for batch, drawer in drawn if drawer.phase is phase]
