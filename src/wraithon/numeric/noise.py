"""Curl noise: divergence-free swirls from the curl of three gradient-noise fields (Bridson 2007)."""

from __future__ import annotations

import numpy as np

from wraithon.numeric.compiled import called, inlined
from wraithon.numeric.vectors import alike_whole, exact8, exactly, lowered, shifted, whole

ONE = np.float32(1)
SIX, TEN, FIFTEEN, THIRTY = np.float32(6), np.float32(10), np.float32(15), np.float32(30)
TWO = np.float32(2)
# Six bits of a hash become a gradient component in [-1, 1).
_UNIT = np.float32(1 / 32)
_MASK = np.uint32(63)
_P, _Q, _R = np.uint32(0x9E3779B1), np.uint32(0x85EBCA77), np.uint32(0xC2B2AE3D)
_M1, _M2 = np.uint32(0x7FEB352D), np.uint32(0x846CA68B)
_S0, _S6, _S12 = np.uint32(0), np.uint32(6), np.uint32(12)
_I1 = np.int32(1)
_S15, _S16 = np.uint32(15), np.uint32(16)
_NEXT = np.uint32(0x6C8E9CF5)
# The same for lanes, whose whole numbers have a sign.
_N_P, _N_Q, _N_R, _N1, _N2, _N_NEXT = (number.astype(np.int32) for number in (_P, _Q, _R, _M1, _M2, _NEXT))
_DOWN12, _DOWN15, _DOWN16 = np.int32(12), np.int32(15), np.int32(16)
_MASK0, _MASK6, _MASK12 = np.int32(63), np.int32(63 << 6), np.int32(63 << 12)
# 2^18, 2^12 and 2^6: what 32nds are the bits 0, 6 and 12 of; and one more than those.
_BASE0, _BASE6, _BASE12 = (np.float32(2**power).view(np.int32) for power in (18, 12, 6))
_LESS0, _LESS6, _LESS12 = (np.float32(2**power + 1) for power in (18, 12, 6))
_HALF, _SPREAD = np.float32(0.5), np.float32(0.55)
_MINIMUM, _MAX = np.float32(0.001), np.float32(0.999)


@inlined
def _hash(x):  # type: ignore[no-untyped-def]
    """Scramble 32 bits (Wellons 2018, "Prospecting for hash functions")."""
    # The compiler widens products of 32 bits to 64; each is cut back.
    x = np.uint32((x ^ (x >> _S16)) * _M1)
    x = np.uint32((x ^ (x >> _S15)) * _M2)
    return np.uint32(x ^ (x >> _S16))


@inlined
def _component(bits, shift):  # type: ignore[no-untyped-def]
    return np.float32(np.int32((bits >> shift) & _MASK)) * _UNIT - ONE


@inlined
def _hash_all(x):  # type: ignore[no-untyped-def]
    """Scramble the bits of each lane, as `_hash` does."""
    x = (x ^ shifted(x, _DOWN16)) * alike_whole(x, _N1)
    x = (x ^ shifted(x, _DOWN15)) * alike_whole(x, _N2)
    return x ^ shifted(x, _DOWN16)


@inlined
def _unit(bits, mask, base, less):  # type: ignore[no-untyped-def]
    """Return what six bits of each lane, those of `mask`, make of [-1, 1).

    Below the bits of a `base` they count as 32nds, so that the float they are is `less` too large; that is exact.
    """
    return exactly((bits & alike_whole(bits, mask)) | alike_whole(bits, base)) - exact8(less)


@inlined
def _units(bits):  # type: ignore[no-untyped-def]
    """Return what the lowest three times six bits of each lane make of [-1, 1)."""
    return (
        _unit(bits, _MASK0, _BASE0, _LESS0),
        _unit(bits, _MASK6, _BASE6, _LESS6),
        _unit(bits, _MASK12, _BASE12, _LESS12),
    )


@inlined
def _corner(dx, dy, dz, wx, wy, wz, sx, sy, sz, position):  # type: ignore[no-untyped-def]
    """Return what one lattice corner adds to the six derivatives that the curl is made of.

    `d` is the way from the corner, `w` the weights along each axis, `s` their slopes,
    `position` what it is hashed by.
    """
    weight, by_x, by_y, by_z = wx * wy * wz, sx * wy * wz, wx * sy * wz, wx * wy * sz
    bits = _hash_all(position)
    more = _hash_all(bits ^ alike_whole(bits, _N_NEXT))
    a0, a1, a2 = _units(bits)
    b2, c0, c1 = _units(more)
    upper = shifted(bits, _DOWN12)
    b0, b1 = _unit(upper, _MASK6, _BASE6, _LESS6), _unit(upper, _MASK12, _BASE12, _LESS12)
    c2 = _unit(shifted(more, _DOWN12), _MASK6, _BASE6, _LESS6)
    pa = a0 * dx + a1 * dy + a2 * dz
    pb = b0 * dx + b1 * dy + b2 * dz
    pc = c0 * dx + c1 * dy + c2 * dz
    return (
        by_y * pa + weight * a1,
        by_z * pa + weight * a2,
        by_x * pb + weight * b0,
        by_z * pb + weight * b2,
        by_x * pc + weight * c0,
        by_y * pc + weight * c1,
    )


@inlined
def _fade(p):  # type: ignore[no-untyped-def]
    """Return how much the farther corner weighs at a share of the way to it, and that weight's slope."""
    weight = p * p * p * (p * (p * exact8(SIX) - exact8(FIFTEEN)) + exact8(TEN))
    return weight, exact8(THIRTY) * p * p * (p * (p - exact8(TWO)) + exact8(ONE))


@inlined
def curl_noise(x, y, z, seed):  # type: ignore[no-untyped-def]
    """Return the curl (three times eight exact floats) at points in units of eddies; about 1 in size.

    Each lattice corner's two hashes give three gradients, so the three fields share the weights. The
    fade is Perlin's quintic (Perlin 2002), whose derivative is smooth, too.
    """
    one, minus = exact8(ONE), exact8(-ONE)
    fx, fy, fz = lowered(x), lowered(y), lowered(z)
    ix, iy, iz = whole(fx), whole(fy), whole(fz)
    p, q, r, next_ = alike_whole(ix, _N_P), alike_whole(ix, _N_Q), alike_whole(ix, _N_R), alike_whole(ix, _I1)
    jx, jy, jz = (ix + next_) * p, (iy + next_) * q, (iz + next_) * r
    ix, iy, iz = ix * p, iy * q, iz * r
    px, py, pz = x - fx, y - fy, z - fz
    qx, qy, qz = px - one, py - one, pz - one
    ux, gx = _fade(px)
    uy, gy = _fade(py)
    uz, gz = _fade(pz)
    vx, vy, vz = one - ux, one - uy, one - uz
    hx, hy, hz = gx * minus, gy * minus, gz * minus
    by = alike_whole(ix, np.int32(seed))
    near, far = iz ^ by, jz ^ by
    a = _corner(px, py, pz, vx, vy, vz, hx, hy, hz, ix ^ iy ^ near)
    b = _corner(qx, py, pz, ux, vy, vz, gx, hy, hz, jx ^ iy ^ near)
    c = _corner(px, qy, pz, vx, uy, vz, hx, gy, hz, ix ^ jy ^ near)
    d = _corner(qx, qy, pz, ux, uy, vz, gx, gy, hz, jx ^ jy ^ near)
    e = _corner(px, py, qz, vx, vy, uz, hx, hy, gz, ix ^ iy ^ far)
    f = _corner(qx, py, qz, ux, vy, uz, gx, hy, gz, jx ^ iy ^ far)
    g = _corner(px, qy, qz, vx, uy, uz, hx, gy, gz, ix ^ jy ^ far)
    h = _corner(qx, qy, qz, ux, uy, uz, gx, gy, gz, jx ^ jy ^ far)
    ax_y = a[0] + b[0] + c[0] + d[0] + e[0] + f[0] + g[0] + h[0]
    ax_z = a[1] + b[1] + c[1] + d[1] + e[1] + f[1] + g[1] + h[1]
    ay_x = a[2] + b[2] + c[2] + d[2] + e[2] + f[2] + g[2] + h[2]
    ay_z = a[3] + b[3] + c[3] + d[3] + e[3] + f[3] + g[3] + h[3]
    az_x = a[4] + b[4] + c[4] + d[4] + e[4] + f[4] + g[4] + h[4]
    az_y = a[5] + b[5] + c[5] + d[5] + e[5] + f[5] + g[5] + h[5]
    return az_y - ay_z, ax_z - az_x, ay_x - ax_y


@inlined
def _slope(ix, iy, iz, seed, dx, dy, dz):  # type: ignore[no-untyped-def]
    """Return a lattice corner's gradient times the way from it."""
    bits = _hash(np.uint32((np.uint32(ix) * _P) ^ (np.uint32(iy) * _Q) ^ (np.uint32(iz) * _R) ^ seed))
    return _component(bits, _S0) * dx + _component(bits, _S6) * dy + _component(bits, _S12) * dz


@inlined
def _gradient_noise(x, y, z, seed):  # type: ignore[no-untyped-def]
    """Return gradient noise (Perlin 2002) at a point, about -1 to 1."""
    fx, fy, fz = np.floor(x), np.floor(y), np.floor(z)
    ix, iy, iz = np.int32(fx), np.int32(fy), np.int32(fz)
    jx, jy, jz = np.int32(ix + _I1), np.int32(iy + _I1), np.int32(iz + _I1)
    px, py, pz = x - fx, y - fy, z - fz
    qx, qy, qz = px - ONE, py - ONE, pz - ONE
    ux = px * px * px * (px * (px * SIX - FIFTEEN) + TEN)
    uy = py * py * py * (py * (py * SIX - FIFTEEN) + TEN)
    uz = pz * pz * pz * (pz * (pz * SIX - FIFTEEN) + TEN)
    a, b = _slope(ix, iy, iz, seed, px, py, pz), _slope(jx, iy, iz, seed, qx, py, pz)
    c, d = _slope(ix, jy, iz, seed, px, qy, pz), _slope(jx, jy, iz, seed, qx, qy, pz)
    e, f = _slope(ix, iy, jz, seed, px, py, qz), _slope(jx, iy, jz, seed, qx, py, qz)
    g, h = _slope(ix, jy, jz, seed, px, qy, qz), _slope(jx, jy, jz, seed, qx, qy, qz)
    low, high = a + ux * (b - a), c + ux * (d - c)
    near = low + uy * (high - low)
    low, high = e + ux * (f - e), g + ux * (h - g)
    return near + uz * (low + uy * (high - low) - near)


@called
def value_at(x, y, z):  # type: ignore[no-untyped-def]
    """Return a figure from 0 to 1 at a point in units of its blotches: two octaves of gradient noise."""
    rough = _gradient_noise(x, y, z, _NEXT)
    fine = _gradient_noise(x * TWO, y * TWO, z * TWO, _M1)
    return min(max(_HALF + _SPREAD * (rough + _HALF * fine), _MINIMUM), _MAX)
