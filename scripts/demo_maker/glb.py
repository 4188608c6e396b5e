"""Writing the demo character as binary glTF 2.0."""

from __future__ import annotations

import io
import json
import struct
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from .dance import BakedClip
from .figure import JOINTS, PARENT, PLACE
from .sculpt import Piece

FLOAT, USHORT, UBYTE = 5126, 5123, 5121
VERTEX, INDEX = 34962, 34963


class _Binary:
    """The growing binary chunk, with its views and accessors."""

    def __init__(self) -> None:
        self.data = bytearray()
        self.views: list[dict[str, Any]] = []
        self.accessors: list[dict[str, Any]] = []

    def view(self, raw: bytes, target: int | None = None) -> int:
        self.data += b"\0" * (-len(self.data) % 4)
        view: dict[str, Any] = {"buffer": 0, "byteOffset": len(self.data), "byteLength": len(raw)}
        if target is not None:
            view["target"] = target
        self.data += raw
        self.views.append(view)
        return len(self.views) - 1

    def accessor(
        self,
        values: NDArray[Any],
        component: int,
        kind: str,
        *,
        target: int | None = None,
        bounds: bool = False,
        normalized: bool = False,
    ) -> int:
        entry: dict[str, Any] = {
            "bufferView": self.view(values.tobytes(), target),
            "componentType": component,
            "count": len(values),
            "type": kind,
        }
        if bounds:
            flat = values.reshape(len(values), -1)
            entry["min"], entry["max"] = flat.min(0).tolist(), flat.max(0).tolist()
        if normalized:
            entry["normalized"] = True
        self.accessors.append(entry)
        return len(self.accessors) - 1


def write_glb(pieces: list[Piece], textures: dict[str, NDArray[np.uint8]], clips: list[BakedClip]) -> bytes:
    """Return the character as a .glb file's bytes."""
    out = _Binary()
    materials, images = _materials(pieces, textures, out)
    meshes = [_mesh(piece, k, out) for k, piece in enumerate(pieces)]
    nodes = _nodes(len(pieces))
    bind = np.tile(np.eye(4, dtype="<f4"), (len(JOINTS), 1, 1))
    for row, joint in enumerate(JOINTS):
        bind[row, 3, :3] = -PLACE[joint]  # glTF stores columns, so this is the last column
    document = {
        "asset": {"version": "2.0", "generator": "Wraithon demo character"},
        "scene": 0,
        "scenes": [{"name": "Halcyon", "nodes": [0, *range(len(JOINTS), len(JOINTS) + len(pieces))]}],
        "nodes": nodes,
        "meshes": meshes,
        "skins": [
            {
                "name": "Halcyon",
                "joints": list(range(len(JOINTS))),
                "skeleton": 0,
                "inverseBindMatrices": out.accessor(bind, FLOAT, "MAT4"),
            }
        ],
        "materials": materials,
        "textures": [{"source": k, "sampler": 0} for k in range(len(images))],
        "samplers": [{"magFilter": 9729, "minFilter": 9987, "wrapS": 10497, "wrapT": 33071}],
        "images": images,
        "animations": [_animation(clip, out) for clip in clips],
        "accessors": out.accessors,
        "bufferViews": out.views,
        "buffers": [{"byteLength": len(out.data)}],
    }
    return _container(document, bytes(out.data))


def _container(document: dict[str, Any], binary: bytes) -> bytes:
    text = json.dumps(document, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    binary += b"\0" * (-len(binary) % 4)
    head = struct.pack("<4sII", b"glTF", 2, 28 + len(text) + len(binary))
    return b"".join(
        [
            head,
            struct.pack("<I4s", len(text), b"JSON"),
            text,
            struct.pack("<I4s", len(binary), b"BIN\0"),
            binary,
        ]
    )


def _materials(
    pieces: list[Piece], textures: dict[str, NDArray[np.uint8]], out: _Binary
) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    materials, images = [], []
    for k, piece in enumerate(pieces):
        data = io.BytesIO()
        Image.fromarray(textures[piece.name]).save(data, "PNG", optimize=True)
        images.append({"name": piece.name, "mimeType": "image/png", "bufferView": out.view(data.getvalue())})
        materials.append(
            {
                "name": piece.name,
                "pbrMetallicRoughness": {
                    "baseColorTexture": {"index": k},
                    "metallicFactor": 0.0,
                    "roughnessFactor": {"mask": 0.35, "body": 0.6}.get(piece.name, 0.7),
                },
                "doubleSided": piece.name not in {"body", "mask"},
            }
        )
    return materials, images


def _mesh(piece: Piece, material: int, out: _Binary) -> dict[str, Any]:
    order = np.argsort(-piece.weights, axis=1, kind="stable")[:, :4]
    weights = np.take_along_axis(piece.weights, order, axis=1)
    weights = weights / weights.sum(axis=1, keepdims=True)
    order = np.where(weights > 0, order, 0)
    shares = np.floor(weights * 65535 + 0.5).astype(np.int64)
    shares[:, 0] += 65535 - shares.sum(axis=1)
    attributes = {
        "POSITION": out.accessor(piece.points.astype("<f4"), FLOAT, "VEC3", target=VERTEX, bounds=True),
        "NORMAL": out.accessor(piece.normals.astype("<f4"), FLOAT, "VEC3", target=VERTEX),
        "TEXCOORD_0": out.accessor(piece.uvs.astype("<f4"), FLOAT, "VEC2", target=VERTEX),
        "JOINTS_0": out.accessor(order.astype(np.uint8), UBYTE, "VEC4", target=VERTEX),
        "WEIGHTS_0": out.accessor(shares.astype("<u2"), USHORT, "VEC4", target=VERTEX, normalized=True),
    }
    indices = out.accessor(piece.triangles.reshape(-1).astype("<u2"), USHORT, "SCALAR", target=INDEX)
    return {
        "name": piece.name,
        "primitives": [{"attributes": attributes, "indices": indices, "material": material}],
    }


def _nodes(pieces: int) -> list[dict[str, Any]]:
    nodes: list[dict[str, Any]] = []
    for joint in JOINTS:
        parent = PARENT[joint]
        offset = PLACE[joint] - (PLACE[parent] if parent else 0.0)
        node: dict[str, Any] = {"name": joint, "translation": [round(float(x), 6) for x in offset]}
        children = [k for k, name in enumerate(JOINTS) if PARENT[name] == joint]
        if children:
            node["children"] = children
        nodes.append(node)
    nodes += [{"mesh": k, "skin": 0} for k in range(pieces)]
    return nodes


def _animation(clip: BakedClip, out: _Binary) -> dict[str, Any]:
    times = out.accessor(clip.times.astype("<f4"), FLOAT, "SCALAR", bounds=True)
    samplers: list[dict[str, Any]] = []
    channels: list[dict[str, Any]] = []

    def add(joint: str, path: str, values: NDArray[Any], kind: str) -> None:
        channels.append({"sampler": len(samplers), "target": {"node": JOINTS.index(joint), "path": path}})
        samplers.append(
            {
                "input": times,
                "output": out.accessor(values.astype("<f4"), FLOAT, kind),
                "interpolation": "LINEAR",
            }
        )

    for joint, keys in clip.translations.items():
        add(joint, "translation", keys, "VEC3")
    for joint, keys in clip.rotations.items():
        if np.abs(keys - (0, 0, 0, 1)).max() > 1e-6:
            add(joint, "rotation", keys / np.linalg.norm(keys, axis=1, keepdims=True), "VEC4")
    return {"name": clip.name, "samplers": samplers, "channels": channels}
