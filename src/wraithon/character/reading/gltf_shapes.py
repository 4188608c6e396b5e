"""The morph targets of a glTF file's meshes."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from wraithon.character.model import Morphs, MorphTarget
from wraithon.character.reading.gltf_file import FARTHEST

if TYPE_CHECKING:
    from wraithon.character.reading.gltf_file import GltfFile


MAX_WEIGHTS = 2048
MAX_MOVED = 200_000_000
"""Vertices times targets that a file may have: what is read before those that stay where they are are left out."""


class ShapeReader:
    """Reads morph targets, one primitive after another; each node with such a mesh has weights of its own."""

    def __init__(self, file: GltfFile) -> None:
        self.file = file
        self.weighed: dict[int, tuple[int, int]] = {}
        """The first weight and the number of weights of the file's nodes that have any."""
        self._names: list[str] = []
        self._weights: list[float] = []
        self._moved = 0

    @property
    def morphs(self) -> Morphs:
        """Names and weights at rest of all targets so far."""
        return Morphs(tuple(self._names), tuple(self._weights))

    def read(self, primitive: dict[str, Any], location: str, node: int, count: int) -> list[tuple[int, MorphTarget]]:
        """Return a primitive's targets, each with the number of its weight.

        Parameters
        ----------
        primitive, place
            The primitive, and where in the file it stands.
        node
            The file's number of the node whose mesh it belongs to.
        count
            How many vertices it has.

        Raises
        ------
        wraithon.support.errors.CharacterError
            With the place in the file.
        """
        targets = self.file.items("targets", primitive, location)
        if not targets:
            return []
        first, known = self._of_node(node, len(targets), location)
        self._moved += count * len(targets)
        if self._moved > MAX_MOVED:
            self.file.fail(f"{location}.targets", f"they move more than {MAX_MOVED:,} vertices in all; export fewer")
        found = []
        for k, target in enumerate(targets[:known]):
            here = f"{location}.targets[{k}]"
            moves = {}
            for key in ("POSITION", "NORMAL"):
                if key not in target:
                    moves[key] = np.zeros((count, 3), np.float32)
                    continue
                moves[key] = self.file.floats(target[key], f"{here}.{key}", ("VEC3",))
                self.file.check_count(moves[key], count, f"{here}.{key}")
                if (np.abs(moves[key]) > FARTHEST).any():
                    self.file.fail(
                        f"{here}.{key}", f"it moves a vertex by more than {FARTHEST:,.0f} m; mend the mesh"
                    )
            rows = np.flatnonzero((moves["POSITION"] != 0).any(axis=1) | (moves["NORMAL"] != 0).any(axis=1))
            shape = MorphTarget(
                self._names[first + k], rows.astype(np.int32), moves["POSITION"][rows], moves["NORMAL"][rows]
            )
            found.append((first + k, shape))
        return found

    def _of_node(self, number: int, count: int, location: str) -> tuple[int, int]:
        """Return the first weight and the number of weights of a node; its first primitive tells how many."""
        if number not in self.weighed:
            node = self.file.item("nodes", number, location)
            mesh = self.file.item("meshes", node.get("mesh"), f"nodes[{number}].mesh")
            if len(self._names) + count > MAX_WEIGHTS:
                self.file.fail(
                    f"{location}.targets", f"there are more than {MAX_WEIGHTS:,} morph targets; export fewer"
                )
            given = node if "weights" in node else mesh
            weights = self.file.numbers(given, "weights", f"nodes[{number}]", (0.0,) * count)
            extras = mesh.get("extras")
            names = extras.get("targetNames") if isinstance(extras, dict) else None
            self.weighed[number] = (len(self._names), count)
            self._weights += np.clip(weights, -100, 100).tolist()
            for k in range(count):
                name = names[k] if isinstance(names, list) and k < len(names) else None
                self._names.append(self.file.name({"name": name}, f"shape {len(self._names) + 1}"))
        return self.weighed[number]
