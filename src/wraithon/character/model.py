"""A character as the program holds it: parts, skeleton, clips and materials, in plain arrays."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import TYPE_CHECKING, Self

import numpy as np

from wraithon.project.findings import CharacterFacts

if TYPE_CHECKING:
    from numpy.typing import NDArray


Floats = "NDArray[np.float32]"
Ints = "NDArray[np.int32]"


@dataclass(frozen=True)
class Material:
    """How a part's surface looks: factors, each times its picture, if there is one.

    Pictures are (H, W, 4) uint8, the first row at v = 0.
    """

    name: str
    colour: tuple[float, float, float, float] = (0.8, 0.8, 0.8, 1.0)
    emissive: tuple[float, float, float] = (0.0, 0.0, 0.0)
    roughness: float = 0.8
    two_sided: bool = False
    texture: NDArray[np.uint8] | None = None
    """sRGB with straight alpha, times the colour."""
    metal: float = 0.0
    surface: NDArray[np.uint8] | None = None
    """Green times the roughness, blue times the metal."""
    normal: NDArray[np.uint8] | None = None
    """Normals along u, against v, and outwards, each from -1 to 1."""
    normal_scale: float = 1.0
    occlusion: NDArray[np.uint8] | None = None
    """Red: how much of the light from all around gets there."""
    occlusion_strength: float = 1.0


@dataclass(frozen=True)
class Part:
    """A named piece of the mesh: a run of triangles with one material."""

    name: str
    first_triangle: int
    triangle_count: int
    material: int


@dataclass(frozen=True)
class MorphTarget:
    """One morph target: how far it takes which vertices, at weight 1."""

    name: str
    rows: NDArray[np.int32]
    """(R,) vertices, each once."""
    positions: NDArray[np.float32]
    """(R, 3) metres."""
    normals: NDArray[np.float32]
    """(R, 3) what is added to their normals."""

    def beyond(self, first: int) -> Self:
        """Return the shape for a mesh in which its vertices begin at `first`."""
        return type(self)(self.name, (self.rows + first).astype(np.int32), self.positions, self.normals)


@dataclass(frozen=True)
class Morphs:
    """The morph targets of a mesh; several shapes may go by one weight."""

    names: tuple[str, ...] = ()
    """(M,) what each weight is called."""
    weights: tuple[float, ...] = ()
    """(M,) weights at rest."""
    shapes: tuple[tuple[int, MorphTarget], ...] = ()
    """Which weight moves the mesh towards what."""

    def __len__(self) -> int:
        """Return how many weights there are."""
        return len(self.names)

    @property
    def rest(self) -> NDArray[np.float32]:
        """Weights at rest (M,)."""
        return np.array(self.weights, np.float32)


@dataclass(frozen=True)
class Mesh:
    """All parts' vertices in one set of arrays, in the rest pose, in metres, +Y up.

    `joints` index the skin palette of the skeleton, not its nodes.
    """

    positions: NDArray[np.float32]
    """(V, 3) float32, in the space the inverse bind matrices expect."""
    normals: NDArray[np.float32]
    """(V, 3) float32, unit length."""
    uvs: NDArray[np.float32]
    """(V, 2) float32; v grows downwards, as in glTF."""
    triangles: NDArray[np.int32]
    """(T, 3) int32 vertex indices."""
    joints: NDArray[np.int32]
    """(V, K) int32 palette indices."""
    weights: NDArray[np.float32]
    """(V, K) float32, each row sums to 1."""
    part_of_triangle: NDArray[np.int32]
    """(T,) int32 index into the character's parts."""
    morphs: Morphs = field(default_factory=Morphs)


@dataclass(frozen=True)
class Skeleton:
    """The node graph, parents before children, and the palette that skins are bound to."""

    names: tuple[str, ...]
    parents: NDArray[np.int32]
    """(N,) int32, -1 for a root."""
    rest: NDArray[np.float32]
    """(N, 10) float32: translation xyz (metres), rotation quaternion xyzw, scale xyz."""
    fixed: NDArray[np.float32]
    """(N, 4, 4) float32 local matrices, used where `is_fixed`."""
    is_fixed: NDArray[np.bool_]
    """(N,) bool: the file gave a matrix instead of translation, rotation and scale."""
    is_joint: NDArray[np.bool_]
    """(N,) bool: a skin uses this node."""
    palette_nodes: NDArray[np.int32]
    """(P,) int32 node of each palette entry."""
    inverse_bind: NDArray[np.float32]
    """(P, 4, 4) float32."""

    @cached_property
    def index(self) -> dict[str, int]:
        """Node name to node number."""
        return {name: i for i, name in enumerate(self.names)}

    @property
    def joint_names(self) -> tuple[str, ...]:
        """Names of the nodes that skins use, parents first; without skins, of all nodes."""
        if not self.is_joint.any():
            return self.names
        return tuple(n for n, used in zip(self.names, self.is_joint, strict=True) if used)


@dataclass(frozen=True)
class Track:
    """One animated property of one node."""

    node: int
    path: int
    """0 translation, 1 rotation, 2 scale."""
    mode: int
    """0 STEP, 1 LINEAR, 2 CUBICSPLINE."""
    times: NDArray[np.float32]
    """(K,) float32 seconds, rising."""
    values: NDArray[np.float32]
    """(K, 4) or, for CUBICSPLINE, (3 K, 4) float32; the fourth column is 0 but for rotations."""


@dataclass(frozen=True, eq=False)
class Clip:
    """A named animation: its tracks packed end to end for the sampling kernel."""

    name: str
    seconds: float
    heads: NDArray[np.int32]
    """(C, 5) int32: node, path, mode, first key, number of keys."""
    value_heads: NDArray[np.int32]
    """(C,) int32: first row in `values`."""
    times: NDArray[np.float32]
    values: NDArray[np.float32]
    shaping: Clip | None = None
    """Tracks of the weights of morph targets: each is the x of the translation of a "node" of the weight's number."""

    @classmethod
    def pack(cls, name: str, tracks: list[Track], shaping: list[Track] | None = None) -> Clip:
        """Return the clip made of `tracks`, and of those `shaping` the mesh; it lasts until the last key of any."""
        shapes = cls.pack(name, shaping) if shaping else None
        heads = np.zeros((len(tracks), 5), np.int32)
        value_heads = np.zeros(len(tracks), np.int32)
        key, row = 0, 0
        for i, track in enumerate(tracks):
            heads[i] = (track.node, track.path, track.mode, key, len(track.times))
            value_heads[i] = row
            key += len(track.times)
            row += len(track.values)
        times = np.concatenate([t.times for t in tracks]) if tracks else np.zeros(0, np.float32)
        values = np.concatenate([t.values for t in tracks]) if tracks else np.zeros((0, 4), np.float32)
        seconds = max(float(times.max(initial=0.0)), shapes.seconds if shapes else 0.0)
        return cls(name, seconds, heads, value_heads, times, values, shapes)

    @property
    def moves(self) -> bool:
        """Whether any joint is moved by it, not rotated alone."""
        return any(path == 0 for _, path, *_ in self.heads)


@dataclass(frozen=True, eq=False)
class Character:
    """What a character file holds. Two are equal only when they are the same."""

    name: str
    parts: tuple[Part, ...]
    mesh: Mesh
    skeleton: Skeleton
    clips: tuple[Clip, ...]
    materials: tuple[Material, ...]
    notes: tuple[str, ...] = field(default=())
    """What the reader left out or mended, in words."""

    def clip(self, name: str) -> Clip | None:
        """Return the clip with this name, or None."""
        return next((clip for clip in self.clips if clip.name == name), None)

    @property
    def facts(self) -> CharacterFacts:
        """What the project's checks need to know."""
        return CharacterFacts(
            joints=frozenset(self.skeleton.names),
            parts=frozenset(part.name for part in self.parts),
            clips={clip.name: clip.seconds for clip in self.clips},
        )

    @cached_property
    def weighted_joints(self) -> frozenset[str]:
        """Names of the joints that hold any of the skin."""
        used = np.unique(self.mesh.joints[self.mesh.weights > 0])
        return frozenset(self.skeleton.names[node] for node in self.skeleton.palette_nodes[used])

    @cached_property
    def root_node(self) -> int:
        """The topmost node whose translation a clip animates: what carries the character along."""
        moved = {int(h[0]) for clip in self.clips for h in clip.heads if h[1] == 0}
        joints = np.flatnonzero(self.skeleton.is_joint)
        fallback = int(joints[0]) if len(joints) else 0
        return min(moved, default=fallback)
