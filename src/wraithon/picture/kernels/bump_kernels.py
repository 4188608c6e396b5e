"""Kernels of what pictures of normals, roughness and metal do to skin."""

from __future__ import annotations

import numpy as np

from wraithon.numeric.compiled import drawing_helper, drawing_inlined
from wraithon.numeric.vectors import fused, larger, root, spread8
from wraithon.picture.kernels.columns import V_U, V_V

ZERO, ONE = np.float32(0), np.float32(1)
TINY, MINIMUM = np.float32(1e-12), np.float32(0.01)
"""The least a bent normal points outwards is a tenth, the root of the latter."""
K0, K1, K2, K3, K4 = (np.uint64(k) for k in range(5))


@drawing_helper
def slope(positions, vertices, a, b, c):  # type: ignore[no-untyped-def]
    """Return which way u grows on a triangle (not of unit length), and -1 where v grows to the left of it, else 1."""
    du, dv = vertices[b, V_U] - vertices[a, V_U], vertices[b, V_V] - vertices[a, V_V]
    eu, ev = vertices[c, V_U] - vertices[a, V_U], vertices[c, V_V] - vertices[a, V_V]
    turn = ONE if du * ev - eu * dv > ZERO else -ONE
    x = (positions[b, K0] - positions[a, K0]) * ev - (positions[c, K0] - positions[a, K0]) * dv
    y = (positions[b, K1] - positions[a, K1]) * ev - (positions[c, K1] - positions[a, K1]) * dv
    z = (positions[b, K2] - positions[a, K2]) * ev - (positions[c, K2] - positions[a, K2]) * dv
    return x * turn, y * turn, z * turn, turn


@drawing_inlined
def bent(nx, ny, nz, tx, ty, tz, hand, along, against):  # type: ignore[no-untyped-def]
    """Return unit normals bent by so much along u and against v, given which way u grows."""
    one, tiny = spread8(ONE), spread8(TINY)
    over = nx * tx + ny * ty + nz * tz
    tx, ty, tz = tx - over * nx, ty - over * ny, tz - over * nz
    inverse = one / root(larger(tx * tx + ty * ty + tz * tz, tiny))
    tx, ty, tz = tx * inverse, ty * inverse, tz * inverse
    # Across is where v grows, to the right or left of u; what is given is against it.
    across = spread8(ZERO) - hand * against
    bx, by, bz = ny * tz - nz * ty, nz * tx - nx * tz, nx * ty - ny * tx
    out = root(larger(one - along * along - against * against, spread8(MINIMUM)))
    x = along * tx + across * bx + out * nx
    y = along * ty + across * by + out * ny
    z = along * tz + across * bz + out * nz
    inverse = one / root(larger(x * x + y * y + z * z, tiny))
    return x * inverse, y * inverse, z * inverse


@drawing_inlined
def lit_around(low, high, share):  # type: ignore[no-untyped-def]
    """Return the light from around, by how much of it comes from above."""
    return fused(spread8(high - low), share, spread8(low))
