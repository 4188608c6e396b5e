"""Plain NumPy versions of the kernels: slow, obvious, and what the kernels must equal."""

from __future__ import annotations

import numpy as np
from scipy.interpolate import CubicHermiteSpline
from scipy.spatial.transform import Rotation, Slerp

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


def identity(key, serials):
    """Return the identities of particles by their numbers."""
    with np.errstate(over="ignore"):
        return mix(np.uint64(key) + np.asarray(serials, np.uint64) * np.uint64(0x9E3779B97F4A7C15))


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
    for code, numbers, seed, (before, _) in zip(*forces[:3], points, strict=True):
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


def across(ways, turns):
    """Return directions (N, 3) at right angles to others, turned around them: in the basis of Duff et al. 2017."""
    x, y, z = ways.T
    sign = np.where(z >= 0, 1.0, -1.0)
    g = -1 / (sign + z)
    one = np.stack([1 + sign * x * x * g, sign * x * y * g, -sign * x], 1)
    two = np.stack([x * y * g, sign + y * y * g, -y], 1)
    return np.cos(turns)[:, None] * one + np.sin(turns)[:, None] * two


def births(key, serials, leads, dt, rules, positions):
    """Return the columns (COLUMNS, N) of particles born around an anchor, and how each set out."""
    who, f = identity(key, serials), (np.asarray(leads) / dt)[:, None]
    chance = {name: uniform(who, number).astype(float) for name, number in CHANNELS.items()}
    out = np.zeros((k.COLUMNS, len(who)), np.float32)
    ranges = (("life", rules.lifetime), ("speed", rules.speed))
    life, pace = (low + (high - low) * chance[name] for name, (low, high) in ranges)
    frames = np.stack([positions.before, positions.now]).astype(float)
    lerped = frames[0] + f[:, :, None] * (frames[1] - frames[0])  # (N, 5, 3)
    at, axes, velocity = lerped[:, 0], lerped[:, 1:4], np.tile(frames[1, 0] - frames[0, 0], (len(who), 1))
    u, v, w = chance["a"], chance["b"], chance["c"]
    z = 1 - 2 * u
    ball = np.stack([np.sqrt(1 - z * z) * np.cos(2 * np.pi * v), z, np.sqrt(1 - z * z) * np.sin(2 * np.pi * v)], 1)
    middle = ball
    if rules.kind == k.SPHERE:
        inner = rules.shape[1] ** 3
        at = at + ball * (rules.shape[0] * np.cbrt(inner + (1 - inner) * w))[:, None]
    elif rules.kind == k.RING:
        middle = np.stack([np.sin(2 * np.pi * u), 0 * u, np.cos(2 * np.pi * u)], 1)
        thick = rules.shape[1] * np.sqrt(w)
        at = at + middle * (rules.shape[0] + thick * np.cos(2 * np.pi * v))[:, None]
        at = at + np.outer(thick * np.sin(2 * np.pi * v), (0, 1, 0))
    elif rules.kind == k.LINE:
        way = lerped[:, 4] - at
        middle = across(way / np.linalg.norm(way, axis=1, keepdims=True), 2 * np.pi * v)
        at = at + u[:, None] * way + middle * (rules.shape[0] * np.sqrt(w))[:, None]
        velocity = velocity + u[:, None] * (frames[1, 4] - frames[0, 4] - velocity)
    elif rules.kind in {k.BOX, k.CONE}:
        own = (np.stack([u, v, w], 1) - 0.5) * rules.shape
        toward = own
        if rules.kind == k.CONE:
            off = rules.shape[1] * np.sqrt(u)
            toward = np.stack([off * np.cos(2 * np.pi * v), off * np.sin(2 * np.pi * v), 1 + 0 * u], 1)
            own = toward * (rules.shape[0] * np.cbrt(w))[:, None]
        at = at + np.einsum("na,nax->nx", own, axes)
        velocity = velocity + own @ (frames[1, 1:4] - frames[0, 1:4])
        middle = np.einsum("na,nax->nx", toward, axes)
        middle = middle / np.linalg.norm(middle, axis=1, keepdims=True)
    out[k.NX : k.NZ + 1] = middle.T
    if rules.heading == k.UP:
        middle = np.tile([0.0, 1.0, 0.0], (len(who), 1))
    elif rules.heading == k.FORWARD:
        ahead = axes[:, 2]
        middle = ahead / np.linalg.norm(ahead, axis=1, keepdims=True)
    cosine = 1 - chance["stray"] * (1 - np.cos(rules.spread))
    # The cap's own axes: any two at right angles will do for how far it strays, not for which way.
    velocity = velocity / dt * rules.keep
    out[k.PX : k.PZ + 1] = at.T
    out[k.LIFETIME], out[k.LEAD], out[k.RIDE_END] = life, leads, -1
    out[k.RED : k.GROWN + 1] = 1
    return out, middle, cosine, pace, velocity


CHANNELS = {"life": 0, "speed": 1, "stray": 3, "a": 11, "b": 12, "c": 13}


def meeting(birth, through, mode):
    """Return what a course makes of the value at birth."""
    return {"scale": birth * through, "add": birth + through, "replace": through + 0 * birth}[str(mode)]


def curve(table, age):
    """Return a table's values at normalised ages."""
    return np.interp(np.clip(age, 0, 1) * (len(table) - 1), np.arange(len(table)), table)


def swept(state, identity, count):
    """Return the identities that are still alive, in no order."""
    return sorted(identity[:count][state[k.AGE, :count] < state[k.LIFETIME, :count]].tolist())


# ---- poses ----------------------------------------------------------------------------------------


def locals_at(clip, rest, time):
    """Return local transforms (N, 10) of a clip, by SciPy's interpolation."""
    out = rest.astype(float).copy()
    for (node, path, mode, first, count), row in zip(clip.heads, clip.value_heads, strict=True):
        width, column = (4, 3) if path == 1 else (3, 7 if path == 2 else 0)
        times = clip.times[first : first + count].astype(float)
        stride = 3 if mode == 2 else 1
        values = clip.values[row : row + count * stride, :width].astype(float)
        at = np.clip(time, times[0], times[-1])
        if mode == 0:
            got = values[np.searchsorted(times, at, side="right") - 1]
        elif count == 1:
            got = values[stride // 2]
        elif mode == 2:
            got = hermite(times, values, at)
        elif path == 1:
            got = Slerp(times, Rotation.from_quat(values))([at]).as_quat()[0]
        else:
            got = [np.interp(at, times, values[:, j]) for j in range(width)]
        got = np.asarray(got)
        out[node, column : column + width] = got / np.linalg.norm(got) if path == 1 else got
    return out


def hermite(times, values, at):
    """Return a cubic spline's value where each key has its own slope in and out."""
    n = min(np.searchsorted(times, at, side="right") - 1, len(times) - 2)
    ends = CubicHermiteSpline(times[n : n + 2], values[[3 * n + 1, 3 * n + 4]], values[[3 * n + 2, 3 * n + 3]])
    return ends(at)


def world(parents, local, fixed, is_fixed, root):
    """Return world matrices (N, 4, 4) of local transforms (N, 10)."""
    out = []
    for n, parent in enumerate(parents):
        m = np.eye(4)
        if is_fixed[n]:
            m[:3] = fixed[n][:3]
        else:
            m[:3, :3] = Rotation.from_quat(local[n, 3:7]).as_matrix() * local[n, 7:10]
            m[:3, 3] = local[n, :3]
        out.append((root if parent < 0 else out[parent]) @ m)
    return np.array(out)


def skinned(character, matrices):
    """Return positions and unit normals (V, 3) by linear blend skinning."""
    mesh, skeleton = character.mesh, character.skeleton
    palette = matrices[skeleton.palette_nodes] @ skeleton.inverse_bind
    held = (palette[mesh.joints] * mesh.weights[..., None, None]).sum(axis=1)
    positions = np.einsum("vij,vj->vi", held[:, :3, :3], mesh.positions) + held[:, :3, 3]
    normals = np.einsum("vij,vj->vi", held[:, :3, :3], mesh.normals)
    return positions, normals / np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)


def holders(character):
    """Return the node that holds most of each triangle (T,)."""
    mesh, skeleton = character.mesh, character.skeleton
    held = np.zeros((len(mesh.positions), int(skeleton.palette_nodes.max()) + 1))
    for column in range(mesh.joints.shape[1]):
        np.add.at(
            held,
            (np.arange(len(held)), skeleton.palette_nodes[mesh.joints[:, column]]),
            np.maximum(mesh.weights[:, column], 0),
        )
    return held[mesh.triangles].sum(axis=1)


# ---- spacing --------------------------------------------------------------------------------------


def thinned(points, wanted, reach):
    """Return which points are left when the one most hemmed in goes, again and again (Yuksel 2015)."""
    away = np.linalg.norm(points[:, None] - points[None], axis=2)
    against = np.where(away < reach, (1 - np.minimum(away, reach) / reach) ** 8, 0)
    np.fill_diagonal(against, 0)
    left = np.ones(len(points), bool)
    while left.sum() > wanted:
        total = np.where(left, against[:, left].sum(axis=1), -1)
        left[len(total) - 1 - np.argmax(total[::-1])] = False
    return left


# ---- noise and masks ------------------------------------------------------------------------------


def value_noise(points):
    """Return the dissolve's noise (N,) at points (N, 3) in units of its blotches: two octaves, 0 to 1."""
    points = np.asarray(points, float)

    def octave(p, seed):
        base = np.floor(p)
        r = p - base
        fade = r**3 * (r * (r * 6 - 15) + 10)
        total = np.zeros(len(p))
        for corner in np.ndindex(2, 2, 2):
            c = np.array(corner)
            g = gradients(*(base.astype(np.int64) + c).T.astype(np.int32), seed)[:3]
            total += np.prod(np.where(c, fade, 1 - fade), axis=1) * (g.T * (r - c)).sum(axis=1)
        return total

    rough, fine = octave(points, 0x6C8E9CF5), octave(points * 2, 0x7FEB352D)
    return np.clip(0.5 + 0.55 * (rough + 0.5 * fine), 0.001, 0.999)


def corner_shares(kind, corner, v, w):
    """Return what each corner of a triangle (3,) counts: anywhere on it, along its edge, or at its vertex."""
    mix = np.zeros(3)
    if kind == 0:
        mix[:] = 1 - np.sqrt(v), np.sqrt(v) * (1 - w), np.sqrt(v) * w
    else:
        mix[corner] = 1 - v if kind == 1 else 1
        mix[(corner + 1) % 3] = v if kind == 1 else 0
    return mix


def chosen(sampler, key, serial, band=None):
    """Return row and numbers of one birth's place, or row -1: draw, look behind the mask, draw again."""
    who = identity(key, serial)
    if len(sampler.even_rows):
        return sampler.even_rows[serial % len(sampler.even_rows)], sampler.even_positions[
            serial % len(sampler.even_rows)
        ]

    def chance(channel):
        return float(uniform(who, channel))

    m = np.searchsorted(sampler.cumulative, chance(11), side="right")
    if sampler.kind == 3:  # along a bone, around it, out from it
        return sampler.rows[m], (chance(12), 2 * np.pi * chance(13), np.sqrt(chance(14)))
    for turn in range(128 if band else 24):
        at = 12 if turn == 0 else 64 + 4 * turn
        if band and turn:
            m = np.searchsorted(sampler.cumulative, chance(at + 3), side="right")
        row, corner, density = sampler.rows[m], sampler.corners[m], sampler.densities[m].astype(float)
        mix = corner_shares(sampler.kind, corner, chance(at), chance(at + 1))
        keep = density @ (mix if sampler.kind == 0 else np.roll(mix, -corner))
        corners = sampler.triangles[row]
        if sampler.image.size > 1:
            height, width = sampler.image.shape
            u, v = (mix @ sampler.uvs[corners]) % 1
            keep *= sampler.image[min(int(v * height), height - 1), min(int(u * width), width - 1)]
        taken = sampler.kind == 2 or chance(at + 2) < keep
        if band:
            taken &= band[0] <= value_noise((mix @ sampler.rest[corners])[None] * band[2])[0] <= band[1]
        if taken:
            return row, (mix[1], mix[2], 0)
    return (-1 if band else row), (mix[1], mix[2], 0)


def anchors(matrices, nodes, offsets, turns, grounded, scale):
    """Return world matrices (A, 4, 4) of anchors."""
    out = np.tile(np.eye(4), (len(nodes), 1, 1))
    for i, node in enumerate(nodes):
        held = matrices[node].astype(float)
        axes = np.eye(3) if grounded[i] else held[:3, :3] / np.linalg.norm(held[:3, :3], axis=0)
        middle = held[:3, 3] * ((1, 0, 1) if grounded[i] else 1)
        out[i, :3, :3], out[i, :3, 3] = axes @ turns[i], middle + axes @ offsets[i] * scale
    return out


def spread(points, kept, reach, goal, rounds):
    """Return which points are kept after those that stand too close moved to wider gaps (Schlömer 2011)."""
    kept = kept.copy()
    away = np.minimum(np.linalg.norm(points[:, None] - points[None], axis=2), reach)
    np.fill_diagonal(away, reach)

    def gap(i):
        return away[i, kept].min(initial=reach)

    for _ in range(rounds):
        was = np.array([gap(i) for i in range(len(kept))])
        now, moved, queue = was.copy(), 0, list(np.argsort(-was, kind="stable"))
        for i in np.flatnonzero(kept):
            if not kept[i] or (here := gap(i)) >= goal:
                continue
            kept[i] = False
            near = [j for j in np.flatnonzero(away[i] < reach) if not kept[j]]
            best = max([i, *near], key=lambda j: (here if j == i else gap(j), j == i))
            widest = here if best == i else gap(best)
            while queue and (kept[queue[0]] or now[queue[0]] < was[queue[0]]):
                queue.pop(0)
            if queue and now[queue[0]] > widest:
                best = queue[0]
            kept[best] = True
            if best != i:
                moved += 1
                now = np.minimum(now, np.where(away[best] < reach, away[best], now))
        if not moved:
            break
    return kept
