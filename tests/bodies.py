"""Small characters made on the spot, for tests of sampling and posing."""

import numpy as np

from wraithon.character.mesh import smooth_normals
from wraithon.character.model import Character, Clip, Material, Mesh, Part, Skeleton, Track


def body(  # noqa: PLR0913  # every test says what it needs
    positions, triangles, *, parts=None, parents=(-1,), offsets=None, joints=None, weights=None, clips=(), uvs=None
):
    """Return a character of one mesh on a chain of joints named j0, j1, ...; all on the first unless told."""
    positions = np.asarray(positions, np.float32)
    triangles = np.asarray(triangles, np.int32)
    count, nodes = len(positions), len(parents)
    rest = np.zeros((nodes, 10), np.float32)
    rest[:, 6], rest[:, 7:] = 1, 1
    if offsets is not None:
        rest[:, :3] = offsets
    world = np.zeros((nodes, 3))
    for node, parent in enumerate(parents):
        world[node] = rest[node, :3] + (world[parent] if parent >= 0 else 0)
    inverse = np.tile(np.eye(4, dtype=np.float32), (nodes, 1, 1))
    inverse[:, :3, 3] = -world
    skeleton = Skeleton(
        names=tuple(f"j{n}" for n in range(nodes)),
        parents=np.asarray(parents, np.int32),
        rest=rest,
        fixed=np.tile(np.eye(4, dtype=np.float32), (nodes, 1, 1)),
        is_fixed=np.zeros(nodes, np.bool_),
        is_joint=np.ones(nodes, np.bool_),
        palette_nodes=np.arange(nodes, dtype=np.int32),
        inverse_bind=inverse,
    )
    sizes = parts or {"skin": len(triangles)}
    firsts = np.cumsum([0, *sizes.values()])
    mesh = Mesh(
        positions=positions,
        normals=smooth_normals(positions, triangles, None),
        uvs=np.zeros((count, 2), np.float32) if uvs is None else np.asarray(uvs, np.float32),
        triangles=triangles,
        joints=np.zeros((count, 1), np.int32) if joints is None else np.asarray(joints, np.int32),
        weights=np.ones((count, 1), np.float32) if weights is None else np.asarray(weights, np.float32),
        part_of_triangle=np.repeat(np.arange(len(sizes)), list(sizes.values())).astype(np.int32),
    )
    named = tuple(Part(name, int(first), size, 0) for (name, size), first in zip(sizes.items(), firsts, strict=False))
    return Character("made", named, mesh, skeleton, tuple(clips), (Material("plain"),))


def clip_of(name, times, *moves):
    """Return a clip with LINEAR keys: `moves` are node, path, and values (K, 3 or 4)."""
    tracks = []
    for node, path, values in moves:
        padded = np.zeros((len(times), 4), np.float32)
        padded[:, : np.shape(values)[1]] = values
        tracks.append(Track(node, path, 1, np.asarray(times, np.float32), padded))
    return Clip.pack(name, tracks)


def random_mesh(rng, count):
    """Return positions and triangles of a soup whose areas span four decades."""
    corners = rng.standard_normal((count, 3, 3))
    corners *= 10 ** np.linspace(-2.5, 0, count)[:, None, None]  # areas by the square
    return corners.reshape(-1, 3), np.arange(3 * count).reshape(-1, 3)


def sphere(rings=48, around=96):
    """Return positions and triangles of a unit sphere whose triangles get small towards the poles."""
    polar = np.linspace(0, np.pi, rings + 1)
    turn = np.linspace(0, 2 * np.pi, around, endpoint=False)
    p, t = np.meshgrid(polar, turn, indexing="ij")
    points = np.stack([np.sin(p) * np.cos(t), np.cos(p), np.sin(p) * np.sin(t)], axis=-1).reshape(-1, 3)
    i, j = np.meshgrid(np.arange(rings), np.arange(around), indexing="ij")
    a, b = i * around + j, i * around + (j + 1) % around
    quads = np.stack([a, b, a + around, b, b + around, a + around], axis=-1).reshape(-1, 3)
    return points, quads


def swaying_pole(joints=60, around=125):
    """Return a pole of 2 m whose joints all bend, one above the other, in the clip "sway".

    It has 2 · (`joints` + 1) · `around` triangles or a few less; each vertex is held by four joints.
    """
    step = 2.0 / joints
    points, triangles = sphere(joints + 1, around)
    points = np.column_stack([points[:, 0] * 0.3, points[:, 1] + 1, points[:, 2] * 0.3])
    held = np.clip(points[:, 1] / step, 1, joints - 2.001).astype(int)[:, None] + np.arange(-1, 3)
    weights = np.exp(-np.square(points[:, 1:2] / step - held))
    turns = np.zeros((3, 4))
    turns[:, 3] = 1
    turns[1, 2], turns[1, 3] = np.sin(0.01), np.cos(0.01)
    sway = clip_of("sway", [0, 0.5, 1], *((node, 1, turns) for node in range(joints)))
    return body(
        points,
        triangles,
        parents=range(-1, joints - 1),
        offsets=[[0, 0 if node == 0 else step, 0] for node in range(joints)],
        joints=held,
        weights=weights / weights.sum(axis=1, keepdims=True),
        clips=[sway],
    )
