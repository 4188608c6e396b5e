"""Curl noise: divergence-free swirls from the curl of three gradient-noise fields (Bridson 2007)."""

from __future__ import annotations

import numpy as np

from wraithon.compiled import inlined

__all__ = ["curl_noise"]

ZERO, ONE = np.float32(0), np.float32(1)
SIX, TEN, FIFTEEN, THIRTY = np.float32(6), np.float32(10), np.float32(15), np.float32(30)
TWO, SIXTY = np.float32(2), np.float32(60)
# Six bits of a hash become a gradient component in [-1, 1).
_UNIT = np.float32(1 / 32)
_MASK = np.uint32(63)
_P, _Q, _R = np.uint32(0x9E3779B1), np.uint32(0x85EBCA77), np.uint32(0xC2B2AE3D)
_M1, _M2 = np.uint32(0x7FEB352D), np.uint32(0x846CA68B)
_S6, _S12, _S18, _S24 = np.uint32(6), np.uint32(12), np.uint32(18), np.uint32(24)
_S15, _S16 = np.uint32(15), np.uint32(16)
_NEXT = np.uint32(0x6C8E9CF5)


@inlined
def _hash(x):  # type: ignore[no-untyped-def]
    """Scramble 32 bits (Wellons 2018, "Prospecting for hash functions")."""
    x = (x ^ (x >> _S16)) * _M1
    x = (x ^ (x >> _S15)) * _M2
    return x ^ (x >> _S16)


@inlined
def _component(bits, shift):  # type: ignore[no-untyped-def]
    return np.float32(np.int32((bits >> shift) & _MASK)) * _UNIT - ONE


@inlined
def curl_noise(x, y, z, seed):  # type: ignore[no-untyped-def]
    """Return the curl (three float32) at a point in units of eddies; about 1 in size.

    Each lattice corner's two hashes give three gradients, so the three fields share the weights. The
    fade is Perlin's quintic (Perlin 2002), whose derivative is smooth, too.
    """
    fx, fy, fz = np.floor(x), np.floor(y), np.floor(z)
    ix, iy, iz = np.int32(fx), np.int32(fy), np.int32(fz)
    rx, ry, rz = np.float32(x - fx), np.float32(y - fy), np.float32(z - fz)
    ux = rx * rx * rx * (rx * (rx * SIX - FIFTEEN) + TEN)
    uy = ry * ry * ry * (ry * (ry * SIX - FIFTEEN) + TEN)
    uz = rz * rz * rz * (rz * (rz * SIX - FIFTEEN) + TEN)
    gx = THIRTY * rx * rx * (rx * (rx - TWO) + ONE)
    gy = THIRTY * ry * ry * (ry * (ry - TWO) + ONE)
    gz = THIRTY * rz * rz * (rz * (rz - TWO) + ONE)
    ax_y, ax_z, ay_x, ay_z, az_x, az_y = ZERO, ZERO, ZERO, ZERO, ZERO, ZERO
    for corner in range(8):
        cx, cy, cz = corner & 1, (corner >> 1) & 1, (corner >> 2) & 1
        dx, dy, dz = rx - np.float32(cx), ry - np.float32(cy), rz - np.float32(cz)
        wx = ux if cx else ONE - ux
        wy = uy if cy else ONE - uy
        wz = uz if cz else ONE - uz
        sx = gx if cx else -gx
        sy = gy if cy else -gy
        sz = gz if cz else -gz
        weight, by_x, by_y, by_z = wx * wy * wz, sx * wy * wz, wx * sy * wz, wx * wy * sz
        bits = _hash(
            (np.uint32(ix + np.int32(cx)) * _P)
            ^ (np.uint32(iy + np.int32(cy)) * _Q)
            ^ (np.uint32(iz + np.int32(cz)) * _R)
            ^ seed
        )
        more = _hash(bits ^ _NEXT)
        a0, a1, a2 = _component(bits, np.uint32(0)), _component(bits, _S6), _component(bits, _S12)
        b0, b1, b2 = _component(bits, _S18), _component(bits, _S24), _component(more, np.uint32(0))
        c0, c1, c2 = _component(more, _S6), _component(more, _S12), _component(more, _S18)
        pa = a0 * dx + a1 * dy + a2 * dz
        pb = b0 * dx + b1 * dy + b2 * dz
        pc = c0 * dx + c1 * dy + c2 * dz
        ax_y += by_y * pa + weight * a1
        ax_z += by_z * pa + weight * a2
        ay_x += by_x * pb + weight * b0
        ay_z += by_z * pb + weight * b2
        az_x += by_x * pc + weight * c0
        az_y += by_y * pc + weight * c1
    return az_y - ay_z, ax_z - az_x, ay_x - ax_y
