"""Turns that threads take: each does the next piece of work that none has begun.

Pieces that are dealt out beforehand keep all threads waiting for the one that began late, or was interrupted.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from llvmlite import ir
from numba.core import types

from wraithon.numeric.compiled import called
from wraithon.numeric.vectors import intrinsic

HANDS = 64
"""How many may take turns: threads that find none left have hardly done anything."""


@called
def fresh_turns():  # type: ignore[no-untyped-def] # noqa: ANN201
    """Return turns of which none is taken."""
    turns = np.empty(1, np.int64)
    turns[0] = 0
    return turns


@intrinsic
def next_turn(_context: Any, turns: Any) -> Any:
    """Return how many turns of an array (1,) of int64 were taken before, and take one; any thread may."""

    def generate(context: Any, builder: Any, sig: Any, values: Any) -> Any:
        data = context.make_array(sig.args[0])(context, builder, values[0]).data
        return builder.atomic_rmw("add", data, ir.Constant(ir.IntType(64), 1), "monotonic")

    return types.int64(turns), generate
