"""Places on a character, as samplers give them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

__all__ = ["Places"]


@dataclass(frozen=True)
class Places:
    """Places on a character: rows (N,) of triangles or bones, and three numbers each (N, 3)."""

    rows: NDArray[np.int32]
    numbers: NDArray[np.float32]
