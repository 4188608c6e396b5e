"""glTF 2.0 to Character: nodes, skins, meshes, animations and materials."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wraithon.character.mesh import join_pieces, smooth_normals, triangle_list
from wraithon.character.model import Character, Part
from wraithon.character.reading.gltf_clips import ClipReader
from wraithon.character.reading.gltf_file import GltfFile
from wraithon.character.reading.gltf_materials import MaterialReader, texture_transform
from wraithon.character.reading.gltf_nodes import Entry, skeleton_of, tree_of, with_unique_names
from wraithon.character.reading.gltf_shapes import ShapeReader
from wraithon.character.reading.reach import check_reach
from wraithon.support.errors import CharacterError, NoMeshError

MAX_PIECES = 4096


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
    wraithon.support.errors.CharacterError
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
        self.tree = tree_of(file)
        self.shapes = ShapeReader(file)
        self.palette: list[Entry] = []
        self.skin_first: dict[int, tuple[int, int]] = {}
        self.pieces: list[dict[str, Any]] = []

    def read(self) -> Character:
        self._read_skins()
        self._read_meshes()
        if not self.pieces:
            problem = "there are no triangles to draw; export the character's mesh with it"
            raise NoMeshError(f"{self.file.path.name}: meshes: {problem}")
        mesh = join_pieces(self.pieces, self.shapes.morphs)
        parts = self._parts()
        joints = [
            row for first, length in self.skin_first.values() for row, _ in self.palette[first : first + length]
        ]
        character = Character(
            name=self.file.path.stem,
            parts=parts,
            mesh=mesh,
            skeleton=skeleton_of(self.file, self.tree, self.palette, joints),
            clips=ClipReader(self.file, self.tree.row, self.shapes.weighed, self.notes, self.progress).read(),
            materials=MaterialReader(self.file, self.notes, self.progress).read(),
            notes=tuple(self.notes),
        )
        check_reach(character, self.file, self.tree.order)
        return character

    # ---- meshes ---------------------------------------------------------------------------------

    def _read_skins(self) -> None:
        for i, skin in enumerate(self.file.items("skins")):
            location = f"skins[{i}]"
            joints = skin.get("joints")
            if not isinstance(joints, list) or not joints:
                self.file.fail(f"{location}.joints", "a skin needs at least one joint")
            for joint in joints:
                self.file.item("nodes", joint, f"{location}.joints")
            bind = np.tile(np.eye(4, dtype=np.float32), (len(joints), 1, 1))
            if "inverseBindMatrices" in skin:
                columns = self.file.floats(skin["inverseBindMatrices"], f"{location}.inverseBindMatrices", ("MAT4",))
                if len(columns) < len(joints):
                    self.file.fail(
                        f"{location}.inverseBindMatrices", f"{len(columns)} matrices for {len(joints)} joints"
                    )
                bind = columns[: len(joints)].reshape(-1, 4, 4).transpose(0, 2, 1).copy()
            self.skin_first[i] = (len(self.palette), len(joints))
            rows = [self.tree.row[joint] for joint in joints]
            self.palette.extend(zip(rows, bind, strict=True))

    def _read_meshes(self) -> None:
        for turn, number in enumerate(self.tree.order):
            node = self.file.items("nodes")[number]
            if "mesh" not in node:
                continue
            self.progress(0.1 + 0.5 * turn / len(self.tree.order))
            mesh = self.file.item("meshes", node["mesh"], f"nodes[{number}].mesh")
            location = f"meshes[{node['mesh']}]"
            primitives = self.file.items("primitives", mesh, location)
            if len(self.pieces) + len(primitives) > MAX_PIECES:
                self.file.fail(location, f"there are more than {MAX_PIECES:,} primitives; join them by material")
            skin = None
            if "skin" in node:
                self.file.item("skins", node["skin"], f"nodes[{number}].skin")
                skin = self.skin_first[node["skin"]]
            name = self.file.name(mesh, self.file.name(node, f"part {len(self.pieces) + 1}"))
            for k, primitive in enumerate(primitives):
                self._read_primitive(primitive, f"{location}.primitives[{k}]", number, skin, name, len(primitives))

    def _read_primitive(
        self,
        primitive: dict[str, Any],
        location: str,
        node: int,
        skin: tuple[int, int] | None,
        name: str,
        siblings: int,
    ) -> None:
        mode = self.file.integer(primitive, "mode", location, 4)
        if mode not in {4, 5, 6}:
            self.notes.append(f"{location}: points and lines are left out")
            return
        attributes = primitive.get("attributes")
        if not isinstance(attributes, dict) or "POSITION" not in attributes:
            self.file.fail(location, "it has no positions")
        positions = self.file.positions(attributes["POSITION"], f"{location}.POSITION")
        count = len(positions)
        if "indices" in primitive:
            run = self.file.indices(primitive["indices"], f"{location}.indices", max(count, 1))[:, 0]
        else:
            run = np.arange(count, dtype=np.int32)
        triangles = triangle_list(run, mode)
        if not len(triangles):
            self.notes.append(f"{location}: it has no triangles and is left out")
            return
        normals = self._optional(attributes, "NORMAL", ("VEC3",), count, location)
        joints, weights = self._influences(attributes, count, location, node, skin)
        label, entry, material = name, {}, primitive.get("material")
        if material is not None:
            entry = self.file.item("materials", material, f"{location}.material")
            if siblings > 1:
                label = f"{name} {self.file.name(entry, str(material))}"
        transform = texture_transform(self.file, entry, f"{location}.material")
        uvs = self._optional(attributes, f"TEXCOORD_{transform.uv_set}", ("VEC2",), count, location)
        self.pieces.append(
            {
                "name": label,
                "positions": positions,
                "normals": smooth_normals(positions, triangles, normals),
                "uvs": np.zeros((count, 2), np.float32) if uvs is None else transform.moved(uvs),
                "triangles": triangles,
                "shapes": self.shapes.read(primitive, location, node, count),
                "joints": joints,
                "weights": weights,
                "material": -1 if material is None else int(material),
            }
        )

    def _optional(
        self, attributes: dict[str, Any], key: str, kinds: tuple[str, ...], count: int, location: str
    ) -> NDArray[np.float32] | None:
        if key not in attributes:
            return None
        values = self.file.floats(attributes[key], f"{location}.{key}", kinds)
        self.file.check_count(values, count, f"{location}.{key}")
        return values

    def _influences(
        self, attributes: dict[str, Any], count: int, location: str, node: int, skin: tuple[int, int] | None
    ) -> tuple[NDArray[np.int32], NDArray[np.float32]]:
        """Return palette indices and weights; a mesh without a skin is bound whole to its node."""
        if skin is None or "JOINTS_0" not in attributes:
            row = len(self.palette)
            self.palette.append((self.tree.row[node], np.eye(4, dtype=np.float32)))
            return np.full((count, 1), row, np.int32), np.ones((count, 1), np.float32)
        first, length = skin
        joints, weights = [], []
        for k in range(8):
            if f"JOINTS_{k}" not in attributes:
                break
            if f"WEIGHTS_{k}" not in attributes:
                self.file.fail(location, f"it has JOINTS_{k} but no WEIGHTS_{k}")
            j = self.file.indices(attributes[f"JOINTS_{k}"], f"{location}.JOINTS_{k}", 2**31)
            w = self.file.floats(attributes[f"WEIGHTS_{k}"], f"{location}.WEIGHTS_{k}", ("VEC4",))
            self.file.check_count(j, count, f"{location}.JOINTS_{k}")
            self.file.check_count(w, count, f"{location}.WEIGHTS_{k}")
            joints.append(j)
            weights.append(w)
        return self._settle(np.hstack(joints), np.hstack(weights), first, length, location)

    def _settle(
        self, joints: NDArray[np.int32], weights: NDArray[np.float32], first: int, length: int, location: str
    ) -> tuple[NDArray[np.int32], NDArray[np.float32]]:
        """Check and normalise weights; drop the columns nobody uses."""
        if (weights < 0).any():
            self.file.fail(f"{location}.WEIGHTS_0", f"vertex {int((weights < 0).any(axis=1).argmax())}: below zero")
        used = weights > 0
        if (joints[used] >= length).any():
            bad = int(((joints >= length) & used).any(axis=1).argmax())
            self.file.fail(f"{location}.JOINTS_0", f"vertex {bad}: its joint is out of range (below {length})")
        joints = np.where(used, joints, 0)
        total = weights.sum(axis=1, keepdims=True)
        empty = total[:, 0] <= 0
        if empty.any():
            self.notes.append(
                f"{location}.WEIGHTS_0: {int(empty.sum())} vertices have no weights (the first is "
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
        names = with_unique_names([piece["name"] for piece in self.pieces])
        parts, first = [], 0
        for name, piece in zip(names, self.pieces, strict=True):
            count = len(piece["triangles"])
            parts.append(Part(name, first, count, piece["material"] + 1))
            first += count
        return tuple(parts)
