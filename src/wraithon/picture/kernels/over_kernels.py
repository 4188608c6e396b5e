"""The kernel that lays the transparent pass over the picture where it was done at a coarser size."""

from __future__ import annotations

import numpy as np

from wraithon.numeric.compiled import drawing_kernel, prange

ZERO, HALF = np.float32(0), np.float32(0.5)
U1 = np.uint64(1)


@drawing_kernel
def composite_over(layer, counts, rows, step, columns, shares, picture):  # type: ignore[no-untyped-def]
    """Lay the transparent pass (4, h, w), `step` times coarser, over the picture (3, H, W), smoothly.

    Bands of `rows` rows of which the `counts` (bands + 1,) say that they hold nothing are left out. `columns`
    (W,) and `shares` (W,) say between which two of its columns each pixel lies, and where.
    """
    coarse_height, coarse_width = layer.shape[1], layer.shape[2]
    height, width = picture.shape[1], picture.shape[2]
    for y in prange(height):
        fy = min(max((np.float32(y) + HALF) / step - HALF, ZERO), np.float32(coarse_height - 1))
        y0 = int(fy)
        y1 = min(y0 + 1, coarse_height - 1)
        if counts[y0 // rows] == counts[y0 // rows + 1] and counts[y1 // rows] == counts[y1 // rows + 1]:
            continue
        sy = fy - np.float32(y0)
        row, through = np.empty(coarse_width + 1, np.float32), np.empty(width, np.float32)
        for turn in range(4):
            channel = 3 - turn  # what is let through comes first
            for x in range(coarse_width):
                row[x] = layer[channel, y0, x] + sy * (layer[channel, y1, x] - layer[channel, y0, x])
            row[coarse_width] = row[coarse_width - 1]
            if channel == 3:
                for x in range(width):
                    through[x] = row[columns[x]] + shares[x] * (row[columns[x] + U1] - row[columns[x]])
            else:
                for x in range(width):
                    light = row[columns[x]] + shares[x] * (row[columns[x] + U1] - row[columns[x]])
                    picture[channel, y, x] = picture[channel, y, x] * through[x] + light
