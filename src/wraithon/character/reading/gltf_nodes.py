"""The nodes of a glTF file: their tree, and where they stand at rest."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wraithon.character.model import Skeleton

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.character.reading.gltf_file import GltfFile


Entry = tuple[int, "NDArray[np.float32]"]
"""A row of the skin palette: a node's row, and its inverse bind matrix (4, 4)."""


@dataclass(frozen=True)
class NodeTree:
    """A file's nodes put in order, parents first."""

    order: list[int]
    """The file's number of each row."""
    row: dict[int, int]
    """The row of each of the file's numbers."""
    parents: list[int]
    """Each row's parent, as a row; -1 for a root."""


def tree_of(file: GltfFile) -> NodeTree:
    """Order the nodes parents first.

    Raises
    ------
    wraithon.support.errors.CharacterError
        When they are no tree.
    """
    nodes = file.items("nodes")
    parent = [-1] * len(nodes)
    for i, node in enumerate(nodes):
        children = node.get("children", [])
        if not isinstance(children, list):
            file.fail(f"nodes[{i}].children", "must be a list")
        for child in children:
            file.item("nodes", child, f"nodes[{i}].children")
            if parent[child] != -1 or child == i:
                file.fail(f"nodes[{i}].children", f"node {child} has two parents or is its own")
            parent[child] = i
    order: list[int] = []
    row: dict[int, int] = {}
    stack = [i for i in reversed(range(len(nodes))) if parent[i] == -1]
    while stack:
        number = stack.pop()
        row[number] = len(order)
        order.append(number)
        stack.extend(reversed(nodes[number].get("children", [])))
    if len(order) < len(nodes):
        stuck = next(i for i in range(len(nodes)) if i not in row)
        file.fail(f"nodes[{stuck}]", "it is its own ancestor; the node graph must be a tree")
    return NodeTree(order, row, [row[parent[i]] if parent[i] != -1 else -1 for i in order])


def skeleton_of(file: GltfFile, tree: NodeTree, palette: list[Entry], joints: list[int]) -> Skeleton:
    """Return the skeleton of a file's nodes.

    Parameters
    ----------
    file, tree
        Where from.
    palette
        What skins are bound to.
    joints
        Rows that skins call their joints.
    """
    nodes = file.items("nodes")
    count = len(tree.order)
    rest = np.zeros((count, 10), np.float32)
    fixed = np.tile(np.eye(4, dtype=np.float32), (count, 1, 1))
    is_fixed, is_joint = np.zeros(count, np.bool_), np.zeros(count, np.bool_)
    for row, number in enumerate(tree.order):
        node, location = nodes[number], f"nodes[{number}]"
        rest[row, 0:3] = file.numbers(node, "translation", location, (0.0, 0.0, 0.0))
        rest[row, 3:7] = _unit(file, file.numbers(node, "rotation", location, (0.0, 0.0, 0.0, 1.0)), location)
        rest[row, 7:10] = file.numbers(node, "scale", location, (1.0, 1.0, 1.0))
        if "matrix" in node:
            columns = file.numbers(node, "matrix", location, tuple(np.eye(4).ravel()))
            fixed[row] = np.array(columns, np.float32).reshape(4, 4).T
            is_fixed[row] = True
    is_joint[joints] = True
    return Skeleton(
        names=with_unique_names([file.name(nodes[n], f"node {n}") for n in tree.order]),
        parents=np.array(tree.parents, np.int32).reshape(-1),
        rest=rest,
        fixed=fixed,
        is_fixed=is_fixed,
        is_joint=is_joint,
        palette_nodes=np.array([node for node, _ in palette], np.int32),
        inverse_bind=np.array([matrix for _, matrix in palette], np.float32).reshape(-1, 4, 4),
    )


def _unit(file: GltfFile, quaternion: tuple[float, ...], location: str) -> tuple[float, ...]:
    length = float(np.linalg.norm(quaternion))
    if length < 1e-6:
        file.fail(f"{location}.rotation", "a rotation of length zero turns nothing; export the file again")
    return tuple(x / length for x in quaternion)


def with_unique_names(names: list[str]) -> tuple[str, ...]:
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
