"""Kernels of poses and skinning: functions over flat arrays, nothing else."""

# Constants are float32 so that no loop is widened to float64.
from __future__ import annotations

import math

import numpy as np

from wraithon.numeric.compiled import BLOCK, inlined, kernel, parallel_kernel, prange

ZERO, ONE, TWO, THREE = np.float32(0), np.float32(1), np.float32(2), np.float32(3)
HALF = np.float32(0.5)
NEARLY = np.float32(0.9995)
TINY = np.float32(1e-20)
R0, R1, R2, R3 = np.uint64(0), np.uint64(1), np.uint64(2), np.uint64(3)


@inlined
def _slerp(a, b, t, out):  # type: ignore[no-untyped-def]
    """Spherical interpolation of unit quaternions along the shorter way (Shoemake 1985)."""
    dot = a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3]
    sign = ONE
    if dot < ZERO:
        dot, sign = -dot, -ONE
    if dot > NEARLY:
        u, v = ONE - t, t * sign
    else:
        angle = math.acos(dot)
        s = ONE / math.sin(angle)
        u, v = math.sin((ONE - t) * angle) * s, math.sin(t * angle) * s * sign
    length = ZERO
    for k in range(4):
        out[k] = u * a[k] + v * b[k]
        length += out[k] * out[k]
    length = ONE / math.sqrt(max(length, TINY))
    for k in range(4):
        out[k] *= length


@kernel
def sample_tracks(time, heads, value_heads, times, values, out):  # type: ignore[no-untyped-def]
    """Write a clip's local transforms at `time` seconds into `out` (N, 10), untouched where no track is.

    Interpolation as in glTF 2.0, appendix C.
    """
    sampled = np.empty(4, np.float32)
    for c in range(len(heads)):
        node, path, mode, first, count = heads[c]
        row = value_heads[c]
        width = 4 if path == 1 else 3
        column = 0 if path == 0 else (3 if path == 1 else 7)
        stride = 3 if mode == 2 else 1
        middle = 1 if mode == 2 else 0
        low, high = 0, count
        while low < high:  # the number of keys at or before `time`
            half = (low + high) // 2
            if times[first + half] <= time:
                low = half + 1
            else:
                high = half
        k = low - 1
        if k < 0 or k >= count - 1 or mode == 0:
            k = min(max(k, 0), count - 1)
            for j in range(width):
                sampled[j] = values[row + k * stride + middle, j]
        else:
            t0, t1 = times[first + k], times[first + k + 1]
            span = t1 - t0
            t = np.float32((time - t0) / span)
            if mode == 2:
                t2, t3 = t * t, t * t * t
                for j in range(width):
                    p0, m0 = values[row + 3 * k + 1, j], values[row + 3 * k + 2, j] * span
                    p1, m1 = values[row + 3 * k + 4, j], values[row + 3 * k + 3, j] * span
                    sampled[j] = (
                        (TWO * t3 - THREE * t2 + ONE) * p0
                        + (t3 - TWO * t2 + t) * m0
                        + (THREE * t2 - TWO * t3) * p1
                        + (t3 - t2) * m1
                    )
            elif path == 1:
                _slerp(values[row + k], values[row + k + 1], t, sampled)
            else:
                for j in range(width):
                    sampled[j] = values[row + k, j] + t * (values[row + k + 1, j] - values[row + k, j])
        if path == 1:
            length = math.sqrt(sampled[0] ** 2 + sampled[1] ** 2 + sampled[2] ** 2 + sampled[3] ** 2)
            if length < TINY:
                sampled[0], sampled[1], sampled[2], sampled[3], length = ZERO, ZERO, ZERO, ONE, ONE
            for j in range(4):
                sampled[j] /= length
        for j in range(width):
            out[node, column + j] = sampled[j]


@kernel
def blend_locals(a, b, share, out):  # type: ignore[no-untyped-def]
    """Write the mix of local transforms `a` and `b` (N, 10), `share` of b, into `out`."""
    for i in range(len(a)):
        for j in range(3):
            out[i, j] = a[i, j] + share * (b[i, j] - a[i, j])
            out[i, 7 + j] = a[i, 7 + j] + share * (b[i, 7 + j] - a[i, 7 + j])
        _slerp(a[i, 3:7], b[i, 3:7], share, out[i, 3:7])


@kernel
def global_matrices(parents, local, fixed, is_fixed, root, out):  # type: ignore[no-untyped-def]
    """Write world matrices (N, 4, 4) of local transforms (N, 10); parents come before children."""
    m = np.empty((3, 4), np.float32)
    for i in range(len(parents)):
        if is_fixed[i]:
            for r in range(3):
                for c in range(4):
                    m[r, c] = fixed[i, r, c]
        else:
            x, y, z, w = local[i, 3], local[i, 4], local[i, 5], local[i, 6]
            sx, sy, sz = local[i, 7], local[i, 8], local[i, 9]
            m[0, 0] = (ONE - TWO * (y * y + z * z)) * sx
            m[0, 1] = TWO * (x * y - z * w) * sy
            m[0, 2] = TWO * (x * z + y * w) * sz
            m[1, 0] = TWO * (x * y + z * w) * sx
            m[1, 1] = (ONE - TWO * (x * x + z * z)) * sy
            m[1, 2] = TWO * (y * z - x * w) * sz
            m[2, 0] = TWO * (x * z - y * w) * sx
            m[2, 1] = TWO * (y * z + x * w) * sy
            m[2, 2] = (ONE - TWO * (x * x + y * y)) * sz
            for r in range(3):
                m[r, 3] = local[i, r]
        parent = parents[i]
        for r in range(3):
            for c in range(4):
                total = ZERO
                for k in range(3):
                    above = root[r, k] if parent < 0 else out[parent, r, k]
                    total += above * m[k, c]
                if c == 3:
                    total += root[r, 3] if parent < 0 else out[parent, r, 3]
                out[i, r, c] = total
        out[i, 3, 0], out[i, 3, 1], out[i, 3, 2], out[i, 3, 3] = ZERO, ZERO, ZERO, ONE


@parallel_kernel
def skin_vertices(positions, normals, joints, weights, matrices, out_positions, out_normals):  # type: ignore[no-untyped-def]
    """Linear blend skinning of positions and normals (V, 3) by palette matrices (P, 4, 4).

    Without room for normals, `out_normals` (0, 3), only positions are worked out.
    """
    count, width = joints.shape
    turning = len(out_normals) > 0
    blocks = (count + BLOCK - 1) // BLOCK
    for block in prange(blocks):
        for i in range(block * BLOCK, min(count, (block + 1) * BLOCK)):
            px, py, pz = positions[i, 0], positions[i, 1], positions[i, 2]
            nx, ny, nz = normals[i, 0], normals[i, 1], normals[i, 2]
            x, y, z = ZERO, ZERO, ZERO
            u, v, w = ZERO, ZERO, ZERO
            for k in range(width):
                share = weights[i, k]
                if share == ZERO:
                    continue
                # An unsigned place, and no view of the matrix: both would cost more than the arithmetic.
                j = np.uint64(joints[i, k])
                m00, m01, m02 = matrices[j, R0, R0], matrices[j, R0, R1], matrices[j, R0, R2]
                m10, m11, m12 = matrices[j, R1, R0], matrices[j, R1, R1], matrices[j, R1, R2]
                m20, m21, m22 = matrices[j, R2, R0], matrices[j, R2, R1], matrices[j, R2, R2]
                x += share * (m00 * px + m01 * py + m02 * pz + matrices[j, R0, R3])
                y += share * (m10 * px + m11 * py + m12 * pz + matrices[j, R1, R3])
                z += share * (m20 * px + m21 * py + m22 * pz + matrices[j, R2, R3])
                if turning:
                    u += share * (m00 * nx + m01 * ny + m02 * nz)
                    v += share * (m10 * nx + m11 * ny + m12 * nz)
                    w += share * (m20 * nx + m21 * ny + m22 * nz)
            out_positions[i, 0], out_positions[i, 1], out_positions[i, 2] = x, y, z
            if not turning:
                continue
            length = ONE / math.sqrt(max(u * u + v * v + w * w, TINY))
            out_normals[i, 0], out_normals[i, 1], out_normals[i, 2] = u * length, v * length, w * length


@kernel
def min_cosine(before, now):  # type: ignore[no-untyped-def]
    """Return the cosine of the widest turn of any node from one pose's matrices (N, 4, 4) to another's.

    The trace of a rotation by an angle is 1 + 2 cos angle (Euler); scale is taken out.
    """
    minimum = ONE
    for n in range(len(before)):
        square, trace = ZERO, ZERO
        for r in range(3):
            for c in range(3):
                square += before[n, r, c] * before[n, r, c]
                trace += before[n, r, c] * now[n, r, c]
        minimum = min(minimum, HALF * (THREE * trace / max(square, TINY) - ONE))
    return minimum


@kernel
def anchor_matrices(matrices, nodes, offsets, turns, grounded, scale, out):  # type: ignore[no-untyped-def]
    """Write world matrices (A, 4, 4) of anchors: `turns` (A, 3, 3) and `offsets` (A, 3) from their nodes.

    Axes come from the nodes' matrices (N, 4, 4) without their scale, or, where `grounded` (A,), are the world's.
    """
    for i in range(len(nodes)):
        node = nodes[i]
        axes = np.zeros((3, 3))
        for c in range(3):
            square = 0.0
            for r in range(3):
                axes[r, c] = matrices[node, r, c]
                square += axes[r, c] * axes[r, c]
            length = max(math.sqrt(square), 1e-12)
            for r in range(3):
                axes[r, c] = (1.0 if r == c else 0.0) if grounded[i] else axes[r, c] / length
        for r in range(3):
            position = 0.0 if grounded[i] and r == 1 else float(matrices[node, r, 3])
            for c in range(3):
                rotated = 0.0
                for k in range(3):
                    rotated += axes[r, k] * turns[i, k, c]
                out[i, r, c] = rotated
                position += axes[r, c] * offsets[i, c] * scale
            out[i, r, 3] = position
            out[i, 3, r] = 0.0
        out[i, 3, 3] = 1.0
