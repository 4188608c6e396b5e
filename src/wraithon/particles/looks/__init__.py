"""What each look draws of a pool: one module a look, found by its kind."""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from wraithon.particles.looks.batch import Batch
    from wraithon.particles.pool import Pool
    from wraithon.particles.program import LayerProgram

__all__ = ["batch_of"]


def batch_of(pool: Pool, program: LayerProgram) -> Batch:
    """Return what is drawn of a layer's living particles."""
    made: Batch = import_module(f"{__name__}.{program.layer.look.kind}").batch_of(pool, program)
    return made
