"""glTF 2.0 to Character: nodes, skins, meshes, animations and materials."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wraithon.character.mesh import join_pieces, smooth_normals, triangle_list
from wraithon.character.model import Character, Clip, Part, Skeleton, Track
from wraithon.character.reading.gltf_file import FARTHEST, GltfFile
from wraithon.character.reading.gltf_materials import MaterialReader, laid_by
from wraithon.character.reading.reach import check_reach
from wraithon.errors import CharacterError

__all__ = ["read_gltf"]

MODES = {"STEP": 0, "LINEAR": 1, "CUBICSPLINE": 2}
MOST_PIECES = 4096
LONGEST_CLIP = 86_400.0
PATHS = {"translation": 0, "rotation": 1, "scale": 2}


def read_gltf(path: Path, progress: Callable[[float], None] | None = None, within: Path | None = None) -> Character:
    """Read a .glb or .gltf file.

    Parameters
    ----------
    path
        The file.
    progress
        Told the share done, between pieces of the work; what it raises ends the reading.
    within
        The folder that links must not lead out of.

    Raises
    ------
    wraithon.errors.CharacterError
        When the file is missing, broken, unsupported, or holds nothing that can be drawn; the text
        names the file and the place in it.
    """
    path = Path(path)
    try:
        return _Reader(GltfFile(path, within), progress or (lambda _share: None)).read()
    except (ArithmeticError, AttributeError, LookupError, MemoryError, TypeError, ValueError) as error:
        # Each known kind of damage has its own words; this is for those nobody has met yet.
        raise CharacterError(f"{path.name}: damaged ({error}); export the file again") from error


class _Reader:
    """One reading of one file; collects what `Character` needs."""

    def __init__(self, file: GltfFile, progress: Callable[[float], None]) -> None:
        self.file = file
        self.progress = progress
        self.notes: list[str] = []
        self.order: list[int] = []
        self.node_row: dict[int, int] = {}
        self.palette: list[tuple[int, NDArray[np.float32]]] = []
        self.skin_first: dict[int, tuple[int, int]] = {}
        self.pieces: list[dict[str, Any]] = []

    def read(self) -> Character:
        skeleton_rows = self._walk_nodes()
        self._read_skins()
        self._read_meshes()
        if not self.pieces:
            self.file.fail("meshes", "there are no triangles to draw; export the character's mesh with it")
        mesh = join_pieces(self.pieces)
        parts = self._parts()
        character = Character(
            name=self.file.path.stem,
            parts=parts,
            mesh=mesh,
            skeleton=self._skeleton(skeleton_rows),
            clips=self._clips(),
            materials=MaterialReader(self.file, self.notes, self.progress).read(),
            notes=tuple(self.notes),
        )
        check_reach(character, self.file, self.order)
        return character

    # ---- nodes ----------------------------------------------------------------------------------

    def _walk_nodes(self) -> list[int]:
        """Order the nodes parents first; return each one's parent as a row number."""
        nodes = self.file.items("nodes")
        parent = [-1] * len(nodes)
        for i, node in enumerate(nodes):
            children = node.get("children", [])
            if not isinstance(children, list):
                self.file.fail(f"nodes[{i}].children", "must be a list")
            for child in children:
                self.file.item("nodes", child, f"nodes[{i}].children")
                if parent[child] != -1 or child == i:
                    self.file.fail(f"nodes[{i}].children", f"node {child} has two parents or is its own")
                parent[child] = i
        stack = [i for i in reversed(range(len(nodes))) if parent[i] == -1]
        while stack:
            node_number = stack.pop()
            self.node_row[node_number] = len(self.order)
            self.order.append(node_number)
            stack.extend(reversed(nodes[node_number].get("children", [])))
        if len(self.order) < len(nodes):
            stuck = next(i for i in range(len(nodes)) if i not in self.node_row)
            self.file.fail(f"nodes[{stuck}]", "it is its own ancestor; the node graph must be a tree")
        return [self.node_row[parent[i]] if parent[i] != -1 else -1 for i in self.order]

    def _skeleton(self, parents: list[int]) -> Skeleton:
        nodes = self.file.items("nodes")
        count = len(self.order)
        rest = np.zeros((count, 10), np.float32)
        fixed = np.tile(np.eye(4, dtype=np.float32), (count, 1, 1))
        is_fixed = np.zeros(count, np.bool_)
        for row, number in enumerate(self.order):
            node, place = nodes[number], f"nodes[{number}]"
            rest[row, 0:3] = self.file.numbers(node, "translation", place, (0.0, 0.0, 0.0))
            rest[row, 3:7] = self._unit(self.file.numbers(node, "rotation", place, (0.0, 0.0, 0.0, 1.0)), place)
            rest[row, 7:10] = self.file.numbers(node, "scale", place, (1.0, 1.0, 1.0))
            if "matrix" in node:
                identity = tuple(np.eye(4).ravel())
                columns = self.file.numbers(node, "matrix", place, identity)
                fixed[row] = np.array(columns, np.float32).reshape(4, 4).T
                is_fixed[row] = True
        is_joint = np.zeros(count, np.bool_)
        for first, length in self.skin_first.values():
            is_joint[[node for node, _ in self.palette[first : first + length]]] = True
        return Skeleton(
            names=_unique([self.file.name(nodes[n], f"node {n}") for n in self.order]),
            parents=np.array(parents, np.int32).reshape(-1),
            rest=rest,
            fixed=fixed,
            is_fixed=is_fixed,
            is_joint=is_joint,
            palette_nodes=np.array([node for node, _ in self.palette], np.int32),
            inverse_bind=np.stack([matrix for _, matrix in self.palette]),
        )

    def _unit(self, quaternion: tuple[float, ...], place: str) -> tuple[float, ...]:
        length = float(np.linalg.norm(quaternion))
        if length < 1e-6:
            self.file.fail(f"{place}.rotation", "a rotation of length zero turns nothing; export the file again")
        return tuple(x / length for x in quaternion)

    def _read_skins(self) -> None:
        for i, skin in enumerate(self.file.items("skins")):
            place = f"skins[{i}]"
            joints = skin.get("joints")
            if not isinstance(joints, list) or not joints:
                self.file.fail(f"{place}.joints", "a skin needs at least one joint")
            for joint in joints:
                self.file.item("nodes", joint, f"{place}.joints")
            bind = np.tile(np.eye(4, dtype=np.float32), (len(joints), 1, 1))
            if "inverseBindMatrices" in skin:
                columns = self.file.floats(skin["inverseBindMatrices"], f"{place}.inverseBindMatrices", ("MAT4",))
                if len(columns) < len(joints):
                    self.file.fail(
                        f"{place}.inverseBindMatrices", f"{len(columns)} matrices for {len(joints)} joints"
                    )
                bind = columns[: len(joints)].reshape(-1, 4, 4).transpose(0, 2, 1).copy()
            self.skin_first[i] = (len(self.palette), len(joints))
            rows = [self.node_row[joint] for joint in joints]
            self.palette.extend(zip(rows, bind, strict=True))

    # ---- meshes ---------------------------------------------------------------------------------

    def _read_meshes(self) -> None:
        for turn, number in enumerate(self.order):
            node = self.file.items("nodes")[number]
            if "mesh" not in node:
                continue
            self.progress(0.1 + 0.5 * turn / len(self.order))
            mesh = self.file.item("meshes", node["mesh"], f"nodes[{number}].mesh")
            place = f"meshes[{node['mesh']}]"
            primitives = self.file.items("primitives", mesh, place)
            if len(self.pieces) + len(primitives) > MOST_PIECES:
                self.file.fail(place, f"there are more than {MOST_PIECES:,} primitives; join them by material")
            skin = None
            if "skin" in node:
                self.file.item("skins", node["skin"], f"nodes[{number}].skin")
                skin = self.skin_first[node["skin"]]
            name = self.file.name(mesh, self.file.name(node, f"part {len(self.pieces) + 1}"))
            for k, primitive in enumerate(primitives):
                self._read_primitive(primitive, f"{place}.primitives[{k}]", number, skin, name, len(primitives))

    def _read_primitive(
        self,
        primitive: dict[str, Any],
        place: str,
        node: int,
        skin: tuple[int, int] | None,
        name: str,
        siblings: int,
    ) -> None:
        mode = self.file.integer(primitive, "mode", place, 4)
        if mode not in {4, 5, 6}:
            self.notes.append(f"{place}: points and lines are left out")
            return
        attributes = primitive.get("attributes")
        if not isinstance(attributes, dict) or "POSITION" not in attributes:
            self.file.fail(place, "it has no positions")
        positions = self.file.places(attributes["POSITION"], f"{place}.POSITION")
        count = len(positions)
        if "indices" in primitive:
            run = self.file.indices(primitive["indices"], f"{place}.indices", max(count, 1))[:, 0]
        else:
            run = np.arange(count, dtype=np.int32)
        triangles = triangle_list(run, mode)
        if not len(triangles):
            self.notes.append(f"{place}: it has no triangles and is left out")
            return
        if primitive.get("targets"):
            self.notes.append(f"{place}: morph targets are left out")
        normals = self._optional(attributes, "NORMAL", ("VEC3",), count, place)
        joints, weights = self._influences(attributes, count, place, node, skin)
        label, entry, material = name, {}, primitive.get("material")
        if material is not None:
            entry = self.file.item("materials", material, f"{place}.material")
            if siblings > 1:
                label = f"{name} {self.file.name(entry, str(material))}"
        laid = laid_by(self.file, entry, f"{place}.material")
        uvs = self._optional(attributes, f"TEXCOORD_{laid.uv_set}", ("VEC2",), count, place)
        self.pieces.append(
            {
                "name": label,
                "positions": positions,
                "normals": smooth_normals(positions, triangles, normals),
                "uvs": np.zeros((count, 2), np.float32) if uvs is None else laid.moved(uvs),
                "triangles": triangles,
                "joints": joints,
                "weights": weights,
                "material": -1 if material is None else int(material),
            }
        )

    def _optional(
        self, attributes: dict[str, Any], key: str, kinds: tuple[str, ...], count: int, place: str
    ) -> NDArray[np.float32] | None:
        if key not in attributes:
            return None
        values = self.file.floats(attributes[key], f"{place}.{key}", kinds)
        self._same_count(values, count, f"{place}.{key}")
        return values

    def _same_count(self, values: NDArray[Any], count: int, place: str) -> None:
        if len(values) != count:
            self.file.fail(place, f"{len(values)} values for {count} vertices")

    def _influences(
        self, attributes: dict[str, Any], count: int, place: str, node: int, skin: tuple[int, int] | None
    ) -> tuple[NDArray[np.int32], NDArray[np.float32]]:
        """Return palette indices and weights; a mesh without a skin is bound whole to its node."""
        if skin is None or "JOINTS_0" not in attributes:
            row = len(self.palette)
            self.palette.append((self.node_row[node], np.eye(4, dtype=np.float32)))
            return np.full((count, 1), row, np.int32), np.ones((count, 1), np.float32)
        first, length = skin
        joints, weights = [], []
        for k in range(8):
            if f"JOINTS_{k}" not in attributes:
                break
            if f"WEIGHTS_{k}" not in attributes:
                self.file.fail(place, f"it has JOINTS_{k} but no WEIGHTS_{k}")
            j = self.file.indices(attributes[f"JOINTS_{k}"], f"{place}.JOINTS_{k}", 2**31)
            w = self.file.floats(attributes[f"WEIGHTS_{k}"], f"{place}.WEIGHTS_{k}", ("VEC4",))
            self._same_count(j, count, f"{place}.JOINTS_{k}")
            self._same_count(w, count, f"{place}.WEIGHTS_{k}")
            joints.append(j)
            weights.append(w)
        return self._settle(np.hstack(joints), np.hstack(weights), first, length, place)

    def _settle(
        self, joints: NDArray[np.int32], weights: NDArray[np.float32], first: int, length: int, place: str
    ) -> tuple[NDArray[np.int32], NDArray[np.float32]]:
        """Check and normalise weights; drop the columns nobody uses."""
        if (weights < 0).any():
            self.file.fail(f"{place}.WEIGHTS_0", f"vertex {int((weights < 0).any(axis=1).argmax())}: below zero")
        used = weights > 0
        if (joints[used] >= length).any():
            bad = int(((joints >= length) & used).any(axis=1).argmax())
            self.file.fail(f"{place}.JOINTS_0", f"vertex {bad}: its joint is out of range (below {length})")
        joints = np.where(used, joints, 0)
        total = weights.sum(axis=1, keepdims=True)
        empty = total[:, 0] <= 0
        if empty.any():
            self.notes.append(
                f"{place}.WEIGHTS_0: {int(empty.sum())} vertices have no weights (the first is "
                f"{int(empty.argmax())}); they follow the skin's first joint"
            )
            weights = weights.copy()
            weights[empty, 0] = 1.0
            total = weights.sum(axis=1, keepdims=True)
        weights = (weights / total).astype(np.float32)
        order = np.argsort(-weights, axis=1, kind="stable")
        weights = np.take_along_axis(weights, order, axis=1)
        joints = np.take_along_axis(joints, order, axis=1)
        width = max(1, int((weights > 0).sum(axis=1).max(initial=1)))
        return (joints[:, :width] + first).astype(np.int32), weights[:, :width]

    def _parts(self) -> tuple[Part, ...]:
        names = _unique([piece["name"] for piece in self.pieces])
        parts, first = [], 0
        for name, piece in zip(names, self.pieces, strict=True):
            count = len(piece["triangles"])
            parts.append(Part(name, first, count, piece["material"] + 1))
            first += count
        return tuple(parts)

    # ---- animations -----------------------------------------------------------------------------

    def _clips(self) -> tuple[Clip, ...]:
        animations = self.file.items("animations")
        names = _unique([self.file.name(a, f"clip {i + 1}") for i, a in enumerate(animations)])
        clips = []
        for i, (name, animation) in enumerate(zip(names, animations, strict=True)):
            self.progress(0.6 + 0.3 * i / len(animations))
            place = f"animations[{i}]"
            samplers = self.file.items("samplers", animation, place)
            cache: dict[tuple[int, bool], tuple[NDArray[np.float32], NDArray[np.float32], int]] = {}
            tracks = []
            for k, channel in enumerate(self.file.items("channels", animation, place)):
                track = self._track(channel, samplers, cache, f"{place}.channels[{k}]", place)
                if track is not None:
                    tracks.append(track)
            if tracks:
                clips.append(Clip.pack(name, tracks))
            else:
                self.notes.append(f"{place}: it moves no joint and is left out")
        return tuple(clips)

    def _track(
        self,
        channel: dict[str, Any],
        samplers: list[dict[str, Any]],
        cache: dict[tuple[int, bool], tuple[NDArray[np.float32], NDArray[np.float32], int]],
        here: str,
        place: str,
    ) -> Track | None:
        target = channel.get("target")
        if not isinstance(target, dict):
            self.file.fail(f"{here}.target", "must be an object")
        if not isinstance(target.get("path"), str) or target["path"] not in PATHS or "node" not in target:
            return None  # morph weights, or a target an extension describes
        self.file.item("nodes", target["node"], f"{here}.target.node")
        row = self.node_row[target["node"]]
        number = channel.get("sampler")
        if not isinstance(number, int) or not 0 <= number < len(samplers):
            self.file.fail(f"{here}.sampler", f"refers to sampler {number}, but there are {len(samplers)}")
        path = PATHS[target["path"]]
        key = (number, path == 1)
        if key not in cache:
            cache[key] = self._sampler(samplers[number], f"{place}.samplers[{number}]", rotation=path == 1)
        times, values, mode = cache[key]
        return Track(row, path, mode, times, values)

    def _sampler(
        self, sampler: dict[str, Any], place: str, *, rotation: bool
    ) -> tuple[NDArray[np.float32], NDArray[np.float32], int]:
        word = sampler.get("interpolation", "LINEAR")
        if not isinstance(word, str) or word not in MODES:
            self.file.fail(f"{place}.interpolation", f"{word!r} is not one of {', '.join(MODES)}")
        times = self.file.floats(sampler.get("input"), f"{place}.input", ("SCALAR",))[:, 0]
        values = self.file.floats(sampler.get("output"), f"{place}.output", ("VEC4",) if rotation else ("VEC3",))
        if not len(times):
            self.file.fail(f"{place}.input", "it has no keys")
        if (np.diff(times) <= 0).any() or times[0] < 0:
            self.file.fail(f"{place}.input", f"key {int((np.diff(times) <= 0).argmax()) + 1}: times must rise from 0")
        if times[-1] > LONGEST_CLIP:
            self.file.fail(f"{place}.input", f"it ends after {times[-1]:g} s; a clip may last {LONGEST_CLIP:g} s")
        if (np.abs(values) > FARTHEST).any():
            self.file.fail(f"{place}.output", f"it moves or scales a joint beyond {FARTHEST:,.0f}; export it again")
        wanted = len(times) * (3 if MODES[word] == 2 else 1)
        if len(values) != wanted:
            self.file.fail(f"{place}.output", f"{len(values)} values where {wanted} are needed")
        padded = np.zeros((len(values), 4), np.float32)
        padded[:, : values.shape[1]] = values
        return np.ascontiguousarray(times), padded, MODES[word]


def _unique(names: list[str]) -> tuple[str, ...]:
    """Return the names with repeated ones told apart by a number, so that each can be picked."""
    taken: set[str] = set()
    result = []
    last: dict[str, int] = {}
    for name in names:
        label = name
        while label in taken:
            last[name] = last.get(name, 1) + 1
            label = f"{name} ({last[name]})"
        taken.add(label)
        result.append(label)
    return tuple(result)
