"""Steps of many small pools at once."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wraithon.numeric.compiled import FEW
from wraithon.particles.few_kernels import ARRAYS, SHARES, WHOLES, step_few
from wraithon.particles.pool import NO_CARRIERS, NO_POINTS, UNHEEDED

if TYPE_CHECKING:
    from collections.abc import Iterable

    from wraithon.particles.columns import Columns
    from wraithon.particles.pool import Pool
    from wraithon.particles.program import LayerProgram
    from wraithon.particles.rules import TickContext


MINIMUM = 4
"""Small pools from which on one call for all of them is quicker."""


def is_small(program: LayerProgram, pool: Pool) -> bool:
    """Return whether a pool's step may be taken with others': it is small, and asks for nothing of its own."""
    return 0 < pool.count <= FEW and program.plain


class SmallPools:
    """Rows of numbers that tell a kernel of pools, kept from step to step."""

    def __init__(self) -> None:
        self._arrays = np.zeros((0, ARRAYS), np.uint64)
        self._wholes = np.zeros((0, WHOLES), np.int64)
        self._shares = np.zeros((0, SHARES), np.float32)
        self._reports: list[tuple[Columns, LayerProgram]] = []
        """Of what each row tells; holding it keeps its memory in place."""
        self._runs = np.empty((FEW, 2), np.int32)

    def step(self, pools: Iterable[tuple[LayerProgram, Pool]], dt: float, time: float, around: TickContext) -> None:
        """Advance pools that are small (see `is_small`) to the end of a step, as `Pool.step` does unheeded."""
        pools = list(pools)
        if len(pools) > len(self._arrays):
            self._grow(2 * len(pools))
        reports = self._reports
        for row, (program, pool) in enumerate(pools):
            if row < len(reports) and reports[row][0] is pool.columns and reports[row][1] is program:
                continue
            self._report(row, pool.columns, program)
        many = len(pools)
        counts = np.array([pool.count for _, pool in pools], np.int64)
        step_few(
            self._arrays[:many], self._wholes[:many], self._shares[:many], counts, np.float32(dt), np.float32(time),
            NO_POINTS, around, NO_CARRIERS, UNHEEDED, self._runs,
        )  # fmt: skip
        for (_, pool), count in zip(pools, counts.tolist(), strict=True):
            pool.settle(count)

    def _grow(self, rows: int) -> None:
        self._arrays = np.zeros((rows, ARRAYS), np.uint64)
        self._wholes = np.zeros((rows, WHOLES), np.int64)
        self._shares = np.zeros((rows, SHARES), np.float32)
        self._reports = []

    def _report(self, row: int, columns: Columns, program: LayerProgram) -> None:
        rules, forces = program.flight, program.forces.rows
        arrays = (*columns, rules.speed_table, *forces)
        self._arrays[row] = [array.ctypes.data for array in arrays]
        self._wholes[row] = (
            len(columns.triangle), len(rules.speed_table), len(forces.codes),
            rules.kind, rules.upright, rules.turning, rules.contact, rules.speed_mode,
        )  # fmt: skip
        self._shares[row] = rules.keep, rules.lift, rules.radius, rules.bounce, rules.grip
        self._reports[row : row + 1] = [(columns, program)]
