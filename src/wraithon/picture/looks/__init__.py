"""What draws each kind of batch: one module a look, found by the batch's kind."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import TYPE_CHECKING, Any

from wraithon.picture.looks.drawer import Phase

if TYPE_CHECKING:
    from collections.abc import Iterable

    from wraithon.particles.looks.batch import Batch
    from wraithon.picture.looks.drawer import Scene

__all__ = ["draw_on_solid", "drawer_of", "of_phase"]


@cache
def drawer_of(kind: str) -> Any:
    """Return what draws the batches of a kind: a `Drawer` or, for what is laid on solid things, a `SolidDrawer`."""
    return import_module(f"{__name__}.{kind}").DRAWER


def of_phase(batches: Iterable[Batch], phase: Phase) -> list[tuple[Batch, Any]]:
    """Return the batches that are drawn in a phase, each with its drawer, in the order given."""
    drawn = ((batch, drawer_of(batch.kind)) for batch in batches)
    return [(batch, drawer) for batch, drawer in drawn if drawer.phase is phase]


def draw_on_solid(batches: Iterable[Batch], scene: Scene) -> None:
    """Draw what lies on the ground, and then lights, which fall on it, too."""
    batches = list(batches)
    for phase in (Phase.GROUND, Phase.LIGHT):
        for batch, drawer in of_phase(batches, phase):
            drawer.draw(batch, scene)
