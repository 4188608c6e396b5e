"""What each look draws of a pool: one module a look, found by its kind."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import TYPE_CHECKING

from wraithon.particles.looks.batch import ShowMoment

if TYPE_CHECKING:
    from collections.abc import Callable

    from wraithon.particles.looks.batch import Batch
    from wraithon.particles.pool import Pool
    from wraithon.particles.program import LayerProgram

__all__ = ["batch_of"]


@cache
def _writer(kind: str) -> Callable[[Pool, LayerProgram, ShowMoment], Batch]:
    writer: Callable[[Pool, LayerProgram, ShowMoment], Batch] = import_module(f"{__name__}.{kind}").batch_of
    return writer


def batch_of(pool: Pool, program: LayerProgram, moment: ShowMoment | None = None) -> Batch:
    """Return what is drawn of a layer's living particles.

    Parameters
    ----------
    pool, program
        The particles, and the layer's numbers.
    moment
        The moment of the show; the beginning of an empty one unless told.
    """
    return _writer(program.layer.look.kind)(pool, program, moment or ShowMoment())
