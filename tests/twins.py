"""Plain NumPy versions of the kernels: slow, obvious, and what the kernels must equal."""

from __future__ import annotations

import numpy as np

from wraithon.particles import columns as k
from wraithon.particles import force_kernels

MASK = np.uint64(0xFFFFFFFFFFFFFFFF)


def mix(x):
    with np.errstate(over="ignore"):
        x = (x ^ (x >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        x = (x ^ (x >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
        return x ^ (x >> np.uint64(31))


def uniform(identity, channel):
    with np.errstate(over="ignore"):
        bits = mix(identity + np.uint64(channel) * np.uint64(0xD1342543DE82EF95)) >> np.uint64(40)
    return bits.astype(np.float32) * np.float32(2.0**-24)


def _hash(x):
    with np.errstate(over="ignore"):
        x = (x ^ (x >> np.uint32(16))) * np.uint32(0x7FEB352D)
        x = (x ^ (x >> np.uint32(15))) * np.uint32(0x846CA68B)
        return x ^ (x >> np.uint32(16))


def gradients(ix, iy, iz, seed):
    """Return the nine gradient components (9, N) of lattice corners."""
    with np.errstate(over="ignore"):
        bits = _hash(
            (ix.astype(np.uint32) * np.uint32(0x9E3779B1))
            ^ (iy.astype(np.uint32) * np.uint32(0x85EBCA77))
            ^ (iz.astype(np.uint32) * np.uint32(0xC2B2AE3D))
            ^ np.uint32(seed)
        )
        more = _hash(bits ^ np.uint32(0x6C8E9CF5))
    parts = [(bits >> np.uint32(s)) & np.uint32(63) for s in (0, 6, 12, 18, 24)]
    parts += [(more >> np.uint32(s)) & np.uint32(63) for s in (0, 6, 12, 18)]
    return np.stack(parts).astype(np.float64) / 32 - 1


def potential(p, seed):
    """Return three gradient-noise fields (N, 3) at points (N, 3)."""
    base = np.floor(p)
    r = p - base
    fade = r**3 * (r * (r * 6 - 15) + 10)
    total = np.zeros((len(p), 3))
    for corner in np.ndindex(2, 2, 2):
        c = np.array(corner)
        weight = np.prod(np.where(c, fade, 1 - fade), axis=1)
        g = gradients(*(base.astype(np.int64) + c).T.astype(np.int32), seed)
        d = r - c
        for a in range(3):
            total[:, a] += weight * (g[3 * a : 3 * a + 3].T * d).sum(axis=1)
    return total


def curl(p, seed, h=1e-5):
    """Return the curl of the potential by central differences (N, 3)."""
    grads = []
    for axis in range(3):
        e = np.zeros(3)
        e[axis] = h
        grads.append((potential(p + e, seed) - potential(p - e, seed)) / (2 * h))
    dx, dy, dz = grads
    return np.stack([dy[:, 2] - dz[:, 1], dz[:, 0] - dx[:, 2], dx[:, 1] - dy[:, 0]], axis=1)


def curl_exact(p, seed):
    """Return the same curl by the product rule, in float32 as the kernel works: what speed is measured against."""
    p = p.astype(np.float32)
    base = np.floor(p)
    r = p - base
    fade = r**3 * (r * (r * 6 - 15) + 10)
    slope = 30 * r * r * (r * (r - 2) + 1)
    grad = np.zeros((3, 3, len(p)), np.float32)  # field, axis
    index = base.astype(np.int32)
    for corner in np.ndindex(2, 2, 2):
        c = np.array(corner)
        w = np.where(c, fade, 1 - fade).T
        s = np.where(c, slope, -slope).T
        weight = w[0] * w[1] * w[2]
        by = (s[0] * w[1] * w[2], w[0] * s[1] * w[2], w[0] * w[1] * s[2])
        g = gradients(*(index + c).T.astype(np.int32), seed).astype(np.float32)
        d = (r - c).T
        for a in range(3):
            dot = g[3 * a] * d[0] + g[3 * a + 1] * d[1] + g[3 * a + 2] * d[2]
            for axis in range(3):
                grad[a, axis] += by[axis] * dot + weight * g[3 * a + axis]
    return np.stack([grad[2, 1] - grad[1, 2], grad[0, 2] - grad[2, 0], grad[1, 0] - grad[0, 1]], axis=1)


def step(state, dt, time, forces, points):
    """Advance free particles (COLUMNS, N) that meet no ground, in place, by rows of forces."""
    p, v = state[k.PX : k.PZ + 1].T, state[k.VX : k.VZ + 1].T
    a, drag = np.zeros((len(p), 3), np.float32), 0.0
    for code, numbers, seed, (before, _) in zip(*forces, points, strict=True):
        if code == force_kernels.PUSH:
            a += numbers[:3]
        elif code == force_kernels.DRAG:
            drag += numbers[0]
        elif code == force_kernels.CURL:
            drift = np.array([1, -1, 1], np.float32) * np.float32(numbers[2] * time)
            a += numbers[0] * curl_exact(p * numbers[1] + drift, seed)
        else:
            away = (p - before) * (1, 0, 1)
            r = np.linalg.norm(away, axis=1, keepdims=True)
            share = numbers[2] * np.exp((1 - (r * numbers[2]) ** 2) / 2)
            a += share * (numbers[0] * np.cross((0, 1, 0), away) - numbers[1] * away)
    v = (v + a * np.float32(dt)) * np.float32(np.exp(-drag * dt))
    state[k.PX : k.PZ + 1] = (p + v * np.float32(dt)).T
    state[k.VX : k.VZ + 1] = v.T
    state[k.AGE] += np.float32(dt)
